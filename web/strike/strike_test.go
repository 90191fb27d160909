package strike_test

import (
	"net/url"
	"strings"
	"testing"

	"largo/store/storetest"
	"largo/web/webtest"
)

func TestMain(m *testing.M) { storetest.Main(m) }

// What went out is counted back: what is missing and what is faulty is said, a count may be made
// anew, and what cannot be is refused at its field.
func TestCountedBack(t *testing.T) {
	s := webtest.Open(t)
	const at = webtest.Boathouse + "/strike/back"
	_, page := s.Get(at)
	if !strings.Contains(page, "Nothing is counted back yet.") || !strings.Contains(page, "Over and under") {
		t.Fatal(webtest.Heading(page))
	}
	r := webtest.MustJob(t, s, "wherry-lock-boathouse").Rig
	model := r.Devices[0].Model // one receiver
	count := func(back, faulty string) string {
		_, page := s.Post(at, url.Values{"model": {model}, "back": {back}, "faulty": {faulty}, "command": {webtest.Fresh()}})
		return webtest.Heading(page)
	}
	if got := count("0", "0"); !strings.Contains(got, "One piece is missing so far") {
		t.Error(got)
	}
	if got := count("1", "1"); !strings.Contains(got, "kinds are still to be counted") || strings.Contains(got,
		"missing") {
		t.Error(got)
	}
	form := func(model, back, faulty string) url.Values {
		return url.Values{"model": {model}, "back": {back}, "faulty": {faulty}, "command": {webtest.Fresh()}}
	}
	s.Refuses([]webtest.Refusal{webtest.Refused("more faulty than back", at, form(model, "1", "2"), "faulty",
		"no 2 are faulty"),
		webtest.Refused("no number", at, form(model, "some", "0"), "back", "pieces"),
		webtest.Refused("too many", at, form(model, "99999", "0"), "back", "cannot be right")})
	if status, page := s.Post(at, form("ghost", "1", "0")); status != 422 || !strings.Contains(page, "This rig has no") {
		t.Errorf("%d: nothing of the rig", status)
	}
}
