package gear

import (
	"errors"
	"fmt"
	"regexp"
	"strconv"
	"strings"

	"largo/core/fault"
	"largo/core/unit"
)

// Sheet is what was understood of a power table as a maker prints it.
type Sheet struct {
	Ratings  []Rating
	Channels int // from "2 x 900 W"; 0 when the text does not say
}

// entries are parted by new lines, semicolons, and commas that are no decimal
// commas.
var entryEnd = regexp.MustCompile(`[\n;]|,(?:\s|$)`)

// A part of an entry: "2 x", a power, a load.
var (
	times    = regexp.MustCompile(`^\s*(\d{1,2})\s*[x×*]\s*`)
	loadForm = regexp.MustCompile(`([-−+]?[0-9][0-9.,]*)\s*(ω|ohms?)|\b[0-9]{1,2}r[0-9]?\b`)
	wattForm = regexp.MustCompile(`([-−+]?[0-9][0-9.,]*)\s*(kw|w(?:atts?)?)`)
)

// words of an entry and what they set.
var sheetWords = []struct {
	form *regexp.Regexp
	set  func(*Rating)
}{
	{regexp.MustCompile(`\bbridged?(?: mono)?\b`), func(r *Rating) { r.Mode = Bridged }},
	{regexp.MustCompile(`\b(?:one|single) (?:channel )?driven\b|\bone channel\b`),
		func(r *Rating) { r.Driven = OneDriven }},
	{regexp.MustCompile(`\b(?:all|both)(?: channels)? driven\b`), func(r *Rating) { r.Driven = AllDriven }},
	{regexp.MustCompile(`\b(?:burst|peak|20 ms|max(?:imum)?|program(?:me)?|eia)\b`),
		func(r *Rating) { r.Duration = Burst }},
	{regexp.MustCompile(`\b(?:continuous|rms|average)\b`), func(r *Rating) { r.Duration = Continuous }},
	// distortion and the band of the test say nothing that is kept
	{regexp.MustCompile(`[<≤]?\s*[0-9.,]+\s*%(?:\s*thd(?:\s*\+\s*n)?)?|\bthd(?:\s*\+\s*n)?\b`), func(*Rating) {}},
	{regexp.MustCompile(`\b[0-9.,]+\s*k?hz(?:\s*(?:to|-|–)\s*[0-9.,]+\s*k?hz)?\b`), func(*Rating) {}},
	{regexp.MustCompile(`\b(?:into|at|with|per channel|channels?|each|stereo|separate|mode|output|power|rated|mono)\b` +
		`|[@/:()|+]`), func(*Rating) {}},
}

// ParseSheet reads a power table as it stands in a sheet, such as
// "2 x 900 W into 4 ohm, 2 x 550 W into 8 ohm, bridged 1800 W into 8 ohm", or
// one rating a line. Words of an entry: bridged, one driven, all driven,
// burst. Each fault names the entry that it is about.
func ParseSheet(text string) (Sheet, error) {
	var s Sheet
	var l fault.List
	text = untabled(text)
	for i, entry := range entryEnd.Split(text, -1) {
		if strings.TrimSpace(entry) == "" {
			continue
		}
		r, channels, err := parseEntry(entry)
		if err == errSaysNothing {
			continue
		}
		if err != nil {
			l.Add("ratings", "Entry %d, %.40q: %s.", i+1, strings.TrimSpace(entry), err)
			continue
		}
		s.Ratings = append(s.Ratings, r)
		s.Channels = max(s.Channels, channels)
	}
	return s, l.Err()
}

// errSaysNothing is an entry of words that are not kept, as "1 kHz, 1 % THD".
var errSaysNothing = errors.New("it says neither load nor power")

// untabled turns a table, a line of loads over lines of powers, into entries: "8 ohm |
// 4 ohm" over "bridged | 1000 W | 1600 W".
func untabled(text string) string {
	lines := strings.Split(text, "\n")
	var loads []string
	var out []string
	for _, line := range lines {
		low := strings.ToLower(line)
		zs, ws := loadForm.FindAllString(low, -1), wattForm.FindAllString(low, -1)
		switch {
		case len(zs) > 1 && len(ws) == 0:
			loads = zs
			continue
		case len(loads) > 0 && len(ws) == len(loads) && len(zs) == 0:
			head := strings.Trim(wattForm.ReplaceAllString(low, " "), " \t|,;")
			for i, w := range ws {
				out = append(out, head+" "+w+" into "+loads[i])
			}
			continue
		}
		loads = nil
		out = append(out, line)
	}
	return strings.Join(out, "\n")
}

func parseEntry(entry string) (Rating, int, error) {
	r := Rating{Mode: Separate}
	entry, r.From = CutOrigin(entry)
	rest := strings.ToLower(strings.ReplaceAll(entry, "−", "-"))
	channels := 0
	if m := times.FindStringSubmatch(rest); m != nil {
		channels, _ = strconv.Atoi(m[1])
		rest = rest[len(m[0]):]
	}
	load, rest := cutOut(loadForm, rest)
	watt, rest := cutOut(wattForm, rest)
	for _, w := range sheetWords {
		if w.form.MatchString(rest) {
			w.set(&r)
			rest = w.form.ReplaceAllString(rest, " ")
		}
	}
	if left := strings.Join(strings.Fields(rest), " "); left != "" {
		return r, 0, fmt.Errorf("%.30q is neither a load nor a power; write it as 700 W into 4 ohm", left)
	}
	if load == "" && watt == "" && len(strings.TrimSpace(entry)) > 0 && channels == 0 {
		return r, 0, errSaysNothing
	}
	if load == "" || watt == "" {
		return r, 0, fmt.Errorf("a rating needs a load and a power; write it as 700 W into 4 ohm")
	}
	var err error
	if r.Load, err = unit.ParseOhm(load); err != nil {
		return r, 0, err
	}
	r.Power, err = unit.ParseWatt(watt)
	return r, channels, err
}

// originForm is where a figure comes from, in square brackets behind it.
var originForm = regexp.MustCompile(`\[([^\[\]]*)\]\s*$`)

// CutOrigin parts a figure from where it comes from: "6.4 ohm [measured]".
func CutOrigin(text string) (figure, origin string) {
	at := originForm.FindStringSubmatchIndex(text)
	if at == nil {
		return text, ""
	}
	return strings.TrimSpace(text[:at[0]]), strings.TrimSpace(text[at[2]:at[3]])
}

// cutOut takes the first match out of a text.
func cutOut(form *regexp.Regexp, text string) (found, rest string) {
	at := form.FindStringIndex(text)
	if at == nil {
		return "", text
	}
	return text[at[0]:at[1]], text[:at[0]] + " " + text[at[1]:]
}

// Line writes a rating as it is read, "700 W into 4 Ω".
func (r Rating) Line() string {
	line := exact(float64(r.Power)) + " W into " + exact(float64(r.Load)) + " Ω"
	if r.Mode == Bridged {
		line = "bridged " + line
	}
	switch r.Driven {
	case OneDriven:
		line += " one driven"
	case AllDriven:
		line += " all driven"
	}
	if r.Duration == Burst {
		line += " burst"
	} else if r.Duration == Continuous {
		line += " continuous"
	}
	if r.From != "" {
		line += " [" + r.From + "]"
	}
	return line
}

func exact(v float64) string { return strconv.FormatFloat(v, 'f', -1, 64) }
