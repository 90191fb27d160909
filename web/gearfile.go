package web

import (
	"errors"
	"fmt"
	"net/http"

	"github.com/gin-gonic/gin"

	"largo/core/fault"
	"largo/core/gear"
	"largo/core/words"
	"largo/exchange"
	"largo/store"
)

// importView is what a file of models would do to the library.
type importView struct {
	ID      string
	New     []gearLine
	Changed []changedModel
	Same    int
}

type changedModel struct {
	Title string
	Cells []exchange.CellChange
}

// gearFiles are the forms in which the library is written, by ending.
var gearFiles = map[string]fileForm[gear.Model]{
	".csv":  {typeCSV, exchange.WriteGearTable},
	".json": {"application/json", exchange.WriteGear},
	".xlsx": {typeXLSX, exchange.WriteGearWorkbook},
}

// exportGear writes the library as a table, a workbook or JSON.
func (s *Server) exportGear(c *gin.Context) {
	models, err := s.store.AllModels(c)
	if err != nil {
		s.fail(c, err)
		return
	}
	sendFile(s, c, gearFiles, models)
}

// importGear reads a file of models and shows what it would change. Nothing
// is changed before somebody says so.
func (s *Server) importGear(c *gin.Context) {
	models, err := s.readGearUpload(c)
	var faults fault.List
	switch {
	case tooBig(err):
		s.showGear(c, http.StatusRequestEntityTooLarge, fault.List{{Field: "file", Say: exchange.ErrTooBig.Error() + "."}})
		return
	case errors.As(err, &faults):
		s.showGear(c, http.StatusUnprocessableEntity, faults)
		return
	case err != nil:
		s.fail(c, err)
		return
	}
	s.showImport(c, http.StatusOK, models, "")
}

func (s *Server) readGearUpload(c *gin.Context) ([]gear.Model, error) {
	have, err := s.store.AllModels(c)
	if err != nil {
		return nil, err
	}
	file, err := uploaded(c)
	if err != nil {
		return nil, err
	}
	defer file.Close()
	return exchange.ReadGearFile(file, have)
}

// showImport compares models with the library, keeps those that are new or
// differ until somebody takes them, and shows what that would change.
func (s *Server) showImport(c *gin.Context, status int, models []gear.Model, problem string) {
	have, err := s.store.AllModels(c)
	if err != nil {
		s.fail(c, err)
		return
	}
	byID := make(map[string]*gear.Model, len(have))
	for i := range have {
		byID[have[i].ID] = &have[i]
	}
	v := importView{ID: newCommand()}
	var kept store.Import
	var ids []string
	for i := range models {
		m := &models[i]
		old := byID[m.ID]
		if old == nil {
			v.New = append(v.New, gearLine{Title: m.Title(), Says: summary(*m)})
		} else if sameModel(*old, *m) {
			v.Same++
			continue
		} else {
			v.Changed = append(v.Changed, changedModel{m.Title(), exchange.DiffGear(old, m)})
		}
		kept.Models, ids = append(kept.Models, *m), append(ids, m.ID)
	}
	if kept.Bases, err = s.store.Bases(c, ids); err == nil {
		err = s.store.KeepImport(c, v.ID, kept)
	}
	if err != nil {
		s.fail(c, err)
		return
	}
	p := s.gearPage(c, "Import", fmt.Sprintf("%s new, %s changed, %s as they are. Nothing is taken yet.",
		words.Spell(len(v.New), "model", "models"), words.Small(words.Spell(len(v.Changed), "model", "models")), words.Small(words.Spell(v.Same, "model", "models"))))
	p.Problem, p.Body = problem, v
	s.render(c, status, "import", p)
}

// takeGear takes a file that was shown into the library: all of it, and only
// what was new or differed. Where somebody else has changed one of its models
// meanwhile it is shown anew.
func (s *Server) takeGear(c *gin.Context) {
	f, err := readForm(c)
	if err != nil {
		s.fail(c, err)
		return
	}
	id, by := c.PostForm("import"), f.act()
	if !properID(id) {
		f.fault("", "No import is named; choose the file again.")
	}
	if len(f.faults) > 0 {
		s.fail(c, f.faults)
		return
	}
	kept, err := s.store.Import(c, id)
	if err != nil {
		s.fail(c, err)
		return
	}
	changes := make([]store.ModelChange, len(kept.Models))
	for i, m := range kept.Models {
		changes[i] = store.ModelChange{Model: m, Base: kept.Bases[m.ID]}
	}
	err = s.store.SaveModels(c, by, "Taken from a file", changes...)
	switch {
	case errors.Is(err, store.ErrConflict):
		s.showImport(c, http.StatusConflict, kept.Models, "Nothing was taken: somebody else has changed the library since this was shown. Here is what it would change now.")
	case err != nil:
		s.fail(c, err)
	default:
		c.Redirect(http.StatusSeeOther, "/gear")
	}
}
