package finding_test

import (
	"testing"

	"largo/core/finding"
	"largo/core/rig"
)

func TestAlikeSaysOnceWhatComesOfIt(t *testing.T) {
	at := func(tag, why string, g finding.Gravity) finding.Finding {
		return finding.Finding{Code: "match.touch-voltage", Danger: finding.People, Gravity: g, At: rig.Ref{Device: tag}, What: tag, Why: why}
	}
	groups := finding.Alike([]finding.Finding{at("A1", "bites", finding.Mind), at("A2", "burns", finding.Mind), at("A3", "bites", finding.Mind), at("A4", "bites", finding.Stop)})
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

func TestSortPutsTheGravestFirst(t *testing.T) {
	fs := []finding.Finding{{What: "warm", Danger: finding.Sound, Gravity: finding.Mend}, {What: "burnt", Danger: finding.Gear, Gravity: finding.Stop},
		{What: "bitten", Danger: finding.People, Gravity: finding.Mend}, {What: "dead", Danger: finding.People, Gravity: finding.Stop}}
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
