package feed

import (
	"fmt"
	"math"
	"slices"
	"strings"

	"largo/core/finding"
	"largo/core/gear"
	"largo/core/reckon"
	"largo/core/rig"
	"largo/core/supply"
	"largo/core/unit"
	"largo/core/words"
)

// The bounds of what is said, common practice, no source, unless another is named.
const (
	leaksMind  = 0.3  // of the trip current, of all that leaks
	leaksMend  = 0.5  // from where it may trip: IEC 61008 lets it from half on
	gfciHolds  = 4e-3 // A that a GFCI of class A has to hold (UL 943)
	mostDrop   = 0.05 // of the volts, lost in a lead: IEC 60364-5-52 Annex G for what is not lighting
	reelled    = 1.0 / 3
	uneven     = 0.3 // of its limit that phases part
	leastVolts = 0.9 // of nominal: EN 50160
	mostVolts  = 1.1 // of nominal: EN 50160
	wildVolts  = 1.2 // of nominal: over what any phase has
)

// PlaceOf is the place that a part of the supply is, or gear that passes mains on: devices may
// bear the same names.
func PlaceOf(n *supply.Node) string {
	if n.Part == nil {
		return "mains through " + n.Name
	}
	return "mains " + n.Name
}

func at(n *supply.Node, code string, d finding.Danger, g finding.Gravity) finding.Finding {
	f := finding.Finding{Code: code, Stage: finding.Feed, Danger: d, Gravity: g}
	if n != nil {
		f.At.Device = PlaceOf(n)
	}
	return f
}

func (v Verdict) findings(x *rig.Index) (fs []finding.Finding) {
	for _, c := range v.Circuits {
		fs = append(fs, v.loads(x, c)...)
	}
	for i := range v.Nodes {
		n := &v.Nodes[i]
		fs = append(fs, v.residual(i)...)
		fs = append(fs, v.earths(i)...)
		if n.Part != nil {
			fs = append(fs, outlet(n)...)
			fs = append(fs, v.sag(i)...)
			fs = append(fs, v.wrongVolts(x, n)...)
			fs = append(fs, v.selective(i)...)
			fs = append(fs, v.lead(n)...)
		}
		if n.Three {
			fs = append(fs, v.phases(i)...)
		}
	}
	for _, s := range v.Sets() {
		fs = append(fs, v.set(s, x.Rig.Brief)...)
	}
	return slices.Concat(fs, lifted(x.Rig), v.sleepers(), v.unknown(), damp(x.Rig.Brief))
}

// loads compares what a circuit carries with what it may.
func (v Verdict) loads(x *rig.Index, c Circuit) (fs []finding.Finding) {
	curve := rig.Curve("")
	if c.Part != nil {
		curve = c.Part.Curve
	}
	ordinary, dense := c.Carries(supply.Ordinary), c.Carries(supply.Dense)
	figures := []reckon.Figure{v.Carried(c, supply.Ordinary), v.Carried(c, supply.Dense), v.May(c)}
	switch {
	case float64(ordinary) > float64(c.Limit)*supply.Conventional(curve).Holds:
		f := at(c.Node, "feed.over", finding.Sound, finding.Mend)
		f.What = fmt.Sprintf("%s carries %s with ordinary programme, and is for %s.", words.Capital(c.Name), ordinary,
			c.Limit)
		if early, late := supply.Within(c.Limit, ordinary, curve); c.breaks() && early > 0 {
			f.Why = fmt.Sprintf("It may trip after %s", about(early))
			if late > 0 {
				f.Why += fmt.Sprintf(" and surely has by %s", about(late))
			}
			f.Why += ", and all that hangs on it falls silent."
		} else {
			f.Why = "It trips or overheats in the middle of the show, and all that hangs on it falls silent."
		}
		if !c.breaks() && !v.guarded(c) {
			f.Danger, f.Gravity = finding.People, finding.Stop
			f.Why = "No breaker on record holds it to that: it overheats, and may burn."
		}
		f.Figures, f.Advice = figures, "Move some of it to another circuit."
		if way, can := v.lighten(c); can {
			f.Mends = []finding.Way{way}
		}
		fs = append(fs, f)
	case dense > c.Limit:
		f := at(c.Node, "feed.dense", finding.Sound, finding.Mend)
		f.What = fmt.Sprintf("%s holds with ordinary programme, and not on dense music: %s, and it is for %s.",
			words.Capital(c.Name), dense,
			c.Limit)
		f.Why = "It trips when the loudest band of the night plays, not at the sound check."
		f.Figures, f.Advice = figures, "Move some of it to another circuit, or hold the amplifiers on it by their limiters."
		if way, can := v.lighten(c); can {
			f.Mends = append(f.Mends, way)
		}
		if way, can := v.holdBack(c); can {
			f.Mends = append(f.Mends, way)
		}
		fs = append(fs, f)
	}
	if len(fs) == 0 || fs[0].Code == "feed.dense" {
		fs = append(fs, v.continuous(x, c, ordinary, figures)...)
	}
	fs = append(fs, v.inrush(c, curve)...)
	return append(fs, v.burst(c, curve)...)
}

