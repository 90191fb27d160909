package run

import (
	"fmt"
	"html/template"
	"net"
	"net/http"
	"strings"

	"github.com/gin-gonic/gin"
	"github.com/skip2/go-qrcode"

	"largo/core/order"
	"largo/core/rig"
	"largo/core/start"
	"largo/core/strike"
	"largo/core/survey"
	"largo/web/kit"
)

// cardView is the card for the lid of the box: both orders, the emergency, whom to ring, and where
// the run is on a phone.
type cardView struct {
	Title, Place, Date string
	Up, Down           []cardStep
	UpTakes, DownTakes string
	Emergency          string
	Ring               []rig.Person
	QR                 template.HTML
	Address            string
	Stopped            bool
	Here               bool // the address is of this machine alone
}

type cardStep struct {
	Number            int
	Tags, Where, Look string
	Loud              bool
	Waits             string // until it is begun, in words
}

func card(s *kit.Server, c *gin.Context) {
	p, err := s.Aside(c, "Card")
	if err != nil {
		s.Fail(c, err)
		return
	}
	up, down := survey.Of[start.Verdict](p.Report), survey.Of[strike.Verdict](p.Report)
	b := p.Rig().Brief
	v := cardView{Title: b.Title, Place: b.Place, Date: b.Date, Stopped: len(p.Stops()) > 0, UpTakes: up.Total.Text(),
		DownTakes: down.Total.Text(), Up: cardSteps(up.Steps), Down: cardSteps(down.Steps),
		Emergency: start.EmergencyOf(p.Report.Input()).Says(), Ring: p.Rig().People,
		Address: "http://" + c.Request.Host + "/jobs/" + p.Job.Slug + "/run"}
	host, _, err := net.SplitHostPort(c.Request.Host)
	if err != nil {
		host = c.Request.Host
	}
	ip := net.ParseIP(host)
	v.Here = host == "localhost" || ip != nil && ip.IsLoopback()
	if c.Request.TLS != nil {
		v.Address = "https" + strings.TrimPrefix(v.Address, "http")
	}
	if v.QR, err = qr(v.Address); err != nil {
		s.Fail(c, err)
		return
	}
	p.Verdict, p.Body, p.Here = "The card for the lid.", v, "/jobs/"+p.Job.Slug+"/card"
	s.Render(c, http.StatusOK, "card", p)
}

func cardSteps(steps []order.Step) (list []cardStep) {
	for _, st := range steps {
		var where, look []string
		for _, it := range st.Items {
			where = append(where, strings.Trim(it.Place+", "+it.Where, ", "))
			look = append(look, it.Look)
		}
		list = append(list, cardStep{Number: st.Number, Tags: strings.Join(st.Tags(), ", "),
			Where: strings.Join(distinct(where), "; "), Look: strings.Join(distinct(look), "; "), Loud: st.Loud,
			Waits: st.Takes().String()})
	}
	return list
}

// distinct leaves out what was said already.
func distinct(all []string) (list []string) {
	seen := map[string]bool{"": true}
	for _, s := range all {
		if !seen[s] {
			seen[s], list = true, append(list, s)
		}
	}
	return list
}

// qr is an address as a code, drawn: one square a module, with the quiet zone of four that
// ISO/IEC 18004 asks for (from memory).
func qr(address string) (template.HTML, error) {
	code, err := qrcode.New(address, qrcode.Medium)
	if err != nil {
		return "", fmt.Errorf("a code of %q: %w", address, err)
	}
	bits := code.Bitmap()
	var w kit.Pen
	w.Put(`<svg class="card-code" viewBox="0 0 {} {}" role="img" aria-label="The run on a phone: {}"><path d="`, len(bits),
		len(bits), address)
	for y, row := range bits {
		for x, black := range row {
			if black {
				w.Put(`M{} {}h1v1h-1z`, x, y)
			}
		}
	}
	w.Put(`"/></svg>`)
	return w.HTML(), nil
}
