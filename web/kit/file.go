package kit

import (
	"errors"
	"fmt"
	"io"
	"mime/multipart"
	"net/http"
	"path"
	"strconv"
	"strings"

	"github.com/gin-gonic/gin"

	"largo/core/fault"
	"largo/exchange"
)

// firstSentence of what is wrong with a file.
func firstSentence(l fault.List) string {
	said := strings.TrimPrefix(l[0].Field+": ", ": ") + l[0].Say
	if len(l) > 1 {
		said += " And " + strconv.Itoa(len(l)-1) + " more."
	}
	return said
}

// FileForm is a form in which a list is written to a file.
type FileForm[T any] struct {
	Kind  string // its media type
	Write func(io.Writer, []T) error
}

const (
	TypeCSV  = "text/csv; charset=utf-8"
	TypeXLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
)

// SendFile writes a list in the form that the path ends with.
func SendFile[T any](s *Server, c *gin.Context, forms map[string]FileForm[T], list []T) {
	form := forms[path.Ext(c.FullPath())]
	c.Header("Content-Type", form.Kind)
	c.Header("Content-Disposition", fmt.Sprintf("attachment; filename=%q", path.Base(c.FullPath())))
	if err := form.Write(c.Writer, list); err != nil {
		s.Log.ErrorContext(c, "export", "file", c.FullPath(), "error", err)
	}
}

// TooBig tells whether a file or a form was larger than is taken.
func TooBig(err error) bool {
	var body *http.MaxBytesError
	return errors.Is(err, exchange.ErrTooBig) || errors.As(err, &body)
}

// Uploaded opens the file of a form.
func Uploaded(c *gin.Context) (multipart.File, error) {
	head, err := c.FormFile("file")
	switch {
	case TooBig(err):
		return nil, err
	case err != nil:
		return nil, fault.List{{Say: "Choose a file first."}}
	case head.Size == 0:
		return nil, fault.List{{Say: "The file is empty."}}
	}
	return head.Open()
}

// UploadFault says what is wrong with a file, false where the fault is not
// the file's.
func UploadFault(err error) (said string, status int, wrong bool) {
	var l fault.List
	switch {
	case TooBig(err):
		return exchange.ErrTooBig.Error() + ".", http.StatusRequestEntityTooLarge, true
	case errors.As(err, &l):
		return firstSentence(l), http.StatusUnprocessableEntity, true
	}
	return "", 0, false
}

// mostUpload bounds an upload: the file itself and its wrapping, in bytes.
const mostUpload = exchange.MostBytes + 64<<10

// FileName is a name that every file system takes.
func FileName(slug string) string {
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
