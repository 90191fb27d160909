package level_test

import (
	"net/url"
	"strings"
	"testing"

	"largo/store/storetest"
	"largo/web/webtest"
)

func TestMain(m *testing.M) { storetest.Main(m) }

// A level control that is recorded moves what clips the amplifier, and bad ones are
// refused where they were typed.
func TestAKnobIsRecordedAtLevel(t *testing.T) {
	s := webtest.Open(t)
	const at = webtest.Boathouse + "/level"
	_, before := s.Get(at)
	knob := func(down string) url.Values {
		return url.Values{"tag": {"A1"}, "port": {"out A"}, "channel": {"0"}, "down": {down}}
	}
	status, after := s.Post(at+"/knob", knob("12 dB"))
	if status != 200 || !strings.Contains(before, "1.4 dBu") || !strings.Contains(after, "13.4 dBu") {
		t.Errorf("%d: 12 dB down the amplifier clips 12 dB later", status)
	}
	s.Refuses([]webtest.Refusal{
		webtest.Refused("200 dB down", at+"/knob", knob("200 dB"), "down", "0 to 100 dB below fully up"),
		webtest.Refused("no figure", at+"/knob", knob("half"), "down", ""),
	})
}
