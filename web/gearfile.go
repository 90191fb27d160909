package web

import (
	"errors"
	"fmt"
	"io"
	"net/http"
	"strings"

	"github.com/gin-gonic/gin"

	"largo/core/fault"
	"largo/core/gear"
	"largo/exchange"
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

// exportGear writes the library as a table or as JSON.
func (s *Server) exportGear(c *gin.Context) {
	models, err := s.store.Models(c)
	if err != nil {
		s.fail(c, err)
		return
	}
	write, kind := exchange.WriteGear, "application/json"
	if c.FullPath() == "/gear.csv" {
		write, kind = exchange.WriteGearTable, "text/csv; charset=utf-8"
	}
	c.Header("Content-Type", kind)
	c.Header("Content-Disposition", fmt.Sprintf("attachment; filename=%q", "gear"+c.FullPath()[len("/gear"):]))
	if err := write(c.Writer, models); err != nil {
		s.log.ErrorContext(c, "export of gear", "error", err)
	}
}

// importGear reads a file of models and shows what it would change. Nothing
// is changed before somebody says so.
func (s *Server) importGear(c *gin.Context) {
	models, err := readGearUpload(c)
	var faults fault.List
	var tooBig *http.MaxBytesError
	switch {
	case errors.Is(err, exchange.ErrTooBig), errors.As(err, &tooBig):
		s.showGear(c, http.StatusRequestEntityTooLarge, fault.List{{Field: "file", Say: exchange.ErrTooBig.Error() + "."}})
		return
	case errors.As(err, &faults):
		s.showGear(c, http.StatusUnprocessableEntity, faults)
		return
	case err != nil:
		s.fail(c, err)
		return
	}
	id := newCommand()
	if err := s.store.KeepImport(c, id, models); err != nil {
		s.fail(c, err)
		return
	}
	s.showImport(c, id, models)
}

func readGearUpload(c *gin.Context) ([]gear.Model, error) {
	head, err := c.FormFile("file")
	if err != nil {
		var tooBig *http.MaxBytesError
		if errors.As(err, &tooBig) {
			return nil, err
		}
		return nil, fault.List{{Say: "Choose a file of gear first."}}
	}
	file, err := head.Open()
	if err != nil {
		return nil, err
	}
	defer file.Close()
	first := make([]byte, 1)
	if _, err := io.ReadFull(file, first); err != nil {
		return nil, fault.List{{Say: "The file is empty."}}
	}
	whole := io.MultiReader(strings.NewReader(string(first)), file)
	if first[0] == '{' {
		return exchange.ReadGear(whole)
	}
	return exchange.ReadGearTable(whole)
}

func (s *Server) showImport(c *gin.Context, id string, models []gear.Model) {
	have, err := s.store.Models(c)
	if err != nil {
		s.fail(c, err)
		return
	}
	byID := make(map[string]*gear.Model, len(have))
	for i := range have {
		byID[have[i].ID] = &have[i]
	}
	v := importView{ID: id}
	for i := range models {
		m := &models[i]
		old := byID[m.ID]
		if old == nil {
			v.New = append(v.New, gearLine{Title: m.Title(), Says: summary(*m)})
		} else if cells := exchange.DiffGear(old, m); len(cells) > 0 {
			v.Changed = append(v.Changed, changedModel{m.Title(), cells})
		} else {
			v.Same++
		}
	}
	p := s.gearPage(c, "Import", fmt.Sprintf("%s new, %s changed, %s as they are. Nothing is taken yet.",
		plural(len(v.New), "model", "models"), lowerFirst(plural(len(v.Changed), "model", "models")), lowerFirst(plural(v.Same, "model", "models"))))
	p.Body = v
	s.render(c, http.StatusOK, "import", p)
}

// takeGear takes a file that was shown into the library: all of it.
func (s *Server) takeGear(c *gin.Context) {
	id := c.PostForm("import")
	if !uuidForm.MatchString(id) {
		s.fail(c, fault.At("", "No import is named; choose the file again."))
		return
	}
	models, err := s.store.Import(c, id)
	if err == nil {
		err = s.store.SaveModels(c, models...)
	}
	if err != nil {
		s.fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/gear")
}
