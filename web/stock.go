package web

import (
	"errors"
	"fmt"
	"html/template"
	"io"
	"net/http"
	"net/url"
	"slices"
	"strconv"
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
	Act    template.HTML
	Acts   []store.StockAct // what was done to it lately
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
	head, err := s.store.StockHead(c)
	if err == nil {
		v.Acts, err = s.store.StockHistory(c, mostLines)
	}
	if err != nil {
		s.fail(c, err)
		return
	}
	v.Act = stockAct(p.Command, head)
	p.Verdict = stockVerdict(held, v.Places)
	p.Body = v
	s.render(c, status, "stock", p)
}

// stockAct are the hidden fields of a form that changes the stock: what it
// shows is the stock after that act.
func stockAct(command string, head int64) template.HTML {
	var act pen
	act.put(`<input type="hidden" name="command" value="`, said(command), `"><input type="hidden" name="base" value="`, strconv.FormatInt(head, 10), `">`)
	return template.HTML(act.String())
}

// stockBase is the act that a form of the stock shows the stock after.
func (f *form) stockBase() int64 {
	n, err := strconv.ParseInt(f.c.PostForm("base"), 10, 64)
	if err != nil || n < 0 {
		f.fault("", "The page does not say which stock it shows. Load it again.")
	}
	return n
}

// mostOffered is how many models a form offers to choose from; a search
// narrows them.
const mostOffered = 200

func offered(shown, all int) string {
	if shown < all {
		return fmt.Sprintf("The first %d of %d models; type to narrow them.", shown, all)
	}
	return words.Spell(all, "model", "models") + " to choose from."
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
	of, err := s.store.Model(c, f.text("model"))
	h.Model = of.Model
	switch {
	case errors.Is(err, store.ErrNotFound):
		f.fault("model", "Choose a model from the library, or enter it under Gear first.")
	case err != nil:
		s.fail(c, err)
		return
	}
	f.faults = append(f.faults, exchange.CheckHolding(h)...)
	base, by := f.stockBase(), f.act()
	if len(f.faults) > 0 {
		s.showStock(c, http.StatusUnprocessableEntity, &refused{form: "stock", faults: f.faults, problem: f.problem()})
		return
	}
	err = s.store.SetStock(c, by, fmt.Sprintf("%d of %s in %s", h.Count, h.Model.Title(), h.Place), base, h)
	switch {
	case errors.Is(err, store.ErrConflict):
		s.showStock(c, http.StatusConflict, &refused{form: "stock", problem: "Not kept: somebody else has changed how many of these lie there since you opened the page. Look at the table; keep it again if yours is right."})
	case err != nil:
		s.fail(c, err)
	default:
		c.Redirect(http.StatusSeeOther, "/stock")
	}
}

// undoStock takes one act on the stock back.
func (s *Server) undoStock(c *gin.Context) {
	f, err := readForm(c)
	if err != nil {
		s.fail(c, err)
		return
	}
	act, err := strconv.ParseInt(f.text("act"), 10, 64)
	if err != nil {
		f.fault("", "No act of the history is named.")
	}
	by := f.act()
	if len(f.faults) > 0 {
		s.showStock(c, http.StatusUnprocessableEntity, &refused{form: "stock-undo", faults: f.faults, problem: f.problem()})
		return
	}
	err = s.store.UndoStock(c, act, by)
	switch {
	case errors.Is(err, store.ErrConflict):
		s.showStock(c, http.StatusConflict, &refused{form: "stock-undo", problem: "Not undone: something of it was changed since, or it was undone already."})
	case err != nil:
		s.fail(c, err)
	default:
		c.Redirect(http.StatusSeeOther, "/stock")
	}
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
	Act     template.HTML
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
	s.showIncoming(c, http.StatusOK, read, "")
}

// showIncoming shows what a stock list would change.
func (s *Server) showIncoming(c *gin.Context, status int, read []gear.Holding, problem string) {
	head, err := s.store.StockHead(c)
	if err != nil {
		s.fail(c, err)
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
		words.Spell(len(changes), "entry", "entries"), words.Small(words.Spell(same, "entry", "entries"))))
	v.Act = stockAct(p.Command, head)
	p.Problem, p.Body = problem, v
	s.render(c, status, "incoming", p)
}

// takeStock takes a stock list that was shown: all of it.
func (s *Server) takeStock(c *gin.Context) {
	f, err := readForm(c)
	if err != nil {
		s.refuseStock(c, err)
		return
	}
	base, by := f.stockBase(), f.act()
	read, err := s.readStock(c, strings.NewReader(f.text("list")))
	if err == nil && len(f.faults) > 0 {
		err = f.faults
	}
	if err == nil {
		err = s.store.SetStock(c, by, fmt.Sprintf("Took a list of %d entries", len(read)), base, read...)
	}
	switch {
	case errors.Is(err, store.ErrConflict):
		s.showIncoming(c, http.StatusConflict, read, "Nothing was taken: somebody else has changed some of it since this was shown. Here is what the list would change now.")
	case err != nil:
		s.refuseStock(c, err)
	default:
		c.Redirect(http.StatusSeeOther, "/stock")
	}
}

func (s *Server) readStock(c *gin.Context, list io.Reader) ([]gear.Holding, error) {
	models, err := s.store.AllModels(c)
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
