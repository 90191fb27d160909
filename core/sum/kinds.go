package sum

import (
	"fmt"
	"math"

	"largo/core/gear"
	"largo/core/reckon"
	"largo/core/sound"
	"largo/core/unit"
)

// Kinds are the questions that are understood, the first that fits answers.
var Kinds = []Kind{
	{Name: "load", Example: "3 x 8 ohm", Takes: "impedances; with + they stand in series",
		needs: []need{{ohms, 1, 64}}, words: []string{"+", "series", "parallel", "||"}, weak: true, answer: load},
	{Name: "bridge", Example: "bridge 700 W 4 ohm", Takes: "a channel's power into half the load",
		needs: []need{{watts, 1, 1}, {ohms, 1, 1}}, words: []string{"bridge", "bridged", "bridging"}, answer: bridge},
	{Name: "power to volts", Example: "500 W 8 ohm", Takes: "power and impedance",
		needs: []need{{watts, 1, 1}, {ohms, 1, 1}}, answer: powerToVolts},
	{Name: "volts to power", Example: "63.2 V 8 ohm", Takes: "voltage and impedance",
		needs: []need{{volts, 1, 1}, {ohms, 1, 1}}, answer: voltsToPower},
	{Name: "limiter", Example: "350 W 8 ohm 32 dB", Takes: "a rating, its impedance, the amplifier's gain",
		needs: []need{{watts, 1, 1}, {ohms, 1, 1}, {decibels, 1, 1}}, answer: limiter},
	{Name: "gain", Example: "700 W 4 ohm 1 V", Takes: "rated power, its load, the sensitivity for it",
		needs: []need{{watts, 1, 1}, {ohms, 1, 1}, {volts, 1, 1}}, answer: gain},
	{Name: "sensitivity", Example: "2.83 V 4 ohm 97 dB", Takes: "test voltage, impedance, level at 1 m",
		needs: []need{{volts, 1, 1}, {ohms, 1, 1}, {decibels, 1, 1}}, answer: sensitivity},
	{Name: "line level", Example: "+4 dBu", Takes: "one level in dBu or dBV, or two to be compared",
		needs: []need{{dBu, 1, 2}}, answer: lineLevel},
	{Name: "volts to dBu", Example: "1.23 V", Takes: "a voltage", needs: []need{{volts, 1, 1}}, answer: voltsToLevel},
	{Name: "speaker lead", Example: "25 m 12 AWG 4 ohm", Takes: "length, conductor, load; power if you like",
		needs: []need{{metres, 1, 1}, {area, 1, 1}, {ohms, 1, 1}, {watts, 0, 1}}, answer: speakerLead},
	{Name: "level at a distance", Example: "700 W 99 dB 22 m", Takes: "power, sensitivity for 1 W at 1 m, distance",
		needs: []need{{watts, 1, 1}, {decibels, 1, 1}, {metres, 1, 1}}, answer: levelAt},
	{Name: "power for a level", Example: "99 dB 22 m 95 dBA", Takes: "sensitivity, distance, wanted average",
		needs: []need{{decibels, 1, 1}, {metres, 1, 1}, {dBA, 1, 1}}, answer: powerFor},
	{Name: "two powers", Example: "350 W 700 W", Takes: "two powers", needs: []need{{watts, 2, 2}}, answer: twoPowers},
	{Name: "decibels", Example: "+6 dB", Takes: "a difference in dB", needs: []need{{decibels, 1, 1}}, answer: ratios},
	{Name: "levels together", Example: "2 x 95 dB", Takes: "two levels or more",
		needs: []need{{decibels, 1, 24}}, answer: together},
	{Name: "a day's dose", Example: "97 dBA 1.5 h", Takes: "levels, each with its time",
		needs: []need{{dBA, 1, 8}, {seconds, 0, 8}}, answer: dose},
	{Name: "mains drop", Example: "16 A 50 m 2.5 mm2 230 V", Takes: "current, length one way, conductor, voltage",
		needs: []need{{amperes, 1, 1}, {metres, 1, 1}, {area, 1, 1}, {volts, 1, 1}}, answer: mainsDrop},
	{Name: "what a circuit sustains", Example: "120 V 15 A D", Takes: "voltage, current, the amplifier's class",
		needs: []need{{volts, 1, 1}, {amperes, 1, 1}}, words: []string{"d", "ab", "h", "g", "b"}, weak: true, answer: wall},
	{Name: "mains current", Example: "1200 W 230 V", Takes: "power taken and voltage",
		needs: []need{{watts, 1, 1}, {volts, 1, 1}}, answer: mainsCurrent},
	{Name: "conductor", Example: "12 AWG", Takes: "a conductor, with a length if you like",
		needs: []need{{area, 1, 1}, {metres, 0, 1}}, answer: conductor},
	{Name: "delay", Example: "34 m 15 C", Takes: "distance and temperature of the air",
		needs: []need{{metres, 1, 1}, {celsius, 0, 1}}, answer: delay},
	{Name: "delay to distance", Example: "20 ms", Takes: "a time, with the temperature if you like",
		needs: []need{{seconds, 1, 1}, {celsius, 0, 1}}, answer: distance},
	{Name: "wavelength", Example: "80 Hz", Takes: "a frequency, with the temperature if you like",
		needs: []need{{hertz, 1, 1}, {celsius, 0, 1}}, answer: wavelength},
	{Name: "hot coil", Example: "5.3 ohm 7 ohm 20 C", Takes: "a coil cold and hot, and the air when it was cold",
		needs: []need{{ohms, 2, 2}, {celsius, 1, 1}}, answer: coil},
	{Name: "mass", Example: "46 lb", Takes: "a mass", needs: []need{{mass, 1, 1}}, answer: pounds},
}

