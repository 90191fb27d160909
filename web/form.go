package web

import (
	"errors"
	"math"
	"net/http"
	"net/url"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"largo/core/fault"
	"largo/core/unit"
)

// form reads what was typed, and gathers what is wrong with it by field.
type form struct {
	c      *gin.Context
	query  url.Values // read instead of what was posted, where a page asks by its address
	faults fault.List
}

func readForm(c *gin.Context) (*form, error) {
	if err := c.Request.ParseForm(); err != nil {
		var tooBig *http.MaxBytesError
		if errors.As(err, &tooBig) {
			return nil, err
		}
		return nil, fault.At("", "The form could not be read.")
	}
	f := &form{c: c}
	f.checkTexts()
	return f, nil
}

func (f *form) fault(field, say string, args ...any) { f.faults.Add(field, say, args...) }

// refuse takes over the faults of the core.
func (f *form) refuse(err error) {
	var l fault.List
	if errors.As(err, &l) {
		f.faults = append(f.faults, l...)
		return
	}
	f.fault("", "%s", err)
}

// problem sums up the faults that stand at no field.
func (f *form) problem() string {
	if len(f.faults) == 1 {
		return "Not kept: " + f.faults[0].Say
	}
	return "Not kept: " + strconv.Itoa(len(f.faults)) + " things to put right below."
}

func (f *form) text(name string) string {
	if f.query != nil {
		return strings.TrimSpace(f.query.Get(name))
	}
	return strings.TrimSpace(f.c.PostForm(name))
}

// values are all that was sent under a name.
func (f *form) values(name string) []string {
	if f.query != nil {
		return f.query[name]
	}
	return f.c.PostFormArray(name)
}

func (f *form) revision() int {
	n, err := strconv.Atoi(f.c.PostForm("rev"))
	if err != nil || n < 0 || n > mostRevision {
		f.fault("", "The page does not say which revision it shows. Load it again.")
	}
	return n
}

// given reads a quantity that may be left empty: unknown, not zero.
func given[T unit.Quantity](f *form, name string, parse func(string) (T, error)) unit.Given[T] {
	typed := f.text(name)
	if typed == "" {
		return unit.Given[T]{}
	}
	v, err := parse(typed)
	if err != nil {
		f.fault(name, "%s.", err)
		return unit.Given[T]{}
	}
	return unit.Of(v)
}

// number reads a whole number that may be left empty.
func (f *form) number(name, what string) int {
	typed := f.text(name)
	if typed == "" {
		return 0
	}
	n, err := strconv.Atoi(typed)
	if err != nil {
		f.fault(name, "%.20q is not a whole number of %s.", typed, what)
		return 0
	}
	return n
}

// typed writes a quantity as it would be typed, to the last digit; "" when it
// is unknown.
func typed[T unit.Quantity](g unit.Given[T]) string {
	v, known := g.Get()
	if !known {
		return ""
	}
	if math.IsInf(float64(v), 1) {
		return v.String() // an open line
	}
	return strings.TrimSpace(strconv.FormatFloat(float64(v), 'f', -1, 64) + " " + v.Symbol())
}

// keepOrigin keeps where a figure came from when it was sent back unchanged.
func keepOrigin[T unit.Quantity](old, sent unit.Given[T]) unit.Given[T] {
	a, known1 := old.Get()
	b, known2 := sent.Get()
	if known1 && known2 && a == b {
		return old
	}
	return sent
}
