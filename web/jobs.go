package web

import (
	"context"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"largo/core/fault"
	"largo/core/finding"
	"largo/core/rig"
	"largo/core/survey"
	"largo/core/words"
	"largo/exchange"
	"largo/store"
)

// mostUpload bounds an upload: the file itself and its wrapping, in bytes.
const mostUpload = exchange.MostBytes + 64<<10

type jobsView struct {
	Shelf   store.Shelf
	Shelves []choice
	Jobs    []jobLine
	Search  field
	Pages   pager
	Form    []field
	File    field
	Backup  string // when the last one was made
}

type jobLine struct {
	Slug                                   string
	Href, Title, Place, Facts, State, Says string
}

// jobActs are the buttons that put a job away.
type jobActs struct {
	Line    jobLine
	Command string
	Shelf   store.Shelf
}

// pager leads through a list that is too long for one page.
type pager struct {
	Said         string // as "51 to 100 of 704"
	Newer, Older string // addresses, "" at the ends
}

// mostOnPage is how many jobs, or lines of a history, one page shows.
const mostOnPage = 50

// pageAsked is which page of a list is asked for, from 0.
func pageAsked(c *gin.Context) int {
	n, err := strconv.Atoi(c.Query("page"))
	if err != nil || n < 1 || n > 1_000_000 {
		return 0
	}
	return n - 1
}

// pagerOf leads on from a page; the address keeps what is asked beside it.
func pagerOf(path string, ask url.Values, page, shown, all int) pager {
	at := func(n int) string {
		q := url.Values{}
		for name, values := range ask {
			if name != "page" && len(values) > 0 && values[0] != "" {
				q.Set(name, values[0])
			}
		}
		if n > 0 {
			q.Set("page", strconv.Itoa(n+1))
		}
		if len(q) == 0 {
			return path
		}
		return path + "?" + q.Encode()
	}
	var p pager
	if all <= mostOnPage && page == 0 {
		return p
	}
	p.Said = fmt.Sprintf("%d to %d of %d", min(page*mostOnPage+1, all), page*mostOnPage+shown, all)
	if shown == 0 {
		p.Said = fmt.Sprintf("none of %d on this page", all)
	}
	if page > 0 {
		p.Newer = at(page - 1)
	}
	if (page+1)*mostOnPage < all {
		p.Older = at(page + 1)
	}
	return p
}

func (s *Server) jobs(c *gin.Context) { s.showJobs(c, http.StatusOK, nil) }

func (s *Server) showJobs(c *gin.Context, status int, wrong *refused) {
	shelf := store.Shelf(c.Query("shelf"))
	if shelf != store.Archived && shelf != store.Deleted {
		shelf = store.AtHand
	}
	typed, at := c.Query("q"), pageAsked(c)
	list, n, err := s.store.List(c, shelf, typed, rulesID(), at*mostOnPage, mostOnPage)
	for i := range list {
		if err == nil && !list[i].Judged {
			if err = s.judge(c, &list[i]); errors.Is(err, store.ErrNotFound) {
				err = nil // it went on meanwhile
			}
			n.Unjudged--
			n.Count(list[i])
		}
	}
	if err != nil {
		s.fail(c, err)
		return
	}
	if n.Unjudged > 0 {
		s.judgeMore()
	}
	p := &page{Title: "Largo", Scheme: scheme(c), Here: "/", Command: newCommand(), refused: wrong, gin: c, Keys: plainKeys,
		Finds: []findItem{{Label: "Gear", Note: "library", Href: "/gear"}, {Label: "Stock", Note: "what is owned", Href: "/stock"}, {Label: "Archive", Note: "jobs put by", Href: "/?shelf=archived"}}}
	if wrong != nil {
		p.typed, p.Problem = c.Request.PostForm, wrong.problem
	}
	v := jobsView{Shelf: shelf, Form: briefFields(p, "job", rig.Brief{}), File: p.Field("import", "file", "Rig file", "", ""),
		Search: p.Field("jobs", "q", "Search", typed, "title, place or date"), Pages: pagerOf("/", c.Request.URL.Query(), at, len(list), n.All)}
	for _, at := range []choice{{Label: "Jobs", Value: "/"}, {Label: "Archive", Value: "/?shelf=archived"}, {Label: "Deleted", Value: "/?shelf=deleted"}} {
		at.Chosen = at.Value == "/" && shelf == store.AtHand || shelf != store.AtHand && at.Value == "/?shelf="+string(shelf)
		v.Shelves = append(v.Shelves, at)
	}
	for _, j := range list {
		line := jobLineOf(j)
		v.Jobs = append(v.Jobs, line)
		p.Finds = append(p.Finds, findItem{Label: line.Title, Note: "job", Href: line.Href})
	}
	if v.Backup, err = s.backupSaid(c); err != nil {
		s.fail(c, err)
		return
	}
	p.Verdict = jobsVerdict(shelf, typed, n)
	p.Body = v
	s.render(c, status, "jobs", p)
}

