package kit

import (
	"context"
	"io/fs"
	"net/http"

	"github.com/gin-gonic/gin"

	"largo/core/finding"
	"largo/core/rig"
	"largo/exchange"
)

// Room is a stage of the day, or another part of the house, as it is shown:
// what its package offers to the frame around it. What it does not offer is
// left out.
type Room struct {
	// Name is that of its package. A room that is a stage bears the stage's name.
	Name string
	// Files are its templates, NAME.html, of which the one of the room's own name
	// is its main page and parts.html is shared by all; its styles, *.css, joined
	// into the one sheet in the order of their names; and its scripts, *.js.
	Files fs.FS
	// View fills the page of a stage; nil where the room is none.
	View func(*Server, *Page) error
	// Routes adds its other pages, and its edits.
	Routes func(*Routes)
	// Finds is what the finder offers of it; an address is below the job's.
	Finds []FindItem
	// Keys are those of its main page alone.
	Keys []KeyHelp
	// Sheet is what it puts on the sheet to print: what template "on-sheet" of its
	// onsheet.html shows.
	Sheet func(*Page) any
	// Beside runs beside the server until the context ends.
	Beside func(context.Context, *Server)
	// Carries names what is asked of its page that each of its edits passes on.
	Carries []string
}

// Handler answers a request.
type Handler func(*Server, *gin.Context)

// WithForm answers a request by the form that was sent with it.
func WithForm(answer func(*Server, *gin.Context, *Form)) Handler {
	return func(s *Server, c *gin.Context) {
		f, err := ReadForm(c)
		if err != nil {
			s.Fail(c, err)
			return
		}
		answer(s, c, f)
	}
}

// Routes takes the addresses of a room.
type Routes struct {
	server *Server
	room   string
	to     gin.IRoutes
}

// Get adds a page, or a file to be fetched.
func (r *Routes) Get(path string, h Handler) {
	r.to.GET(path, r.bind(h))
	r.to.HEAD(path, r.bind(h))
}

// Post adds an act by a form of ordinary size.
func (r *Routes) Post(path string, h Handler) { r.to.POST(path, bounded(mostForm), r.bind(h)) }

// Upload adds an act that takes a file.
func (r *Routes) Upload(path string, h Handler) { r.to.POST(path, bounded(mostUpload), r.bind(h)) }

// Photo adds an act that takes a photograph.
func (r *Routes) Photo(path string, h Handler) {
	r.to.POST(path, bounded(exchange.MostPhotoBytes+64<<10), r.bind(h))
}

// MostRecording bounds a recording that is sent, in bytes: twenty minutes of two channels.
// A longer one is heard on the command line, which knows no bound.
const MostRecording = 256 << 20

// Recording adds an act that takes a recording.
func (r *Routes) Recording(path string, h Handler) {
	r.to.POST(path, bounded(MostRecording+64<<10), r.bind(h))
}

// bounded limits the body of a request, in bytes, so that nothing is read
// without end.
func bounded(most int64) gin.HandlerFunc {
	return func(c *gin.Context) {
		if c.Request.Body != nil {
			c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, most)
		}
		c.Next()
	}
}

// Edit adds an edit of a job, made at the stage of this room: read makes it of a
// form. Form is the name under which the page shows what is wrong with it,
// followed by what the fields of say, where a page has several alike.
func (r *Routes) Edit(path string, read func(rig.Rig, *Form) rig.Edit, form string, of ...string) {
	at := finding.Stage(r.room)
	r.Post(path, func(s *Server, c *gin.Context) {
		name := form
		for _, field := range of {
			name += " " + c.PostForm(field)
		}
		s.Edit(c, at, name, read)
	})
}

func (r *Routes) bind(h Handler) gin.HandlerFunc { return func(c *gin.Context) { h(r.server, c) } }

// room is the room of a stage, false where there is none of that name.
func (s *Server) room(at finding.Stage) (Room, bool) {
	for _, r := range s.rooms {
		if r.Name == string(at) && r.View != nil {
			return r, true
		}
	}
	return Room{}, false
}
