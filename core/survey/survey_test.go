package survey_test

import (
	"fmt"
	"os"
	"regexp"
	"slices"
	"strings"
	"testing"
	"unicode"
	"unicode/utf8"

	"largo/core/finding"
	"largo/core/gear"
	"largo/core/match"
	"largo/core/rig"
	"largo/core/rigtest"
	"largo/core/survey"
	"largo/core/unit"
	"largo/demo"
)

func rigs(t testing.TB) []rig.Rig {
	t.Helper()
	rs, err := demo.Rigs()
	if err != nil {
		t.Fatal(err)
	}
	return rs
}

// withRandom are the demo rigs, and so many random ones of the demo's models and of
// those that tell more.
func withRandom(t *testing.T, n uint64) []rig.Rig {
	t.Helper()
	models, err := demo.Gear()
	if err != nil {
		t.Fatal(err)
	}
	models = append(models, tellingModels()...)
	all := rigs(t)
	for seed := range n / everyRig {
		all = append(all, rigtest.Random(models, seed))
	}
	return all
}

func TestTheTour(t *testing.T) {
	rs := rigs(t)
	boathouse := survey.Survey(rs[0])
	if w := finding.Worst(boathouse.Findings); w > finding.Mind {
		t.Errorf("the boathouse should be fine, not at %s: %+v", w, boathouse.Findings[0])
	}
	if v := survey.Of[match.Verdict](boathouse); v.Driven != v.Passive || v.Passive != 11 {
		t.Errorf("%d of %d boxes driven", v.Driven, v.Passive)
	}
	quay := survey.Survey(rs[1])
	if w := finding.Worst(quay.Findings); w != finding.Mend {
		t.Errorf("the quay should have something to mend, not %s", w)
	}
	var codes []string
	for _, f := range survey.Survey(rs[2]).Findings {
		codes = append(codes, f.Code)
	}
	for _, hidden := range []string{"match.load-below-least", "match.bridge-forbidden", "wire.speaker-into-line",
		"protect.limiter-high", "start.too-early", "match.unknown-impedance"} {
		if !slices.Contains(codes, hidden) {
			t.Errorf("the hall's hidden fault %s was not found among %v", hidden, codes)
		}
	}
}

// Every mend of the tour can be applied, and takes its finding away.
func TestMendsMend(t *testing.T) {
	for _, r := range rigs(t) {
		for _, f := range survey.Survey(r).Findings {
			for _, m := range f.Mends {
				after, err := rig.Apply(r, m.Edit)
				if err != nil {
					t.Errorf("%s: %q: %v", r.Brief.Title, m.Label, err)
				} else if _, still := survey.Survey(after).Finding(f.ID()); still {
					t.Errorf("%s: %q leaves %s standing", r.Brief.Title, m.Label, f.ID())
				}
			}
		}
	}
}

func TestEveryFigureShowsItsWorking(t *testing.T) {
	for _, r := range rigs(t) {
		p := survey.Survey(r)
		names := map[string]bool{}
		for _, place := range p.Places() {
			if names[place.Name] {
				t.Errorf("two places are called %q", place.Name)
			}
			names[place.Name] = true
			for _, f := range place.Figures {
				if f.Key == "" && f.Lacks == "" {
					if f.Symbol != "" || f.Value != 0 {
						t.Errorf("%s: a figure without a key: %+v", place.Name, f)
					}
					continue
				}
				if strings.ContainsAny(f.Working(), "{}") || f.Working() == "" {
					t.Errorf("%s %s: %s", place.Name, f.Key, f.Working())
				}
				if got, ok := p.Figure(place.Name, f.Key); f.Key != "" && (!ok || got.Symbol != f.Symbol) {
					t.Errorf("%s %s is not found again", place.Name, f.Key)
				}
			}
		}
	}
}

