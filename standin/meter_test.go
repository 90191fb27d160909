package standin_test

import (
	"net/http/httptest"
	"net/url"
	"strings"
	"testing"

	"largo/exchange"
	"largo/standin"
)

// A meter reads volts that a load takes from: 230 − 0.5 Ω · 10 A; and what is wrong with one is
// said: nonsense, no answer in time, volts of no mains.
func TestMeter(t *testing.T) {
	m := &standin.Meter{Volts: 230, Hertz: 50}
	m.Add("L1", 0.5, 0)
	m.Add("L2", 0.5, 10)
	server := httptest.NewServer(m)
	defer server.Close()
	read, err := exchange.AskMeter(t.Context(), server.URL)
	if err != nil || len(read) != 2 || read[0].Volts.Or(0) != 230 || read[1].Volts.Or(0) != 225 ||
		read[1].Amps.Or(0) != 10 ||
		read[0].Hertz.Or(0) != 50 {
		t.Errorf("%+v, %v", read, err)
	}
	res, err := server.Client().PostForm(server.URL, url.Values{"circuit": {"L1"}, "amperes": {"20"}})
	if err != nil || res.StatusCode != 200 {
		t.Fatal(res, err)
	}
	res.Body.Close()
	if read, _ = exchange.AskMeter(t.Context(), server.URL); read[0].Volts.Or(0) != 220 {
		t.Errorf("with 20 A: %+v", read[0])
	}
	for fault, want := range map[standin.MeterFault]string{standin.Nonsense: "cannot be read",
		standin.Late: "does not answer"} {
		m.Fault = fault
		if _, err := exchange.AskMeter(t.Context(), server.URL); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%s: %v", fault, err)
		}
	}
	m.Fault = standin.Mad
	if read, _ = exchange.AskMeter(t.Context(), server.URL); read[0].Volts.Known() {
		t.Errorf("22,000 V are believed: %+v", read[0])
	}
	for _, address := range []string{"osc://127.0.0.1:9", "http://10.0.0.1:80", "x"} {
		if _, err := exchange.AskMeter(t.Context(), address); err == nil {
			t.Errorf("%s is asked", address)
		}
	}
}
