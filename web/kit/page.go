package kit

import (
	"fmt"
	"hash/fnv"
	"html/template"
	"net/http"
	"net/url"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"largo/core/finding"
	"largo/core/rig"
	"largo/core/survey"
	"largo/store"
)

// Page is everything a template shows.
type Page struct {
	Title   string
	Verdict string // the answer, in one line
	Problem string // what went wrong, above everything
	Again   *Again // an edit that met another one
	Scheme  string // day, dark, or "" for the system's
	Here    string // path of this page
	Stage   finding.Stage
	Job     *jobFrame
	Strip   []stripItem
	Margin  margin
	Finds   []FindItem
	FindsIs Part // the list of finds, as the page may have it
	Keys    []KeyHelp
	Command string        // id of the next edit
	List    string        // which of several lists is open
	Act     template.HTML // the hidden fields of every form that edits a job
	Body    any

	Ask     url.Values // what is asked of the page beside its matter
	Typed   url.Values // what was sent, where it was refused
	Refused *Refused
	marks   []string        // of its parts
	has     map[string]bool // marks of what the page that sent an edit shows
	Report  *survey.Report
	Stored  store.Job
	Gin     *gin.Context
}

// Rig is the rig that the page shows.
func (p *Page) Rig() rig.Rig { return p.Report.Rig() }

// Stops are the findings of every stage at stop: while there are any, no page
// tells anyone to energise.
func (p *Page) Stops() []finding.Finding {
	all := p.Report.Findings
	for i, f := range all { // the gravest come first
		if f.Gravity < finding.Stop {
			return all[:i]
		}
	}
	return all
}

// jobFrame is what the head of every page of a job says.
type jobFrame struct {
	Slug, Title, Facts string
	Number             int
	Said, Ago          string
	CanUndo, CanRedo   bool
}

// Part is a piece of a page with a mark that is another as soon as anything in
// it is. What the page that sent an edit has already is sent as the mark alone.
type Part struct {
	Mark  string
	Known bool
}

// Part marks a piece of the page, which is text.
func (p *Page) Part(text string) Part {
	h := fnv.New64a()
	h.Write([]byte(text))
	mark := strconv.FormatUint(h.Sum64(), 36)
	p.marks = append(p.marks, mark)
	return Part{mark, p.has[mark]}
}

// DrawnPart is a part with its HTML, of which it has its mark.
type DrawnPart struct {
	Part
	HTML template.HTML
}

// Draw draws a part of a page from its template. Its mark is that of its HTML,
// so that no field of it can be forgotten; the hidden fields that differ in
// every answer do not count.
func (s *Server) Draw(p *Page, name, part string) (DrawnPart, error) {
	var out strings.Builder
	if err := s.pages[name].ExecuteTemplate(&out, part, p); err != nil {
		return DrawnPart{}, err
	}
	html := out.String()
	return DrawnPart{p.Part(strings.ReplaceAll(html, string(p.Act), "")), template.HTML(html)}, nil
}

// stripItem is a stage on the strip of the day.
type stripItem struct {
	Title, Href string
	Here        bool
	State       string // fine, mind, mend or stop
	Count       int    // findings to stop or mend
}

// FindItem is a place to go to or, with Press, a button of the page to press.
type FindItem struct{ Label, Note, Href, Press string }

// KeyHelp says what a key does.
type KeyHelp struct{ Key, Does string }

// newPage reads a job and everything that follows from it.
func (s *Server) newPage(c *gin.Context, at finding.Stage, j store.Job, ask url.Values, wrong *Refused) (*Page, error) {
	report := s.survey(j)
	p := &Page{Title: at.Title() + " · " + j.Rig.Brief.Title, Verdict: report.Says(at), Scheme: Scheme(c),
		Here: "/jobs/" + j.Slug + "/" + string(at), Stage: at,
		Command: NewCommand(), has: knownTo(c), Report: report, Stored: j, Ask: ask, Refused: wrong, Gin: c}
	if wrong != nil {
		p.Typed, p.Problem, p.Again = c.Request.PostForm, wrong.Problem, wrong.Again
	}
	p.Job = &jobFrame{Slug: j.Slug, Title: j.Rig.Brief.Title, Facts: Facts(j.Rig.Brief), Number: j.Number, Said: j.Said,
		Ago: Ago(time.Since(j.At)), CanUndo: j.CanUndo, CanRedo: j.CanRedo}
	if p.List = ask.Get("list"); p.List == "" {
		p.List = c.PostForm("list")
	}
	p.Act = s.act(p)
	p.Strip = strip(j.Slug, at, report)
	p.Finds = s.finds(j.Slug, j.Rig)
	p.FindsIs = p.Part(fmt.Sprintf("%#v", p.Finds))
	room, _ := s.room(at)
	p.Keys = append(room.Keys[:len(room.Keys):len(room.Keys)], stageKeys...)
	return p, s.fillMargin(p)
}