// lighten moves one device away so that the circuit holds on dense music.
func (v Verdict) lighten(c Circuit) (finding.Way, bool) {
	if c.Three {
		return finding.Way{}, false
	}
	return v.move(c.Index, func(t *supply.Taken) bool {
		return float64(c.Carries(supply.Dense)-t.Amps(supply.Dense)) <= float64(c.Limit)*v.Rule
	})
}

// continuous judges a load of hours where the code asks for room.
func (v Verdict) continuous(x *rig.Index, c Circuit, ordinary unit.Ampere, figures []reckon.Figure) []finding.Finding {
	if v.Rule == 1 || !c.breaks() || float64(ordinary) <= float64(c.Limit)*v.Rule {
		return nil
	}
	f := at(c.Node, "feed.continuous", finding.Sound, finding.Mend)
	f.What = fmt.Sprintf("%s carries %s for hours, and may carry %s of its %s for three hours or more.",
		words.Capital(c.Name), ordinary,
		unit.Ampere(float64(c.Limit)*v.Rule), c.Limit)
	f.Why = "A breaker at its rating for hours gets warm and trips below it; the code sizes for 125 %."
	if !x.Rig.Brief.Lasts.Known() {
		f.Why += " How long the show lasts is not in the brief, so it is taken as long."
	}
	f.Figures, f.Advice = figures, "Move some of it to another circuit."
	return []finding.Finding{f}
}

// breaks tells whether the circuit ends in something that trips.
func (c Circuit) breaks() bool { return c.Part != nil && c.Part.Sort == rig.Breaker }

// guarded tells whether a breaker above holds a circuit to its limit.
func (v Verdict) guarded(c Circuit) bool {
	for at := c.Up; at >= 0; at = v.Nodes[at].Up {
		n := &v.Nodes[at]
		if n.Part != nil && n.Part.Sort == rig.Breaker && n.Limit > 0 && n.Limit <= c.Limit {
			return true
		}
	}
	return c.Model != nil // gear has its own
}

// about rounds a time as it is said.
func about(s unit.Second) string {
	switch {
	case s < 10:
		return unit.Second(math.Round(float64(s)*10) / 10).String()
	case s < 100:
		return unit.Second(math.Round(float64(s)/10) * 10).String()
	}
	return unit.Second(math.Round(float64(s)/60) * 60).String()
}

// inrush finds what wakes by one switch on one breaker and takes more at once than it holds.
func (v Verdict) inrush(c Circuit, curve rig.Curve) (fs []finding.Finding) {
	if !c.breaks() {
		return nil
	}
	holds := supply.HoldsPeak(c.Limit, curve)
	for _, w := range v.Wakings(c.Index) {
		if w.Peak <= holds {
			continue
		}
		f := at(c.Node, "feed.inrush", finding.Sound, finding.Mend)
		f.What = fmt.Sprintf("%s wakes %s on %s at once, which take %s for an instant; it surely holds %s.",
			words.Capital(w.Switch), words.Small(words.Spell(len(w.Devices), "device", "devices")), c.Name, w.Peak, holds)
		if len(w.Devices) == 1 {
			f.Gravity = finding.Mind
			f.What = fmt.Sprintf("%s takes %s for an instant when it wakes; %s surely holds %s.", words.Capital(w.Switch),
				w.Peak, c.Name, holds)
		}
		f.Why = "The breaker may trip at the switch, though it carries them running."
		f.Advice = "Wake them one after the other, by switches of their own or a sequencer; or take a slower breaker."
		fs = append(fs, f)
	}
	return fs
}

