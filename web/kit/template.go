package kit

import (
	"embed"
	"fmt"
	"html/template"
	"io/fs"
	"net/http"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"
)

//go:embed templates static styles
var files embed.FS

// pages are the parsed templates by name.
type pages map[string]*template.Template

// parsePages parses the frame once with each page's own template and the parts
// of its room.
func parsePages(static staticFiles, rooms []Room) (pages, error) {
	funcs := template.FuncMap{
		"ident":   Ident,
		"static":  static.url,
		"scripts": func() []string { return static.scripts },
		"px":      func(v float64) string { return strconv.FormatFloat(v, 'f', 1, 64) },
		"add":     func(a, b float64) float64 { return a + b },
	}
	frame, err := template.New("frame.html").Funcs(funcs).ParseFS(files, "templates/*.html")
	if err != nil {
		return nil, err
	}
	all := pages{}
	if all["problem"], err = clonedWith(frame, files, "templates/pages/problem.html"); err != nil {
		return nil, err
	}
	for _, room := range rooms {
		if err := all.addRoom(frame, room); err != nil {
			return nil, fmt.Errorf("the room %s: %w", room.Name, err)
		}
	}
	return all, nil
}

// addRoom adds the pages of a room.
func (all pages) addRoom(frame *template.Template, room Room) error {
	names, err := fs.Glob(room.Files, "*.html")
	if err != nil {
		return err
	}
	shared := frame
	if _, err := fs.Stat(room.Files, "parts.html"); err == nil {
		if shared, err = clonedWith(frame, room.Files, "parts.html"); err != nil {
			return err
		}
	}
	for _, file := range names {
		name := strings.TrimSuffix(file, ".html")
		switch name {
		case "parts":
			continue
		case onSheet:
			name = onSheet + " " + room.Name
		}
		if _, twice := all[name]; twice {
			return fmt.Errorf("another room has a page %s", name)
		}
		if all[name], err = clonedWith(shared, room.Files, file); err != nil {
			return err
		}
	}
	return nil
}

// onSheet is the file of a room with what it puts on the sheet.
const onSheet = "onsheet"

// SheetParts is what the rooms put on the sheet to print, in their order.
func (s *Server) SheetParts(p *Page) ([]template.HTML, error) {
	var parts []template.HTML
	for _, room := range s.rooms {
		if room.Sheet == nil {
			continue
		}
		var out strings.Builder
		if err := s.pages[onSheet+" "+room.Name].ExecuteTemplate(&out, "on-sheet", room.Sheet(p)); err != nil {
			return nil, err
		}
		parts = append(parts, template.HTML(out.String()))
	}
	return parts, nil
}

// RenderBare writes a page that brings its own frame, as its template "bare" has it: for phones in
// the hand, light and readable without the network.
func (s *Server) RenderBare(c *gin.Context, name string, data any) {
	var out strings.Builder
	if err := s.pages[name].ExecuteTemplate(&out, "bare", data); err != nil {
		s.Fail(c, fmt.Errorf("the page %s: %w", name, err))
		return
	}
	c.Header("Cache-Control", "no-store")
	c.Data(http.StatusOK, "text/html; charset=utf-8", []byte(out.String()))
}

func clonedWith(t *template.Template, from fs.FS, file string) (*template.Template, error) {
	t, err := t.Clone()
	if err != nil {
		return nil, err
	}
	return t.ParseFS(from, file)
}

// Render writes a page whole or, when its template fails, the page that says so
// and nothing of it.
func (s *Server) Render(c *gin.Context, status int, name string, p *Page) {
	var out strings.Builder
	if err := s.pages[name].ExecuteTemplate(&out, "frame.html", p); err != nil {
		s.Log.ErrorContext(c, "template", "page", name, "error", err)
		if name == "problem" { // not even that
			c.String(http.StatusInternalServerError, "Something went wrong inside Largo; the log says what.")
			return
		}
		s.Fail(c, fmt.Errorf("the page %s: %w", name, err))
		return
	}
	if p.Job != nil {
		s.keepShown(p)
	}
	c.Header("Cache-Control", "no-store")
	c.Data(status, "text/html; charset=utf-8", []byte(out.String()))
}