func ohmTerms(zs []float64) []reckon.Term {
	terms := make([]reckon.Term, len(zs))
	for i, z := range zs {
		terms[i] = reckon.In(fmt.Sprintf("Z%d", i+1), "impedance", unit.Ohm(z), "")
	}
	return terms
}

func load(q asked) (string, []reckon.Figure) {
	zs := q.all(ohms)
	terms := ohmTerms(zs)
	series, parallel, formula := unit.Ohm(0), make([]unit.Ohm, len(zs)), ""
	for i, z := range zs {
		series, parallel[i] = series+unit.Ohm(z), unit.Ohm(z)
		if i > 0 {
			formula += " + "
		}
		formula += "{" + terms[i].Symbol + "}"
	}
	inSeries := reckon.Of("series", "Z", "in series", series, formula, terms...).Because("Ohm's law")
	inverse := ""
	for i := range zs {
		if i > 0 {
			inverse += " + "
		}
		inverse += "1/{" + terms[i].Symbol + "}"
	}
	side := reckon.Of("parallel", "Z", "side by side", unit.Parallel(parallel...), "1 / ("+inverse+")", terms...).
		Because("1/Z = Σ 1/Zi")
	switch {
	case len(zs) == 1:
		lead := fmt.Sprintf("%s is %s to %s DC on an ohmmeter.", unit.Ohm(zs[0]), unit.Ohm(zs[0]*5/8), unit.Ohm(zs[0]*7/8))
		return lead, []reckon.Figure{side}
	case q.words["+"] || q.words["series"]:
		return fmt.Sprintf("In series they are %s.", inSeries.Text()), []reckon.Figure{inSeries, side}
	}
	return fmt.Sprintf("Side by side they are %s; in series %s.", side.Text(), inSeries.Text()),
		[]reckon.Figure{side, inSeries}
}

func powerTerms(q asked) (unit.Watt, unit.Ohm, reckon.Term, reckon.Term) {
	p, z := unit.Watt(q.one(watts)), unit.Ohm(q.one(ohms))
	return p, z, reckon.In("P", "power", p, ""), reckon.In("Z", "impedance", z, "")
}

func voltsOf(q asked) reckon.Figure {
	p, z, tp, tz := powerTerms(q)
	return reckon.Of("volts", "U", "voltage, rms", p.Across(z), "sqrt({P} × {Z})", tp, tz).Because("P = U²/Z")
}

func dBuOf(u reckon.Figure) reckon.Figure {
	return reckon.Of("dBu", "L", "level", unit.Volt(u.Value).DBu(), "20 lg({U} / 0.7746 V)", u.As("U")).
		Because("0 dBu = sqrt(0.6) V")
}