// act are the hidden fields of every form that edits a job.
func (s *Server) act(p *Page) template.HTML {
	var w Pen
	hidden := func(name, value string) { w.Put(`<input type="hidden" name="{}" value="{}">`, name, value) }
	hidden("rev", strconv.Itoa(p.Job.Number))
	hidden("command", p.Command)
	hidden("stage", string(p.Stage))
	if p.List != "" {
		hidden("list", p.List)
	}
	room, _ := s.room(p.Stage)
	for _, name := range room.Carries {
		hidden(name, p.Ask.Get(name))
	}
	return w.HTML()
}

// Aside begins a page of a job that stands beside the stages, without a margin.
func (s *Server) Aside(c *gin.Context, title string) (*Page, error) {
	j, err := s.Store.Job(c, c.Param("job"))
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

// Facts are the day, the listeners, the mains and the sky of a job in one line.
func Facts(b rig.Brief) string {
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

// Ago says how long ago something was.
func Ago(d time.Duration) string {
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
		if w := report.Worst(at); w > 0 && !report.Empty(at) {
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

// finds lists where the command line can go: the stages, what each room offers,
// the papers, and the devices.
func (s *Server) finds(slug string, r rig.Rig) []FindItem {
	base := "/jobs/" + slug
	items := make([]FindItem, 0, len(survey.Stages)+len(r.Devices)+16)
	for _, stage := range survey.Stages {
		items = append(items, FindItem{Label: stage.Name.Title(), Note: "stage", Href: base + "/" + string(stage.Name)})
	}
	items = append(items, FindItem{Label: "Undo", Note: "act", Press: "undo"},
		FindItem{Label: "Redo", Note: "act", Press: "redo"})
	for _, room := range s.rooms {
		for _, f := range room.Finds {
			f.Href = base + f.Href
			items = append(items, f)
		}
	}
	items = append(items, everywhere...)
	for _, d := range r.Devices {
		items = append(items, FindItem{Label: d.Tag, Note: "device", Href: base + "/wire?device=" +
			url.QueryEscape(d.Tag) + "#device"})
	}
	return items
}

// everywhere is what the finder offers on every page.
var everywhere = []FindItem{
	{Label: "All jobs", Note: "tour", Href: "/"},
	{Label: "Gear", Note: "library", Href: "/gear"},
	{Label: "Stock", Note: "what is owned", Href: "/stock"},
	{Label: "Test signals", Note: "played here or as WAV", Href: "/signals"},
	{Label: "Thermal bench", Note: "what drivers stand", Href: "/bench"},
}

// stageKeys are those of every page of a job.
var stageKeys = []KeyHelp{
	{fmt.Sprintf("1 to %d", len(survey.Stages)), "go to a stage of the strip"},
	{"/ or Ctrl K", "find a device, a stage or a page"}, {"u", "undo"}, {"r", "redo"},
	{"p", "the sheet to print"}, {"d", "daylight or dark stage"}, {"Esc", "close"}, {"?", "these keys"},
}

// Plain begins a page of no job.
func (s *Server) Plain(c *gin.Context, title, verdict string) *Page {
	return &Page{Title: title + " · Largo", Verdict: verdict, Scheme: Scheme(c), Here: c.Request.URL.Path,
		Command: NewCommand(),
		Keys:    PlainKeys, Gin: c, Finds: everywhere}
}

// PlainKeys are those of a page of no job.
var PlainKeys = []KeyHelp{{"/ or Ctrl K", "find a job or a page"}, {"d", "daylight or dark stage"}, {"Esc", "close"},
	{"?", "these keys"}}

// Scheme is the chosen colour scheme; "" leaves it to the system.
func Scheme(c *gin.Context) string {
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
	http.SetCookie(c.Writer, &http.Cookie{Name: "scheme", Value: v, Path: "/", MaxAge: 365 * 24 * 3600, HttpOnly: true,
		SameSite: http.SameSiteStrictMode})
	c.Redirect(http.StatusSeeOther, ownPage(c.PostForm("back")))
}
