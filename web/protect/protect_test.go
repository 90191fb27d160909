package protect_test

import (
	"bytes"
	"html"
	"math"
	"net/url"
	"strings"
	"testing"

	"largo/exchange"
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

// The limiters of an output at work, and what was done to them: by whom, from what to
// what, why; what cannot be tried is refused where it was typed.
func TestALimiterAtWork(t *testing.T) {
	s := webtest.Open(t)
	for _, set := range []string{"48.9", "40"} {
		s.Post(job+"/protect/limiter", url.Values{"tag": {"A1"}, "port": {"out A"}, "rms": {set}, "peak": {"70"},
			"why": {"guests at " + set}})
	}
	at := job + "/protect/run?" + url.Values{"of": {"A1\tout A"}, "length": {"5 min"}}.Encode()
	_, page := s.Get(at)
	page = html.UnescapeString(page)
	for _, want := range []string{"Limiters as they are on record: 40.0 V rms, 70.0 V peak", "Taken away.",
		"guests at 48.9",
		"<b>40.0 V rms, 70.0 V peak</b>, in force", "<td>48.9 V rms, 70.0 V peak</td>"} {
		if !strings.Contains(page, want) {
			t.Errorf("lacks %q", want)
		}
	}
	if _, page = s.Get(at + "&crest=99"); !strings.Contains(page, "A crest of 99 dB cannot be tried") {
		t.Error("a crest of 99 dB is tried")
	}
	var file bytes.Buffer
	tone := make([]float64, 48000)
	for i := range tone {
		tone[i] = math.Sin(float64(i) / 10)
	}
	webtest.Must(t, exchange.WriteWAV(&file, 48000, tone))
	fields := []string{"of", "A1\tout A", "length", "20 s", "over", "0"}
	if status, page := s.UploadTo(job+"/protect/run", &file, fields...); status != 200 || !strings.Contains(page,
		"The recording: 1 s, 3.0 dB of crest") || !strings.Contains(page, `value="20 s"`) {
		t.Errorf("%d: a recording is not run", status)
	}
	if status, page := s.UploadTo(job+"/protect/run", strings.NewReader("ID3"), fields...); status != 422 ||
		!strings.Contains(page, "This is no WAV file.") {
		t.Errorf("%d: what is no recording", status)
	}
	if status, _ := s.Get(job + "/protect/run?of=A9"); status != 404 {
		t.Errorf("%d for an output that is none", status)
	}
}
