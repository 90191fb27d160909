package match

import (
	"context"
	"testing"
	"time"
)

// At most one search goes on for a job, and few in all; the next one is told.
func TestOneSearchAtATime(t *testing.T) {
	var s searches
	done, ok := s.begin("a")
	if !ok {
		t.Fatal("the first was refused")
	}
	if _, ok := s.begin("a"); ok {
		t.Error("two searches for one job")
	}
	other, ok := s.begin("b")
	if !ok {
		t.Error("another job was refused")
	}
	if _, ok := s.begin("c"); ok {
		t.Error("more searches than are allowed in all")
	}
	short, cancel := context.WithTimeout(context.Background(), 50*time.Millisecond)
	defer cancel()
	if _, ok := s.shortly(short, "a"); ok {
		t.Error("it did not wait")
	}
	done()
	other()
	if again, ok := s.shortly(context.Background(), "a"); !ok {
		t.Error("the place was not given back")
	} else {
		again()
	}
}
