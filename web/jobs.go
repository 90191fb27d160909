package web

import (
	"errors"
	"fmt"
	"net/http"

	"github.com/gin-gonic/gin"

	"largo/core/fault"
	"largo/core/finding"
	"largo/core/rig"
	"largo/core/words"
	"largo/exchange"
	"largo/store"
)

// mostUpload bounds an upload: the file itself and its wrapping, in bytes.
const mostUpload = exchange.MostBytes + 64<<10

type jobsView struct {
	Jobs []jobLine
	Form []field
	File field
}

type jobLine struct {
	Href, Title, Place, Facts, State, Says string
}

func (s *Server) jobs(c *gin.Context) { s.showJobs(c, http.StatusOK, nil) }

func (s *Server) showJobs(c *gin.Context, status int, wrong *refused) {
	list, err := s.store.Jobs(c)
	if err != nil {
		s.fail(c, err)
		return
	}
	p := &page{Title: "Largo", Scheme: scheme(c), Here: "/", Command: newCommand(), refused: wrong, gin: c, Keys: plainKeys,
		Finds: []findItem{{Label: "Gear", Note: "library", Href: "/gear"}}}
	if wrong != nil {
		p.typed, p.Problem = c.Request.PostForm, wrong.problem
	}
	v := jobsView{Form: briefFields(p, "job", rig.Brief{}), File: p.Field("import", "file", "Rig file", "", "")}
	stops := 0
	for _, j := range list {
		line := s.jobLine(j)
		if line.State == finding.Stop.String() {
			stops++
		}
		v.Jobs = append(v.Jobs, line)
		p.Finds = append(p.Finds, findItem{Label: line.Title, Note: "job", Href: line.Href})
	}
	switch {
	case len(list) == 0:
		p.Verdict = "No job yet. Begin one, or import a rig file."
	case stops == 0:
		p.Verdict = plural(len(list), "job", "jobs") + "; nothing at stop."
	default:
		p.Verdict = plural(len(list), "job", "jobs") + "; " + words.Small(plural(stops, "must not be energised as it stands.", "must not be energised as they stand."))
	}
	p.Body = v
	s.render(c, status, "jobs", p)
}

var plainKeys = []keyHelp{{"/ or Ctrl K", "find a job or a page"}, {"d", "daylight or dark stage"}, {"Esc", "close"}, {"?", "these keys"}}

func (s *Server) jobLine(j store.Job) jobLine {
	report := s.survey(j)
	l := jobLine{Href: "/jobs/" + j.Slug + "/brief", Title: j.Rig.Brief.Title, Place: j.Rig.Brief.Place, Facts: facts(j.Rig.Brief), State: "fine", Says: "Nothing to mend."}
	switch w := finding.Worst(report.Findings); {
	case w > finding.Mind:
		l.State, l.Says = w.String(), report.Findings[0].What
		l.Href = "/jobs/" + j.Slug + "/" + string(report.Findings[0].Stage)
	case len(j.Rig.Devices) == 0:
		l.State, l.Says = "empty", "The rig is empty."
	}
	return l
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
	slug, err := s.store.CreateJob(c, store.Change{Command: command, Rig: r, Said: "Began the job", Author: author(c)})
	if err != nil {
		s.fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/jobs/"+slug+"/wire")
}

// importJob reads a rig file as a job of its own: whole, or not at all.
func (s *Server) importJob(c *gin.Context) {
	err := s.readUpload(c)
	if err == nil {
		return
	}
	var faults fault.List
	var tooBig *http.MaxBytesError
	switch {
	case errors.Is(err, exchange.ErrTooBig), errors.As(err, &tooBig):
		s.refuseUpload(c, http.StatusRequestEntityTooLarge, fault.List{{Field: "file", Say: exchange.ErrTooBig.Error() + "."}})
	case errors.As(err, &faults):
		s.refuseUpload(c, http.StatusUnprocessableEntity, faults)
	default:
		s.fail(c, err)
	}
}

func (s *Server) readUpload(c *gin.Context) error {
	head, err := c.FormFile("file")
	if err != nil {
		var tooBig *http.MaxBytesError
		if errors.As(err, &tooBig) {
			return err
		}
		return fault.List{{Field: "file", Say: "Choose a rig file first."}}
	}
	file, err := head.Open()
	if err != nil {
		return err
	}
	defer file.Close()
	r, err := exchange.ReadRig(file)
	if err != nil {
		return err
	}
	command := c.PostForm("command")
	if !uuidForm.MatchString(command) {
		return fault.List{{Say: "The page sent no proper command id. Load it again."}}
	}
	slug, err := s.store.CreateJob(c, store.Change{Command: command, Rig: r, Said: "Imported a rig file", Author: author(c)})
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
	c.Header("Content-Disposition", fmt.Sprintf("attachment; filename=%q", ident(j.Slug)+".json"))
	if err := exchange.WriteRig(c.Writer, j.Rig); err != nil {
		s.log.ErrorContext(c, "export", "job", j.Slug, "error", err)
	}
}
