package gear

import (
	"fmt"
	"regexp"
	"strconv"
	"strings"
	"unicode"

	"largo/core/unit"
)

// plateMaker stands where a plate names no maker.
const plateMaker = "plate:"

// FromPlate makes a model of what a plate says in one line, as "2 x 700 W 4 ohm, 1 V",
// "12 inch 8 ohm 300 W AES 98 dB" or "mixer 12 in"; all else of it is unknown.
func FromPlate(text string) (Model, error) {
	text = strings.Join(strings.Fields(text), " ")
	low := strings.ToLower(text)
	m := Model{Maker: plateMaker, Name: shortName(text), Source: "its plate, as typed"}
	var err error
	switch {
	case hasWord(low, "mixer", "desk", "console"):
		err = m.plateMixer(low)
	case hasWord(low, "receiver", "wireless"):
		m.Kind, m.Feed = KindReceiver, &Source{Powered: true, Outputs: []Outlet{{Name: "out", Signal: Mic}}}
	case hasWord(low, "microphone", "mic"):
		m.Kind, m.Feed = KindMicrophone, &Source{Outputs: []Outlet{{Name: "out", Signal: Mic, Balanced: Yes}}}
	case hasWord(low, "player", "laptop", "source"):
		m.Kind, m.Feed = KindSource, &Source{Powered: true, Outputs: []Outlet{{Name: "out L", Signal: Line},
			{Name: "out R", Signal: Line}}}
	case hasWord(low, "crossover", "processor"):
		m.Kind, m.Processor = KindProcessor, &Processor{Inputs: 2, Outputs: []string{"low L", "high L", "low R", "high R"}}
	case plateAmp.MatchString(low) || hasWord(low, "bridged", "amplifier", "amp"):
		err = m.plateAmplifier(text)
	default:
		err = m.plateBox(low)
	}
	if err != nil {
		return Model{}, err
	}
	m.ID = "plate-" + slugOf(text)
	return m, m.Check()
}

// shortName cuts a text to what a name may have.
func shortName(text string) string {
	const most = 60
	if runes := []rune(text); len(runes) > most {
		return string(runes[:most-1]) + "…"
	}
	return text
}

func hasWord(text string, words ...string) bool {
	for _, w := range strings.FieldsFunc(text, func(r rune) bool { return !unicode.IsLetter(r) }) {
		for _, want := range words {
			if w == want {
				return true
			}
		}
	}
	return false
}

// slugOf is a name fit for an id.
func slugOf(text string) string {
	slug := strings.Trim(strings.Map(func(r rune) rune {
		switch {
		case r >= 'a' && r <= 'z', r >= '0' && r <= '9':
			return r
		case r >= 'A' && r <= 'Z':
			return r + 'a' - 'A'
		}
		return '-'
	}, text), "-")
	return slug[:min(len(slug), 60)]
}

// plateAmp is a plate of several channels, "2 x 700 W".
var plateAmp = regexp.MustCompile(`\b\d{1,2}\s*[x×*]\s*\d+(?:[.,]\d+)?\s*k?w\b`)

// plateVolts is a sensitivity, "1 V" or "775 mV"; plateGain a gain, "32 dB".
var (
	plateVolts = regexp.MustCompile(`(?i)^([\d.,]+\s*m?v)(?:rms)?(?:\s*(?:sensitivity|in))?$`)
	plateGain  = regexp.MustCompile(`(?i)^(?:gain\s*)?([\d.,]+\s*db)(?:\s*gain)?$`)
	plateClass = regexp.MustCompile(`(?i)^class[ -]?(ab|a|b|d|g|h)$`)
)

func (m *Model) plateAmplifier(text string) error {
	a := &Amplifier{Channels: 2}
	m.Kind, m.Amplifier = KindAmplifier, a
	for _, part := range entryEnd.Split(text, -1) {
		part = strings.TrimSpace(part)
		switch {
		case part == "":
			continue
		case plateVolts.MatchString(part):
			if err := fromPlate(&a.Sensitivity, unit.ParseVolt, plateVolts.FindStringSubmatch(part)); err != nil {
				return err
			}
			continue
		case plateGain.MatchString(part):
			if err := fromPlate(&a.Gain, unit.ParseDecibel, plateGain.FindStringSubmatch(part)); err != nil {
				return err
			}
			continue
		case plateClass.MatchString(part):
			a.Class = strings.ToUpper(plateClass.FindStringSubmatch(part)[1])
			continue
		}
		sheet, err := ParseSheet(part)
		if err != nil {
			return fmt.Errorf("%.40q is no rating, sensitivity or gain; write an amplifier as 2 x 700 W 4 ohm, 1 V", part)
		}
		a.Ratings, a.Channels = append(a.Ratings, sheet.Ratings...), max(a.Channels, sheet.Channels)
	}
	if len(a.Ratings) == 1 && a.Sensitivity.Known() {
		a.SensLoad = unit.From(a.Ratings[0].Load, "plate, the one rating")
	}
	return nil
}

