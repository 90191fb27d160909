package web

import (
	"crypto/sha256"
	"errors"
	"fmt"
	"math"
	"net/http"
	"net/url"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"largo/core/fault"
	"largo/core/gear"
	"largo/core/unit"
	"largo/exchange"
	"largo/store"
)

// plot is a curve over frequency, with a limit drawn as a line and what lies
// below it hatched.
type plot struct {
	ID, Label     string
	Width, Height float64
	Path          string
	Across        []tick // frequencies
	Up            []tick // values; X is the height on the drawing
	Limit         float64
	LimitLabel    string
	Forbidden     float64 // height of the hatched part, from the limit down
	Foot          float64 // the drawing's lower edge
}

// curveAxes carries frequency and value to the drawing; both are logarithmic
// for an impedance, the value is straight for a response in dB.
type curveAxes struct {
	lowHz, highHz, low, high float64
	straight                 bool
}

const plotWidth, plotHeight = 560.0, 190.0

func (a curveAxes) x(hz float64) float64 {
	return 42 + (plotWidth-52)*math.Log(hz/a.lowHz)/math.Log(a.highHz/a.lowHz)
}

func (a curveAxes) y(v float64) float64 {
	t := math.Log(v/a.low) / math.Log(a.high/a.low)
	if a.straight {
		t = (v - a.low) / (a.high - a.low)
	}
	return 8 + (plotHeight-32)*(1-min(max(t, 0), 1))
}

// impedancePlot draws an impedance from 20 Hz to 20 kHz, with the least load
// of an amplifier on it where one is given.
func impedancePlot(id, label string, c gear.Curve, limit unit.Given[unit.Ohm]) plot {
	least, most := math.Inf(1), 1.0
	for _, p := range c {
		least, most = min(least, p.Value), max(most, p.Value)
	}
	if z, known := limit.Get(); known {
		least = min(least, float64(z))
	}
	a := curveAxes{lowHz: 20, highHz: 20000, low: math.Pow(2, math.Floor(math.Log2(least*0.8))), high: math.Pow(2, math.Ceil(math.Log2(most)))}
	p := a.draw(id, label, c)
	for v := a.low; v <= a.high*1.001; v *= 2 {
		p.Up = append(p.Up, tick{a.y(v), unit.Number(v)})
	}
	if z, known := limit.Get(); known {
		p.Limit, p.LimitLabel = a.y(float64(z)), "least "+z.String()
		p.Forbidden = p.Foot - p.Limit
	}
	return p
}

// responsePlot draws a response in dB.
func responsePlot(id, label string, c gear.Curve) plot {
	low, high := math.Inf(1), math.Inf(-1)
	for _, p := range c {
		low, high = min(low, p.Value), max(high, p.Value)
	}
	a := curveAxes{lowHz: 20, highHz: 20000, low: 10 * math.Floor(max(low, high-50)/10), high: 10 * math.Ceil(high/10), straight: true}
	p := a.draw(id, label, c)
	for v := a.low; v <= a.high; v += 10 {
		p.Up = append(p.Up, tick{a.y(v), unit.Number(v)})
	}
	return p
}

func (a curveAxes) draw(id, label string, c gear.Curve) plot {
	p := plot{ID: id, Label: label, Width: plotWidth, Height: plotHeight, Foot: plotHeight - 24}
	for _, hz := range []float64{20, 50, 100, 200, 500, 1000, 2000, 5000, 10000, 20000} {
		text := unit.Number(hz)
		if hz >= 1000 {
			text = unit.Number(hz/1000) + "k"
		}
		p.Across = append(p.Across, tick{a.x(hz), text})
	}
	var b strings.Builder
	for _, at := range c {
		if at.Hz < a.lowHz || at.Hz > a.highHz {
			continue
		}
		if b.Len() == 0 {
			b.WriteByte('M')
		} else {
			b.WriteByte('L')
		}
		b.WriteString(strconv.FormatFloat(a.x(at.Hz), 'f', 1, 64) + " " + strconv.FormatFloat(a.y(at.Value), 'f', 1, 64))
	}
	p.Path = b.String()
	return p
}

// curveSlot is a place of a model where a curve may stand.
type curveSlot struct {
	Name, Title string // "impedance", "response", "impedance 2"
	File        string // its download
	Plot        *plot
	Points      int
	Leasts      string
}

// curveOf finds the curve of a slot in a loudspeaker.
func curveOf(m *gear.Model, name string) *gear.Curve {
	switch {
	case m.Loudspeaker == nil:
		return nil
	case name == "response":
		return &m.Loudspeaker.Response
	case name == "impedance":
		return &m.Loudspeaker.Impedance
	}
	n, err := strconv.Atoi(strings.TrimPrefix(name, "impedance-"))
	if err != nil || n < 1 || n > len(m.Loudspeaker.Ways) {
		return nil
	}
	return &m.Loudspeaker.Ways[n-1].Impedance
}

