package sum

import (
	"regexp"
	"strconv"
	"strings"

	"largo/core/unit"
)

// dimension is what a quantity is of.
type dimension string

// The dimensions that questions are asked in.
const (
	watts    dimension = "power"
	ohms     dimension = "impedance"
	volts    dimension = "voltage"
	amperes  dimension = "current"
	decibels dimension = "decibels"
	dBu      dimension = "level in dBu"
	dBA      dimension = "level in dB(A)"
	metres   dimension = "length"
	area     dimension = "conductor"
	hertz    dimension = "frequency"
	seconds  dimension = "time"
	celsius  dimension = "temperature"
	percent  dimension = "share"
	mass     dimension = "mass"
	plain    dimension = "bare number"
)

var dimensions = []dimension{watts, ohms, volts, amperes, decibels, dBu, dBA, metres, area, hertz, seconds, celsius,
	percent, mass, plain}

// quantity is one figure of a question.
type quantity struct {
	value float64 // in the base unit
	times int     // "3 x 8 ohm" is three of them
	typed string
}

// Number is one figure of a question as it stands there, to be varied.
type Number struct {
	Text string `json:"text"`
	At   int    `json:"at"` // in the question, in bytes
}

// asked is a question as it was read.
type asked struct {
	of       map[dimension][]quantity
	count    int
	words    map[string]bool
	wordList []string
	ignored  []string
	numbers  []Number
}

func (q asked) one(d dimension) float64 {
	if len(q.of[d]) == 0 {
		return 0
	}
	return q.of[d][0].value
}

// or is the one of a dimension, or another where the question has none.
func (q asked) or(d dimension, other float64) float64 {
	if len(q.of[d]) == 0 {
		return other
	}
	return q.of[d][0].value
}

// all lists the values of a dimension, each as often as it is there.
func (q asked) all(d dimension) (list []float64) {
	for _, one := range q.of[d] {
		for range one.times {
			list = append(list, one.value)
		}
	}
	return list
}

// unitsOf are the units of a question: what is written, small, without blanks.
var unitsOf = map[string]struct {
	of   dimension
	unit float64
}{
	"w": {watts, 1}, "kw": {watts, 1000}, "watt": {watts, 1}, "watts": {watts, 1}, "wrms": {watts, 1},
	"ohm": {ohms, 1}, "ohms": {ohms, 1}, "ω": {ohms, 1}, "kohm": {ohms, 1000}, "kω": {ohms, 1000}, "mω": {ohms, 1e-3},
	"v": {volts, 1}, "mv": {volts, 1e-3}, "vrms": {volts, 1}, "volt": {volts, 1}, "volts": {volts, 1},
	"a": {amperes, 1}, "ma": {amperes, 1e-3}, "amp": {amperes, 1}, "amps": {amperes, 1},
	"db": {decibels, 1}, "dbspl": {decibels, 1}, "dbu": {dBu, 1}, "dbv": {dBu, 1}, "dba": {dBA, 1}, "db(a)": {dBA, 1},
	"m": {metres, 1}, "cm": {metres, 0.01}, "mm": {metres, 0.001}, "ft": {metres, 0.3048}, "feet": {metres, 0.3048},
	"'": {metres, 0.3048}, "km": {metres, 1000}, "mm2": {area, 1}, "mm²": {area, 1}, "sqmm": {area, 1}, "awg": {area, 1},
	"hz": {hertz, 1}, "khz": {hertz, 1000}, "s": {seconds, 1}, "ms": {seconds, 1e-3}, "sec": {seconds, 1},
	"min": {seconds, 60}, "h": {seconds, 3600}, "hours": {seconds, 3600}, "hour": {seconds, 3600},
	"c": {celsius, 1}, "°c": {celsius, 1}, "degc": {celsius, 1}, "%": {percent, 1}, "kg": {mass, 1},
	"lb": {mass, 0.45359237}, "lbs": {mass, 0.45359237},
}

// token is a number, with its sign where that touches it, or a word or sign.
var token = regexp.MustCompile(`[-−+]?\d+(?:[.,]\d+)?|db\(a\)|[\p{L}°%'²Ω]+\d?|\|\||[+×*/&]`)

// fillers are words that change nothing.
var fillers = []string{"at", "and", "into", "per", "of", "the", "a", "for", "with", "lead", "cable", "box", "boxes",
	"each",
	"on", "in", "is", "how", "much", "what", "+", "||", "&", "rms", "spl", "class", "circuit", "peak"}

// mostQuestion is how many characters of a question are read.
const mostQuestion = 200

// read takes a question apart. A number takes the unit behind it; one with another
// number behind it takes that one's, as "8 + 4 ohm".
func read(question string) asked {
	text := strings.ToLower(question)
	if len(text) > mostQuestion {
		text = text[:mostQuestion]
	}
	q := asked{of: map[dimension][]quantity{}, words: map[string]bool{}}
	type open struct {
		value float64
		times int
		typed string
	}
	var waiting []open // for a unit
	times := 1
	take := func(d dimension, scale float64, name string) {
		for _, w := range waiting {
			v := w.value * scale
			switch name {
			case "dbv":
				v = w.value + float64(unit.Volt(1).DBu())
			case "awg":
				v = float64(unit.AWG(int(w.value)))
			}
			q.of[d] = append(q.of[d], quantity{v, w.times, w.typed + " " + name})
			q.count++
		}
		waiting = nil
	}
	places := token.FindAllStringIndex(text, -1)
	for i, at := range places {
		word := text[at[0]:at[1]]
		if v, err := strconv.ParseFloat(strings.NewReplacer(",", ".", "−", "-").Replace(word), 64); err == nil {
			if i+1 < len(places) && isTimes(text[places[i+1][0]:places[i+1][1]]) && v >= 1 && v <= 999 && v == float64(int(v)) {
				times = int(v)
				q.numbers = append(q.numbers, Number{word, at[0]})
				continue
			}
			if len(waiting) > 0 && word[0] == '+' { // "8+8 ohm" is no sign
				q.words["+"], word = true, word[1:]
			}
			q.numbers = append(q.numbers, Number{word, at[1] - len(word)})
			waiting = append(waiting, open{v, times, word})
			times = 1
			continue
		}
		name := strings.TrimSuffix(word, ".")
		if known, is := unitsOf[name]; is && len(waiting) > 0 {
			take(known.of, known.unit, name)
			continue
		}
		if isTimes(name) {
			continue
		}
		if len(name) > 0 {
			q.words[name], q.wordList = true, append(q.wordList, name)
		}
	}
	take(plain, 1, "")
	for _, left := range strings.Fields(token.ReplaceAllString(text, " ")) {
		if strings.Trim(left, ".,;:?!()=~") != "" {
			q.ignored = append(q.ignored, left)
		}
	}
	return q
}

func isTimes(word string) bool { return word == "x" || word == "×" || word == "*" }
