package sheet_test

import (
	"strings"
	"testing"

	"largo/store/storetest"
	"largo/web/webtest"
)

func TestMain(m *testing.M) { storetest.Main(m) }

// A rig at stop opens every page that leads to energising with what must be
// mended first, and the hook-up of a bridge at stop does not end in switching on.
func TestEveryPageToTheMainsOpensWithWhatIsAtStop(t *testing.T) {
	s := webtest.Open(t)
	for _, page := range []string{"/start", "/strike", "/sheet", "/wire/hookup?amp=A1&pair=0"} {
		_, html := s.Get(webtest.Hall + page)
		if !strings.Contains(html, "Do not energise. First mend:") {
			t.Errorf("%s does not say what to mend first", page)
		}
		if strings.Contains(html, "then switch on with") {
			t.Errorf("%s says to switch on what is at stop", page)
		}
	}
}

// The sheet prints the findings that it speaks of, and says of what nobody
// recorded that it is not recorded.
func TestTheSheetPrintsItsFindings(t *testing.T) {
	s := webtest.Open(t)
	_, html := s.Get(webtest.Hall + "/sheet")
	_, mends, ok := strings.Cut(html, "To mend before the show")
	if !ok || strings.Count(mends, "<li>") < 3 {
		t.Errorf("the sheet of a rig with findings prints these: %.300s", mends)
	}
	if !strings.Contains(html, "not recorded") {
		t.Error("a knob that nobody recorded is not said to be so")
	}
}
