// Package exchange reads and writes open formats. An import is all or
// nothing: what cannot be read whole is refused with the place of the fault.
package exchange

import (
	"bytes"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"slices"
	"strings"

	"largo/core/fault"
	"largo/core/gear"
	"largo/core/rig"
)

// RigFormat names the rig file that is written; its schema is
// docs/rig-file.schema.json. RigFormat1 is read for good.
const (
	RigFormat  = "largo-rig/2"
	RigFormat1 = "largo-rig/1"
)

// GearFormat names a file of models.
const GearFormat = "largo-gear/1"

// MostBytes is the largest file that is read: 4 MiB, some ten times a rig of
// a thousand devices.
const MostBytes = 4 << 20

// ErrTooBig is returned for a file above MostBytes.
var ErrTooBig = fmt.Errorf("the file is larger than %d MiB, which none of its kind is", MostBytes>>20)

type rigFile struct {
	Format string `json:"format"`
	rig.Rig
}

type rigFile1 struct {
	Format string `json:"format"`
	rig.V1
}

// WriteRig writes a rig as a rig file.
func WriteRig(w io.Writer, r rig.Rig) error {
	enc := json.NewEncoder(w)
	enc.SetEscapeHTML(false)
	enc.SetIndent("", "  ")
	return enc.Encode(rigFile{RigFormat, normal(r)})
}

// ReadRig reads a rig file, of today's format or of an older one, and checks that
// the rig in it can be.
func ReadRig(r io.Reader) (rig.Rig, error) {
	b, counts, err := atDoorOf(r, rig.MostOf)
	if err != nil {
		return rig.Rig{}, err
	}
	format, err := formatOf(b, RigFormat, RigFormat1)
	if err != nil {
		return rig.Rig{}, err
	}
	var f rigFile
	if format == RigFormat1 {
		var old rigFile1
		err = decode(b, &old, counts, nil)
		f.Rig = old.V1.Rig()
	} else {
		err = decode(b, &f, counts, nil)
	}
	if err != nil {
		return rig.Rig{}, err
	}
	f.Rig = normal(f.Rig)
	if f.Policy == "" || f.Bridging == "" {
		usual := rig.NewRig(f.Brief)
		f.Policy, f.Bridging = orElse(f.Policy, usual.Policy), orElse(f.Bridging, usual.Bridging)
	}
	if err := f.Rig.Check(); err != nil {
		return rig.Rig{}, err
	}
	return f.Rig, nil
}

func orElse[T ~string](given, usual T) T {
	if given == "" {
		return usual
	}
	return given
}

// ReadGear reads a file of models.
func ReadGear(r io.Reader) ([]gear.Model, error) {
	var f struct {
		Format string       `json:"format"`
		Models []gear.Model `json:"models"`
	}
	room := func(counts map[string]int) { f.Models = make([]gear.Model, 0, counts["models"]) }
	if err := read(r, GearFormat, map[string]int{"models": mostModels}, &f, room); err != nil {
		return nil, err
	}
	var l fault.List
	seen := make(map[string]int, len(f.Models))
	for i, m := range f.Models {
		path := fmt.Sprintf("models[%d]", i)
		if err := m.Check(); err != nil {
			l.AddAll(path, err.(fault.List))
		}
		if first, twice := seen[m.ID]; twice {
			l.Add(path+".id", "Two models have the id %.40q: this one and models[%d].", m.ID, first)
		}
		seen[m.ID] = i
		if len(l) > mostFaults {
			return nil, l
		}
	}
	return f.Models, l.Err()
}

// mostFaults is how many faults of one file are gathered before reading ends.
const mostFaults = 100

// normal gives lists that are empty rather than absent, so that a rig read
// back is the rig that was written.
func normal(r rig.Rig) rig.Rig {
	if r.Models == nil {
		r.Models = []gear.Model{}
	}
	if r.Devices == nil {
		r.Devices = []rig.Device{}
	}
	if r.Links == nil {
		r.Links = []rig.Link{}
	}
	return r
}

