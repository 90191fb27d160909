package signals_test

import (
	"math"
	"strings"
	"testing"

	"largo/core/signal"
	"largo/exchange"
	"largo/store/storetest"
	"largo/web/webtest"
)

func TestMain(m *testing.M) { storetest.Main(m) }

// What is fetched is the signal that was asked for, at its level by AES17; what cannot be
// made is told where it was typed.
func TestASignalIsFetched(t *testing.T) {
	s := webtest.Open(t)
	_, page := s.Get("/signals?kind=sine&hz=440&level=-12&seconds=1&fade=0")
	if !strings.Contains(page, "Sine of 440 Hz, -12 dBFS rms, 1 s") || !strings.Contains(page, `id="play"`) {
		t.Error(webtest.Heading(page))
	}
	_, file := s.Get("/signals/signal.wav?kind=sine&hz=440&level=-12&seconds=1&fade=0")
	w, err := exchange.ReadWAV(strings.NewReader(file))
	if err != nil {
		t.Fatal(err)
	}
	if l := signal.Measure(w.Channels[0]); math.Abs(float64(l.RMS)+12) > 0.01 || w.Rate != 48000 {
		t.Errorf("%+v", l)
	}
	for query, want := range map[string]string{"level=3": "A level of 3 dBFS cannot be right",
		"seconds=500": "120 s at the most",
		"kind=noise":  "is no signal", "hz=loud&kind=sine": "is not a number", "kind=rating&low=500&high=100": "is no band"} {
		status, page := s.Get("/signals?" + query)
		if status != 200 || !strings.Contains(page, want) || strings.Contains(page, `id="play"`) {
			t.Errorf("%s: %d, lacks %q", query, status, want)
		}
		if status, _ := s.Get("/signals/signal.wav?" + query); status != 422 {
			t.Errorf("%s: fetched with %d", query, status)
		}
	}
	if status, _ := s.Get("/signals/signal.wav?kind=pink&level=0"); status != 422 {
		t.Errorf("%d: noise at full scale, whose peaks do not fit", status)
	}
}
