// Package jobs is the tour: the list of jobs, where one is begun, imported, put away or
// taken out as a file.
package jobs

import (
	"context"
	"embed"
	"errors"
	"fmt"
	"io"
	"net/http"
	"net/url"
	"time"

	"github.com/gin-gonic/gin"

	"largo/core/fault"
	"largo/core/finding"
	"largo/core/rig"
	"largo/core/survey"
	"largo/core/words"
	"largo/exchange"
	"largo/store"
	"largo/web/brief"
	"largo/web/kit"
)

//go:embed *.html *.css
var files embed.FS

// Room is this room.
var Room = kit.Room{
	Name: "jobs", Files: files,
	Routes: func(r *kit.Routes) {
		r.Get("/", list)
		r.Post("/jobs", kit.WithForm(createJob))
		r.Upload("/jobs/import", importJob)
		r.Get("/jobs/:job/rig.json", exportRig)
		r.Post("/jobs/:job/shelf", kit.WithForm(moveJob))
	},
	Finds: []kit.FindItem{{Label: "Rig file", Note: "export", Href: "/rig.json"}},
}

type jobsView struct {
	Shelf   store.Shelf
	Shelves []kit.Choice
	Jobs    []jobLine
	Search  kit.Field
	Pages   kit.Pager
	Form    []kit.Field
	File    kit.Field
	Backup  string // when the last one was made
}

type jobLine struct {
	Slug                                   string
	Href, Title, Place, Facts, State, Says string
	Who                                    string // goes
	Group                                  string // heads the jobs from here on
	Acts                                   jobActs
}

// jobActs are the buttons that put a job away.
type jobActs struct {
	Slug, Title, Command string
	Shelf                store.Shelf
}

func list(s *kit.Server, c *gin.Context) { showJobs(s, c, http.StatusOK, nil) }