// plateWatts is a power with the word behind it that says what it is.
var (
	plateWatts = regexp.MustCompile(`([\d.,]+\s*k?w)\s*(aes|iec|rms|continuous|programme|program|prog|peak|max)?`)
	plateOhms  = regexp.MustCompile(`([\d.,]+)\s*(?:ω|ohms?)`)
	plateLevel = regexp.MustCompile(`([\d.,]+)\s*db`)
	plateInch  = regexp.MustCompile(`([\d.,]+)\s*(?:inch|in\b|"|″)`)
)

func (m *Model) plateBox(low string) error {
	s := &Loudspeaker{Link: true}
	m.Kind, m.Loudspeaker = KindLoudspeaker, s
	inch := 0.0
	if at := plateInch.FindStringSubmatch(low); at != nil {
		inch, _ = strconv.ParseFloat(strings.ReplaceAll(at[1], ",", "."), 64)
	}
	s.Sub = hasWord(low, "sub", "subwoofer") || inch >= 18
	s.Active = hasWord(low, "active", "powered")
	if err := fromPlate(&s.Nominal, unit.ParseOhm, plateOhms.FindStringSubmatch(low)); err != nil {
		return err
	}
	level := &s.Sensitivity
	if s.Active {
		level = &s.MaxSPL
	}
	if err := fromPlate(level, unit.ParseDecibel, plateLevel.FindStringSubmatch(low)); err != nil {
		return err
	}
	for _, at := range plateWatts.FindAllStringSubmatch(low, -1) {
		var p unit.Given[unit.Watt]
		if err := fromPlate(&p, unit.ParseWatt, at); err != nil {
			return err
		}
		if !s.Active {
			s.takeWatts(p, at[2])
		}
	}
	if !s.Active && !s.Nominal.Known() && !s.Sensitivity.Known() && len(plateWatts.FindString(low)) == 0 {
		return fmt.Errorf("%.40q is neither in the library nor a plate; write one as 8 ohm 300 W AES 98 dB, "+
			"2 x 700 W 4 ohm, or mixer 12 in", m.Name)
	}
	return nil
}

// fromPlate reads a figure from the first group that matched, where anything did.
func fromPlate[T unit.Quantity](to *unit.Given[T], parse func(string) (T, error), matched []string) error {
	if matched == nil {
		return nil
	}
	v, err := parse(matched[1])
	if err == nil {
		*to = unit.From(v, "plate")
	}
	return err
}

// takeWatts takes a power for what the word behind it says; one without counts as
// peak, until shown otherwise.
func (s *Loudspeaker) takeWatts(p unit.Given[unit.Watt], word string) {
	switch word {
	case "aes":
		s.Continuous, s.Standard = p, AES1984
	case "iec":
		s.Continuous, s.Standard = p, IEC
	case "rms", "continuous":
		s.Continuous = p
	case "programme", "program", "prog":
		s.Programme = p
	case "peak", "max":
		s.Peak = p
	default:
		s.Bare = p
	}
}

// plateInputs is how many inputs a desk has, "12 in" or "12 inputs".
var plateInputs = regexp.MustCompile(`(\d{1,3})\s*(?:in(?:puts?)?|ch(?:annels?)?)?\b`)

func (m *Model) plateMixer(low string) error {
	m.Kind, m.Mixer = KindMixer, &Mixer{Inputs: 16, Outputs: []Outlet{{Name: "main L", Signal: Line},
		{Name: "main R", Signal: Line}, {Name: "mon 1", Signal: Line}, {Name: "mon 2", Signal: Line}}}
	if at := plateInputs.FindStringSubmatch(low); at != nil {
		m.Mixer.Inputs, _ = strconv.Atoi(at[1])
	}
	return nil
}