// Each finding has a stable code that docs/findings.md explains.
func TestCodesAreDocumented(t *testing.T) {
	doc, err := os.ReadFile("../../docs/findings.md")
	if err != nil {
		t.Fatal(err)
	}
	used := map[string]bool{}
	var dirs []string
	for _, s := range survey.Stages {
		dirs = append(dirs, string(s.Name))
	}
	dirs = append(dirs, "survey")
	literal := regexp.MustCompile(`"((?:` + strings.Join(dirs, "|") + `)\.[a-z-]+)"`)
	for _, dir := range dirs {
		entries, err := os.ReadDir("../" + dir)
		if err != nil {
			t.Fatal(err)
		}
		for _, e := range entries {
			if strings.HasSuffix(e.Name(), "_test.go") {
				continue
			}
			src, err := os.ReadFile("../" + dir + "/" + e.Name())
			if err != nil {
				t.Fatal(err)
			}
			for _, m := range literal.FindAllSubmatch(src, -1) {
				used[string(m[1])] = true
			}
		}
	}
	if len(used) < 20 {
		t.Fatalf("only %d codes found in the sources; has their form changed?", len(used))
	}
	for code := range used {
		if !strings.Contains(string(doc), "`"+code+"`") {
			t.Errorf("docs/findings.md does not explain %s", code)
		}
	}
	for _, m := range regexp.MustCompile("### `([a-z.-]+)`").FindAllSubmatch(doc, -1) {
		if !used[string(m[1])] {
			t.Errorf("docs/findings.md explains %s, which nothing reports", m[1])
		}
	}
}

// large is a rig of 200 boxes and 60 amplifiers: 2 boxes on most outputs.
func large(t testing.TB) rig.Rig {
	r := rigtest.New(t).Add(rigtest.Player(), "PLAYER").Add(rigtest.Desk(), "DESK").Plug("PLAYER/out", "DESK/in 1").Rig
	box, amp := rigtest.Box("box"), rigtest.Amp("amp")
	r.Models = append(r.Models, box, amp)
	for i := range 60 {
		tag := fmt.Sprintf("A%d", i)
		r.Devices = append(r.Devices, rig.Device{Tag: tag, Model: "amp"})
		for ch := range 2 {
			r.Links = append(r.Links, rig.Link{From: rigtest.Ref("DESK/main L"),
				To: rig.Ref{Device: tag, Port: gear.InputPort(ch)}})
		}
	}
	for i := range 200 {
		tag := fmt.Sprintf("B%d", i)
		r.Devices = append(r.Devices, rig.Device{Tag: tag, Model: "box"})
		from := rig.Ref{Device: fmt.Sprintf("A%d", i/2%60), Port: gear.ChannelPort(i % 2)}
		if i >= 120 {
			from = rig.Ref{Device: fmt.Sprintf("B%d", i-120), Port: "link"}
		}
		r.Links = append(r.Links, rig.Link{From: from, To: rig.Ref{Device: tag, Port: "in"}})
	}
	if err := r.Check(); err != nil {
		t.Fatal(err)
	}
	return r
}

func TestLargeRigIsDriven(t *testing.T) {
	if v := survey.Of[match.Verdict](survey.Survey(large(t))); v.Driven != 200 || len(v.Outputs) != 120 {
		t.Errorf("%d of 200 boxes driven on %d outputs", v.Driven, len(v.Outputs))
	}
}

// BenchmarkSurvey surveys 200 boxes and 60 amplifiers; the aim is under 5 ms
// and 2 MB.
func BenchmarkSurvey(b *testing.B) {
	r := large(b)
	b.ReportAllocs()
	for b.Loop() {
		survey.Survey(r)
	}
}

// BenchmarkEdit applies an edit to the same rig with all its checks.
func BenchmarkEdit(b *testing.B) {
	r := large(b)
	b.ReportAllocs()
	for b.Loop() {
		if _, err := rig.Apply(r, rig.SetPair{Tag: "A7",
			Set: rig.Pair{Output: gear.Separate, Input: rig.ParallelIn}}); err != nil {
			b.Fatal(err)
		}
	}
}

func TestCompare(t *testing.T) {
	before := survey.Survey(rigs(t)[2])
	f, _ := before.Finding("match.load-below-least@A1@out A")
	next, err := rig.Apply(before.Rig(), f.Mends[0].Edit)
	if err != nil {
		t.Fatal(err)
	}
	c := survey.Compare(before, survey.Survey(next))
	if len(c.Gone) == 0 || c.Gone[0].Code != "match.load-below-least" {
		t.Errorf("gone: %+v", c.Gone)
	}
	found := false
	for _, ch := range c.Figures {
		if ch.Place == "A1 out A" && ch.After.Key == "load" {
			found = ch.Before.Text() == "2.67 Ω" && ch.After.Text() == "4 Ω"
		}
	}
	if !found {
		t.Errorf("the load of A1 out A is not told as 2.67 Ω to 4 Ω: %+v", c.Figures)
	}
	if c := survey.Compare(before, before); len(c.Gone)+len(c.New)+len(c.Figures) > 0 {
		t.Errorf("a rig differs from itself: %+v", c)
	}
}

