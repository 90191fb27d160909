package rig

import "testing"

// Runs of tags as spoken: bounded, and each a part of what was said.
func FuzzTags(f *testing.F) {
	for _, seed := range []string{"TOP 1 to 6", "TOP 1 to 6, SUB", "A 9999 to 1", "A 0 to 9999", ",,,", "1 to 1",
		"x1 to 2 to 3", "Ж 1 to 3", "a 1 to 400, b 1 to 400"} {
		f.Add(seed)
	}
	f.Fuzz(func(t *testing.T, text string) {
		tags, err := ExpandTags(text)
		if err == nil && len(tags) > 2*mostHung {
			t.Fatalf("%d tags", len(tags))
		}
		for _, tag := range tags {
			if tag == "" {
				t.Fatal("a tag of nothing")
			}
		}
	})
}