// burst finds a circuit that a burst of all its amplifiers at full sine may trip at once.
func (v Verdict) burst(c Circuit, curve rig.Curve) []finding.Finding {
	burst := c.Carries(supply.Burst)
	holds := unit.Ampere(float64(c.Limit) * supply.AtOnce(curve).Holds)
	if !c.breaks() || burst <= holds {
		return nil
	}
	f := at(c.Node, "feed.burst", finding.Sound, finding.Mind)
	f.What = fmt.Sprintf("%s takes %s while everything on it gives a full sine; for an instant it surely holds %s.",
		words.Capital(c.Name), burst, holds)
	f.Why = "Music does not; feedback and a test tone do."
	f.Figures = []reckon.Figure{v.Carried(c, supply.Burst)}
	f.Advice = "Keep tones and feedback short, set the limiters, or give it less."
	return []finding.Finding{f}
}

// residual judges what leaks through a residual-current device, and its type.
func (v Verdict) residual(i int) (fs []finding.Finding) {
	n := &v.Nodes[i]
	if n.Part == nil {
		return nil
	}
	trip, has := n.Part.Residual.Get()
	if !has {
		return nil
	}
	leaks := reckon.Of("leaks", "IΔ", "leakage to earth, as far as it is known", n.Leaks, "")
	part := float64(n.Leaks / trip)
	may, from := part > leaksMend, "From half of that on it may trip of itself, in the middle of the show."
	if n.Part.Type == rig.GFCI {
		may, from = n.Leaks > gfciHolds, "It has to hold under 4 mA, and over that it may trip, in the middle of the show."
	}
	if part > leaksMind || may {
		f := at(n, "feed.leakage", finding.Sound, finding.Mind)
		f.What = fmt.Sprintf("What hangs on %s leaks %s to earth, and it trips by %s.", n.Name, n.Leaks, trip)
		f.Why = "A little more, from damp or a filter that wakes, and the show ends."
		if may {
			f.Gravity, f.Why = finding.Mend, from
		}
		f.Figures = []reckon.Figure{leaks}
		f.Advice = "Split it over several such circuits. It is never removed or bridged: it is what saves a life."
		if way, can := v.move(i, func(t *supply.Taken) bool {
			left := n.Leaks - t.Model.Intake.Leakage.Or(0)
			return float64(left) <= leaksMind*float64(trip) && !(n.Part.Type == rig.GFCI && left > gfciHolds)
		}); can {
			f.Mends = []finding.Way{way}
		}
		fs = append(fs, f)
	}
	if n.Part.Type == rig.TypeAC && v.rectifiers(i) {
		f := at(n, "feed.residual-type", finding.People, finding.Mend)
		f.What = fmt.Sprintf("%s is of type AC, and what hangs on it has switching supplies.", words.Capital(n.Name))
		f.Why = "A fault behind a rectifier may blind it, so that it does not trip."
		f.Advice = "Have it changed for one of type A or better, by a licensed electrician."
		fs = append(fs, f)
	}
	return append(fs, v.floating(i)...)
}

// rectifiers tells whether any electronics hang below a node.
func (v Verdict) rectifiers(i int) bool {
	for _, below := range v.Below(i) {
		if slices.ContainsFunc(v.Nodes[below].Loads, func(l int) bool {
			return v.Taken[l].Model.Kind != gear.KindAppliance && v.Taken[l].Model.Supply == nil
		}) {
			return true
		}
	}
	return false
}

// floating finds a residual-current device behind a generator whose neutral is not bonded.
func (v Verdict) floating(i int) []finding.Finding {
	for up := v.Nodes[i].Up; up >= 0; up = v.Nodes[up].Up {
		n := &v.Nodes[up]
		if n.Model == nil || n.Model.Kind != gear.KindGenerator || n.Model.Supply.Bonded == gear.Yes {
			continue
		}
		f := at(&v.Nodes[i], "feed.floating", finding.People, finding.Stop)
		f.What = fmt.Sprintf("%s stands behind the generator %s, whose neutral is bonded to nothing.",
			words.Capital(v.Nodes[i].Name),
			n.Name)
		f.Why = "On a floating generator a residual-current device does not trip of a first fault, and protects nobody."
		if n.Model.Supply.Bonded == "" {
			f.Gravity = finding.Mend
			f.What = fmt.Sprintf("Whether the neutral of the generator %s is bonded is not on record, and %s stands behind it.",
				n.Name, v.Nodes[i].Name)
		}
		f.Advice = "A competent person bonds neutral to earth and tests the trip before anything is plugged in; local code " +
			"decides how."
		return []finding.Finding{f}
	}
	return nil
}

