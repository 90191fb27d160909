package gear

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
	"largo/web/kit"
)

type stockView struct {
	Search kit.Field
	Places []string
	Kinds  []stockKind
	Add    []kit.Field
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

func listStock(s *kit.Server, c *gin.Context) { showStock(s, c, http.StatusOK, nil) }

func showStock(s *kit.Server, c *gin.Context, status int, wrong *kit.Refused) {
	held, err := s.Store.Stock(c)
	if err != nil {
		s.Fail(c, err)
		return
	}
	p := s.Plain(c, "Stock", "")
	p.Here, p.Refused = "/stock", wrong
	if wrong != nil {
		p.Typed, p.Problem = c.Request.PostForm, wrong.Problem
	}
	v := stockView{Places: placesOf(held), Loose: p.Loose("stock", "model", "place", "count")}
	v.Kinds = stockKinds(held, v.Places)
	typed := c.Query("q")
	found, all, err := s.Store.ModelNames(c, typed, kit.MostOffered)
	if err != nil {
		s.Fail(c, err)
		return
	}
	v.Search = p.Field("stock-search", "q", "Find the model", typed, "maker, name or kind")
	v.Found = kit.Offered(len(found), all)
	v.Add = []kit.Field{p.Choose("stock", "model", "Model", "", kit.ModelChoices(found)...),
		p.Field("stock", "place", "Where it lies", "", "a truck, a store, a shelf"),
		p.Field("stock", "count", "How many there", "", "0 takes the entry away")}
	head, err := s.Store.StockHead(c)
	if err == nil {
		v.Acts, err = s.Store.StockHistory(c, mostLines)
	}
	if err != nil {
		s.Fail(c, err)
		return
	}
	v.Act = kit.HiddenAct(p.Command, int(head))
	p.Verdict = stockVerdict(held, v.Places)
	p.Body = v
	s.Render(c, status, "stock", p)
}

// stockBase is the act that a form of the stock shows the stock after.
func stockBase(f *kit.Form) int64 {
	n, err := strconv.ParseInt(f.Gin.PostForm("base"), 10, 64)
	if err != nil || n < 0 {
		f.Fault("", "The page does not say which stock it shows. Load it again.")
	}
	return n
}

func placesOf(held []gear.Holding) []string {
	var places []string
	for _, h := range held {
		places = append(places, h.Place)
	}
	slices.Sort(places)
	return slices.Compact(places)
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
			kinds[k].Rows = append(kinds[k].Rows,
				stockRow{Title: h.Model.Title(), Href: "/gear/model/" + url.PathEscape(h.Model.ID),
					Counts: make([]string, len(places))})
		}
		row := &kinds[k].Rows[r]
		row.Counts[slices.Index(places, h.Place)] = fmt.Sprint(h.Count)
		row.All += h.Count
	}
	return kinds
}

func setStock(s *kit.Server, c *gin.Context, f *kit.Form) {
	h := gear.Holding{Place: f.Text("place"), Count: f.Number("count", "pieces")}
	of, err := s.Store.Model(c, f.Text("model"))
	h.Model = of.Model
	switch {
	case errors.Is(err, store.ErrNotFound):
		f.Fault("model", "Choose a model from the library, or enter it under Gear first.")
	case err != nil:
		s.Fail(c, err)
		return
	}
	f.Faults = append(f.Faults, exchange.CheckHolding(h)...)
	base, by := stockBase(f), f.Act()
	if len(f.Faults) > 0 {
		showStock(s, c, http.StatusUnprocessableEntity, &kit.Refused{Form: "stock", Faults: f.Faults, Problem: f.Problem()})
		return
	}
	err = s.Store.SetStock(c, by, fmt.Sprintf("%d of %s in %s", h.Count, h.Model.Title(), h.Place), base, h)
	switch {
	case errors.Is(err, store.ErrConflict):
		showStock(s, c, http.StatusConflict,
			&kit.Refused{Form: "stock",
				Problem: "Not kept: somebody else has changed how many of these lie there since you opened the page. Look at " +
					"the table; keep it again if yours is right."})
	case err != nil:
		s.Fail(c, err)
	default:
		c.Redirect(http.StatusSeeOther, "/stock")
	}
}