// jobsVerdict says how the jobs of a list stand: all of them, not only those of
// the page.
func jobsVerdict(shelf store.Shelf, typed string, n store.Counts) string {
	what := words.Spell(n.All, "job", "jobs")
	switch {
	case n.All == 0 && typed != "":
		return fmt.Sprintf("No job holds %q.", typed)
	case n.All == 0 && shelf == store.AtHand:
		return "No job yet. Begin one, or import a rig file."
	case n.All == 0:
		return "Nothing lies here."
	case shelf == store.Archived:
		what += " in the archive"
	case shelf == store.Deleted:
		what += " deleted"
	}
	if typed != "" {
		what += fmt.Sprintf(" with %q", typed)
	}
	var more []string
	if n.Stops > 0 {
		more = append(more, words.Small(words.Spell(n.Stops, "must not be energised as it stands", "must not be energised as they stand")))
	}
	if n.Unread > 0 {
		more = append(more, words.Small(words.Spell(n.Unread, "cannot be read", "cannot be read")))
	}
	if n.Unjudged > 0 {
		more = append(more, words.Small(words.Spell(n.Unjudged, "is not judged yet", "are not judged yet")))
	}
	if len(more) == 0 {
		return what + "; nothing at stop."
	}
	for _, m := range more {
		what += "; " + m
	}
	return what + "."
}

// backupSaid says when all of it was last copied away.
func (s *Server) backupSaid(c *gin.Context) (string, error) {
	at, made, err := s.store.LastBackup(c)
	switch {
	case err != nil:
		return "", err
	case !made:
		return "No backup was made yet; largo backup FILE makes one.", nil
	}
	return "The last backup was made " + at.Local().Format("on 2 January 2006 at 15:04") + ", " + ago(time.Since(at)) + ".", nil
}

var plainKeys = []keyHelp{{"/ or Ctrl K", "find a job or a page"}, {"d", "daylight or dark stage"}, {"Esc", "close"}, {"?", "these keys"}}

func jobLineOf(j store.Listed) jobLine {
	base := "/jobs/" + url.PathEscape(j.Slug)
	l := jobLine{Slug: j.Slug, Href: base + "/brief", Title: j.Brief.Title, Place: j.Brief.Place, Facts: facts(j.Brief), State: "fine", Says: j.Says}
	switch {
	case !j.Judged:
		l.State, l.Says = "empty", "Not judged yet."
	case j.Worst == store.Unread:
		l.State = finding.Stop.String()
	case j.Worst > int(finding.Mind):
		l.State, l.Href = finding.Gravity(j.Worst).String(), base+"/"+j.Stage
	case j.Devices == 0:
		l.State, l.Says = "empty", "The rig is empty."
	}
	return l
}

// moveJob puts a job into the archive, throws it away, takes it back, or takes
// one that was thrown away away for good.
func (s *Server) moveJob(c *gin.Context) {
	f, err := readForm(c)
	if err != nil {
		s.fail(c, err)
		return
	}
	slug, to := c.Param("job"), f.text("to")
	act := f.act()
	back := "/"
	if from := f.text("from"); from != "" {
		back = "/?shelf=" + url.QueryEscape(from)
	}
	if len(f.faults) > 0 {
		s.fail(c, f.faults)
		return
	}
	switch to {
	case "list":
		err, back = s.store.MoveJob(c, slug, store.AtHand, act), "/"
	case string(store.Archived), string(store.Deleted):
		err = s.store.MoveJob(c, slug, store.Shelf(to), act)
	case "nowhere":
		if f.text("sure") != "yes" {
			err = fault.At("", "Tick the box first: a job that is taken away for good cannot come back, but from a backup.")
			break
		}
		err = s.store.PurgeJob(c, slug, act)
	default:
		err = fault.At("", "A job goes into the archive, among what is deleted, or back to the list.")
	}
	if err != nil {
		s.fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, back)
}

