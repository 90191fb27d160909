package web

import (
	"fmt"
	"io"
	"net/http"
	"net/url"
	"slices"
	"strings"

	"github.com/gin-gonic/gin"

	"largo/core/gear"
	"largo/core/words"
	"largo/exchange"
	"largo/store"
)

type stockView struct {
	Search field
	Places []string
	Kinds  []stockKind
	Add    []field
	Loose  []string
	Found  string // what the search of the form found
}

// stockKind is the stock of one kind of gear, a row a model and a column a
// place.
type stockKind struct {
	Plural string
	Span   int // columns of the table
	Rows   []stockRow
}

type stockRow struct {
	Title, Href string
	Counts      []string
	All         int
}

func (s *Server) stock(c *gin.Context) { s.showStock(c, http.StatusOK, nil) }

func (s *Server) showStock(c *gin.Context, status int, wrong *refused) {
	held, err := s.store.Stock(c)
	if err != nil {
		s.fail(c, err)
		return
	}
	p := s.gearPage(c, "Stock", "")
	p.Here, p.refused = "/stock", wrong
	if wrong != nil {
		p.typed, p.Problem = c.Request.PostForm, wrong.problem
	}
	v := stockView{Places: placesOf(held), Loose: p.Loose("stock", "model", "place", "count")}
	v.Kinds = stockKinds(held, v.Places)
	typed := c.Query("q")
	found, all, err := s.store.ModelNames(c, typed, mostOffered)
	if err != nil {
		s.fail(c, err)
		return
	}
	v.Search = p.Field("stock-search", "q", "Find the model", typed, "maker, name or kind")
	v.Found = offered(len(found), all)
	v.Add = []field{p.Choose("stock", "model", "Model", "", modelChoices(found)...), p.Field("stock", "place", "Where it lies", "", "a truck, a store, a shelf"),
		p.Field("stock", "count", "How many there", "", "0 takes the entry away")}
	p.Verdict = stockVerdict(held, v.Places)
	p.Body = v
	s.render(c, status, "stock", p)
}

// mostOffered is how many models a form offers to choose from; a search
// narrows them.
const mostOffered = 200

func offered(shown, all int) string {
	if shown < all {
		return fmt.Sprintf("The first %d of %d models; type to narrow them.", shown, all)
	}
	return plural(all, "model", "models") + " to choose from."
}

// modelChoices offers models by name and kind.
func modelChoices(models []gear.Model) []choice {
	list := make([]choice, 1, len(models)+1)
	list[0] = choice{Label: "choose from the library"}
	for _, m := range models {
		list = append(list, choice{Value: m.ID, Label: m.Title() + " (" + string(m.Kind) + ")"})
	}
	return list
}

func placesOf(held []gear.Holding) []string {
	var places []string
	for _, h := range held {
		places = appendOnce(places, h.Place)
	}
	slices.Sort(places)
	return places
}

func stockVerdict(held []gear.Holding, places []string) string {
	if len(held) == 0 {
		return "Nothing is in stock yet. Enter what you own, or import a list."
	}
	pieces := 0
	for _, h := range held {
		pieces += h.Count
	}
	return fmt.Sprintf("%d pieces in %s.", pieces, strings.Join(places, ", "))
}

func stockKinds(held []gear.Holding, places []string) []stockKind {
	var kinds []stockKind
	at := map[gear.Kind]int{}
	rows := map[string]int{}
	for _, h := range held {
		k, known := at[h.Model.Kind]
		if !known {
			k = len(kinds)
			at[h.Model.Kind] = k
			kinds = append(kinds, stockKind{Plural: kindPlural(h.Model.Kind), Span: len(places) + 2})
		}
		r, known := rows[h.Model.ID]
		if !known {
			r = len(kinds[k].Rows)
			rows[h.Model.ID] = r
			kinds[k].Rows = append(kinds[k].Rows, stockRow{Title: h.Model.Title(), Href: "/gear/model/" + url.PathEscape(h.Model.ID), Counts: make([]string, len(places))})
		}
		row := &kinds[k].Rows[r]
		row.Counts[slices.Index(places, h.Place)] = fmt.Sprint(h.Count)
		row.All += h.Count
	}
	return kinds
}

