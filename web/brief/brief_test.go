package brief_test

import (
	"net/url"
	"strings"
	"testing"

	"largo/store/storetest"
	"largo/web/webtest"
)

func TestMain(m *testing.M) { storetest.Main(m) }

const job = webtest.Boathouse

// What a brief cannot ask for is refused at its field.
func TestRefusedBriefs(t *testing.T) {
	brief := func(name, value string) url.Values {
		v := url.Values{"title": {"T"}}
		v.Set(name, value)
		return v
	}
	webtest.Open(t).Refuses([]webtest.Refusal{
		webtest.Refused("a level of 300 dB", job+"/brief", brief("wanted", "300"), "wanted", "cannot be right"),
		webtest.Refused("a title of script", job+"/brief", brief("title", "<b>x</b>"), "title", "may not hold"),
		webtest.Refused("a date of nowhere", job+"/brief", brief("date", "yesterday"), "date", "not a date"),
		webtest.Refused("a person of two numbers", job+"/people", url.Values{"people": {"Ada, 0700 1, 0700 2"}}, "people",
			"write a name, what they do, and the number"),
		webtest.Refused("half a listener", job+"/brief", brief("listeners", "1.5"), "listeners", "not a whole number"),
	})
}

// Who goes is kept, and stands with the job in the book of dates.
func TestWhoGoes(t *testing.T) {
	w := webtest.Open(t)
	if status, page := w.Post(job+"/people", url.Values{"people": {"Ada Fenn, sound, 0700 900 123\nBo"}}); status != 200 ||
		!strings.Contains(page, "Ada Fenn, sound, 0700 900 123") {
		t.Fatalf("%d", status)
	}
	if _, page := w.Get("/"); !strings.Contains(page, "Ada Fenn (sound), Bo") {
		t.Error("the list of jobs does not say who goes")
	}
}