// BenchmarkSurveyOfAChain surveys the longest chain that a rig can hold: 990
// boxes linked on from one output. It took 1.8 s when the sum of each box was
// written out anew.
func BenchmarkSurveyOfAChain(b *testing.B) {
	r := rigtest.Driven(b, rigtest.Amp("amp"))
	var tags []string
	for i := range 990 {
		tags = append(tags, fmt.Sprintf("B%d", i))
	}
	for i := 0; i < len(tags); i += 198 {
		r.Add(rigtest.Box("box"), tags[i:i+198]...)
	}
	chain := r.Rig.Clone()
	from := rigtest.Ref("A1/out A")
	for _, tag := range tags {
		chain.Links = append(chain.Links, rig.Link{From: from, To: rig.Ref{Device: tag, Port: "in"}})
		from = rig.Ref{Device: tag, Port: "link"}
	}
	b.ReportAllocs()
	for b.Loop() {
		survey.Survey(chain)
	}
}

// BenchmarkManyLeads takes a lead of stock at 300 links in one act.
func BenchmarkManyLeads(b *testing.B) {
	r := large(b)
	lead := gear.Model{ID: "lead", Kind: gear.KindCable, Maker: "m", Name: "n",
		Cable: &gear.Cable{Sort: gear.SpeakerCable, Length: unit.Of(unit.Metre(10)),
			Area: unit.Of(unit.SquareMillimetre(2.5))}}
	e := rig.SetLeads{Saying: "s"}
	for _, k := range r.Links {
		e.Leads = append(e.Leads, rig.SetLead{To: k.To, Stock: []gear.Model{lead}})
	}
	b.ReportMetric(float64(len(e.Leads)), "leads")
	for b.Loop() {
		if _, err := rig.Apply(r, e); err != nil {
			b.Fatal(err)
		}
	}
}

// While anything is at stop nobody is told to energise, nothing is fine at the start,
// and no level is promised: over the demo rigs and 100 random ones.
func TestNobodyEnergisesWhatIsAtStop(t *testing.T) {
	all := withRandom(t, 100)
	stopped := 0
	for _, r := range all {
		p := survey.Survey(r)
		if finding.Worst(p.Findings) < finding.Stop {
			continue
		}
		stopped++
		if p.Worst(finding.Start) != finding.Stop || p.Worst(finding.Brief) < finding.Mend {
			t.Errorf("%s is at stop, Start at %s and Brief at %s", r.Brief.Title, p.Worst(finding.Start),
				p.Worst(finding.Brief))
		}
		if said := p.Says(finding.Start); !p.Empty(finding.Start) && !strings.HasPrefix(said, "Do not energise: ") {
			t.Errorf("%s is at stop, and Start says %q", r.Brief.Title, said)
		}
	}
	if stopped < 50/everyRig {
		t.Errorf("only %d of %d rigs are at stop", stopped, len(all))
	}
}

// Every finding, verdict and mend of the demo rigs and 200 random ones, as it would be
// read aloud: no number without its noun's form, no sentence begun small or left open,
// nothing unknown where it could say what is missing.
func TestSentences(t *testing.T) {
	all := withRandom(t, 200)
	wrong := regexp.MustCompile(`\ball 1 |\b1 (?:boxes|outputs|leads|devices|switches|channels|loads|amplifiers)\b|  |` +
		`%!|\bunknown\.|\bunknown (?:rms|peak|Ω|W|V)\b|only when Shut|half a decibel|\.\.|: \.|\bnil\b|<no value>`)
	said := map[string]bool{}
	hear := func(what, text string) {
		if text == "" || said[text] {
			return
		}
		said[text] = true
		first, _ := utf8.DecodeRuneInString(text)
		if wrong.MatchString(text) || unicode.IsLower(first) || !strings.HasSuffix(text, ".") {
			t.Errorf("%s: %q", what, text)
		}
	}
	for _, r := range all {
		p := survey.Survey(r)
		for _, f := range p.Findings {
			hear(f.Code+" what", f.What)
			hear(f.Code+" why", f.Why)
			hear(f.Code+" advice", f.Advice)
			for _, m := range f.Mends {
				hear(f.Code+" mend", m.Label+".")
			}
		}
		for _, a := range p.Answers() {
			hear(string(a.Stage)+" says", a.Says)
		}
	}
	if len(said) < 1000/everyRig {
		t.Errorf("only %d sentences were read", len(said))
	}
}
