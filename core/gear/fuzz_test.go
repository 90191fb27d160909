package gear

import (
	"strings"
	"testing"
)

// Ratings as pasted: what is read is written as it would be read again.
func FuzzSheet(f *testing.F) {
	for _, seed := range []string{"2 x 900 W into 4 ohm, 2 x 550 W into 8 ohm, bridged 1800 W into 8 ohm",
		"8 ohm 400 W\n4 ohm 700 W", "4R: 700 W", "1,200 W into 4 ohm", "W ohm", "99999999999 x 1 W 1 ohm",
		"bridged bridged", "700 W into 4 ohm [" + strings.Repeat("x", 300) + "]", ";;;\n,", "2×1 kW @ 2Ω burst", "ω w"} {
		f.Add(seed)
	}
	f.Fuzz(func(t *testing.T, text string) {
		sheet, err := ParseSheet(text)
		if err != nil {
			return
		}
		for _, r := range sheet.Ratings {
			if r.check() != nil { // it can be typed and cannot be
				continue
			}
			again, err := ParseSheet(r.Line())
			if err != nil || len(again.Ratings) != 1 {
				t.Fatalf("%q is written %q, which reads %+v, %v", text, r.Line(), again, err)
			}
		}
	})
}

// Ways as typed: never a panic, and what passes its check is read again.
func FuzzWays(f *testing.F) {
	for _, seed := range []string{"low: 8 ohm, least 6.4 ohm, 400 W, 97 dB",
		"high: 16 Ω, 60 W, capacitor, high-pass 1.2 kHz", ":", "a:b:c", "low: 4R, 1,200 W", "\n\n",
		"low: for 2.83 v, AES2-1984"} {
		f.Add(seed)
	}
	f.Fuzz(func(t *testing.T, text string) {
		ways, err := ParseWays(text, nil)
		if err != nil {
			return
		}
		lines := make([]string, len(ways))
		for i, w := range ways {
			if w.check() != nil || strings.ContainsAny(w.Name, "\n:;,") {
				return
			}
			lines[i] = w.Line()
		}
		if again, err := ParseWays(strings.Join(lines, "\n"), nil); err != nil || len(again) != len(ways) {
			t.Fatalf("%q is written %q, which reads %d ways, %v", text, lines, len(again), err)
		}
	})
}
