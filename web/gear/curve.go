package gear

import (
	"crypto/sha256"
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"largo/core/gear"
	"largo/core/unit"
	"largo/exchange"
	"largo/store"
	"largo/web/kit"
)

// curveSlot is a place of a model where a curve may stand.
type curveSlot struct {
	Name, Title string // "impedance", "response", "impedance 2"
	File        string // its download
	Plot        *kit.Plot
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
		slots = append(slots, curveSlot{Name: "impedance-" + strconv.Itoa(i+1), Title: "Impedance of the " + w.Name +
			" way, ZMA"})
	}
	slots = append(slots, curveSlot{Name: "response", Title: "Response, FRD"})
	for i := range slots {
		s := &slots[i]
		c := *curveOf(&m, s.Name)
		if s.Points = len(c); s.Points == 0 {
			continue
		}
		s.File = "/gear/model/" + m.ID + "/curve/" + s.Name
		drawn := kit.ResponsePlot("plot-"+s.Name, "Response of "+m.Title(), c)
		if s.Name != "response" {
			drawn = kit.ImpedancePlot("plot-"+s.Name, "Impedance of "+m.Title(), c, unit.Given[unit.Ohm]{})
			if p, ok := c.LeastIn(20, 20000); ok {
				s.Leasts = unit.Ohm(p.Value).String() + " at least, at " + unit.Hertz(p.Hz).String()
			}
		}
		s.Plot = &drawn
	}
	return slots
}

// exportCurve writes a curve of a model as text.
func exportCurve(s *kit.Server, c *gin.Context) {
	m, err := s.Store.Model(c, c.Param("id"))
	if err != nil {
		s.Fail(c, err)
		return
	}
	curve := curveOf(&m.Model, c.Param("curve"))
	if curve == nil || len(*curve) == 0 {
		s.Fail(c, store.ErrNotFound)
		return
	}
	ending := ".zma"
	if c.Param("curve") == "response" {
		ending = ".frd"
	}
	c.Header("Content-Type", "text/plain; charset=utf-8")
	c.Header("Content-Disposition", "attachment; filename=\""+kit.FileName(m.ID)+"-"+c.Param("curve")+ending+"\"")
	if err := exchange.WriteCurve(c.Writer, *curve); err != nil {
		s.Log.ErrorContext(c, "export of a curve", "error", err)
	}
}

// importCurve takes a curve into a model: all of it, or none. An empty form
// takes the curve away.
func importCurve(s *kit.Server, c *gin.Context) {
	old, err := s.Store.Model(c, c.Param("id"))
	if err != nil {
		s.Fail(c, err)
		return
	}
	m := old.Clone()
	at := curveOf(&m, c.Param("curve"))
	if at == nil {
		s.Fail(c, store.ErrNotFound)
		return
	}
	curve, err := readCurveUpload(c)
	f := &kit.Form{Gin: c} // the upload has read it
	base, by := baseOf(f), f.Act()
	if err == nil && len(f.Faults) > 0 {
		err = f.Faults
	}
	if err == nil {
		*at = curve
		err = m.Check()
	}
	if said, status, wrong := kit.UploadFault(err); wrong {
		showModel(s, c, status, old, false,
			&modelRefused{Refused: kit.Refused{Form: "curve " + c.Param("curve"), Problem: "The curve was not taken: " + said}})
		return
	}
	if err == nil {
		by.Content = fmt.Sprintf("%x", sha256.Sum256(fmt.Append(nil, curve)))
		err = s.Store.SaveModels(c, by, "Took a curve", store.ModelChange{Model: m, Base: base})
	}
	if errors.Is(err, store.ErrConflict) {
		showModel(s, c, http.StatusConflict, old, false,
			&modelRefused{Refused: kit.Refused{Form: "curve " + c.Param("curve"),
				Problem: "The curve was not taken: somebody else has changed this model since you opened it. Here it is as it " +
					"stands now; take the curve again."}})
		return
	}
	if err != nil {
		s.Fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/gear/model/"+url.PathEscape(m.ID))
}

func readCurveUpload(c *gin.Context) (gear.Curve, error) {
	if c.PostForm("remove") != "" {
		return nil, nil
	}
	file, err := kit.Uploaded(c)
	if err != nil {
		return nil, err
	}
	defer file.Close()
	return exchange.ReadCurve(file)
}