// curveSlots lists where curves stand in a box, or may.
func curveSlots(m gear.Model) []curveSlot {
	if m.Kind != gear.KindLoudspeaker || m.ID == "" {
		return nil
	}
	var slots []curveSlot
	if !m.Loudspeaker.Active && len(m.Loudspeaker.Ways) == 0 {
		slots = append(slots, curveSlot{Name: "impedance", Title: "Impedance, ZMA"})
	}
	for i, w := range m.Loudspeaker.Ways {
		slots = append(slots, curveSlot{Name: "impedance-" + strconv.Itoa(i+1), Title: "Impedance of the " + w.Name + " way, ZMA"})
	}
	slots = append(slots, curveSlot{Name: "response", Title: "Response, FRD"})
	for i := range slots {
		s := &slots[i]
		c := *curveOf(&m, s.Name)
		if s.Points = len(c); s.Points == 0 {
			continue
		}
		s.File = "/gear/model/" + m.ID + "/curve/" + s.Name
		drawn := responsePlot("plot-"+s.Name, "Response of "+m.Title(), c)
		if s.Name != "response" {
			drawn = impedancePlot("plot-"+s.Name, "Impedance of "+m.Title(), c, unit.Given[unit.Ohm]{})
			if p, ok := c.LeastIn(20, 20000); ok {
				s.Leasts = unit.Ohm(p.Value).String() + " at least, at " + unit.Hertz(p.Hz).String()
			}
		}
		s.Plot = &drawn
	}
	return slots
}

// exportCurve writes a curve of a model as text.
func (s *Server) exportCurve(c *gin.Context) {
	m, err := s.store.Model(c, c.Param("id"))
	if err != nil {
		s.fail(c, err)
		return
	}
	curve := curveOf(&m.Model, c.Param("curve"))
	if curve == nil || len(*curve) == 0 {
		s.fail(c, store.ErrNotFound)
		return
	}
	ending := ".zma"
	if c.Param("curve") == "response" {
		ending = ".frd"
	}
	c.Header("Content-Type", "text/plain; charset=utf-8")
	c.Header("Content-Disposition", "attachment; filename=\""+fileName(m.ID)+"-"+c.Param("curve")+ending+"\"")
	if err := exchange.WriteCurve(c.Writer, *curve); err != nil {
		s.log.ErrorContext(c, "export of a curve", "error", err)
	}
}

// importCurve takes a curve into a model: all of it, or none. An empty form
// takes the curve away.
func (s *Server) importCurve(c *gin.Context) {
	old, err := s.store.Model(c, c.Param("id"))
	if err != nil {
		s.fail(c, err)
		return
	}
	m := old.Clone()
	at := curveOf(&m, c.Param("curve"))
	if at == nil {
		s.fail(c, store.ErrNotFound)
		return
	}
	curve, err := readCurveUpload(c)
	f := &form{c: c} // the upload has read it
	base, by := f.base(), f.act()
	if err == nil && len(f.faults) > 0 {
		err = f.faults
	}
	if err == nil {
		*at = curve
		err = m.Check()
	}
	if said, status, wrong := uploadFault(err); wrong {
		s.showModel(c, status, old, false, &modelRefused{refused: refused{form: "curve " + c.Param("curve"), problem: "The curve was not taken: " + said}})
		return
	}
	if err == nil {
		by.Content = fmt.Sprintf("%x", sha256.Sum256(fmt.Append(nil, curve)))
		err = s.store.SaveModels(c, by, "Took a curve", store.ModelChange{Model: m, Base: base})
	}
	if errors.Is(err, store.ErrConflict) {
		s.showModel(c, http.StatusConflict, old, false, &modelRefused{refused: refused{form: "curve " + c.Param("curve"), problem: "The curve was not taken: somebody else has changed this model since you opened it. Here it is as it stands now; take the curve again."}})
		return
	}
	if err != nil {
		s.fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/gear/model/"+url.PathEscape(m.ID))
}

func readCurveUpload(c *gin.Context) (gear.Curve, error) {
	if c.PostForm("remove") != "" {
		return nil, nil
	}
	file, err := uploaded(c)
	if err != nil {
		return nil, err
	}
	defer file.Close()
	return exchange.ReadCurve(file)
}

// firstSentence of what is wrong with a file.
func firstSentence(l fault.List) string {
	said := strings.TrimPrefix(l[0].Field+": ", ": ") + l[0].Say
	if len(l) > 1 {
		said += " And " + strconv.Itoa(len(l)-1) + " more."
	}
	return said
}
