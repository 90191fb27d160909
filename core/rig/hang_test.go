package rig_test

import (
	"fmt"
	"strings"
	"testing"

	"largo/core/gear"
	"largo/core/load"
	"largo/core/rig"
	"largo/core/rigtest"
)

func TestHangIsOneAct(t *testing.T) {
	r := rigtest.Driven(t, rigtest.Amp("amp")).Add(rigtest.Amp("amp"), "A2").
		Add(rigtest.Box("box"), "TOP 1", "TOP 2", "TOP 3", "TOP 4", "TOP 5", "TOP 6").Plug("A2/out B", "TOP 1/in")
	tops, err := rig.ExpandTags("TOP 1 to 6")
	if err != nil {
		t.Fatal(err)
	}
	r.Do(rig.Hang{Boxes: tops, Outputs: []rig.Ref{rigtest.Ref("A1/out A"), rigtest.Ref("A1/out B"),
		rigtest.Ref("A2/out A")}, Each: 2})
	var got []string
	for _, o := range load.Outputs(rig.NewIndex(r.Rig)) {
		got = append(got, fmt.Sprintf("%s %s %v", o.At, o.Nominal.Text(), load.Tags(o.Boxes)))
	}
	want := "A1 out A 4 Ω [TOP 1 TOP 2]; A1 out B 4 Ω [TOP 3 TOP 4]; A2 out A 4 Ω [TOP 5 TOP 6]; A2 out B unknown []"
	if strings.Join(got, "; ") != want {
		t.Errorf("got  %s\nwant %s", strings.Join(got, "; "), want)
	}
}

func TestHangWithoutLinkThrough(t *testing.T) {
	plain := rigtest.Box("plain", func(s *gear.Loudspeaker) { s.Link = false })
	r := rigtest.Driven(t, rigtest.Amp("amp")).Add(plain, "B1", "B2").
		Do(rig.Hang{Boxes: []string{"B1", "B2"}, Outputs: []rig.Ref{rigtest.Ref("A1/out A")}, Each: 2})
	for _, tag := range []string{"B1", "B2"} {
		if k, ok := rig.NewIndex(r.Rig).Into(rig.Ref{Device: tag, Port: "in"}); !ok || k.From != rigtest.Ref("A1/out A") {
			t.Errorf("%s is fed from %v", tag, k.From)
		}
	}
}

func TestHangRefuses(t *testing.T) {
	r := rigtest.Driven(t, rigtest.Amp("amp")).Add(rigtest.Box("box"), "B1", "B2", "B3")
	out := []rig.Ref{rigtest.Ref("A1/out A")}
	for what, c := range map[string]struct {
		edit rig.Hang
		say  string
	}{
		"too many": {rig.Hang{Boxes: []string{"B1", "B2", "B3"}, Outputs: out, Each: 2},
			"need 2 outputs; 1 are named"},
		"none on each":  {rig.Hang{Boxes: []string{"B1"}, Outputs: out}, "cannot be right"},
		"no boxes":      {rig.Hang{Outputs: out, Each: 2}, "Name the boxes"},
		"a stranger":    {rig.Hang{Boxes: []string{"B9"}, Outputs: out, Each: 2}, "no device"},
		"an amplifier":  {rig.Hang{Boxes: []string{"A1"}, Outputs: out, Each: 2}, "no passive box"},
		"one box twice": {rig.Hang{Boxes: []string{"B1", "B1"}, Outputs: out, Each: 2}, "named twice"},
		"an output of nowhere": {rig.Hang{Boxes: []string{"B1"}, Outputs: []rig.Ref{rigtest.Ref("A1/out Q")}, Each: 2},
			"no speaker output"},
		"a line output": {rig.Hang{Boxes: []string{"B1"}, Outputs: []rig.Ref{rigtest.Ref("DESK/main L")}, Each: 2},
			"no speaker output"},
	} {
		if _, err := rig.Apply(r.Rig, c.edit); err == nil || !strings.Contains(err.Error(), c.say) {
			t.Errorf("%s: %v, want a sentence with %q", what, err, c.say)
		}
	}
}

func TestExpandTags(t *testing.T) {
	for text, want := range map[string]string{
		"TOP L, TOP R": "[TOP L TOP R]", "TOP 1 to 3, SUB": "[TOP 1 TOP 2 TOP 3 SUB]", "W9 to 11": "[W9 W10 W11]",
		" , ": "[]", "AMP 1": "[AMP 1]",
	} {
		if got, err := rig.ExpandTags(text); err != nil || fmt.Sprint(got) != want {
			t.Errorf("%q: %v, %v; want %s", text, got, err, want)
		}
	}
	for _, bad := range []string{"TOP 6 to 1", "TOP 1 to 9999"} {
		if got, err := rig.ExpandTags(bad); err == nil {
			t.Errorf("%q was read as %d tags", bad, len(got))
		}
	}
}
