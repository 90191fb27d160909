package kit

import (
	"crypto/sha256"
	"encoding/hex"
	"io/fs"
	"maps"
	"mime"
	"net/http"
	"path"
	"slices"
	"strings"

	"github.com/gin-contrib/gzip"
	"github.com/gin-gonic/gin"
)

// staticFiles are the scripts, styles and fonts. They are named by their
// content, so that a browser keeps them for good and sees an update at once:
// the first part of the path is a digest of them all, and what they name of each
// other they name relative to themselves.
type staticFiles struct {
	files   map[string][]byte // by path
	scripts []string          // of which every page names each
	digest  string
}

// first and last are the styles that all pages share, first, and what a narrow
// screen changes of them, last; those of the rooms are joined between.
var (
	first = []string{"base", "frame", "shapes", "tape", "controls", "tables", "rulers"}
	last  = []string{"narrow", "fold"}
)

// joinedStyles is the sheet that pages name.
const joinedStyles = "styles/largo.css"

func newStaticFiles(rooms []Room) (staticFiles, error) {
	s := staticFiles{files: map[string][]byte{}}
	err := fs.WalkDir(files, "static", func(name string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() {
			return err
		}
		b, err := files.ReadFile(name)
		s.files[strings.TrimPrefix(name, "static/")] = b
		return err
	})
	if err == nil {
		err = s.gather(rooms)
	}
	sum := sha256.New()
	for _, name := range slices.Sorted(maps.Keys(s.files)) {
		sum.Write([]byte(name))
		sum.Write(s.files[name])
	}
	s.digest = hex.EncodeToString(sum.Sum(nil))[:16]
	return s, err
}

// gather joins the styles and lists the scripts, of the kit and of the rooms.
func (s *staticFiles) gather(rooms []Room) error {
	join := func(from fs.FS, name string) error {
		b, err := fs.ReadFile(from, name)
		s.files[joinedStyles] = append(s.files[joinedStyles], b...)
		return err
	}
	for _, name := range first {
		if err := join(files, "styles/"+name+".css"); err != nil {
			return err
		}
	}
	s.scripts = []string{"scripts/largo.js", "scripts/patch.js", "scripts/events.js"}
	for _, room := range rooms {
		styles, _ := fs.Glob(room.Files, "*.css")
		for _, name := range styles {
			if err := join(room.Files, name); err != nil {
				return err
			}
		}
		scripts, _ := fs.Glob(room.Files, "*.js")
		for _, name := range scripts {
			b, err := fs.ReadFile(room.Files, name)
			if err != nil {
				return err
			}
			s.files["scripts/"+name], s.scripts = b, append(s.scripts, "scripts/"+name)
		}
	}
	for _, name := range last {
		if err := join(files, "styles/"+name+".css"); err != nil {
			return err
		}
	}
	return nil
}

// url is where a file lies; a name that is none of theirs is a fault of a
// template, which the tests find.
func (s staticFiles) url(name string) string { return "/static/" + s.digest + "/" + name }

func (s staticFiles) serve(e *gin.Engine) {
	h := func(c *gin.Context) {
		name := strings.TrimPrefix(c.Param("file"), "/")
		b, have := s.files[name]
		if !have {
			c.String(http.StatusNotFound, "There is no such file.\n")
			return
		}
		// a page that was open during an update asks for what was before: it gets
		// what is now, and keeps none of it
		c.Header("Cache-Control", "no-store")
		if c.Param("digest") == s.digest {
			c.Header("Cache-Control", "public, max-age=31536000, immutable")
		}
		kind := mime.TypeByExtension(path.Ext(name))
		if kind == "" {
			kind = "application/octet-stream"
		}
		c.Data(http.StatusOK, kind, b)
	}
	pack := gzip.Gzip(gzip.DefaultCompression)
	e.GET("/static/:digest/*file", pack, h)
	e.HEAD("/static/:digest/*file", h)
}
