package survey

import (
	"os"
	"path/filepath"
	"strings"
	"testing"

	"largo/core/finding"
	"largo/core/match"
	"largo/core/reckon"
	"largo/core/rig"
	"largo/core/rigtest"
	"largo/core/stage"
	"largo/core/unit"
	"largo/core/wire"
)

// A stage that fails says so by a finding at stop, with its stack for the log,
// and leaves the others alone.
func TestAStageThatFails(t *testing.T) {
	r := rigtest.Driven(t, rigtest.Amp("amp")).Rig
	whole := Survey(r)
	broken := append([]stage.Stage(nil), Stages...)
	broken[1].Judge = func(*stage.Input) stage.Outcome { var none []int; _ = none[4]; return stage.Outcome{} }
	p := run(r, broken)
	if !strings.Contains(p.Broken[finding.Match], "stage_test.go") || len(p.Broken) != 1 {
		t.Errorf("the stack: %v", p.Broken)
	}
	fs := p.At(finding.Match)
	if len(fs) != 1 || fs[0].Gravity != finding.Stop || fs[0].Code != "survey.stage-failed" {
		t.Errorf("%+v", fs)
	}
	if len(p.At(finding.Wire)) != len(whole.At(finding.Wire)) || len(p.Places()) == 0 {
		t.Error("the other stages are not as they were")
	}
}

// A stage of nothing is its own folder and one line in the list: its finding,
// its figure and its result come out without another line anywhere.
func TestAStageOfNothing(t *testing.T) {
	type verdict struct{ Said string }
	nothing := stage.Stage{Name: "nothing", Judge: func(in *stage.Input) stage.Outcome {
		figure := reckon.Of("devices", "n", "devices", unit.Ratio(len(in.Rig().Devices)), "")
		return stage.Outcome{Result: verdict{"nothing to say"},
			Findings: []finding.Finding{{Code: "nothing.said", Stage: "nothing", Gravity: finding.Mind, Danger: finding.Sound,
				What: "Nothing."}},
			Places: func() []stage.Place {
				return []stage.Place{{Name: "nothing", Figures: []reckon.Figure{figure}, Whole: true}}
			}}
	}}
	p := run(rigtest.Driven(t, rigtest.Amp("amp")).Rig, append(append([]stage.Stage(nil), Stages...), nothing))
	if Of[verdict](p).Said != "nothing to say" || len(p.At("nothing")) != 1 {
		t.Error("its result or its finding is lost")
	}
	if f, ok := p.Figure("nothing", "devices"); !ok || f.Value != 3 {
		t.Errorf("its figure: %+v", f)
	}
}

// Each stage has its folder in the core, its view in the web, its template, and
// its chapter among the findings, all under its one name.
func TestEveryStageHasItsRooms(t *testing.T) {
	doc, err := os.ReadFile("../../docs/findings.md")
	if err != nil {
		t.Fatal(err)
	}
	seen := map[finding.Stage]bool{}
	for _, s := range Stages {
		if seen[s.Name] || s.Judge == nil {
			t.Errorf("%s stands twice in the list, or judges nothing", s.Name)
		}
		seen[s.Name] = true
		for _, room := range []string{"../" + string(s.Name) + "/" + string(s.Name) + ".go", "../../web/" + string(s.Name) +
			"/" + string(s.Name) + ".go", "../../web/" + string(s.Name) + "/" + string(s.Name) + ".html"} {
			if _, err := os.Stat(room); err != nil {
				t.Errorf("the stage %s has no %s", s.Name, room)
			}
		}
		if !strings.Contains(string(doc), "\n## "+s.Name.Title()+"\n") {
			t.Errorf("docs/findings.md has no chapter %q", s.Name.Title())
		}
	}
}

// A room of the core that says what a stage is stands in the list of stages.
func TestEveryRoomOfAStageIsInTheList(t *testing.T) {
	sources, err := filepath.Glob("../*/*.go")
	if err != nil {
		t.Fatal(err)
	}
	rooms := 0
	for _, path := range sources {
		b, err := os.ReadFile(path)
		if err != nil {
			t.Fatal(err)
		}
		if !strings.HasSuffix(path, "_test.go") && strings.Contains(string(b), "var Stage = stage.Stage{") {
			rooms++
		}
	}
	if rooms != len(Stages) {
		t.Errorf("%d rooms of the core are stages, and %d stages are in the list", rooms, len(Stages))
	}
}

