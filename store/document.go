package store

import (
	"bytes"
	"encoding/json"
	"fmt"
	"strings"

	lru "github.com/hashicorp/golang-lru/v2"

	"largo/core/fault"
	"largo/core/gear"
	"largo/core/rig"
	"largo/core/unit"
	"largo/core/words"
)

// Documents lie in the database as JSON with the version of their form. A
// newer Largo reads an older form by its upgrades; an older Largo refuses a
// newer one in words. Whatever is read is checked as if it came from outside:
// a disk, a hand or a fault may have changed it.

// form is how documents of one kind are read.
type form[T any] struct {
	version  int      // that is written today
	upgrades upgrades // from a version to the next
	check    func(*T) error
}

var (
	rigForm = form[rig.Rig]{version: 3, upgrades: upgrades{1: properTexts, 2: settingsByKind},
		check: func(r *rig.Rig) error { return r.Check() }}
	modelForm = form[gear.Model]{version: 2, upgrades: upgrades{1: properTexts},
		check: func(m *gear.Model) error { return m.Check() }}
)

type upgrades = map[int]func([]byte) ([]byte, error)

// settingsByKind brings form 2 of a rig to form 3, in which a device has the
// settings of its kind, and places and shared switches are things.
func settingsByKind(doc []byte) ([]byte, error) {
	var old rig.V1
	if err := json.Unmarshal(doc, &old); err != nil {
		return nil, err
	}
	return json.Marshal(old.Rig())
}

// properTexts brings form 1 to form 2, in which every text is proper and where a
// figure comes from is bounded: what form 1 let in is cut, not refused.
func properTexts(doc []byte) ([]byte, error) {
	var v any
	dec := json.NewDecoder(bytes.NewReader(doc))
	dec.UseNumber()
	if err := dec.Decode(&v); err != nil {
		return nil, err
	}
	return json.Marshal(proper(v, ""))
}

func proper(v any, name string) any {
	switch v := v.(type) {
	case map[string]any:
		for k, x := range v {
			v[k] = proper(x, k)
		}
	case []any:
		for i, x := range v {
			v[i] = proper(x, name)
		}
	case string:
		if fault.Improper(v) != "" {
			v = strings.Map(func(r rune) rune {
				if r == '\n' || r == '\t' || fault.Improper(string(r)) == "" {
					return r
				}
				return -1
			}, strings.ToValidUTF8(v, ""))
		}
		if name == "from" {
			return words.Shorten(v, unit.MostOrigin)
		}
		return v
	}
	return v
}

// remembered reads a document, or gives what it read before: the same bytes of
// the same form are the same document. What it gives is shared, and only read.
type remembered[T any] struct {
	form form[T]
	had  *lru.Cache[documentKey, T]
}

type documentKey struct {
	doc     string
	version int
}

func remember[T any](f form[T], most int) remembered[T] {
	had, err := lru.New[documentKey, T](most)
	if err != nil {
		panic(err) // most is not above 0
	}
	return remembered[T]{f, had}
}

func (r remembered[T]) read(doc []byte, version int) (T, error) {
	k := documentKey{string(doc), version}
	if v, have := r.had.Get(k); have {
		return v, nil
	}
	v, err := r.form.read(doc, version)
	if err == nil {
		r.had.Add(k, v)
	}
	return v, err
}

// read gives a document as it is today, or ErrUnreadable with the reason.
func (f form[T]) read(doc []byte, version int) (v T, err error) {
	if version > f.version {
		return v, fmt.Errorf("%w: a newer Largo wrote it in form %d, and this one reads up to %d", ErrUnreadable,
			version, f.version)
	}
	for ; version < f.version; version++ {
		up, known := f.upgrades[version]
		if !known {
			return v, fmt.Errorf("%w: nothing reads its form %d any more", ErrUnreadable, version)
		}
		if doc, err = up(doc); err != nil {
			return v, fmt.Errorf("%w: its form %d could not be read: %w", ErrUnreadable, version, err)
		}
	}
	if err := json.Unmarshal(doc, &v); err != nil {
		return v, fmt.Errorf("%w: %w", ErrUnreadable, err)
	}
	if err := f.check(&v); err != nil {
		return v, fmt.Errorf("%w: %w", ErrUnreadable, err)
	}
	return v, nil
}
