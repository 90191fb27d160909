package protect_test

import (
	"net/url"
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