// earths finds gear that has to have protective earth on an outlet without.
func (v Verdict) earths(i int) (fs []finding.Finding) {
	has := gear.Answer("")
	for at := i; at >= 0 && has == ""; at = v.Nodes[at].Up {
		if p := v.Nodes[at].Part; p != nil {
			has = p.Earth
		}
	}
	if has != gear.No {
		return nil
	}
	var tags []string
	for _, l := range v.Nodes[i].Loads {
		if v.Taken[l].Model.Intake.Earthed == gear.Yes {
			tags = append(tags, v.Taken[l].Tag)
		}
	}
	if len(tags) == 0 {
		return nil
	}
	f := at(&v.Nodes[i], "feed.no-earth", finding.People, finding.Stop)
	f.What = fmt.Sprintf("%s has no protective earth, and %s must have it.", words.Capital(v.Nodes[i].Name),
		words.List(tags))
	f.Why = "After a fault inside, its case is live, and nothing switches off."
	f.Advice = "Plug it in where there is earth, or have this outlet put right by a licensed electrician. An adapter " +
		"or a " +
		"loose earth wire is no mend."
	if way, can := v.toEarth(tags); can {
		f.Mends = []finding.Way{way}
	}
	return []finding.Finding{f}
}

// toEarth plugs devices into the first outlet of which it is known that it has earth.
func (v Verdict) toEarth(tags []string) (finding.Way, bool) {
	for i := range v.Nodes {
		n := &v.Nodes[i]
		if n.Part == nil || n.Part.Sort != rig.Outlet || n.Part.Earth != gear.Yes || n.Part.Lamps != "" &&
			n.Part.Lamps != Sound {
			continue
		}
		all := rig.Batch{Saying: "Plugged " + words.List(tags) + " into " + n.Name}
		for _, tag := range tags {
			all.Edits = append(all.Edits, rig.PlugMains{Tag: tag, Outlet: n.Name})
		}
		return finding.Way{Label: "Plug " + words.List(tags) + " into " + n.Name + ", which has earth", Edit: all}, true
	}
	return finding.Way{}, false
}

// outlet judges what a tester and a voltmeter showed.
func outlet(n *supply.Node) (fs []finding.Finding) {
	if l := n.Part.Lamps; l != "" && l != Sound {
		f := at(n, "feed.wiring", finding.People, finding.Stop)
		f.What = fmt.Sprintf("The tester at %s shows a fault%s.", n.Name, meant(l))
		f.Why = "A case may be live, or nothing trips when it is."
		f.Advice = "Plug nothing in. A licensed electrician mends it, and tells the house."
		fs = append(fs, f)
	}
	if n.Part.Button == gear.No {
		f := at(n, "feed.button", finding.People, finding.Stop)
		f.What = fmt.Sprintf("The residual-current device of %s does not trip by its button.", n.Name)
		f.Why = "It protects nobody."
		f.Advice = "Use another circuit; a licensed electrician changes it."
		fs = append(fs, f)
	}
	return fs
}

func meant(l rig.Lamps) string {
	var names []string
	for _, fault := range Means(l) {
		names = append(names, fault.Name)
	}
	if len(names) == 0 {
		return ", of more than one kind"
	}
	return ": " + strings.Join(names, ", or ")
}

// sag is what is left of the volts at show load, by what was read under a test load.
func (v Verdict) sag(i int) []finding.Finding {
	n := &v.Nodes[i]
	z, _ := supply.SourceOhms(n.Part)
	if !z.Known() {
		return nil
	}
	left, rest := v.Under(i, supply.Dense), n.Part.Volts.Or(0)
	if left.Value >= leastVolts*float64(rest) {
		return nil
	}
	f := at(n, "feed.sag", finding.Sound, finding.Mend)
	f.What = fmt.Sprintf("%s has %s at rest, and %s is left of it on dense music.", words.Capital(n.Name), rest,
		left.Text())
	f.Why = "Amplifiers give less and clip earlier; digital gear may start anew in the middle of the show."
	f.Figures = []reckon.Figure{z, left}
	f.Advice = "Take a shorter or thicker lead, or another circuit; a bad joint on the way gets hot."
	return []finding.Finding{f}
}

