package web

import (
	"embed"
	"fmt"
	"hash/fnv"
	"html/template"
	"io/fs"
	"net/http"
	"net/url"
	"path"
	"strconv"
	"strings"
	"time"
	"unicode"

	"github.com/gin-gonic/gin"

	"largo/core/finding"
	"largo/core/reckon"
	"largo/core/rig"
	"largo/core/survey"
	"largo/store"
)

//go:embed templates static
var files embed.FS

// page is everything a template shows.
type page struct {
	Title   string
	Verdict string // the answer, in one line
	Problem string // what went wrong, above everything
	Again   *again // an edit that met another one
	Scheme  string // day, dark, or "" for the system's
	Here    string // path of this page
	Stage   finding.Stage
	Job     *jobFrame
	Strip   []stripItem
	Margin  margin
	Finds   []findItem
	FindsIs part // the list of finds, as the page may have it
	Keys    []keyHelp
	Command string        // id of the next edit
	List    string        // which of several lists is open
	Act     template.HTML // the hidden fields of every form that edits a job
	Body    any

	ask     url.Values // what is asked of the page beside its matter
	typed   url.Values // what was sent, where it was refused
	refused *refused
	marks   []string        // of its parts
	known   map[string]bool // marks of what the page that sent an edit shows
	report  *survey.Report
	job     store.Job
	gin     *gin.Context
}

// jobFrame is what the head of every page of a job says.
type jobFrame struct {
	Slug, Title, Facts string
	Number             int
	Said, Ago          string
	CanUndo, CanRedo   bool
}

// part is a piece of a page with a mark that is another as soon as anything in
// it is. What the page that sent an edit has already is sent as the mark alone.
type part struct {
	Mark  string
	Known bool
}

// part marks a piece of the page, which is text.
func (p *page) part(text string) part {
	h := fnv.New64a()
	h.Write([]byte(text))
	mark := strconv.FormatUint(h.Sum64(), 36)
	p.marks = append(p.marks, mark)
	return part{mark, p.known[mark]}
}

// drawnPart is a part with its HTML, of which it has its mark.
type drawnPart struct {
	part
	HTML template.HTML
}

// draw draws a part of a page from its template. Its mark is that of its HTML,
// so that no field of it can be forgotten; the hidden fields that differ in
// every answer do not count.
func (s *Server) draw(p *page, name, part string) (drawnPart, error) {
	var out strings.Builder
	if err := s.pages[name].ExecuteTemplate(&out, part, p); err != nil {
		return drawnPart{}, err
	}
	html := out.String()
	return drawnPart{p.part(strings.ReplaceAll(html, string(p.Act), "")), template.HTML(html)}, nil
}

// stripItem is a stage on the strip of the day.
type stripItem struct {
	Title, Href string
	Here        bool
	State       string // fine, mind, mend or stop
	Count       int    // findings to stop or mend
}

// findItem is a place to go to or, with Press, a button of the page to press.
type findItem struct{ Label, Note, Href, Press string }

type keyHelp struct{ Key, Does string }

// newPage reads a job and everything that follows from it.
func (s *Server) newPage(c *gin.Context, at finding.Stage, j store.Job, ask url.Values, wrong *refused) (*page, error) {
	report := s.survey(j)
	p := &page{Title: at.Title() + " · " + j.Rig.Brief.Title, Verdict: report.Says(at), Scheme: scheme(c), Here: "/jobs/" + j.Slug + "/" + string(at), Stage: at,
		Command: newCommand(), known: knownTo(c), report: report, job: j, ask: ask, refused: wrong, gin: c}
	if wrong != nil {
		p.typed, p.Problem, p.Again = c.Request.PostForm, wrong.problem, wrong.again
	}
	p.Job = &jobFrame{Slug: j.Slug, Title: j.Rig.Brief.Title, Facts: facts(j.Rig.Brief), Number: j.Number, Said: j.Said,
		Ago: ago(time.Since(j.At)), CanUndo: j.CanUndo, CanRedo: j.CanRedo}
	var act pen
	act.put(`<input type="hidden" name="rev" value="`, strconv.Itoa(j.Number), `"><input type="hidden" name="command" value="`, said(p.Command), `"><input type="hidden" name="stage" value="`, said(at), `">`)
	if p.List = ask.Get("list"); p.List == "" {
		p.List = c.PostForm("list")
	}
	if p.List != "" {
		act.put(`<input type="hidden" name="list" value="`, said(p.List), `">`)
	}
	if at == finding.Wire {
		act.put(`<input type="hidden" name="follow" value="`, said(ask.Get("follow")), `">`)
	}
	p.Act = template.HTML(act.String())
	p.Strip = strip(j.Slug, at, report)
	p.Finds = finds(j.Slug, j.Rig)
	p.FindsIs = p.part(fmt.Sprintf("%#v", p.Finds))
	p.Keys = stageKeys
	return p, s.fillMargin(p)
}