func powerToVolts(q asked) (string, []reckon.Figure) {
	p, z, tp, tz := powerTerms(q)
	u := voltsOf(q)
	peak := reckon.Of("peak", "Upk", "peak of a sine", unit.Volt(u.Value*math.Sqrt2), "√2 × {U}", u.As("U"))
	i := reckon.Of("amps", "I", "current, rms", unit.Ampere(math.Sqrt(float64(p)/float64(z))), "sqrt({P} / {Z})", tp, tz).
		Because("P = I² Z")
	level := dBuOf(u)
	return fmt.Sprintf("%s into %s are %s rms, %s, %s.", p, z, u.Text(), level.Text(), i.Text()),
		[]reckon.Figure{u, level, peak, i}
}

func voltsToPower(q asked) (string, []reckon.Figure) {
	u, z := unit.Volt(q.one(volts)), unit.Ohm(q.one(ohms))
	tu, tz := reckon.In("U", "voltage, rms", u, ""), reckon.In("Z", "impedance", z, "")
	p := reckon.Of("power", "P", "power", u.Into(z), "{U}² / {Z}", tu, tz).Because("P = U²/Z")
	i := reckon.Of("amps", "I", "current", unit.Ampere(float64(u)/float64(z)), "{U} / {Z}", tu, tz).Because("Ohm's law")
	return fmt.Sprintf("%s across %s are %s and %s.", u, z, p.Text(), i.Text()), []reckon.Figure{p, i}
}

func bridge(q asked) (string, []reckon.Figure) {
	p, z, tp, tz := powerTerms(q)
	both := reckon.Of("power", "Pb", "bridged", 2*p, "2 × {P}", tp).Because("each side sees half the load; both driven")
	into := reckon.Of("load", "Zb", "bridged load", 2*z, "2 × {Z}", tz)
	u := reckon.Of("volts", "U", "voltage, rms", (2 * p).Across(2*z), "sqrt({Pb} × {Zb})", both.As("Pb"), into.As("Zb")).
		Noting("Above 71 V rms, less when wet, terminals are not safe to touch.").Because("P = U²/Z")
	return fmt.Sprintf("A bridge of two channels of %s into %s gives %s into %s, where both are rated so with both "+
		"driven.", p, z, both.Text(), into.Text()), []reckon.Figure{both, into, u}
}

func limiter(q asked) (string, []reckon.Figure) {
	u := voltsOf(q)
	g := unit.Decibel(q.one(decibels))
	tg := reckon.In("G", "gain of the amplifier", g, "")
	in := reckon.Of("input", "L", "at the amplifier's input", unit.Volt(u.Value).DBu()-unit.DBu(g),
		"20 lg({U} / 0.7746 V) − {G}", u.As("U"), tg).Because("0 dBu = sqrt(0.6) V")
	peak := reckon.Of("peak", "Vpk", "peak limit at 6 dB crest", unit.Volt(u.Value*math.Pow(10, 6.0/20)),
		"{U} × 10^(6 dB / 20 dB)", u.As("U")).Because("6 dB crest in AES2-1984 and IEC 60268-5 (from memory)")
	return fmt.Sprintf("Long-term limit %s rms at the output, %s at the input; peaks at %s.", u.Text(), in.Text(),
		peak.Text()), []reckon.Figure{u, in, peak}
}

func gain(q asked) (string, []reckon.Figure) {
	p, z, tp, tz := powerTerms(q)
	s := unit.Volt(q.one(volts))
	g := reckon.Of("gain", "G", "gain", unit.OfVolts(float64(p.Across(z)/s)), "20 lg(sqrt({P} × {Z}) / {U})", tp, tz,
		reckon.In("U", "input sensitivity", s, "")).Because("definition of gain")
	in := reckon.Of("dBu", "L", "sensitivity", s.DBu(), "20 lg({U} / 0.7746 V)",
		reckon.In("U", "input sensitivity", s, ""))
	return fmt.Sprintf("The amplifier has a gain of %s; it takes %s at its input for %s into %s.", g.Text(), in.Text(), p,
			z),
		[]reckon.Figure{g, in}
}