func (s *Server) createJob(c *gin.Context) {
	f, err := readForm(c)
	if err != nil {
		s.fail(c, err)
		return
	}
	r := rig.NewRig(readBrief(f, rig.Brief{}))
	command := f.command()
	if len(f.faults) == 0 {
		if _, err := rig.Apply(r, rig.SetBrief{Brief: r.Brief}); err != nil {
			f.refuse(err)
		}
	}
	if len(f.faults) > 0 {
		s.showJobs(c, http.StatusUnprocessableEntity, &refused{form: "job", faults: f.faults, problem: f.problem()})
		return
	}
	slug, err := s.begun(c, store.Change{Command: command, Content: contentOf(c.Request, nil), Rig: r, Said: "Began the job", Author: author(c)})
	switch {
	case errors.Is(err, store.ErrReused):
		s.showJobs(c, http.StatusConflict, &refused{form: "job", problem: "This page has begun a job already. Look at the list; press again if you want another one."})
	case err != nil:
		s.fail(c, err)
	default:
		c.Redirect(http.StatusSeeOther, "/jobs/"+slug+"/wire")
	}
}

// begun keeps a new job with what the rules say of it.
func (s *Server) begun(ctx context.Context, change store.Change) (slug string, err error) {
	change.Verdict = verdictOf(survey.Survey(change.Rig))
	return s.store.CreateJob(ctx, change)
}

// importJob reads a rig file as a job of its own: whole, or not at all.
func (s *Server) importJob(c *gin.Context) {
	err := s.readUpload(c)
	if err == nil {
		return
	}
	var faults fault.List
	switch {
	case tooBig(err):
		s.refuseUpload(c, http.StatusRequestEntityTooLarge, fault.List{{Field: "file", Say: exchange.ErrTooBig.Error() + "."}})
	case errors.As(err, &faults):
		s.refuseUpload(c, http.StatusUnprocessableEntity, faults)
	case errors.Is(err, store.ErrReused):
		s.refuseUpload(c, http.StatusConflict, fault.List{{Field: "file", Say: "This page has imported another file already. Look at the list; choose the file again if you want it too."}})
	default:
		s.fail(c, err)
	}
}

func (s *Server) readUpload(c *gin.Context) error {
	file, err := uploaded(c)
	if err != nil {
		return err
	}
	defer file.Close()
	r, err := exchange.ReadRig(file)
	if err != nil {
		return err
	}
	command := c.PostForm("command")
	if !properID(command) {
		return fault.List{{Say: "The page sent no proper command id. Load it again."}}
	}
	if _, err := file.Seek(0, io.SeekStart); err != nil {
		return err
	}
	whole, err := io.ReadAll(io.LimitReader(file, exchange.MostBytes))
	if err != nil {
		return err
	}
	slug, err := s.begun(c, store.Change{Command: command, Content: contentOf(c.Request, whole), Rig: r, Said: "Imported a rig file", Author: author(c)})
	if err != nil {
		return err
	}
	c.Redirect(http.StatusSeeOther, "/jobs/"+slug+"/match")
	return nil
}

// refuseUpload says what is wrong with a file, at the field it was chosen in.
func (s *Server) refuseUpload(c *gin.Context, status int, faults fault.List) {
	say := ""
	for i, f := range faults {
		if i == 8 {
			say += fmt.Sprintf(" And %d more.", len(faults)-8)
			break
		}
		if f.Field != "" && f.Field != "file" {
			say += f.Field + ": "
		}
		say += f.Say + " "
	}
	s.showJobs(c, status, &refused{form: "import", faults: fault.List{{Field: "file", Say: say}}, problem: "Nothing was imported."})
}

func (s *Server) exportRig(c *gin.Context) {
	j, err := s.store.Job(c, c.Param("job"))
	if err != nil {
		s.fail(c, err)
		return
	}
	c.Header("Content-Type", "application/json")
	c.Header("Content-Disposition", fmt.Sprintf("attachment; filename=%q", fileName(j.Slug)+".json"))
	if err := exchange.WriteRig(c.Writer, j.Rig); err != nil {
		s.log.ErrorContext(c, "export", "job", j.Slug, "error", err)
	}
}

// fileName is a name that every file system takes.
func fileName(slug string) string {
	name := strings.Trim(strings.Map(func(r rune) rune {
		if r >= 'a' && r <= 'z' || r >= '0' && r <= '9' {
			return r
		}
		return '-'
	}, slug), "-")
	if name == "" {
		return "rig"
	}
	return name
}