// aside begins a page of a job that stands beside the stages, without a margin.
func (s *Server) aside(c *gin.Context, title string) (*page, error) {
	j, err := s.store.Job(c, c.Param("job"))
	if err != nil {
		return nil, err
	}
	p, err := s.newPage(c, "", j, nil, nil)
	if err != nil {
		return nil, err
	}
	p.Title, p.Here = title+" · "+j.Rig.Brief.Title, c.Request.URL.Path
	return p, nil
}

func facts(b rig.Brief) string {
	var parts []string
	if t, err := time.Parse("2006-01-02", b.Date); err == nil {
		parts = append(parts, t.Format("Monday 2 January 2006"))
	}
	if b.Listeners > 0 {
		parts = append(parts, strconv.Itoa(b.Listeners)+" listeners")
	}
	if b.Region != "" {
		parts = append(parts, string(b.Region))
	}
	if b.Outdoors {
		parts = append(parts, "outdoors")
	}
	return strings.Join(parts, " · ")
}

func ago(d time.Duration) string {
	switch {
	case d < time.Minute:
		return "just now"
	case d < time.Hour:
		return fmt.Sprintf("%.0f min ago", d.Minutes())
	case d < 48*time.Hour:
		return fmt.Sprintf("%.0f h ago", d.Hours())
	}
	return fmt.Sprintf("%.0f days ago", d.Hours()/24)
}

func strip(slug string, here finding.Stage, report *survey.Report) []stripItem {
	items := make([]stripItem, 0, len(survey.Stages))
	for _, stage := range survey.Stages {
		at := stage.Name
		fs := report.At(at)
		item := stripItem{Title: at.Title(), Href: "/jobs/" + slug + "/" + string(at), Here: at == here, State: "fine"}
		if w := finding.Worst(fs); w > 0 {
			item.State = w.String()
		} else if report.Empty(at) {
			item.State = "empty"
		}
		for _, f := range fs {
			if f.Gravity > finding.Mind {
				item.Count++
			}
		}
		items = append(items, item)
	}
	return items
}

// finds lists where the command line can go.
func finds(slug string, r rig.Rig) []findItem {
	base := "/jobs/" + slug
	items := make([]findItem, 0, len(survey.Stages)+len(r.Devices)+4)
	for _, stage := range survey.Stages {
		at := stage.Name
		items = append(items, findItem{Label: at.Title(), Note: "stage", Href: base + "/" + string(at)})
	}
	items = append(items,
		findItem{Label: "Undo", Note: "act", Press: "undo"}, findItem{Label: "Redo", Note: "act", Press: "redo"},
		findItem{Label: "Add devices", Note: "act", Href: base + "/wire#add-model"}, findItem{Label: "Plug a lead", Note: "act", Href: base + "/wire#connect-from"},
		findItem{Label: "Change the power policy or bridging", Note: "act", Href: base + "/match#wishes-policy"},
		findItem{Label: "Plan the best amplifiers", Note: "act", Href: base + "/match/plan"}, findItem{Label: "What if: distance, boxes, power", Note: "act", Href: base + "/match/whatif"},
		findItem{Label: "Change the brief", Note: "act", Href: base + "/brief#brief-title"},
		findItem{Label: "Sheet to print", Note: "paper", Href: base + "/sheet"}, findItem{Label: "History", Note: "revisions", Href: base + "/history"},
		findItem{Label: "Rig file", Note: "export", Href: base + "/rig.json"}, findItem{Label: "All jobs", Note: "tour", Href: "/"}, findItem{Label: "Gear", Note: "library", Href: "/gear"}, findItem{Label: "Stock", Note: "what is owned", Href: "/stock"})
	for _, d := range r.Devices {
		items = append(items, findItem{Label: d.Tag, Note: "device", Href: base + "/wire?device=" + url.QueryEscape(d.Tag) + "#device"})
	}
	return items
}

var stageKeys = []keyHelp{
	{fmt.Sprintf("1 to %d", len(survey.Stages)), "go to a stage of the strip"}, {"/ or Ctrl K", "find a device, a stage or a page"}, {"u", "undo"}, {"r", "redo"},
	{"p", "the sheet to print"}, {"d", "daylight or dark stage"}, {"Esc", "close"}, {"?", "these keys"},
}

// sum is a figure that shows its working when asked.
type sum struct {
	Href, Text, Name string
	Known            bool
	Lacks            string
}

// HTML writes the figure as a link to its working. A page has hundreds of
// them, so the template leaves this to Go.
func (s sum) HTML() template.HTML {
	var w pen
	if s.Known {
		w.put(`<a class="sum" href="`, said(s.Href), `" title="How `, said(s.Name), ` was worked out">`, said(s.Text), `</a>`)
	} else {
		w.put(`<a class="sum unknown" href="`, said(s.Href), `" title="`, said(s.Lacks), `">unknown</a>`)
	}
	return template.HTML(w.String())
}

func (p *page) sum(place string, f reckon.Figure) sum {
	q := url.Values{"sum": {place}, "figure": {f.Key}}
	return sum{Href: p.Here + "?" + q.Encode(), Text: f.Text(), Name: f.Name, Known: f.Known(), Lacks: f.Lacks}
}