func sensitivity(q asked) (string, []reckon.Figure) {
	u, z, l := unit.Volt(q.one(volts)), unit.Ohm(q.one(ohms)), unit.Decibel(q.one(decibels))
	p := reckon.Of("power", "P", "power of the test", u.Into(z), "{U}² / {Z}", reckon.In("U", "test voltage", u, ""),
		reckon.In("Z", "impedance", z, "")).Because("P = U²/Z")
	s := reckon.Of("sensitivity", "S", "sensitivity for 1 W at 1 m", l-unit.OfPower(p.Value), "{L} − 10 lg({P} / 1 W)",
		reckon.In("L", "level of the test", l, ""), p.As("P")).Because("level follows power")
	return fmt.Sprintf("%s for %s into %s, which is %s, are %s for 1 W at 1 m.", l, u, z, p.Text(), s.Text()),
		[]reckon.Figure{s, p}
}

func levelFigures(l unit.DBu) (u, dBV reckon.Figure) {
	t := reckon.In("L", "level", l, "")
	u = reckon.Of("volts", "U", "voltage, rms", l.Volt(), "0.7746 V × 10^({L} / 20 dB)", t).Because("0 dBu = sqrt(0.6) V")
	dBV = reckon.Of("dBV", "LV", "level over 1 V (dBV)", unit.Decibel(l-unit.Volt(1).DBu()), "{L} − 2.2185 dB", t)
	return u, dBV
}

func lineLevel(q asked) (string, []reckon.Figure) {
	ls := q.all(dBu)
	u, dBV := levelFigures(unit.DBu(ls[0]))
	if len(ls) == 1 {
		return fmt.Sprintf("%s is %s rms, %s over 1 V (dBV).", unit.DBu(ls[0]), u.Text(), dBV.Text()),
			[]reckon.Figure{u, dBV}
	}
	d := unit.Decibel(ls[0] - ls[1])
	diff := reckon.Of("difference", "ΔL", "difference", d, "{L1} − {L2}",
		reckon.In("L1", "level", unit.DBu(ls[0]), ""), reckon.In("L2", "level", unit.DBu(ls[1]), ""))
	return fmt.Sprintf("%s is %s over %s.", unit.DBu(ls[0]), d, unit.DBu(ls[1])), []reckon.Figure{diff, u}
}

func voltsToLevel(q asked) (string, []reckon.Figure) {
	u := unit.Volt(q.one(volts))
	level := dBuOf(reckon.Of("volts", "U", "voltage, rms", u, ""))
	_, dBV := levelFigures(unit.DBu(level.Value))
	return fmt.Sprintf("%s rms is %s, %s over 1 V (dBV).", u, level.Text(), dBV.Text()), []reckon.Figure{level, dBV}
}

func speakerLead(q asked) (string, []reckon.Figure) {
	l, a, z := unit.Metre(q.one(metres)), unit.SquareMillimetre(q.one(area)), unit.Ohm(q.one(ohms))
	r := reckon.Of("loop", "R", "lead, there and back", gear.LoopResistance(l, a, 20), "2 × ρ × {l} / {A}",
		reckon.In("l", "length", l, ""), reckon.In("A", "conductor", a, "")).
		Noting("ρ = 1/58 Ω mm²/m at 20 °C; flexible lead may be 11 to 16 % worse.").Because("IEC 60028")
	tz := reckon.In("Z", "load", z, "")
	loss := reckon.Of("loss", "ΔL", "level lost at the load", unit.OfVolts(1+r.Value/float64(z)), "20 lg(1 + {R} / {Z})",
		r.As("R"), tz).Because("voltage divider")
	share := reckon.Ratio("share", "s", "of the amplifier's output stays in the lead", r.Value/(r.Value+float64(z)),
		"{R} / ({R} + {Z})", r.As("R"), tz)
	damping := reckon.Ratio("damping", "D", "damping at the load, of the lead alone", float64(z)/r.Value, "{Z} / {R}", tz,
		r.As("R"))
	figures := []reckon.Figure{loss, r, share, damping}
	says := fmt.Sprintf("The lead loses %s; %s %% of the amplifier's output stays in it, and a damping of %s is left.",
		loss.Text(), unit.Number(100*share.Value), unit.Number(damping.Value))
	if p := q.one(watts); p > 0 {
		heat := reckon.Of("heat", "Pl", "heat in the lead", unit.Watt(p*share.Value), "{P} × {s}",
			reckon.In("P", "the amplifier's output", unit.Watt(p), ""), share.As("s"))
		figures = append(figures, heat)
		says += fmt.Sprintf(" Of %s it turns %s into heat.", unit.Watt(p), heat.Text())
	}
	return says, figures
}

