package protect_test

import (
	"html"
	"net/url"
	"strings"
	"testing"

	"largo/store/storetest"
	"largo/web/webtest"
)

func TestMain(m *testing.M) { storetest.Main(m) }

const job = webtest.Boathouse

// A limiter and a level control that cannot be are refused where they were typed.
func TestRefusedLimiters(t *testing.T) {
	webtest.Open(t).Refuses([]webtest.Refusal{
		webtest.Refused("a peak under rms", job+"/protect/limiter",
			url.Values{"tag": {"A1"}, "port": {"out A"}, "rms": {"50"}, "peak": {"40"}}, "", "never less than its rms"),
		webtest.Refused("a level control up", job+"/protect/knob",
			url.Values{"tag": {"A1"}, "port": {"out A"}, "channel": {"0"}, "down": {"-3 dB"}}, "down", "0 to 100 dB"),
	})
}

// What a limiter shows, in its own unit, is told in volts, watts and what the box stands;
// what cannot be read is told where it was typed. The steps stand in each unit.
func TestWhatALimiterSays(t *testing.T) {
	s := webtest.Open(t)
	for says, want := range map[string]string{"60 V": "The amplifier clips at 52.9 V rms, before it acts",
		"24.5 V": "under what TOP L1 stands for long", "+0.8 dBu": "It holds A1 out A to 4",
		"loud": "as the limiter shows it: 48 V"} {
		_, page := s.Get(job + "/protect?" + url.Values{"of": {"A1\tout A"}, "says": {says}}.Encode())
		page = html.UnescapeString(page)
		if strings.Count(page, want) < 1 || strings.Count(page, `value="`+says+`"`) != 1 {
			t.Errorf("%q is answered without %q, or loses what was typed", says, want)
		}
	}
	_, page := s.Get(job + "/protect")
	for _, want := range []string{"a quarter of the rating", "against DIVIDE's most", "−22.3 dB"} {
		if !strings.Contains(html.UnescapeString(page), want) {
			t.Errorf("the steps lack %q", want)
		}
	}
}