func (s *Server) setStock(c *gin.Context) {
	f, err := readForm(c)
	if err != nil {
		s.fail(c, err)
		return
	}
	h := gear.Holding{Place: f.text("place"), Count: f.number("count", "pieces")}
	h.Model, err = s.store.Model(c, f.text("model"))
	switch {
	case err == store.ErrNotFound:
		f.fault("model", "Choose a model from the library, or enter it under Gear first.")
	case err != nil:
		s.fail(c, err)
		return
	}
	f.faults = append(f.faults, exchange.CheckHolding(h)...)
	if len(f.faults) > 0 {
		s.showStock(c, http.StatusUnprocessableEntity, &refused{form: "stock", faults: f.faults, problem: f.problem()})
		return
	}
	if err := s.store.SetStock(c, h); err != nil {
		s.fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/stock")
}

// stockFiles are the forms in which the stock is written, by ending.
var stockFiles = map[string]fileForm[gear.Holding]{
	".csv":  {typeCSV, exchange.WriteStock},
	".xlsx": {typeXLSX, exchange.WriteStockWorkbook},
}

// exportStock writes the stock as a table or a workbook.
func (s *Server) exportStock(c *gin.Context) {
	held, err := s.store.Stock(c)
	if err != nil {
		s.fail(c, err)
		return
	}
	sendFile(s, c, stockFiles, held)
}

// incomingView is what a stock list would change.
type incomingView struct {
	Changes []stockChange
	List    string // as it was read, to be sent again when it is taken
}

type stockChange struct {
	Title, Place  string
	Before, After int
}

// importStock reads a stock list and shows what it would change. Nothing is
// changed before somebody says so.
func (s *Server) importStock(c *gin.Context) {
	var read []gear.Holding
	file, err := uploaded(c)
	if err == nil {
		defer file.Close()
		read, err = s.readStock(c, file)
	}
	if err != nil {
		s.refuseStock(c, err)
		return
	}
	have, err := s.store.Stock(c)
	if err != nil {
		s.fail(c, err)
		return
	}
	changes, same := exchange.DiffStock(have, read)
	var v incomingView
	for _, x := range changes {
		v.Changes = append(v.Changes, stockChange{x.Model.Title(), x.Place, x.Before, x.After})
	}
	var list strings.Builder
	if err := exchange.WriteStock(&list, read); err != nil {
		s.fail(c, err)
		return
	}
	v.List = list.String()
	p := s.gearPage(c, "Stock list", fmt.Sprintf("%s changed, %s as they are. Nothing is taken yet.",
		plural(len(changes), "entry", "entries"), words.Small(plural(same, "entry", "entries"))))
	p.Body = v
	s.render(c, http.StatusOK, "incoming", p)
}

// takeStock takes a stock list that was shown: all of it.
func (s *Server) takeStock(c *gin.Context) {
	f, err := readForm(c)
	if err != nil {
		s.refuseStock(c, err)
		return
	}
	read, err := s.readStock(c, strings.NewReader(f.text("list")))
	if err == nil {
		err = s.store.SetStock(c, read...)
	}
	if err != nil {
		s.refuseStock(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/stock")
}

func (s *Server) readStock(c *gin.Context, list io.Reader) ([]gear.Holding, error) {
	models, err := s.store.Models(c)
	if err != nil {
		return nil, err
	}
	return exchange.ReadStock(list, models)
}

// refuseStock says what is wrong with a stock list.
func (s *Server) refuseStock(c *gin.Context, err error) {
	if said, status, wrong := uploadFault(err); wrong {
		s.showStock(c, status, &refused{form: "stock-file", problem: "Nothing was imported. " + said})
		return
	}
	s.fail(c, err)
}

// kindPlural names several devices of a kind.
func kindPlural(k gear.Kind) string {
	switch k {
	case gear.KindSwitch:
		return "network switches"
	case gear.KindStageBox:
		return "stage boxes and multicores"
	case gear.KindCable:
		return "leads"
	}
	return string(k) + "s"
}