// programme is how far ordinary programme lies under a full sine: an eighth of its
// power (IEC 62368-1, from memory).
const programme unit.Decibel = 9.03

func levelAt(q asked) (string, []reckon.Figure) {
	p, s, r := unit.Watt(q.one(watts)), unit.Decibel(q.one(decibels)), unit.Metre(q.one(metres))
	l := reckon.Of("level", "L", "level at full power", sound.Direct(s, p, r),
		"{S} + 10 lg({P} / 1 W) − 20 lg({r} / 1 m)", reckon.In("S", "sensitivity", s, ""), reckon.In("P", "power", p, ""),
		reckon.In("r", "distance", r, "")).Because("inverse square law, direct sound, without air or room")
	average := reckon.Of("average", "Leq", "average of ordinary programme", unit.Decibel(l.Value)-programme,
		"{L} − 9.03 dB", l.As("L")).Because("an eighth of a full sine: IEC 62368-1 (from memory)")
	return fmt.Sprintf("%s at %s on full power, %s on ordinary programme.", l.Text(), r, average.Text()),
		[]reckon.Figure{l, average}
}

func powerFor(q asked) (string, []reckon.Figure) {
	s, r, wanted := unit.Decibel(q.one(decibels)), unit.Metre(q.one(metres)), unit.Decibel(q.one(dBA))
	over := wanted + programme - sound.Direct(s, 1, r)
	p := reckon.Of("power", "P", "power for it", unit.Watt(over.Ratio()),
		"10^(({Lw} + 9.03 dB − {S} + 20 lg({r} / 1 m)) / 10 dB)", reckon.In("Lw", "wanted average", wanted, ""),
		reckon.In("S", "sensitivity", s, ""), reckon.In("r", "distance", r, "")).
		Noting("With the room that ordinary programme needs over its average, 9 dB.").
		Because("inverse square law, direct sound")
	return fmt.Sprintf("%s on average at %s take %s at a box of %s.", wanted, r, p.Text(), s), []reckon.Figure{p}
}

func twoPowers(q asked) (string, []reckon.Figure) {
	ps := q.all(watts)
	d := unit.OfPower(ps[1] / ps[0])
	f := reckon.Of("difference", "ΔL", "difference", d, "10 lg({P2} / {P1})",
		reckon.In("P2", "the one power", unit.Watt(ps[1]), ""), reckon.In("P1", "the other", unit.Watt(ps[0]), "")).
		Because("level follows power")
	louder := louderFigure(f)
	return fmt.Sprintf("From %s to %s is %s, %s times as loud as people would call it.", unit.Watt(ps[0]),
		unit.Watt(ps[1]), d.Signed(), unit.Fixed(louder.Value, 2)), []reckon.Figure{f, louder}
}

func louderFigure(d reckon.Figure) reckon.Figure {
	return reckon.Ratio("louder", "N", "as loud as people would call it", float64(sound.Louder(unit.Decibel(d.Value))),
		"2^({ΔL} / 10 dB)", d.As("ΔL")).Noting("Some say twice at 6 dB; in the deep bass 5 to 6 dB are.").
		Because("sone scale")
}

func ratios(q asked) (string, []reckon.Figure) {
	d := unit.Decibel(q.one(decibels))
	t := reckon.In("ΔL", "difference", d, "")
	p := reckon.Ratio("power", "p", "times the power", d.Ratio(), "10^({ΔL} / 10 dB)", t)
	u := reckon.Ratio("volts", "u", "times the voltage or pressure", math.Sqrt(d.Ratio()), "10^({ΔL} / 20 dB)", t)
	louder := louderFigure(reckon.Of("ΔL", "ΔL", "difference", d, ""))
	return fmt.Sprintf("%s is %s times the power, %s times the volts, %s times as loud as people would call it.",
		d.Signed(), unit.Number(p.Value), unit.Number(u.Value), unit.Fixed(louder.Value, 2)), []reckon.Figure{p, u, louder}
}