// Each stage answers in one line, of a rig and of an empty one; one that failed
// says that it failed, not that there is nothing to do.
func TestEveryStageAnswers(t *testing.T) {
	driven := rigtest.Driven(t, rigtest.Amp("amp")).Rig
	for _, r := range []rig.Rig{driven, rig.NewRig(rig.Brief{})} {
		for _, a := range Survey(r).Answers() {
			if a.Says == "" || !strings.HasSuffix(a.Says, ".") {
				t.Errorf("%s says %q", a.Stage, a.Says)
			}
		}
	}
	broken := append([]stage.Stage(nil), Stages...)
	broken[1].Judge = func(*stage.Input) stage.Outcome { panic("a fault") }
	p := run(driven, broken)
	if got := p.Says(finding.Match); got != "Match cannot be judged: a fault in Largo." {
		t.Errorf("a stage that failed says %q", got)
	}
	if got := p.Says(finding.Brief); strings.Contains(got, "to spare") {
		t.Errorf("the brief promises what match could not say: %q", got)
	}
}

// What the answers say of rigs that differ in one thing.
func TestAnswersNameWhatIsWrong(t *testing.T) {
	r := rigtest.Hung(t, rigtest.Amp("amp"), rigtest.Box("box"), 2).Rig
	last := r.Links[len(r.Links)-1].To
	unplugged := rig.Disconnect{To: last}
	quiet := rig.SetBrief{Brief: rig.Brief{Title: "A room"}}
	loud := rig.SetBrief{Brief: rig.Brief{Title: "A room", Wanted: unit.Of[unit.Decibel](115),
		Distance: unit.Of[unit.Metre](40)}}
	high := rig.Limiter{Port: "out A", RMS: unit.Of[unit.Volt](90), Peak: unit.Of[unit.Volt](190)}
	for _, c := range []struct {
		stage finding.Stage
		edit  rig.Edit
		want  string
	}{
		{finding.Match, rig.Batch{}, "All 2 boxes driven"},
		{finding.Match, unplugged, "1 of 2 boxes driven"},
		{finding.Match, loud, "short of the wanted level."},
		{finding.Protect, rig.Batch{}, "One output is held within what the boxes stand."},
		{finding.Protect, rig.SetLimiter{Tag: "A1", Set: high}, "One limiter stands above what the boxes can take."},
		{finding.Start, rig.Batch{}, "switches, "},
		{finding.Strike, rig.Batch{}, "One amplifier or active box off first; the rest once they are dead."},
		{finding.Brief, quiet, "The brief names no wanted level yet."},
		{finding.Brief, loud, "The rig falls "},
	} {
		next, err := rig.Apply(r, c.edit)
		if err != nil {
			t.Fatal(err)
		}
		if got := Survey(next).Says(c.stage); !strings.Contains(got, c.want) {
			t.Errorf("%s says %q, want %q", c.stage, got, c.want)
		}
	}
}

// What is gravest is said, and what it makes idle to say is not: an output that is
// too strong, while another must not be energised; that every lead fits, while one
// is to be mended.
func TestAnswersSayTheGravest(t *testing.T) {
	in := stage.NewInput(rigtest.Hung(t, rigtest.Amp("amp"), rigtest.Box("box"), 1).Rig)
	strong := finding.Finding{Code: "match.too-strong", Gravity: finding.Mend}
	stop := finding.Finding{Gravity: finding.Stop, What: "It burns."}
	driven := match.Verdict{Passive: 1, Driven: 1}
	for _, c := range []struct {
		of    stage.Stage
		found []finding.Finding
		want  string
	}{
		{match.Stage, []finding.Finding{strong}, "One output is stronger than the policy allows."},
		{match.Stage, []finding.Finding{stop, strong}, "Do not energise: it burns."},
		{wire.Stage, nil, "are not chosen yet."},
		{wire.Stage, []finding.Finding{strong}, "One connection to mend before the show."},
		{wire.Stage, []finding.Finding{stop, strong}, "It burns."},
	} {
		got := c.of.Says(stage.Judged{Input: in, Result: driven, Findings: c.found})
		stronger := strings.Contains(got, "stronger than the policy")
		if !strings.Contains(got, c.want) || stronger != strings.Contains(c.want, "stronger") {
			t.Errorf("%s says %q, want %q and no more", c.of.Name, got, c.want)
		}
	}
}