// field is one input with what was typed and what was wrong with it.
type field struct {
	ID, Name, Label, Value, Hint, Fault, Kind string
	Choices                                   []choice
	Required                                  bool
}

type choice struct {
	Value, Label string
	Chosen       bool
}

// Options writes the choices of a field. A page may offer hundreds of them, so
// the template leaves this to Go.
func (f field) Options() template.HTML {
	var w pen
	for _, c := range f.Choices {
		w.put(`<option value="`, said(c.Value), `"`, when(c.Chosen, " selected"), `>`, said(c.Label), `</option>`)
	}
	return template.HTML(w.String())
}

// Field makes an input of a form; form tells the forms of a page apart.
func (p *page) Field(form, name, label, value, hint string) field {
	f := field{ID: ident(form + "-" + name), Name: name, Label: label, Value: value, Hint: hint, Kind: "text"}
	if p.refused != nil && p.refused.form == form {
		f.Value = p.typed.Get(name)
		for _, x := range p.refused.faults {
			if x.Field == name && f.Fault == "" { // the first says what to do first
				f.Fault = x.Say
			}
		}
	}
	return f
}

// Choose makes a choice of a form.
func (p *page) Choose(form, name, label, value string, choices ...choice) field {
	f := p.Field(form, name, label, value, "")
	f.Kind = "select"
	for _, c := range choices {
		c.Chosen = c.Value == f.Value
		f.Choices = append(f.Choices, c)
	}
	return f
}

// Loose lists the faults of a refused form that belong to none of its fields.
func (p *page) Loose(form string, fields ...string) []string {
	if p.refused == nil || p.refused.form != form {
		return nil
	}
	var said []string
next:
	for _, x := range p.refused.faults {
		for _, name := range fields {
			if x.Field == name {
				continue next
			}
		}
		said = append(said, x.Say)
	}
	return said
}

func choices[T ~string](values []T) []choice {
	out := make([]choice, len(values))
	for i, v := range values {
		out[i] = choice{Value: string(v), Label: string(v)}
	}
	return out
}

// ident makes an element id of any text.
func ident(s string) string {
	return strings.Trim(strings.Map(func(r rune) rune {
		if unicode.IsLetter(r) || unicode.IsDigit(r) {
			return r
		}
		return '-'
	}, s), "-")
}

// pages are the parsed templates by name.
type pages map[string]*template.Template

// parsePages parses the frame once with each page's own template.
func parsePages(static staticFiles) (pages, error) {
	funcs := template.FuncMap{
		"ident":  ident,
		"static": static.url,
		"jobActs": func(p *page, line jobLine) jobActs {
			return jobActs{line, p.Command, p.Body.(jobsView).Shelf}
		},
		"px":  func(v float64) string { return strconv.FormatFloat(v, 'f', 1, 64) },
		"add": func(a, b float64) float64 { return a + b },
	}
	frame, err := template.New("frame.html").Funcs(funcs).ParseFS(files, "templates/*.html")
	if err != nil {
		return nil, err
	}
	names, err := fs.Glob(files, "templates/*/*.html")
	if err != nil {
		return nil, err
	}
	all := pages{}
	for _, name := range names {
		t, err := frame.Clone()
		if err != nil {
			return nil, err
		}
		if t, err = t.ParseFS(files, name); err != nil {
			return nil, err
		}
		key := path.Base(path.Dir(name))
		if base := strings.TrimSuffix(path.Base(name), ".html"); base != "page" {
			key = base
		}
		all[key] = t
	}
	return all, nil
}

// render writes a page whole or, when its template fails, the page that says so
// and nothing of it.
func (s *Server) render(c *gin.Context, status int, name string, p *page) {
	var out strings.Builder
	if err := s.pages[name].ExecuteTemplate(&out, "frame.html", p); err != nil {
		s.log.ErrorContext(c, "template", "page", name, "error", err)
		if name == "problem" { // not even that
			c.String(http.StatusInternalServerError, "Something went wrong inside Largo; the log says what.")
			return
		}
		s.fail(c, fmt.Errorf("the page %s: %w", name, err))
		return
	}
	if p.Job != nil {
		s.keepShown(p)
	}
	c.Header("Cache-Control", "no-store")
	c.Data(status, "text/html; charset=utf-8", []byte(out.String()))
}

// scheme is the chosen colour scheme; "" leaves it to the system.
func scheme(c *gin.Context) string {
	if v, err := c.Cookie("scheme"); err == nil && (v == "day" || v == "dark") {
		return v
	}
	return ""
}

func (s *Server) setScheme(c *gin.Context) {
	v := c.PostForm("scheme")
	if v != "day" && v != "dark" {
		v = ""
	}
	http.SetCookie(c.Writer, &http.Cookie{Name: "scheme", Value: v, Path: "/", MaxAge: 365 * 24 * 3600, HttpOnly: true, SameSite: http.SameSiteStrictMode})
	c.Redirect(http.StatusSeeOther, ownPage(c.PostForm("back")))
}