func together(q asked) (string, []reckon.Figure) {
	ls := q.all(decibels)
	levels := make([]unit.Decibel, len(ls))
	pressure := 0.0
	for i, l := range ls {
		levels[i] = unit.Decibel(l)
		pressure += math.Pow(10, l/20)
	}
	apart := reckon.Of("level", "L", "together, as powers", sound.Together(levels...), "10 lg Σ 10^(Li/10) over {n}",
		reckon.Count("n", "levels", float64(len(ls)))).Because("powers add where sources do not move in step")
	step := reckon.Of("inStep", "L", "together, in step", unit.Decibel(20*math.Log10(pressure)),
		"20 lg Σ 10^(Li/20) over {n}", reckon.Count("n", "levels", float64(len(ls)))).
		Because("pressures in step, as of subwoofers close together")
	return fmt.Sprintf("Together %s; in step, as subwoofers side by side, %s.", apart.Text(), step.Text()),
		[]reckon.Figure{apart, step}
}

func dose(q asked) (string, []reckon.Figure) {
	ls, ts := q.all(dBA), q.all(seconds)
	if len(ls) != len(ts) {
		stay := sound.DoseTime(unit.Decibel(ls[0]), 85, 3)
		f := reckon.Of("stay", "T", "until a day's dose is full", stay, "8 h / 2^(({L} − 85 dB) / 3 dB)",
			reckon.In("L", "level", unit.Decibel(ls[0]), "")).Because("NIOSH 98-126")
		return fmt.Sprintf("At %s a day's dose is full after %s. Give each level its time for a sum.", unit.Decibel(ls[0]),
			stay), []reckon.Figure{f}
	}
	niosh, osha := 0.0, 0.0
	terms := make([]reckon.Term, 0, 2*len(ls))
	n, o := "", ""
	for i := range ls {
		l, t := unit.Decibel(ls[i]), unit.Second(ts[i])
		niosh += float64(t / sound.DoseTime(l, 85, 3))
		osha += float64(t / sound.DoseTime(l, 90, 5))
		sl, st := fmt.Sprintf("L%d", i+1), fmt.Sprintf("t%d", i+1)
		terms = append(terms, reckon.In(sl, "level", l, ""), reckon.In(st, "time", t, ""))
		if i > 0 {
			n, o = n+" + ", o+" + "
		}
		n += "{" + st + "} × 2^(({" + sl + "} − 85 dB) / 3 dB)"
		o += "{" + st + "} × 2^(({" + sl + "} − 90 dB) / 5 dB)"
	}
	a := reckon.Ratio("niosh", "D", "of a day's dose", niosh, "("+n+") / 8 h", terms...).
		Because("NIOSH 98-126: 85 dBA for 8 h, 3 dB exchange")
	b := reckon.Ratio("osha", "D", "of a day's dose under 29 CFR 1910.95", osha, "("+o+") / 8 h", terms...).
		Because("29 CFR 1910.95, table G-16: 90 dBA for 8 h, 5 dB exchange")
	return fmt.Sprintf("%s %% of a day's dose (NIOSH), %s %% under 29 CFR 1910.95. Without ear plugs; local law "+
		"decides.", unit.Number(100*niosh), unit.Number(100*osha)), []reckon.Figure{a, b}
}

func mainsDrop(q asked) (string, []reckon.Figure) {
	i, l := unit.Ampere(q.one(amperes)), unit.Metre(q.one(metres))
	a, u := unit.SquareMillimetre(q.one(area)), unit.Volt(q.one(volts))
	r := reckon.Of("loop", "R", "lead, there and back, warm", gear.LoopResistance(l, a, 70), "2 × ρ70 × {l} / {A}",
		reckon.In("l", "length", l, ""), reckon.In("A", "conductor", a, "")).
		Noting("At 70 °C, as a loaded lead gets: 1/58 Ω mm²/m at 20 °C, 0.393 % more for each kelvin.").Because("IEC 60028")
	drop := reckon.Of("drop", "ΔU", "voltage lost in the lead", unit.Volt(float64(i)*r.Value), "{I} × {R}",
		reckon.In("I", "current", i, ""), r.As("R")).Because("Ohm's law")
	share := reckon.Ratio("share", "s", "of the mains", drop.Value/float64(u), "{ΔU} / {U}", drop.As("ΔU"),
		reckon.In("U", "mains", u, ""))
	return fmt.Sprintf("The lead drops %s, %s %% of %s; %s arrive. A reel runs out fully before it carries that.",
		drop.Text(),
		unit.Number(100*share.Value), u, u-unit.Volt(drop.Value)), []reckon.Figure{drop, share, r}
}

