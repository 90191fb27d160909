package finding_test

import (
	"slices"
	"testing"

	"largo/core/finding"
	"largo/core/rig"
)

func TestAlikeSaysOnceWhatComesOfIt(t *testing.T) {
	at := func(tag, why string, g finding.Gravity) finding.Finding {
		return finding.Finding{Code: "match.touch-voltage", Danger: finding.People, Gravity: g, At: rig.Ref{Device: tag},
			What: tag, Why: why}
	}
	groups := finding.Alike([]finding.Finding{at("A1", "bites", finding.Mind), at("A2", "burns", finding.Mind),
		at("A3", "bites", finding.Mind), at("A4", "bites", finding.Stop)})
	var got string
	for _, g := range groups {
		for _, f := range g {
			got += f.What + " "
		}
		got += "| "
	}
	if got != "A1 A3 | A2 | A4 | " {
		t.Errorf("gathered as %s", got)
	}
}

func TestTogetherMendsWhatIsAlike(t *testing.T) {
	way := func(output string) finding.Finding {
		return finding.Finding{Code: "protect.limiter-unset", At: rig.Ref{Device: "A1", Port: output},
			Mends: []finding.Way{{Label: "Record", Edit: rig.Disconnect{To: rig.Ref{Device: "A1", Port: output}}}}}
	}
	all, ok := finding.Together([]finding.Finding{way("out A"), way("out B"), way("out C")})
	if batch, is := all.Edit.(rig.Batch); !ok || !is || len(batch.Edits) != 3 || all.Label != "All 3 of these" {
		t.Errorf("%+v, %v", all, ok)
	}
	if _, ok := finding.Together([]finding.Finding{way("out A"), way("out A")}); ok {
		t.Error("one mend twice is one mend")
	}
	if _, ok := finding.Together([]finding.Finding{way("out A"), {Code: "protect.limiter-unset"}}); ok {
		t.Error("a finding without a mend is mended")
	}
}

func TestSortPutsTheGravestFirst(t *testing.T) {
	fs := []finding.Finding{{What: "warm", Danger: finding.Sound, Gravity: finding.Mend},
		{What: "burnt", Danger: finding.Gear, Gravity: finding.Stop},
		{What: "bitten", Danger: finding.People, Gravity: finding.Mend},
		{What: "dead", Danger: finding.People, Gravity: finding.Stop}}
	finding.Sort(fs)
	for i, want := range []string{"dead", "burnt", "bitten", "warm"} {
		if fs[i].What != want {
			t.Errorf("place %d is %s, want %s", i, fs[i].What, want)
		}
	}
	if finding.Worst(fs) != finding.Stop || finding.Worst(nil) != 0 {
		t.Error("the worst is not the worst")
	}
}

// On paper no place is lost: of many of one kind the first stands whole and the
// others by place; two stand whole both.
func TestLinesLoseNoPlace(t *testing.T) {
	at := func(code, device, port string) finding.Finding {
		return finding.Finding{Code: code, At: rig.Ref{Device: device, Port: port}, What: code + " at " + device + port}
	}
	got := finding.Lines([]finding.Finding{at("a", "A1", "out A"), at("b", "X", ""), at("a", "A1", "out B"),
		at("a", "A2", ""), at("b", "Y", ""), at("a", "", "")})
	want := []finding.Line{{What: "a at A1out A", Place: "A1 out B, A2, the job"}, {What: "b at X"}, {What: "b at Y"}}
	if !slices.Equal(got, want) {
		t.Errorf("%+v", got)
	}
}