// wrongVolts finds a part that reads what no phase of the place has: two of them, or a lost
// neutral.
func (v Verdict) wrongVolts(x *rig.Index, n *supply.Node) []finding.Finding {
	m, known := x.Rig.Brief.Region.Mains()
	read, said := n.Part.Volts.Get()
	if !known || !said || v.transformed(n) {
		return nil
	}
	part := float64(read / m.Volts)
	if part <= mostVolts && part >= leastVolts {
		return nil
	}
	f := at(n, "feed.volts", finding.Gear, finding.Mend)
	f.What = fmt.Sprintf("%s reads %s, and the place has %s.", words.Capital(n.Name), read, m.Volts)
	f.Why = "Gear starts anew or does not wake; motors and transformers get hot."
	f.Advice = "Read again, without and with a load; have the house or the generator put right " +
		"before anything is plugged in."
	if part > wildVolts {
		f.Danger, f.Gravity = finding.People, finding.Stop
		f.Why = "That is between two phases, or the neutral is lost: what is plugged in burns."
		f.Advice = "Plug nothing in. A licensed electrician finds out why."
	}
	return []finding.Finding{f}
}

// transformed tells whether a part stands behind gear of ours that gives other volts.
func (v Verdict) transformed(n *supply.Node) bool {
	for at := n.Up; at >= 0; at = v.Nodes[at].Up {
		if v.Nodes[at].Model != nil {
			return true
		}
	}
	return n.Part.Gear != ""
}

// lead judges an extension lead: what it loses, and whether it lies wound up.
func (v Verdict) lead(n *supply.Node) (fs []finding.Finding) {
	amps := n.Carries(supply.Ordinary)
	if drop := Drop(n); drop.Known() && drop.Value > mostDrop {
		f := at(n, "feed.drop", finding.Sound, finding.Mend)
		f.What = fmt.Sprintf("%s loses %s %% of the volts with ordinary programme.", words.Capital(n.Name),
			unit.Number(math.Round(1000*drop.Value)/10))
		f.Why = "Amplifiers give less, and gear with power-factor correction draws more."
		f.Figures = []reckon.Figure{drop}
		f.Advice = "Take a thicker lead, a shorter one, or an outlet nearer by."
		if way, can := thicker(n); can {
			f.Mends = []finding.Way{way}
		}
		fs = append(fs, f)
	}
	if n.Part.OnReel && (n.Limit == 0 && amps > 0 || float64(amps) > reelled*float64(n.Limit) && n.Limit > 0) {
		f := at(n, "feed.reel", finding.People, finding.Mend)
		f.What = fmt.Sprintf("%s lies wound up and carries %s.", words.Capital(n.Name), amps)
		f.Why = "Wound up it cannot give off its heat, carries about a third of what it is for, and melts."
		f.Advice = "Run all of it out, and lay it loosely."
		f.Mends = []finding.Way{{Label: "It is run out: record it", Edit: rig.ChangeSupply{Name: n.Name,
			To: func() rig.Supply { s := *n.Part; s.OnReel = false; return s }()}}}
		fs = append(fs, f)
	}
	return fs
}

// Drop is the part of the volts that a lead loses with ordinary programme, there and back,
// its copper warm.
func Drop(n *supply.Node) reckon.Figure {
	const key, symbol, name = "drop", "d", "part of the volts lost in the lead"
	r, known := supply.LeadOhms(n).Get()
	if !known || !n.Volts.Known() {
		return reckon.Unknown(key, symbol, name, "length, conductor or volts are not on record")
	}
	i := n.Carries(supply.Ordinary)
	return reckon.Ratio(key, symbol, name, float64(r)*float64(i)/n.Volts.Value, "{R} × {I} / {U}",
		reckon.In("R", "of the lead, there and back, at 70 °C", r, "IEC 60028"), reckon.In("I", "ordinary programme", i, ""),
		n.Volts.As("U"))
}

// areas are the conductors of leads that can be had, mm² (IEC 60228).
var areas = []unit.SquareMillimetre{1, 1.5, 2.5, 4, 6, 10, 16, 25, 35, 50, 70, 95}