// undoStock takes one act on the stock back.
func undoStock(s *kit.Server, c *gin.Context, f *kit.Form) {
	act, err := strconv.ParseInt(f.Text("act"), 10, 64)
	if err != nil {
		f.Fault("", "No act of the history is named.")
	}
	by := f.Act()
	if len(f.Faults) > 0 {
		showStock(s, c, http.StatusUnprocessableEntity,
			&kit.Refused{Form: "stock-undo", Faults: f.Faults, Problem: f.Problem()})
		return
	}
	err = s.Store.UndoStock(c, act, by)
	switch {
	case errors.Is(err, store.ErrConflict):
		showStock(s, c, http.StatusConflict,
			&kit.Refused{Form: "stock-undo",
				Problem: "Not undone: something of it was changed since, or it was undone already."})
	case err != nil:
		s.Fail(c, err)
	default:
		c.Redirect(http.StatusSeeOther, "/stock")
	}
}

// stockFiles are the forms in which the stock is written, by ending.
var stockFiles = map[string]kit.FileForm[gear.Holding]{
	".csv":  {Kind: kit.TypeCSV, Write: exchange.WriteStock},
	".xlsx": {Kind: kit.TypeXLSX, Write: exchange.WriteStockWorkbook},
}

// exportStock writes the stock as a table or a workbook.
func exportStock(s *kit.Server, c *gin.Context) {
	held, err := s.Store.Stock(c)
	if err != nil {
		s.Fail(c, err)
		return
	}
	kit.SendFile(s, c, stockFiles, held)
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
func importStock(s *kit.Server, c *gin.Context) {
	var read []gear.Holding
	file, err := kit.Uploaded(c)
	if err == nil {
		defer file.Close()
		read, err = readStock(s, c, file)
	}
	if err != nil {
		refuseStock(s, c, err)
		return
	}
	showIncoming(s, c, http.StatusOK, read, "")
}

// showIncoming shows what a stock list would change.
func showIncoming(s *kit.Server, c *gin.Context, status int, read []gear.Holding, problem string) {
	head, err := s.Store.StockHead(c)
	if err != nil {
		s.Fail(c, err)
		return
	}
	have, err := s.Store.Stock(c)
	if err != nil {
		s.Fail(c, err)
		return
	}
	changes, same := exchange.DiffStock(have, read)
	var v incomingView
	for _, x := range changes {
		v.Changes = append(v.Changes, stockChange{x.Model.Title(), x.Place, x.Before, x.After})
	}
	var list strings.Builder
	if err := exchange.WriteStock(&list, read); err != nil {
		s.Fail(c, err)
		return
	}
	v.List = list.String()
	p := s.Plain(c, "Stock list", fmt.Sprintf("%s changed, %s as they are. Nothing is taken yet.",
		words.Spell(len(changes), "entry", "entries"), words.Small(words.Spell(same, "entry", "entries"))))
	v.Act = kit.HiddenAct(p.Command, int(head))
	p.Problem, p.Body = problem, v
	s.Render(c, status, "incoming", p)
}

// takeStock takes a stock list that was shown: all of it.
func takeStock(s *kit.Server, c *gin.Context) {
	f, err := kit.ReadForm(c)
	if err != nil {
		refuseStock(s, c, err)
		return
	}
	base, by := stockBase(f), f.Act()
	read, err := readStock(s, c, strings.NewReader(f.Text("list")))
	if err == nil && len(f.Faults) > 0 {
		err = f.Faults
	}
	if err == nil {
		err = s.Store.SetStock(c, by, fmt.Sprintf("Took a list of %d entries", len(read)), base, read...)
	}
	switch {
	case errors.Is(err, store.ErrConflict):
		showIncoming(s, c, http.StatusConflict, read,
			"Nothing was taken: somebody else has changed some of it since this was shown. Here is what the list would "+
				"change now.")
	case err != nil:
		refuseStock(s, c, err)
	default:
		c.Redirect(http.StatusSeeOther, "/stock")
	}
}

func readStock(s *kit.Server, c *gin.Context, list io.Reader) ([]gear.Holding, error) {
	models, err := s.Store.AllModels(c)
	if err != nil {
		return nil, err
	}
	return exchange.ReadStock(list, models)
}

// refuseStock says what is wrong with a stock list.
func refuseStock(s *kit.Server, c *gin.Context, err error) {
	if said, status, wrong := kit.UploadFault(err); wrong {
		showStock(s, c, status, &kit.Refused{Form: "stock-file", Problem: "Nothing was imported. " + said})
		return
	}
	s.Fail(c, err)
}
