package start_test

import (
	"net/url"
	"strings"
	"testing"

	"largo/store/storetest"
	"largo/web/webtest"
)

func TestMain(m *testing.M) { storetest.Main(m) }

const job = webtest.Boathouse

// The crew's own order is kept, said to be theirs, and left again for the derived
// one; a switch that is not in the rig is refused.
func TestTheCrewsOwnOrder(t *testing.T) {
	s := webtest.Open(t)
	_, page := s.Get(job + "/start")
	_, rest, ok := strings.Cut(page, `name="order" value="`)
	order, _, _ := strings.Cut(rest, `"`)
	if !ok || strings.Contains(page, "the crew's own order") {
		t.Fatal("no order is offered, or it is theirs already")
	}
	if _, page = s.Post(job+"/start/order", url.Values{"order": {order}}); !strings.Contains(page,
		"the crew's own order") {
		t.Error("it is not said to be the crew's own")
	}
	if status, page := s.Post(job+"/start/order", url.Values{"order": {"GHOST"}}); status != 422 ||
		!strings.Contains(page, "not in the rig") {
		t.Errorf("a switch that is not there: %d", status)
	}
	thump := "A1\n" + strings.ReplaceAll(strings.ReplaceAll(order, "\nA1", ""), "&#10;", "\n")
	if status, page := s.Post(job+"/start/order", url.Values{"order": {thump}}); status != 422 ||
		!strings.Contains(page, "That is not done: A1 would go on before") || !strings.Contains(page, "V peak at") {
		t.Errorf("%d: an amplifier before its desk", status)
	}
	for _, want := range []string{"One act silences all: the breaker east wall", "Before it returns: A1, A2 and A3 off",
		"Mute DESK in"} {
		if _, page := s.Get(job + "/start?late=RADIO"); !strings.Contains(page, want) {
			t.Errorf("the cases lack %q", want)
		}
	}
	if _, page = s.Post(job+"/start/order", url.Values{}); strings.Contains(page, "own order") {
		t.Error("the derived order did not come back")
	}
}
