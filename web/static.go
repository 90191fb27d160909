package web

import (
	"crypto/sha256"
	"encoding/hex"
	"io/fs"
	"mime"
	"net/http"
	"path"
	"strings"

	"github.com/gin-contrib/gzip"
	"github.com/gin-gonic/gin"
)

// staticFiles are the scripts, styles and fonts. They are named by their
// content, so that a browser keeps them for good and sees an update at once:
// the first part of the path is a digest of them all, and what they name of each
// other they name relative to themselves.
type staticFiles struct {
	files  map[string][]byte // by path
	digest string
}

// styleSheets are the styles in the order in which they are joined into one
// sheet: what all pages share first, then the stages and pages, then what a
// narrow screen changes.
var styleSheets = []string{
	"base", "frame", "shapes", "tape", "controls", "tables", "jobs", "rulers", "match", "plan", "output", "wire",
	"protect", "start", "gear", "history", "sheet", "narrow", "fold",
}

// joinedStyles is the sheet that pages name.
const joinedStyles = "styles/largo.css"

func newStaticFiles() (staticFiles, error) {
	s := staticFiles{files: map[string][]byte{}}
	sum := sha256.New()
	for _, name := range styleSheets {
		b, err := files.ReadFile("static/styles/" + name + ".css")
		if err != nil {
			return s, err
		}
		s.files[joinedStyles] = append(s.files[joinedStyles], b...)
	}
	sum.Write(s.files[joinedStyles])
	err := fs.WalkDir(files, "static", func(name string, d fs.DirEntry, err error) error {
		if err != nil || d.IsDir() || strings.HasPrefix(name, "static/styles/") {
			return err
		}
		b, err := files.ReadFile(name)
		if err != nil {
			return err
		}
		s.files[strings.TrimPrefix(name, "static/")] = b
		sum.Write([]byte(name))
		sum.Write(b)
		return nil
	})
	s.digest = hex.EncodeToString(sum.Sum(nil))[:16]
	return s, err
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
