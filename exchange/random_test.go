package exchange_test

import (
	"bytes"
	"encoding/json"
	"fmt"
	"os"
	"path/filepath"
	"reflect"
	"testing"

	"largo/core/rigtest"
	"largo/core/survey"
	"largo/exchange"
)

// Random rigs, most of them wrong in some way, are written and read as the same
// and surveyed without a panic. With LARGO_RANDOM_RIGS naming a folder they are
// left there, so that what two builds say of them can be compared.
func TestRandomRigs(t *testing.T) {
	models := library(t)
	dir := os.Getenv("LARGO_RANDOM_RIGS")
	found, seeds := 0, uint64(60)
	if dir != "" {
		seeds = 300
	}
	for seed := range seeds {
		r := rigtest.Random(models, seed)
		var b bytes.Buffer
		if err := exchange.WriteRig(&b, r); err != nil {
			t.Fatal(err)
		}
		if dir != "" {
			if err := os.WriteFile(filepath.Join(dir, fmt.Sprintf("random-%03d.json", seed)), b.Bytes(), 0o644); err != nil {
				t.Fatal(err)
			}
		}
		back, err := exchange.ReadRig(&b)
		if err != nil {
			t.Fatalf("seed %d: %v", seed, err)
		}
		p := survey.Survey(back)
		found += len(p.Findings)
		if _, err := json.Marshal([]any{p.Places(), p.Findings}); err != nil {
			t.Errorf("seed %d: what is said of it cannot be written: %v", seed, err)
		}
		if again := survey.Survey(r); !reflect.DeepEqual(again.Places(), p.Places()) {
			t.Errorf("seed %d: read back it gives other figures", seed)
		}
	}
	if found < 5*int(seeds) {
		t.Errorf("%d random rigs have %d findings in all: they say nothing", seeds, found)
	}
}