// thicker is the least conductor with which a lead does not lose too much; false where even
// the thickest does.
func thicker(n *supply.Node) (finding.Way, bool) {
	for _, a := range areas {
		s := *n.Part
		s.Area = unit.From(a, "planned")
		next := *n
		next.Part = &s
		if d := Drop(&next); d.Known() && d.Value <= mostDrop {
			return finding.Way{Label: fmt.Sprintf("Take a lead of %s: it loses %s %%", a,
				unit.Number(math.Round(1000*d.Value)/10)), Edit: rig.ChangeSupply{Name: n.Name, To: s}}, true
		}
	}
	return finding.Way{}, false
}

// phases judges three phases: how even they are, and what their neutral carries.
func (v Verdict) phases(i int) (fs []finding.Finding) {
	n := &v.Nodes[i]
	if n.Limit == 0 || n.Up >= 0 && v.Nodes[n.Up].Three && v.Nodes[n.Up].Limit == n.Limit {
		return nil
	}
	high, low := n.Carries(supply.Dense), unit.Ampere(math.Inf(1))
	for _, each := range n.Each {
		low = min(low, each[supply.Dense])
	}
	if float64(high-low) > uneven*float64(n.Limit) {
		f := at(n, "feed.uneven", finding.Sound, finding.Mind)
		f.What = fmt.Sprintf("The phases of %s carry %s, %s and %s on dense music.", n.Name, n.Each[0][supply.Dense],
			n.Each[1][supply.Dense], n.Each[2][supply.Dense])
		f.Why = "The fullest trips first while the others have room, and the neutral carries the difference."
		f.Advice = "Move a circuit from the fullest to the emptiest."
		fs = append(fs, f)
	}
	if neutral := v.Neutral(i, supply.Dense); neutral > n.Limit {
		f := at(n, "feed.neutral", finding.People, finding.Mend)
		f.What = fmt.Sprintf("The neutral of %s carries %s on dense music, and its phases are for %s.", n.Name, neutral,
			n.Limit)
		f.Why = "The third harmonics of supplies without correction add up there, where no breaker looks: it overheats."
		f.Figures = []reckon.Figure{reckon.Of("neutral", "IN", "current of the neutral, dense music", neutral,
			"").Because("sqrt(I1N² + (Σ I3)²)")}
		f.Advice = "Less on it, gear with power-factor correction, or a full-size neutral: a licensed electrician decides."
		fs = append(fs, f)
	}
	return fs
}

// unknown tells what is on no outlet, once the supply is drawn.
func (v Verdict) unknown() (fs []finding.Finding) {
	drawn := slices.ContainsFunc(v.Nodes, func(n supply.Node) bool { return n.Part != nil })
	if !drawn {
		return nil
	}
	if len(v.Loose) > 0 {
		tags := make([]string, 0, len(v.Loose))
		for _, l := range v.Loose {
			tags = append(tags, v.Taken[l].Tag)
		}
		f := at(nil, "feed.unknown", finding.Sound, finding.Mind)
		f.What = fmt.Sprintf("On which outlet %s stands is not on record.", words.List(shortened(tags)))
		f.Why = "What they take is in no circuit's sum, so a circuit may carry more than is shown."
		f.Advice = "Plug them in on this page."
		fs = append(fs, f)
	}
	for i := range v.Nodes {
		n := &v.Nodes[i]
		if n.Part != nil && n.Part.Sort == rig.Breaker && n.Limit == 0 && n.Watts[supply.Ordinary] > 0 {
			f := at(n, "feed.rating", finding.Sound, finding.Mind)
			f.What = fmt.Sprintf("%s carries %s with ordinary programme, and what it is for is not on record.",
				words.Capital(n.Name),
				n.Carries(supply.Ordinary))
			f.Why = "Nobody can say whether it holds."
			f.Advice = "Read it off its toggle, and note it."
			fs = append(fs, f)
		}
	}
	return fs
}

// mostNamed is how many devices a sentence names.
const mostNamed = 4

func shortened(tags []string) []string {
	if len(tags) <= mostNamed {
		return tags
	}
	return append(slices.Clone(tags[:mostNamed-1]), fmt.Sprintf("%d more", len(tags)-mostNamed+1))
}
