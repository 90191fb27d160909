package kit

import (
	"fmt"
	"strings"
	"testing"

	"largo/store"
)

// Where the word that something was kept is lost, nobody says that it was not.
func TestPerhapsKept(t *testing.T) {
	var s Server
	p := s.explain(fmt.Errorf("%w: %w", store.ErrUnsure, store.ErrDown), true)
	if strings.Contains(p.Say, "not kept") || !strings.Contains(p.Say, "not known whether") {
		t.Error(p.Say)
	}
}

// Every style sheet of the kit is in the list of those that are joined, once.
func TestEveryStyleSheetIsJoined(t *testing.T) {
	entries, err := files.ReadDir("styles")
	if err != nil {
		t.Fatal(err)
	}
	joined := append(append([]string(nil), first...), last...)
	for _, e := range entries {
		n := 0
		for _, name := range joined {
			if name+".css" == e.Name() {
				n++
			}
		}
		if n != 1 {
			t.Errorf("%s is joined %d times", e.Name(), n)
		}
	}
	if len(entries) != len(joined) {
		t.Errorf("%d sheets lie there, %d are joined", len(entries), len(joined))
	}
}

// A pen escapes whatever is not markup by its type, writes each value into its
// hole, and says when the two are not as many.
func TestPen(t *testing.T) {
	var w Pen
	w.Put(`<a title="{}" x="{}" n="{}"{}>{}</a>`, `"><script>`, 1.26, 3, When(true, " disabled"), "{}&")
	const want = `<a title="&#34;&gt;&lt;script&gt;" x="1.3" n="3" disabled>{}&amp;</a>`
	if got := w.String(); got != want {
		t.Errorf("%s\nwant\n%s", got, want)
	}
	for _, values := range [][]any{{}, {"a", "b"}, {[]string{"of no sort"}}} {
		func() {
			defer func() {
				if recover() == nil {
					t.Errorf("%v was written into one hole", values)
				}
			}()
			w.Put("<b>{}</b>", values...)
		}()
	}
}