func showJobs(s *kit.Server, c *gin.Context, status int, wrong *kit.Refused) {
	shelf := store.Shelf(c.Query("shelf"))
	if shelf != store.Archived && shelf != store.Deleted {
		shelf = store.AtHand
	}
	typed, at, now := c.Query("q"), kit.PageAsked(c), time.Now()
	list, n, err := s.Store.List(c, shelf, typed, kit.RulesID(), now, at*kit.MostOnPage, kit.MostOnPage)
	for i := range list {
		if err == nil && !list[i].Judged {
			if err = s.Judge(c, &list[i]); errors.Is(err, store.ErrNotFound) {
				err = nil // it went on meanwhile
			}
			n.Unjudged--
			n.Count(list[i])
		}
	}
	if err != nil {
		s.Fail(c, err)
		return
	}
	if n.Unjudged > 0 {
		s.JudgeMore()
	}
	p := &kit.Page{Title: "Largo", Scheme: kit.Scheme(c), Here: "/", Command: kit.NewCommand(), Refused: wrong, Gin: c,
		Keys: kit.PlainKeys,
		Finds: []kit.FindItem{{Label: "Gear", Note: "library", Href: "/gear"},
			{Label: "Stock", Note: "what is owned", Href: "/stock"},
			{Label: "Archive", Note: "jobs put by", Href: "/?shelf=archived"}}}
	if wrong != nil {
		p.Typed, p.Problem = c.Request.PostForm, wrong.Problem
	}
	v := jobsView{Shelf: shelf, Form: brief.Fields(p, "job", rig.Brief{}),
		File:   p.Field("import", "file", "Rig file", "", ""),
		Search: p.Field("jobs", "q", "Search", typed, "title, place or date"),
		Pages:  kit.PagerOf("/", c.Request.URL.Query(), at, len(list), n.All)}
	for _, at := range []kit.Choice{{Label: "Jobs", Value: "/"}, {Label: "Archive", Value: "/?shelf=archived"},
		{Label: "Deleted", Value: "/?shelf=deleted"}} {
		at.Chosen = at.Value == "/" && shelf == store.AtHand || shelf != store.AtHand && at.Value == "/?shelf="+string(shelf)
		v.Shelves = append(v.Shelves, at)
	}
	group := ""
	for i, j := range list {
		line := jobLineOf(j)
		when := when(j.Brief.Date, now)
		if when == later && i == 0 && at == 0 {
			when = "Next"
		}
		if shelf == store.AtHand && when != group {
			line.Group, group = when, when
		}
		line.Acts = jobActs{line.Slug, line.Title, p.Command, shelf}
		v.Jobs = append(v.Jobs, line)
		p.Finds = append(p.Finds, kit.FindItem{Label: line.Title, Note: "job", Href: line.Href})
	}
	if v.Backup, err = backupSaid(s, c); err != nil {
		s.Fail(c, err)
		return
	}
	p.Verdict = jobsVerdict(shelf, typed, n)
	p.Body = v
	s.Render(c, status, "jobs", p)
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
		more = append(more, words.Small(words.Spell(n.Stops, "must not be energised as it stands",
			"must not be energised as they stand")))
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
func backupSaid(s *kit.Server, c *gin.Context) (string, error) {
	at, made, err := s.Store.LastBackup(c)
	switch {
	case err != nil:
		return "", err
	case !made:
		return "No backup was made yet; largo backup FILE makes one.", nil
	}
	return "The last backup was made " + at.Local().Format("on 2 January 2006 at 15:04") + ", " +
		kit.Ago(time.Since(at)) + ".", nil
}

// later is a date that is not near.
const later = "Later"

// when tells where a job stands in the book of dates.
func when(date string, now time.Time) string {
	at, err := time.Parse(time.DateOnly, date)
	if err != nil {
		return "Without a date"
	}
	today, _ := time.Parse(time.DateOnly, now.Format(time.DateOnly))
	switch days := int(at.Sub(today).Hours() / 24); {
	case days < 0:
		return "Past"
	case days == 0:
		return "Today"
	case days == 1:
		return "Tomorrow"
	case days <= 7:
		return "Within a week"
	case days <= 31:
		return "Within a month"
	}
	return later
}

func jobLineOf(j store.Listed) jobLine {
	base := "/jobs/" + url.PathEscape(j.Slug)
	l := jobLine{Slug: j.Slug, Href: base + "/brief", Title: j.Brief.Title, Place: j.Brief.Place,
		Facts: kit.Facts(j.Brief), State: "fine", Says: j.Says, Who: j.Who}
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
func moveJob(s *kit.Server, c *gin.Context, f *kit.Form) {
	var err error
	slug, to := c.Param("job"), f.Text("to")
	act := f.Act()
	back := "/"
	if from := f.Text("from"); from != "" {
		back = "/?shelf=" + url.QueryEscape(from)
	}
	if len(f.Faults) > 0 {
		s.Fail(c, f.Faults)
		return
	}
	switch to {
	case "list":
		err, back = s.Store.MoveJob(c, slug, store.AtHand, act), "/"
	case string(store.Archived), string(store.Deleted):
		err = s.Store.MoveJob(c, slug, store.Shelf(to), act)
	case "nowhere":
		if f.Text("sure") != "yes" {
			err = fault.At("", "Tick the box first: a job that is taken away for good cannot come back, but from a backup.")
			break
		}
		err = s.Store.PurgeJob(c, slug, act)
	default:
		err = fault.At("", "A job goes into the archive, among what is deleted, or back to the list.")
	}
	if err != nil {
		s.Fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, back)
}

func createJob(s *kit.Server, c *gin.Context, f *kit.Form) {
	r := rig.NewRig(brief.Read(f, rig.Brief{}))
	command := f.Command()
	if len(f.Faults) == 0 {
		if _, err := rig.Apply(r, rig.SetBrief{Brief: r.Brief}); err != nil {
			f.Refuse(err)
		}
	}
	if len(f.Faults) > 0 {
		showJobs(s, c, http.StatusUnprocessableEntity, &kit.Refused{Form: "job", Faults: f.Faults, Problem: f.Problem()})
		return
	}
	slug, err := begun(s, c, store.Change{Command: command, Content: kit.ContentOf(c.Request, nil), Rig: r,
		Said: "Began the job", Author: kit.Author(c)})
	switch {
	case errors.Is(err, store.ErrReused):
		showJobs(s, c, http.StatusConflict,
			&kit.Refused{Form: "job", Problem: "This page has begun a job already. Look at the list; press again if you want " +
				"another one."})
	case err != nil:
		s.Fail(c, err)
	default:
		c.Redirect(http.StatusSeeOther, "/jobs/"+slug+"/wire")
	}
}

// begun keeps a new job with what the rules say of it.
func begun(s *kit.Server, ctx context.Context, change store.Change) (slug string, err error) {
	change.Verdict = kit.VerdictOf(survey.Survey(change.Rig))
	return s.Store.CreateJob(ctx, change)
}

// importJob reads a rig file as a job of its own: whole, or not at all.
func importJob(s *kit.Server, c *gin.Context) {
	err := readUpload(s, c)
	if err == nil {
		return
	}
	var faults fault.List
	switch {
	case kit.TooBig(err):
		refuseUpload(s, c, http.StatusRequestEntityTooLarge,
			fault.List{{Field: "file", Say: exchange.ErrTooBig.Error() + "."}})
	case errors.As(err, &faults):
		refuseUpload(s, c, http.StatusUnprocessableEntity, faults)
	case errors.Is(err, store.ErrReused):
		refuseUpload(s, c, http.StatusConflict,
			fault.List{{Field: "file", Say: "This page has imported another file already. Look at the list; choose the file " +
				"again if you want it too."}})
	default:
		s.Fail(c, err)
	}
}

func readUpload(s *kit.Server, c *gin.Context) error {
	file, err := kit.Uploaded(c)
	if err != nil {
		return err
	}
	defer file.Close()
	r, err := exchange.ReadRig(file)
	if err != nil {
		return err
	}
	command := c.PostForm("command")
	if !kit.ProperID(command) {
		return fault.List{{Say: "The page sent no proper command id. Load it again."}}
	}
	if _, err := file.Seek(0, io.SeekStart); err != nil {
		return err
	}
	whole, err := io.ReadAll(io.LimitReader(file, exchange.MostBytes))
	if err != nil {
		return err
	}
	slug, err := begun(s, c, store.Change{Command: command, Content: kit.ContentOf(c.Request, whole), Rig: r,
		Said: "Imported a rig file", Author: kit.Author(c)})
	if err != nil {
		return err
	}
	c.Redirect(http.StatusSeeOther, "/jobs/"+slug+"/match")
	return nil
}

// refuseUpload says what is wrong with a file, at the field it was chosen in.
func refuseUpload(s *kit.Server, c *gin.Context, status int, faults fault.List) {
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
	showJobs(s, c, status, &kit.Refused{Form: "import", Faults: fault.List{{Field: "file", Say: say}},
		Problem: "Nothing was imported."})
}

func exportRig(s *kit.Server, c *gin.Context) {
	j, err := s.Store.Job(c, c.Param("job"))
	if err != nil {
		s.Fail(c, err)
		return
	}
	c.Header("Content-Type", "application/json")
	c.Header("Content-Disposition", fmt.Sprintf("attachment; filename=%q", kit.FileName(j.Slug)+".json"))
	if err := exchange.WriteRig(c.Writer, j.Rig); err != nil {
		s.Log.ErrorContext(c, "export", "job", j.Slug, "error", err)
	}
}