func wall(q asked) (string, []reckon.Figure) {
	u, i := unit.Volt(q.one(volts)), unit.Ampere(q.one(amperes))
	efficiency, class := unit.Ratio(0.65), "AB, G or H"
	if q.words["d"] {
		efficiency, class = 0.9, "D"
	}
	f := gear.Draw{Efficiency: efficiency, Factor: 1}.WallGives(i, u).
		Noting("Idle draw and power factor left out: the most that can be.")
	apparent := reckon.Of("apparent", "S", "what the circuit carries", unit.Watt(float64(u)*float64(i)), "{U} × {I}",
		reckon.In("U", "mains", u, ""), reckon.In("I", "circuit", i, "")).Noting("As VA.")
	return fmt.Sprintf("%s at %s sustain at most %s of output from class %s, taken as %s %% efficient; peaks may go "+
		"over it.",
		i, u, f.Text(), class, unit.Number(100*float64(efficiency))), []reckon.Figure{f, apparent}
}

func mainsCurrent(q asked) (string, []reckon.Figure) {
	p, u := unit.Watt(q.one(watts)), unit.Volt(q.one(volts))
	tp, tu := reckon.In("P", "taken from the mains", p, ""), reckon.In("U", "mains", u, "")
	full := reckon.Of("amps", "I", "at a power factor of 1", unit.Ampere(float64(p)/float64(u)), "{P} / {U}", tp, tu)
	poor := reckon.Of("ampsPoor", "I", "at a power factor of 0.7", unit.Ampere(float64(p)/float64(u)/0.7),
		"{P} / {U} / 0.7",
		tp, tu).Because("usual without correction: common practice, no source")
	return fmt.Sprintf("%s at %s are %s, and %s without power-factor correction.", p, u, full.Text(), poor.Text()),
		[]reckon.Figure{full, poor}
}

func conductor(q asked) (string, []reckon.Figure) {
	a := unit.SquareMillimetre(q.one(area))
	d := 2 * math.Sqrt(float64(a)/math.Pi)
	gauge := 36 - 39*math.Log(d/0.127)/math.Log(92)
	ta := reckon.In("A", "conductor", a, "")
	km := reckon.Of("perKm", "R", "of one conductor, a kilometre", gear.LoopResistance(500, a, 20), "1000 m × ρ / {A}",
		ta).
		Noting("ρ = 1/58 Ω mm²/m at 20 °C; flexible lead may be 11 to 16 % worse.").Because("IEC 60028")
	awg := reckon.Ratio("awg", "n", "gauge, AWG", gauge, "36 − 39 ln({d} / 0.127 mm) / ln 92",
		reckon.Count("d", "diameter, mm", d)).Because("ASTM B258")
	figures := []reckon.Figure{km, awg}
	says := fmt.Sprintf("%s is AWG %s, %s mm thick, %s a kilometre.", a, unit.Number(gauge), unit.Number(d), km.Text())
	if l := q.one(metres); l > 0 {
		loop := reckon.Of("loop", "R", "there and back", gear.LoopResistance(unit.Metre(l), a, 20), "2 × ρ × {l} / {A}",
			reckon.In("l", "length", unit.Metre(l), ""), ta).Because("IEC 60028")
		figures = append([]reckon.Figure{loop}, figures...)
		says = fmt.Sprintf("%s of %s has %s there and back.", unit.Metre(l), a, loop.Text())
	}
	return says, figures
}

// usualAir is the temperature of the air where none is named, °C.
const usualAir = 20

func speedFigure(q asked) (float64, reckon.Term, string) {
	t := q.or(celsius, usualAir)
	c := sound.Speed(t)
	return c, reckon.Term{Symbol: "c", What: "speed of sound", Value: c, Unit: "m/s"},
		fmt.Sprintf("Air at %s °C.", unit.Number(t))
}

