// The drawing of the rig: nearer and further, plugging, throwing switches and
// placing, by mouse, finger and keys. What follows from it is the server's.
(function () {
  "use strict";

  // What part of the drawing is seen, by page; an edit brings a new drawing
  // and leaves the eye where it was.
  const views = {};
  const legible = 1; // the scale below which the words are too small to read
  let held = ""; // the connector that had the focus when an edit was sent

  const board = () => document.querySelector("svg.board");
  const size = (svg) => ({ w: Number(svg.dataset.width), h: Number(svg.dataset.height) });

  function show(svg, view) {
    views[location.pathname] = view;
    const box = [view.x, view.y, view.w, view.h].join(" ");
    if (svg.getAttribute("viewBox") !== box) svg.setAttribute("viewBox", box); // to set it lays out the whole drawing
  }

  function fit(svg, least) {
    const frame = svg.parentElement.getBoundingClientRect();
    const s = size(svg);
    const w = Math.min(Math.max(s.w, (s.h * frame.width) / frame.height), least ? frame.width / least : Infinity);
    show(svg, { x: 0, y: 0, w: w, h: (w * frame.height) / frame.width });
  }

  // Until a hand has moved it: the whole drawing, unless its words would be
  // too small to read.
  function readable(svg) {
    fit(svg, legible);
    views[location.pathname].whole = true;
  }

  // On a narrow screen a list of the devices stands in place of the drawing until that
  // is asked for.
  let asked = false;
  document.addEventListener("click", function (e) {
    if (!e.target.closest("[data-drawing]")) return;
    asked = true;
    settle();
  });

  // After every answer: the frame takes the drawing's height, the eye stays
  // where a hand put it, and the keys where they were.
  function settle() {
    const svg = board();
    if (!svg) return;
    const frame = svg.parentElement;
    frame.closest("figure").classList.toggle("drawn", asked);
    if (!frame.clientWidth) return;
    const s = size(svg);
    const natural = s.h * Math.max(legible, Math.min(frame.clientWidth / s.w, 1.15));
    const most = window.innerHeight * (natural > 1.6 * window.innerHeight ? 0.85 : 1.6); // a large one is looked into
    const height = Math.round(Math.min(natural, Math.max(320, most))) + "px";
    if (frame.style.height !== height) frame.style.height = height;
    frame.classList.add("zooming");
    const view = views[location.pathname];
    if (!view || view.whole) readable(svg);
    else show(svg, view);
    const again = held && svg.querySelector(held);
    const stop = again || svg.querySelector('[tabindex="0"]') || svg.querySelector(".jack, .throw-switch");
    svg.querySelectorAll('[tabindex="0"]').forEach((el) => el.setAttribute("tabindex", "-1"));
    stop?.setAttribute("tabindex", "0");
    if (again && document.activeElement === document.body) again.focus({ preventScroll: true });
    held = "";
  }

  function zoom(by, at) {
    const svg = board();
    const v = views[location.pathname];
    if (!v) return;
    const s = size(svg);
    const w = Math.min(Math.max(v.w / by, 160), 3 * Math.max(s.w, s.h));
    const p = at || { x: v.x + v.w / 2, y: v.y + v.h / 2 };
    const k = w / v.w;
    show(svg, { x: p.x - (p.x - v.x) * k, y: p.y - (p.y - v.y) * k, w: w, h: v.h * k });
  }

  function toDrawing(svg, e) {
    const v = views[location.pathname];
    const r = svg.getBoundingClientRect();
    return { x: v.x + ((e.clientX - r.left) / r.width) * v.w, y: v.y + ((e.clientY - r.top) / r.height) * v.h };
  }

  function send(id, values) {
    const form = document.getElementById(id);
    const at = document.activeElement;
    if (at && at.dataset && at.dataset.ref) held = '.jack[data-ref="' + CSS.escape(at.dataset.ref) + '"]';
    else if (at && at.dataset && at.dataset.pair) held = '.throw-switch[data-tag="' + CSS.escape(at.dataset.tag) + '"][data-pair="' + at.dataset.pair + '"]';
    Object.keys(values).forEach((name) => { form.elements[name].value = values[name]; });
    form.requestSubmit();
  }

  // Two connectors picked one after the other are a lead. A lead starts at an
  // output or link-through and ends at an input, whichever is picked first.
  function pick(jack) {
    const before = document.querySelector(".jack[aria-pressed=true]");
    if (!before) {
      jack.setAttribute("aria-pressed", "true");
      return;
    }
    before.setAttribute("aria-pressed", "false");
    if (before === jack) return;
    const starts = [before, jack].find((j) => j.dataset.starts === "true") || before;
    const ends = starts === before ? jack : before;
    send("jack-form", { from: starts.dataset.ref, to: ends.dataset.ref });
  }

  function act(el) {
    if (el.classList.contains("jack")) pick(el);
    else send("throw-form", { tag: el.dataset.tag, pair: el.dataset.pair, output: el.dataset.output, input: el.dataset.input });
  }

  // Of all connectors and switches one is in the order of the Tab key; the
  // arrows go from there to the nearest in their direction.
  function step(from, key) {
    const dir = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[key];
    const middle = (el) => { const r = el.getBoundingClientRect(); return [r.x + r.width / 2, r.y + r.height / 2]; };
    const a = middle(from);
    let best = null;
    let least = Infinity;
    board().querySelectorAll(".jack, .throw-switch").forEach((el) => {
      const b = middle(el);
      const along = (b[0] - a[0]) * dir[0] + (b[1] - a[1]) * dir[1];
      const across = Math.abs((b[0] - a[0]) * dir[1]) + Math.abs((b[1] - a[1]) * dir[0]);
      const cost = along + 2.5 * across;
      if (el !== from && along > 2 && cost < least) {
        best = el;
        least = cost;
      }
    });
    if (!best) return;
    from.setAttribute("tabindex", "-1");
    best.setAttribute("tabindex", "0");
    best.focus({ preventScroll: true });
    keepInSight(best);
  }

  function keepInSight(el) {
    const svg = board();
    const frame = svg.parentElement.getBoundingClientRect();
    const r = el.getBoundingClientRect();
    const v = views[location.pathname];
    const k = v.w / frame.width;
    const dx = Math.min(0, r.left - frame.left - 30) + Math.max(0, r.right - frame.right + 30);
    const dy = Math.min(0, r.top - frame.top - 30) + Math.max(0, r.bottom - frame.bottom + 30);
    if (dx || dy) show(svg, { x: v.x + dx * k, y: v.y + dy * k, w: v.w, h: v.h });
  }

  function move(device, dx, dy) {
    const x = Math.max(0, Number(device.dataset.x) + dx);
    const y = Math.max(0, Number(device.dataset.y) + dy);
    send("place-form", { tag: device.dataset.tag, x: x.toFixed(1), y: y.toFixed(1) });
  }

  function onKey(e) {
    const at = e.target.closest && e.target.closest(".jack, .throw-switch");
    const inBoard = e.target.closest && e.target.closest(".board-view");
    if (!inBoard || e.ctrlKey || e.metaKey || e.altKey) return;
    const arrows = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] };
    if (at && (e.key === "Enter" || e.key === " ")) act(at);
    else if (at && arrows[e.key] && e.shiftKey) move(at.closest(".device"), 12 * arrows[e.key][0], 12 * arrows[e.key][1]);
    else if (at && arrows[e.key]) step(at, e.key);
    else if (at && e.key === "Escape") board().querySelectorAll(".jack[aria-pressed=true]").forEach((j) => j.setAttribute("aria-pressed", "false"));
    else if (e.key === "+" || e.key === "=") zoom(1.25);
    else if (e.key === "-") zoom(0.8);
    else if (e.key === "0") readable(board());
    else if (arrows[e.key]) {
      const v = views[location.pathname];
      show(board(), { x: v.x + 60 * arrows[e.key][0], y: v.y + 60 * arrows[e.key][1], w: v.w, h: v.h });
    } else return;
    e.preventDefault();
    e.stopPropagation();
  }

  // One finger or the mouse drags a device, or the paper where there is none;
  // two fingers bring it nearer.
  const fingers = new Map();
  let drag = null;

  function onDown(e) {
    const svg = e.target.closest && e.target.closest("svg.board");
    if (!svg || e.button > 0) return;
    fingers.set(e.pointerId, { x: e.clientX, y: e.clientY });
    if (fingers.size === 2) {
      drag = { pinch: spread() };
      return;
    }
    if (e.target.closest(".jack, .throw-switch")) return;
    drag = { device: e.target.closest(".device"), x: e.clientX, y: e.clientY, from: Object.assign({}, views[location.pathname]), moved: false };
  }

  function spread() {
    const [a, b] = Array.from(fingers.values());
    return Math.hypot(a.x - b.x, a.y - b.y);
  }

  function onMove(e) {
    if (fingers.has(e.pointerId)) fingers.set(e.pointerId, { x: e.clientX, y: e.clientY });
    const svg = board();
    if (!drag || !svg || !views[location.pathname]) return;
    if (drag.pinch) {
      if (fingers.size < 2) return;
      const now = spread();
      zoom(now / drag.pinch);
      drag.pinch = now;
      return;
    }
    const k = drag.from.w / svg.getBoundingClientRect().width;
    const dx = (e.clientX - drag.x) * k;
    const dy = (e.clientY - drag.y) * k;
    if (!drag.moved && Math.hypot(e.clientX - drag.x, e.clientY - drag.y) < 5) return;
    drag.moved = true;
    e.preventDefault();
    if (drag.device) drag.device.setAttribute("transform", "translate(" + dx + " " + dy + ")");
    else {
      svg.parentElement.classList.add("panning");
      show(svg, { x: drag.from.x - dx, y: drag.from.y - dy, w: drag.from.w, h: drag.from.h });
    }
    drag.dx = dx;
    drag.dy = dy;
  }

  function onUp(e) {
    fingers.delete(e.pointerId);
    const done = drag;
    drag = null;
    document.querySelector(".board-view.panning")?.classList.remove("panning");
    if (!done || !done.moved) return;
    document.addEventListener("click", swallow, { capture: true, once: true });
    setTimeout(() => document.removeEventListener("click", swallow, true), 50);
    if (done.device) move(done.device, done.dx, done.dy);
  }

  // A drag ends on a link; that is no click.
  function swallow(e) {
    e.preventDefault();
    e.stopPropagation();
  }

  document.addEventListener("DOMContentLoaded", settle);
  document.addEventListener("ajax:merged", settle);
  document.addEventListener("keydown", onKey, true);
  document.addEventListener("pointerdown", onDown);
  document.addEventListener("pointermove", onMove);
  document.addEventListener("pointerup", onUp);
  document.addEventListener("pointercancel", onUp);
  document.addEventListener("dragstart", (e) => {
    if (e.target.closest && e.target.closest("svg.board")) e.preventDefault();
  });
  document.addEventListener("click", (e) => {
    const el = e.target.closest(".jack, .throw-switch");
    if (el) act(el);
    const to = e.target.closest("[data-zoom]");
    if (!to) return;
    if (to.dataset.zoom === "fit") fit(board());
    else zoom(to.dataset.zoom === "in" ? 1.25 : 0.8);
  });
  document.addEventListener("wheel", (e) => {
    const svg = e.target.closest && e.target.closest("svg.board");
    if (!svg || !(e.ctrlKey || e.metaKey)) return;
    e.preventDefault();
    zoom(e.deltaY < 0 ? 1.15 : 1 / 1.15, toDrawing(svg, e));
  }, { passive: false });
})();
