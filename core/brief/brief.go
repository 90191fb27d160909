// Package brief judges what the job asks for: whether enough is known to plan
// on, how loud it is for those who stay, and the first guess of watts that
// everybody makes.
package brief

import (
	"fmt"

	"largo/core/finding"
	"largo/core/reckon"
	"largo/core/rig"
	"largo/core/sound"
	"largo/core/stage"
	"largo/core/unit"
)

// Verdict is what the brief comes to.
type Verdict struct {
	Guess reckon.Figure // amplifier power by the rule of thumb, W
	Stay  reckon.Figure // how long the wanted level may be heard, s
}

// Stage is this stage of the day.
var Stage = stage.Stage{Name: finding.Brief, Stopped: finding.Mend, Says: says, Judge: judge}

func judge(in *stage.Input) stage.Outcome {
	v, fs := Judge(in.Rig())
	return stage.Outcome{Result: v, Findings: fs, Places: func() []stage.Place {
		return []stage.Place{{Name: "job", Figures: v.Figures(), Whole: true}}
	}}
}

// says whether the rig gives what is wanted.
func says(j stage.Judged) string {
	r, spare := j.Rig(), j.Figure("job", "spare")
	wanted, known := r.Brief.Wanted.Get()
	switch {
	case !known:
		return "The brief names no wanted level yet."
	case len(r.Devices) == 0:
		return fmt.Sprintf("%s are wanted; the rig is still empty.", wanted)
	case j.Stopped():
		return fmt.Sprintf("%s are wanted. Something of the rig is at stop: mend that first.", wanted)
	case !spare.Known():
		return fmt.Sprintf("%s are wanted; whether the rig gives them is not known: %s.", wanted, spare.Lacks)
	case spare.Value < 0:
		return fmt.Sprintf("The rig falls %s short of the wanted %s.", unit.Decibel(-spare.Value), wanted)
	}
	return fmt.Sprintf("The rig gives the wanted %s with %s to spare.", wanted, unit.Decibel(spare.Value))
}

// Judge judges the brief.
func Judge(r rig.Rig) (Verdict, []finding.Finding) {
	v := Verdict{Guess: guess(r.Brief), Stay: stay(r.Brief)}
	return v, append(missing(r.Brief), loud(r.Brief, v)...)
}

// guess: 1 W of amplifier a listener for speech indoors, twice with low end,
// and outdoors about three times, where only direct sound is left. Good for
// one size of room only.
func guess(b rig.Brief) reckon.Figure {
	const key, symbol, name = "guess", "P", "first guess of amplifier power"
	if b.Listeners == 0 {
		return reckon.Unknown(key, symbol, name, "the brief does not say how many listeners come")
	}
	low, out := 1.0, 1.0
	if b.Programme == rig.LowMusic {
		low = 2
	}
	if b.Outdoors {
		out = 3
	}
	return reckon.Of(key, symbol, name, unit.Watt(float64(b.Listeners)*low*out), "{n} × 1 W × {low} × {out}",
		reckon.Count("n", "listeners", float64(b.Listeners)), reckon.Count("low", "low end", low),
		reckon.Count("out", "outdoors", out)).
		Noting("A guess for one size of room; the honest sum is at match, where sensitivity decides.").
		Because("common practice, no source")
}

// stay is the time at the wanted level that fills a day's dose: 8 h at 85 dBA,
// halved for every 3 dB more (NIOSH 98-126).
func stay(b rig.Brief) reckon.Figure {
	const key, symbol, name = "stay", "T", "time at the wanted level that fills a day's dose"
	l, known := b.Wanted.Get()
	switch {
	case !known:
		return reckon.Unknown(key, symbol, name, "the brief names no wanted level")
	case b.Weighting == rig.WeightC:
		return reckon.Unknown(key, symbol, name, "a dose is reckoned in dB(A), and the wanted level is C-weighted")
	}
	return reckon.Of(key, symbol, name, sound.DoseTime(l, 85, 3),
		"8 h / 2^(({L} − 85 dB) / 3 dB)", reckon.In("L", "wanted level", l, b.WantedBy)).
		Noting("For listeners and crew without protection; guidance, not law.").Because("NIOSH 98-126, 85 dBA for 8 h, 3 " +
		"dB exchange")
}

func at(code string, danger finding.Danger, gravity finding.Gravity, what, why, advice string) finding.Finding {
	return finding.Finding{Code: code, Stage: finding.Brief, Danger: danger, Gravity: gravity, What: what, Why: why,
		Advice: advice}
}

func missing(b rig.Brief) []finding.Finding {
	var fs []finding.Finding
	if !b.Wanted.Known() {
		fs = append(fs, at("brief.no-level", finding.Sound, finding.Mind, "The brief names no wanted level.",
			"Nobody can say if the rig is loud enough, or too loud.",
			"Ask who sets it: law, licence or client; the lowest counts."))
	}
	if !b.Distance.Known() {
		fs = append(fs, at("brief.no-distance", finding.Sound, finding.Mind,
			"The brief does not say how far the listening point is from the boxes.",
			"No level can be worked out without it.", "Pace it out: main boxes to where the level is read."))
	}
	if b.Region == "" {
		fs = append(fs, at("brief.no-mains", finding.Gear, finding.Mend, "The brief does not say what mains the place has.",
			"Gear on the wrong voltage burns or stays dark.", "Ask the house, and check with a meter on arrival."))
	}
	return fs
}

// loudest is what venues are advised to keep to over 15 min, dB LAeq (WHO
// global standard for safe listening venues, 2022; from memory).
const loudest = 100

func loud(b rig.Brief, v Verdict) []finding.Finding {
	l, known := b.Wanted.Get()
	if !known || l <= loudest || b.Weighting == rig.WeightC {
		return nil
	}
	f := at("brief.too-loud", finding.People, finding.Mend,
		fmt.Sprintf("The wanted %s is over the 100 dB LAeq,15min that venues are advised to keep to.", l),
		fmt.Sprintf("At that level a day's dose is full after %s.", v.Stay.Text()),
		"Agree a lower ceiling, give out ear plugs, and read the level at the loudest seat. Local audience law decides.")
	f.Figures = []reckon.Figure{v.Stay}
	return []finding.Finding{f}
}

// Figures lists the figures of the brief by their keys.
func (v Verdict) Figures() []reckon.Figure { return []reckon.Figure{v.Guess, v.Stay} }
