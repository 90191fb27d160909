package kit

import (
	"errors"
	"html/template"
	"net/http"
	"net/url"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"largo/core/fault"
	"largo/core/rig"
	"largo/core/unit"
)

// Form reads what was typed, and gathers what is wrong with it by field.
type Form struct {
	Gin    *gin.Context
	Query  url.Values // read instead of what was posted, where a page asks by its address
	Faults fault.List
}

// ReadForm reads what was posted. Its faults are those of texts that are none, or
// too long; err is a form that cannot be read at all.
func ReadForm(c *gin.Context) (*Form, error) {
	if err := c.Request.ParseForm(); err != nil {
		var tooBig *http.MaxBytesError
		if errors.As(err, &tooBig) {
			return nil, err
		}
		return nil, fault.At("", "The form could not be read.")
	}
	f := &Form{Gin: c}
	f.checkTexts()
	return f, nil
}

// Fault notes what is wrong with a field, "" for the form as a whole.
func (f *Form) Fault(field, say string, args ...any) { f.Faults.Add(field, say, args...) }

// Refuse takes over the faults of the core.
func (f *Form) Refuse(err error) {
	var l fault.List
	if errors.As(err, &l) {
		f.Faults = append(f.Faults, l...)
		return
	}
	f.Fault("", "%s", err)
}

// Problem sums up the faults that stand at no field.
func (f *Form) Problem() string {
	if len(f.Faults) == 1 {
		return "Not kept: " + f.Faults[0].Say
	}
	return "Not kept: " + strconv.Itoa(len(f.Faults)) + " things to put right below."
}

// Text is what stands in a field, trimmed.
func (f *Form) Text(name string) string {
	if f.Query != nil {
		return strings.TrimSpace(f.Query.Get(name))
	}
	return strings.TrimSpace(f.Gin.PostForm(name))
}

// Values are all that was sent under a name.
func (f *Form) Values(name string) []string {
	if f.Query != nil {
		return f.Query[name]
	}
	return f.Gin.PostFormArray(name)
}

func (f *Form) revision() int {
	n, err := strconv.Atoi(f.Gin.PostForm("rev"))
	if err != nil || n < 0 || n > MostRevision {
		f.Fault("", "The page does not say which revision it shows. Load it again.")
	}
	return n
}

// Given reads a quantity that may be left empty: unknown, not zero.
func Given[T unit.Quantity](f *Form, name string, parse func(string) (T, error)) unit.Given[T] {
	typed := f.Text(name)
	if typed == "" {
		return unit.Given[T]{}
	}
	v, err := parse(typed)
	if err != nil {
		f.Fault(name, "%s.", err)
		return unit.Given[T]{}
	}
	return unit.Of(v)
}

// Number reads a whole number that may be left empty.
func (f *Form) Number(name, what string) int {
	typed := f.Text(name)
	if typed == "" {
		return 0
	}
	n, err := strconv.Atoi(typed)
	if err != nil {
		f.Fault(name, "%.20q is not a whole number of %s.", typed, what)
		return 0
	}
	return n
}

// KeepOrigin keeps where a figure came from when it was sent back unchanged.
func KeepOrigin[T unit.Quantity](old, sent unit.Given[T]) unit.Given[T] {
	a, known1 := old.Get()
	b, known2 := sent.Get()
	if known1 && known2 && a == b {
		return old
	}
	return sent
}

// RefValue writes a port as a choice sends it.
func RefValue(r rig.Ref) string { return r.Device + "\t" + r.Port }

// ReadRef reads a port as a choice sends it; none is the zero Ref.
func ReadRef(s string) rig.Ref {
	device, port, _ := strings.Cut(s, "\t")
	return rig.Ref{Device: device, Port: port}
}

// TypedOr is what was typed, or the usual value where nothing was.
func TypedOr(f *Form, name, usual string) string {
	if t := f.Text(name); t != "" {
		return t
	}
	return usual
}

// HiddenAct are the hidden fields of a form that changes something of no job:
// base is what the page shows it as it was at.
func HiddenAct(command string, base int) template.HTML {
	var w Pen
	w.Put(`<input type="hidden" name="command" value="{}"><input type="hidden" name="base" value="{}">`, command, base)
	return w.HTML()
}
