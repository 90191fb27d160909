package gear

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
	"largo/web/kit"
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
var gearFiles = map[string]kit.FileForm[gear.Model]{
	".csv":  {Kind: kit.TypeCSV, Write: exchange.WriteGearTable},
	".json": {Kind: "application/json", Write: exchange.WriteGear},
	".xlsx": {Kind: kit.TypeXLSX, Write: exchange.WriteGearWorkbook},
}

// exportGear writes the library as a table, a workbook or JSON.
func exportGear(s *kit.Server, c *gin.Context) {
	models, err := s.Store.AllModels(c)
	if err != nil {
		s.Fail(c, err)
		return
	}
	kit.SendFile(s, c, gearFiles, models)
}

// importGear reads a file of models and shows what it would change. Nothing
// is changed before somebody says so.
func importGear(s *kit.Server, c *gin.Context) {
	models, err := readGearUpload(s, c)
	var faults fault.List
	switch {
	case kit.TooBig(err):
		showGear(s, c, http.StatusRequestEntityTooLarge, fault.List{{Field: "file", Say: exchange.ErrTooBig.Error() + "."}})
		return
	case errors.As(err, &faults):
		showGear(s, c, http.StatusUnprocessableEntity, faults)
		return
	case err != nil:
		s.Fail(c, err)
		return
	}
	showImport(s, c, http.StatusOK, models, "")
}

func readGearUpload(s *kit.Server, c *gin.Context) ([]gear.Model, error) {
	have, err := s.Store.AllModels(c)
	if err != nil {
		return nil, err
	}
	file, err := kit.Uploaded(c)
	if err != nil {
		return nil, err
	}
	defer file.Close()
	return exchange.ReadGearFile(file, have)
}

// showImport compares models with the library, keeps those that are new or
// differ until somebody takes them, and shows what that would change.
func showImport(s *kit.Server, c *gin.Context, status int, models []gear.Model, problem string) {
	have, err := s.Store.AllModels(c)
	if err != nil {
		s.Fail(c, err)
		return
	}
	byID := make(map[string]*gear.Model, len(have))
	for i := range have {
		byID[have[i].ID] = &have[i]
	}
	v := importView{ID: kit.NewCommand()}
	var kept store.Import
	var ids []string
	for i := range models {
		m := &models[i]
		old := byID[m.ID]
		if old == nil {
			v.New = append(v.New, gearLine{Title: m.Title(), Says: summary(*m)})
		} else if old.Equal(*m) {
			v.Same++
			continue
		} else {
			v.Changed = append(v.Changed, changedModel{m.Title(), exchange.DiffGear(old, m)})
		}
		kept.Models, ids = append(kept.Models, *m), append(ids, m.ID)
	}
	if kept.Bases, err = s.Store.Bases(c, ids); err == nil {
		err = s.Store.KeepImport(c, v.ID, kept)
	}
	if err != nil {
		s.Fail(c, err)
		return
	}
	p := s.Plain(c, "Import", fmt.Sprintf("%s new, %s changed, %s as they are. Nothing is taken yet.",
		words.Spell(len(v.New), "model", "models"), words.Small(words.Spell(len(v.Changed), "model", "models")),
		words.Small(words.Spell(v.Same, "model", "models"))))
	p.Problem, p.Body = problem, v
	s.Render(c, status, "import", p)
}

// takeGear takes a file that was shown into the library: all of it, and only
// what was new or differed. Where somebody else has changed one of its models
// meanwhile it is shown anew.
func takeGear(s *kit.Server, c *gin.Context, f *kit.Form) {
	id, by := c.PostForm("import"), f.Act()
	if !kit.ProperID(id) {
		f.Fault("", "No import is named; choose the file again.")
	}
	if len(f.Faults) > 0 {
		s.Fail(c, f.Faults)
		return
	}
	kept, err := s.Store.Import(c, id)
	if err != nil {
		s.Fail(c, err)
		return
	}
	changes := make([]store.ModelChange, len(kept.Models))
	for i, m := range kept.Models {
		changes[i] = store.ModelChange{Model: m, Base: kept.Bases[m.ID]}
	}
	err = s.Store.SaveModels(c, by, "Taken from a file", changes...)
	switch {
	case errors.Is(err, store.ErrConflict):
		showImport(s, c, http.StatusConflict, kept.Models,
			"Nothing was taken: somebody else has changed the library since this was shown. Here is what it would change now.")
	case err != nil:
		s.Fail(c, err)
	default:
		c.Redirect(http.StatusSeeOther, "/gear")
	}
}
