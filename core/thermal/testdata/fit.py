"""Fits the two lumps to readings by scipy's least squares: a judge of the same fit in Go.

Reads one JSON task from its standard input, writes the logarithms of C1, R1, C2, R2 and the
frame at the start, and how long the fit took, s, the reading of the task left out.
"""
import json
import sys
import time

import numpy as np
from scipy.integrate import solve_ivp
from scipy.optimize import least_squares

t = json.load(sys.stdin)
at, read = np.array(t["at"]), np.array(t["degrees"])
prior, doubt = np.array(t["prior"]), np.array(t["doubt"])


def run(p):
    c1, r1, c2, r2 = np.exp(p[:4])

    def slope(s, x):
        air = np.interp(s, t["air_at"], t["air"])
        power = t["volts"] ** 2 / (t["r20"] * (1 + t["alpha"] * (x[0] - 20)))
        flow = (x[0] - x[1]) / r1
        return [(power - flow) / c1, (flow - (x[1] - air) / r2) / c2]

    out = solve_ivp(slope, (0, at[-1]), [p[4], p[4]], method="LSODA", t_eval=at, rtol=1e-8, atol=1e-8)
    return out.y[1]


begun = time.perf_counter()
got = least_squares(lambda p: np.concatenate([(run(p) - read) / t["noise"], (p - prior) / doubt]), prior,
                    x_scale=doubt, diff_step=1e-4)
json.dump({"p": got.x.tolist(), "took": time.perf_counter() - begun}, sys.stdout)
