package fault

import (
	"strings"
	"testing"
)

func TestCheckName(t *testing.T) {
	for text, wanted := range map[string]string{
		"Wherry boathouse":          "",
		"":                          "missing",
		"   ":                       "missing",
		strings.Repeat("a", 10000):  "10000 characters",
		"<script>alert(1)</script>": "may not hold <",
		"two\nlines":                "one line",
		"bad \xff byte":             "not text",
		"Größe 8 Ω – Zürich":        "",
		"a\x00b":                    "control characters",
		"a\u202egnp.exe":            "direction of writing",
		"a\u2066b\u2069":            "direction of writing",
		"مسرح\u200fالمدينة":         "", // a mark that right-to-left writing needs
		"🎚 fader":                   "",
	} {
		var l List
		l.CheckName("title", "The title", text, 120, true)
		switch {
		case wanted == "" && len(l) > 0:
			t.Errorf("%.20q refused: %v", text, l)
		case wanted != "" && (len(l) != 1 || !strings.Contains(l[0].Say, wanted)):
			t.Errorf("%.20q: got %v, want a sentence with %q", text, l, wanted)
		}
	}
}

func TestListIsNoErrorWhenEmpty(t *testing.T) {
	var l List
	if l.Err() != nil {
		t.Error("an empty list is an error")
	}
	l.AddAll("devices[3]", List{{"tag", "is missing"}, {"", "is odd"}})
	if got := l.Error(); got != "devices[3].tag: is missing; devices[3]: is odd" {
		t.Error(got)
	}
}
