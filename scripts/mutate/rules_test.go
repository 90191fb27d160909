package main

import (
	"path/filepath"
	"testing"
)

// A rule that was moved or written anew has to be moved in the list too, else it
// would go untested until somebody runs `make mutate`.
func TestEveryRuleStandsWhereTheListSays(t *testing.T) {
	for _, r := range rules {
		if _, err := r.broken(filepath.Join("..", "..", "core", r.file)); err != nil {
			t.Error(err)
		}
	}
}
