package exchange_test

import (
	"bytes"
	"encoding/binary"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"strconv"
	"strings"
	"testing"

	"largo/exchange"
)

func TestWAVComesBack(t *testing.T) {
	x := []float64{0, 1, -1, 0.5, -0.25, 1.0 / (1<<23 - 1), 0.1}
	var b bytes.Buffer
	if err := exchange.WriteWAV(&b, 48000, x); err != nil {
		t.Fatal(err)
	}
	if b.Len() != 44+3*len(x)+1 || binary.LittleEndian.Uint32(b.Bytes()[4:]) != uint32(b.Len()-8) {
		t.Errorf("%d bytes, %d by its head", b.Len(), binary.LittleEndian.Uint32(b.Bytes()[4:]))
	}
	w, err := exchange.ReadWAV(&b)
	if err != nil || w.Rate != 48000 || len(w.Channels) != 1 || len(w.Channels[0]) != len(x) {
		t.Fatalf("%+v, %v", w, err)
	}
	for i, v := range w.Channels[0] {
		if math.Abs(v-x[i]) > 1e-7 {
			t.Errorf("sample %d: %g, was %g", i, v, x[i])
		}
	}
	if err := exchange.WriteWAV(&b, 48000, []float64{0, 1.5}); err == nil {
		t.Error("a sample beyond full scale was written")
	}
	if err := exchange.WriteWAV(&b, 48000, []float64{math.NaN()}); err == nil {
		t.Error("what is no number was written")
	}
}

// Bad files are one sentence each.
func TestWAVThatIsNone(t *testing.T) {
	var b bytes.Buffer
	if err := exchange.WriteWAV(&b, 48000, make([]float64, 100)); err != nil {
		t.Fatal(err)
	}
	good := b.Bytes()
	with := func(at int, v byte) []byte {
		c := bytes.Clone(good)
		c[at] = v
		return c
	}
	for want, file := range map[string][]byte{"no WAV file": []byte("ID3 not this"), "ends in the middle": good[:200],
		"not plain ones": with(20, 2), "7 channels": with(22, 7), "8,000 to 192,000": with(25, 0),
		"lacks its format": good[:36]} {
		if _, err := exchange.ReadWAV(bytes.NewReader(file)); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%q: %v", want, err)
		}
	}
}

// Another program reads the file as what it is: sox gives the rms and the peak of a sine
// at half of full scale.
func TestARecordingIsHeard(t *testing.T) {
	var b bytes.Buffer
	x := make([]float64, 96000)
	for i := range x {
		x[i] = 0.5 * math.Sin(2*math.Pi*1000*float64(i)/48000)
	}
	if err := exchange.WriteWAV(&b, 48000, x); err != nil {
		t.Fatal(err)
	}
	h, err := exchange.HearWAV(bytes.NewReader(b.Bytes()))
	// a sine: its average is its peak over the root of two, its crest 3.0103 dB
	if err != nil || math.Abs(h.RMS-0.5/math.Sqrt2) > 1e-5 || math.Abs(float64(h.Crest())-3.0103) > 1e-3 ||
		h.Seconds != 2 {
		t.Errorf("%+v, %s, %v", h, h.Crest(), err)
	}
	var silent bytes.Buffer
	if err := exchange.WriteWAV(&silent, 48000, make([]float64, 500)); err != nil {
		t.Fatal(err)
	}
	for want, file := range map[string][]byte{"silent": silent.Bytes(), "in the middle": b.Bytes()[:1000],
		"no WAV": []byte("x")} {
		if _, err := exchange.HearWAV(bytes.NewReader(file)); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%s: %v", want, err)
		}
	}
}

func TestSoxReadsTheWAV(t *testing.T) {
	sox, err := exec.LookPath("sox")
	if err != nil {
		t.Fatal("sox is not installed; make test installs it")
	}
	x := make([]float64, 48000)
	for i := range x {
		x[i] = 0.5 * math.Sin(2*math.Pi*1000*float64(i)/48000)
	}
	var b bytes.Buffer
	if err := exchange.WriteWAV(&b, 48000, x); err != nil {
		t.Fatal(err)
	}
	file := filepath.Join(t.TempDir(), "sine.wav")
	if err := os.WriteFile(file, b.Bytes(), 0o600); err != nil {
		t.Fatal(err)
	}
	out, err := exec.Command(sox, file, "-n", "stat").CombinedOutput()
	if err != nil {
		t.Fatalf("%v: %s", err, out)
	}
	for line := range strings.Lines(string(out)) {
		name, value, _ := strings.Cut(line, ":")
		v, _ := strconv.ParseFloat(strings.TrimSpace(value), 64)
		if want := map[string]float64{"Maximum amplitude": 0.5, "RMS     amplitude": 0.353553}[name]; want > 0 &&
			math.Abs(v-want) > 1e-5 {
			t.Errorf("sox reads a %s of %g", name, v)
		}
	}
}

// Files that another program writes are read piece by piece as what they are: a sine of
// −6 dB of full scale, in each form, on the second of two channels.
func TestWAVsOfAllForms(t *testing.T) {
	for _, form := range [][]string{{"-b", "16"}, {"-b", "24"}, {"-b", "32"}, {"-e", "floating-point", "-b", "32"}} {
		file := filepath.Join(t.TempDir(), "a.wav")
		args := append([]string{"-n", "-r", "44100", "-c", "2"}, form...)
		args = append(args, file, "synth", "1", "sine", "0", "sine", "441", "vol", "-6.0206dB")
		if text, err := exec.Command("sox", args...).CombinedOutput(); err != nil {
			t.Fatalf("sox: %v %s", err, text)
		}
		f, err := os.Open(file)
		if err != nil {
			t.Fatal(err)
		}
		defer f.Close()
		w, err := exchange.OpenWAV(f)
		if err != nil || w.Rate != 44100 || w.Channels != 2 || w.Frames != 44100 {
			t.Fatalf("%v: %+v, %v", form, w, err)
		}
		b, all, peak, square := make([]float64, 999), 0, 0.0, 0.0
		for {
			n, err := w.Read(b)
			if err != nil {
				t.Fatal(err)
			}
			if n == 0 {
				break
			}
			for i := 1; i < n; i += 2 {
				peak, square = max(peak, math.Abs(b[i])), square+b[i]*b[i]
			}
			all += n
		}
		if rms := math.Sqrt(square / 44100); all != 88200 || math.Abs(peak-0.5) > 1e-3 || math.Abs(rms-0.35355) > 1e-4 {
			t.Errorf("%v: %d samples, peak %g, rms %g", form, all, peak, rms)
		}
	}
}
