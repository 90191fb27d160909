package exchange

import (
	"bytes"
	"encoding/json"
	"fmt"
	"strings"
	"unicode/utf8"

	"largo/core/fault"
	"largo/core/words"
)

// Bounds on what one file may hold, whatever it is: all are far above any rig
// or library, and keep a file of MostBytes under a second and 100 MB.
const (
	mostValues = 400_000 // values in one file
	mostItems  = 20_000  // in one list
	mostKeys   = 100     // in one object; no part of a rig has half as many
	mostDepth  = 32
	mostText   = 2_000 // characters of one text
)

// door reads a JSON file once before anything is made of it: counts, lengths
// and proper text are judged here, and a name that stands twice in one object
// is refused, of which a decoder would silently take the last.
type door struct {
	b      []byte
	at     int
	values int
	path   []step         // down to where it reads
	most   map[string]int // entries of lists that have a bound of their own, by path
	counts map[string]int // entries of the lists of the outermost object
}

// step is a name of an object, or with an empty name an index of a list.
type step struct {
	name  string
	index int
}

// atDoor gives faults for a file that may not come in. A file that is no JSON
// is let through: the decoder says what is wrong with it.
func atDoor(b []byte, most map[string]int) (counts map[string]int, err error) {
	if !bytes.HasPrefix(bytes.TrimSpace(b), []byte("{")) {
		return nil, nil
	}
	if at := firstImproper(b); at >= 0 {
		return nil, fault.At("", "The file is not text in UTF-8: at %s there is a byte that is none. Save it as UTF-8, "+
			"not as Latin-1 or the like.", place(b, int64(at)))
	}
	d := &door{b: b, most: most, counts: map[string]int{}}
	_, err = d.value(0)
	return d.counts, err
}

// firstImproper is where the first byte stands that is no UTF-8, −1 for none.
func firstImproper(b []byte) int {
	if utf8.Valid(b) {
		return -1
	}
	for i := 0; i < len(b); {
		r, size := utf8.DecodeRune(b[i:])
		if r == utf8.RuneError && size == 1 {
			return i
		}
		i += size
	}
	return -1
}

func (d *door) refuse(say string, args ...any) error {
	var where strings.Builder
	for i, s := range d.path {
		switch {
		case s.name == "":
			fmt.Fprintf(&where, "[%d]", s.index)
		case i > 0:
			where.WriteString("." + words.Shorten(s.name, 40))
		default:
			where.WriteString(words.Shorten(s.name, 40))
		}
	}
	return fault.At(where.String(), "At %s %s", place(d.b, int64(d.at)), fmt.Sprintf(say, args...))
}

func (d *door) skip() {
	for d.at < len(d.b) && (d.b[d.at] == ' ' || d.b[d.at] == '\n' || d.b[d.at] == '\t' || d.b[d.at] == '\r') {
		d.at++
	}
}

func (d *door) next() byte {
	if d.skip(); d.at < len(d.b) {
		return d.b[d.at]
	}
	return 0
}

// value reads one value; more is false where the text is no JSON and reading
// ends.
func (d *door) value(depth int) (more bool, err error) {
	if d.values++; d.values > mostValues {
		return false, d.refuse("the file goes on after %d values; none of its kind has so many.", mostValues)
	}
	if depth > mostDepth {
		return false, d.refuse("lists and objects stand in each other more than %d deep.", mostDepth)
	}
	switch c := d.next(); {
	case c == '{':
		return d.object(depth)
	case c == '[':
		return d.list(depth)
	case c == '"':
		text, ok := d.text()
		if !ok {
			return false, nil
		}
		return true, d.checkText(text)
	case c == 't' || c == 'f' || c == 'n' || c == '-' || c >= '0' && c <= '9':
		for d.at < len(d.b) && strings.IndexByte(",]} \n\t\r", d.b[d.at]) < 0 {
			d.at++
		}
		return true, nil
	}
	return false, nil
}

// text reads a string with its escapes as they stand, without its quotes.
func (d *door) text() (raw []byte, ok bool) {
	begin := d.at + 1
	for i := begin; i < len(d.b); i++ {
		switch d.b[i] {
		case '\\':
			i++
		case '"':
			d.at = i + 1
			return d.b[begin:i], true
		}
	}
	return nil, false
}

func (d *door) checkText(raw []byte) error {
	if len(raw) < 64 && plain(raw) {
		return nil
	}
	text := spelled(raw)
	if n := utf8.RuneCountInString(text); n > mostText {
		return d.refuse("a text of %d characters ends; keep it to %d.", n, mostText)
	}
	if why := fault.Improper(text); why != "" {
		return d.refuse("a text ends that %s.", why)
	}
	return nil
}

// plain tells whether a text is printable ASCII without escapes.
func plain(raw []byte) bool {
	for _, c := range raw {
		if c < ' ' || c > '~' || c == '\\' {
			return false
		}
	}
	return true
}

// spelled is a text without its escapes.
func spelled(raw []byte) string {
	if bytes.IndexByte(raw, '\\') < 0 {
		return string(raw)
	}
	var text string
	quoted := append(append([]byte{'"'}, raw...), '"')
	if json.Unmarshal(quoted, &text) != nil {
		return string(raw) // the decoder will say so
	}
	return text
}

func (d *door) list(depth int) (bool, error) {
	d.at++
	if d.next() == ']' {
		d.at++
		return true, nil
	}
	most := mostItems
	if depth == 1 {
		if own, bound := d.most[d.path[0].name]; bound {
			most = own
		}
	}
	d.path = append(d.path, step{})
	for n := 0; ; n++ {
		if n >= most {
			d.path = d.path[:len(d.path)-1]
			return false, d.refuse("a list goes on after %d entries; it may hold no more.", most)
		}
		d.path[len(d.path)-1].index = n
		if more, err := d.value(depth + 1); !more || err != nil {
			return false, err
		}
		switch d.next() {
		case ',':
			d.at++
		case ']':
			d.at++
			d.path = d.path[:len(d.path)-1]
			if depth == 1 {
				d.counts[d.path[0].name] = n + 1
			}
			return true, nil
		default:
			return false, nil
		}
	}
}

func (d *door) object(depth int) (bool, error) {
	d.at++
	if d.next() == '}' {
		d.at++
		return true, nil
	}
	d.path = append(d.path, step{name: "?"})
	var few [24]string
	keys := few[:0]
	for {
		if d.next() != '"' {
			return false, nil
		}
		raw, ok := d.text()
		if !ok {
			return false, nil
		}
		key := spelled(raw)
		d.path[len(d.path)-1].name = key
		if err := d.checkText(raw); err != nil {
			return false, err
		}
		for _, k := range keys { // the decoder takes no notice of capitals
			if strings.EqualFold(k, key) {
				return false, d.refuse("%.40q stands a second time in the same object; which one counts?", key)
			}
		}
		if keys = append(keys, key); len(keys) > mostKeys {
			return false, d.refuse("an object goes on after %d names; none of its kind has so many.", mostKeys)
		}
		if d.next() != ':' {
			return false, nil
		}
		d.at++
		if more, err := d.value(depth + 1); !more || err != nil {
			return false, err
		}
		switch d.next() {
		case ',':
			d.at++
		case '}':
			d.at++
			d.path = d.path[:len(d.path)-1]
			return true, nil
		default:
			return false, nil
		}
	}
}
