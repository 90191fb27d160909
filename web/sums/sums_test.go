package sums_test

import (
	"encoding/json"
	"net/url"
	"strings"
	"testing"

	"largo/core/sum"
	"largo/store/storetest"
	"largo/web/webtest"
)

func TestMain(m *testing.M) { storetest.Main(m) }

// The page answers with the working, varies a figure, says what it did not
// understand, and the address for the find line says the same.
func TestTheSumsPage(t *testing.T) {
	s := webtest.Open(t)
	status, page := s.Get("/sums?q=" + url.QueryEscape("500 W 8 ohm bananas"))
	for _, want := range []string{"63.2 V rms", "sqrt(P × Z)", "Not understood: <b>bananas</b>", `name="n1"`} {
		if status != 200 || !strings.Contains(page, want) {
			t.Errorf("%d: the page lacks %q", status, want)
		}
	}
	if _, page = s.Get("/sums?q=" + url.QueryEscape("500 W 8 ohm") + "&n0=1000&n1=4"); !strings.Contains(page,
		`value="1000 W 4 ohm"`) || !strings.Contains(page, "1000 W into 4 Ω") {
		t.Error("two figures changed are not in the question")
	}
	if _, page = s.Get("/sums"); !strings.Contains(page, "What can be asked") || strings.Contains(page, "No sum here") {
		t.Error("without a question the page has no examples")
	}
	for _, k := range sum.Kinds {
		status, said := s.Get("/sums/answer?q=" + url.QueryEscape(k.Example))
		var got sum.Shown
		if err := json.Unmarshal([]byte(said), &got); err != nil || status != 200 || got.Says != sum.Show(k.Example).Says {
			t.Errorf("%q: %d, %v, %s", k.Example, status, err, said)
		}
	}
}