func delay(q asked) (string, []reckon.Figure) {
	c, tc, note := speedFigure(q)
	r := unit.Metre(q.one(metres))
	t := reckon.Of("delay", "t", "delay", unit.Second(float64(r)/c), "{r} / {c}", reckon.In("r", "distance", r, ""), tc).
		Noting(note).Because("c = 343.2 m/s × sqrt(T / 293.15 K)")
	feet := reckon.Ratio("feet", "r", "in feet", float64(r)/0.3048, "{r} / 0.3048 m", reckon.In("r", "distance", r, ""))
	return fmt.Sprintf("Sound takes %s ms for %s (%s ft) at %s m/s.", unit.Fixed(1000*t.Value, 1), r,
		unit.Number(feet.Value),
		unit.Fixed(c, 1)), []reckon.Figure{t, feet}
}

func distance(q asked) (string, []reckon.Figure) {
	c, tc, note := speedFigure(q)
	t := unit.Second(q.one(seconds))
	r := reckon.Of("distance", "r", "distance", unit.Metre(float64(t)*c), "{t} × {c}", reckon.In("t", "delay", t, ""), tc).
		Noting(note).Because("c = 343.2 m/s × sqrt(T / 293.15 K)")
	return fmt.Sprintf("In %s ms sound goes %s.", unit.Number(1000*float64(t)), r.Text()), []reckon.Figure{r}
}

func wavelength(q asked) (string, []reckon.Figure) {
	c, tc, note := speedFigure(q)
	f := unit.Hertz(q.one(hertz))
	tf := reckon.In("f", "frequency", f, "")
	whole := reckon.Of("wave", "λ", "wavelength", unit.Metre(c/float64(f)), "{c} / {f}", tc, tf).Noting(note)
	quarter := reckon.Of("quarter", "λ/4", "a quarter of it", unit.Metre(c/float64(f)/4), "{c} / {f} / 4", tc, tf)
	late := reckon.Of("late", "t", "sound takes for it", unit.Second(1/float64(f)/4), "1 / {f} / 4", tf)
	return fmt.Sprintf("A wave of %s is %s long; a quarter is %s, or %s ms.", f, whole.Text(), quarter.Text(),
		unit.Fixed(1000*late.Value, 2)), []reckon.Figure{whole, quarter, late}
}

func coil(q asked) (string, []reckon.Figure) {
	zs, t0 := q.all(ohms), q.one(celsius)
	cold, hot := math.Min(zs[0], zs[1]), math.Max(zs[0], zs[1])
	rise := (hot/cold - 1) / 0.00393
	t := reckon.Ratio("temperature", "T", "of the coil, °C", t0+rise, "{T0} + ({R} / {R0} − 1) / 0.00393",
		reckon.Count("T0", "air when it was cold, °C", t0), reckon.In("R", "hot", unit.Ohm(hot), ""),
		reckon.In("R0", "cold", unit.Ohm(cold), "")).Noting("Copper; aluminium 0.0040.").Because("IEC 60028")
	level := reckon.Of("level", "ΔL", "level lost at the same volts", unit.OfVolts(hot/cold), "20 lg({R} / {R0})",
		reckon.In("R", "hot", unit.Ohm(hot), ""), reckon.In("R0", "cold", unit.Ohm(cold), "")).
		Noting("Half of it is less power taken, half a less efficient coil, in the mass-controlled band.")
	return fmt.Sprintf("The coil is at %s °C and has lost %s of level. Frame and magnet are far cooler.",
		unit.Number(t.Value), level.Text()), []reckon.Figure{t, level}
}

func pounds(q asked) (string, []reckon.Figure) {
	m := unit.Kilogram(q.one(mass))
	lb := reckon.Ratio("pounds", "m", "in pounds", float64(m)/0.45359237, "{m} / 0.45359237 kg", reckon.In("m", "mass",
		m, ""))
	return fmt.Sprintf("%s is %s lb.", m, unit.Number(lb.Value)), []reckon.Figure{reckon.Of("kilograms", "m", "mass", m,
		""), lb}
}
