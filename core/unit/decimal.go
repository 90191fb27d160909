package unit

import (
	"errors"
	"fmt"
	"math"
	"regexp"
	"strconv"
	"strings"
)

// TwoWays is the error for a number that people read in two ways: "1,200" is
// twelve hundred to one and one point two to another. It is asked about, never
// guessed.
type TwoWays struct{ Text string }

func (e TwoWays) Error() string {
	return fmt.Sprintf("%q can be read as %s or as %s; write one of them", e.Text, strings.ReplaceAll(e.Text, ",", ""),
		strings.Replace(e.Text, ",", ".", 1))
}

var errNoNumber = errors.New("that is not a number")

// How groups of thousands are written, with commas or with points.
var (
	oneCommaGroup = regexp.MustCompile(`^[+-]?[1-9]\d{0,2},\d{3}$`)
	commaGroups   = regexp.MustCompile(`^[+-]?[1-9]\d{0,2}(?:,\d{3})+$`)
	pointGroups   = regexp.MustCompile(`^[+-]?[1-9]\d{0,2}(?:\.\d{3})+$`)
)

// Decimal reads a number with a decimal point or a decimal comma. A single
// point is always a decimal point. Thousands may be parted where that leaves no
// doubt: "1,200.5", "1.200,5", "1,200,000".
func Decimal(s string) (float64, error) {
	point, comma := strings.LastIndexByte(s, '.'), strings.LastIndexByte(s, ',')
	switch {
	case comma < 0 && strings.Count(s, ".") < 2:
	case oneCommaGroup.MatchString(s):
		return 0, TwoWays{s}
	case point < 0 && strings.Count(s, ",") == 1:
		s = strings.Replace(s, ",", ".", 1)
	case point < 0 && commaGroups.MatchString(s), point > comma && commaGroups.MatchString(s[:max(point, 0)]):
		s = strings.ReplaceAll(s, ",", "")
	case comma < 0 && pointGroups.MatchString(s), comma > point && point >= 0 &&
		pointGroups.MatchString(s[:max(comma, 0)]):
		s = strings.Replace(strings.ReplaceAll(s, ".", ""), ",", ".", 1)
	default:
		return 0, errNoNumber
	}
	v, err := strconv.ParseFloat(s, 64)
	if err != nil || math.IsInf(v, 0) || math.IsNaN(v) {
		return 0, errNoNumber
	}
	return v, nil
}