// read decodes one JSON value of a format, strictly. Most bounds the lists of its
// outermost object; room, where it is given, hears how long they are before
// they are decoded.
func read(r io.Reader, wanted string, most map[string]int, into any, room func(counts map[string]int)) error {
	b, counts, err := atDoorOf(r, most)
	if err != nil {
		return err
	}
	if _, err := formatOf(b, wanted); err != nil {
		return err
	}
	return decode(b, into, counts, room)
}

// atDoorOf reads a file as far as its bounds, and tells how long its lists are.
func atDoorOf(r io.Reader, most map[string]int) (b []byte, counts map[string]int, err error) {
	b, err = io.ReadAll(io.LimitReader(r, MostBytes+1))
	if err != nil {
		return nil, nil, fmt.Errorf("the file could not be read: %w", err)
	}
	if len(b) > MostBytes {
		return nil, nil, ErrTooBig
	}
	b = bytes.TrimPrefix(b, []byte("\ufeff"))
	counts, err = atDoor(b, most)
	return b, counts, err
}

func decode(b []byte, into any, counts map[string]int, room func(counts map[string]int)) error {
	if room != nil {
		room(counts)
	}
	dec := json.NewDecoder(bytes.NewReader(b))
	dec.DisallowUnknownFields()
	if err := dec.Decode(into); err != nil {
		return explain(b, err, dec.InputOffset())
	}
	if _, err := dec.Token(); err != io.EOF {
		return fault.At("", "Something follows after the end of the rig, at %s.", place(b, dec.InputOffset()))
	}
	return nil
}

// formatOf looks at the format alone, so that a file of another kind is called
// that and not faulted for its first unknown field. The first that is wanted is
// today's.
func formatOf(b []byte, wanted ...string) (string, error) {
	var head struct {
		Format string `json:"format"`
	}
	dec := json.NewDecoder(bytes.NewReader(b))
	switch err := dec.Decode(&head); {
	case err != nil:
		return "", explain(b, err, dec.InputOffset())
	case head.Format == "":
		return "", fault.At("format", "This is JSON, but no Largo file: it does not say \"format\": %q.", wanted[0])
	case !slices.Contains(wanted, head.Format):
		return "", fault.At("format", "The file says format %.40q; this needs %q.", head.Format, wanted[0])
	}
	return head.Format, nil
}

// explain turns a decoder's error into a sentence with line and column.
func explain(b []byte, err error, offset int64) error {
	var syntax *json.SyntaxError
	var kind *json.UnmarshalTypeError
	switch {
	case len(bytes.TrimSpace(b)) == 0:
		return fault.At("", "The file is empty.")
	case errors.Is(err, io.ErrUnexpectedEOF):
		return fault.At("", "The file ends in the middle, at %s: it is only a part.", place(b, int64(len(b))))
	case errors.As(err, &syntax):
		return fault.At("", "This is not a JSON file: at %s, %s.", place(b, syntax.Offset), syntax.Error())
	case errors.As(err, &kind):
		return fault.At(strings.TrimPrefix(strings.TrimPrefix(kind.Field, "Rig."), "V1."),
			"At %s there is a %s where a figure or text of another sort belongs.", place(b, kind.Offset), kind.Value)
	}
	return fault.At("", "Near %s: %s.", place(b, offset), err)
}

func place(b []byte, offset int64) string {
	offset = min(max(offset, 0), int64(len(b)))
	before := b[:offset]
	line := 1 + bytes.Count(before, []byte("\n"))
	column := len(before) - (bytes.LastIndexByte(before, '\n') + 1)
	return fmt.Sprintf("line %d, column %d", line, max(column, 1))
}

// WriteGear writes models as a file of models.
func WriteGear(w io.Writer, models []gear.Model) error {
	enc := json.NewEncoder(w)
	enc.SetEscapeHTML(false)
	enc.SetIndent("", "  ")
	return enc.Encode(struct {
		Format string       `json:"format"`
		Models []gear.Model `json:"models"`
	}{GearFormat, models})
}
