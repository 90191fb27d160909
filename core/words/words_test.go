package words

import (
	"testing"
	"testing/quick"
	"unicode/utf8"
)

func TestCapitalAndSmall(t *testing.T) {
	for _, c := range []struct{ in, capital, small string }{
		{"", "", ""},
		{"two boxes", "Two boxes", "two boxes"},
		{"Über allem", "Über allem", "über allem"},
		{"ярус слева", "Ярус слева", "ярус слева"},
		{"مسرح", "مسرح", "مسرح"},
		{"🎚 fader", "🎚 fader", "🎚 fader"},
		{"A1 drives", "A1 drives", "A1 drives"}, // a tag
		{"ß", "ß", "ß"},
	} {
		if got := Capital(c.in); got != c.capital {
			t.Errorf("Capital(%q) = %q, want %q", c.in, got, c.capital)
		}
		if got := Small(c.in); got != c.small {
			t.Errorf("Small(%q) = %q, want %q", c.in, got, c.small)
		}
	}
}

func TestShorten(t *testing.T) {
	for _, c := range []struct {
		in   string
		most int
		want string
	}{
		{"Fenn 29", 7, "Fenn 29"}, {"Fenn 29", 6, "Fenn …"}, {"Größe", 3, "Gr…"}, {"ab", 1, "…"}, {"ab", 0, ""},
		{"ab", -12, ""}, {"", -1, ""},
	} {
		if got := Shorten(c.in, c.most); got != c.want {
			t.Errorf("Shorten(%q, %d) = %q, want %q", c.in, c.most, got, c.want)
		}
	}
	law := func(s string, most int8) bool {
		cut := Shorten(s, int(most))
		return !utf8.ValidString(s) || utf8.ValidString(cut) && utf8.RuneCountInString(cut) <= max(int(most), 0)
	}
	if err := quick.Check(law, nil); err != nil {
		t.Error(err)
	}
}

func TestSpell(t *testing.T) {
	for n, want := range map[int]string{0: "No boxes", 1: "One box", 6: "Six boxes", 7: "7 boxes", -1: "-1 boxes"} {
		if got := Spell(n, "box", "boxes"); got != want {
			t.Errorf("Spell(%d) = %q, want %q", n, got, want)
		}
	}
}
