package web

import (
	"errors"
	"fmt"
	"io"
	"mime/multipart"
	"net/http"
	"path"

	"github.com/gin-gonic/gin"

	"largo/core/fault"
	"largo/exchange"
)

// fileForm is a form in which a list is written to a file.
type fileForm[T any] struct {
	kind  string
	write func(io.Writer, []T) error
}

const (
	typeCSV  = "text/csv; charset=utf-8"
	typeXLSX = "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet"
)

// sendFile writes a list in the form that the path ends with.
func sendFile[T any](s *Server, c *gin.Context, forms map[string]fileForm[T], list []T) {
	form := forms[path.Ext(c.FullPath())]
	c.Header("Content-Type", form.kind)
	c.Header("Content-Disposition", fmt.Sprintf("attachment; filename=%q", path.Base(c.FullPath())))
	if err := form.write(c.Writer, list); err != nil {
		s.log.ErrorContext(c, "export", "file", c.FullPath(), "error", err)
	}
}

func tooBig(err error) bool {
	var body *http.MaxBytesError
	return errors.Is(err, exchange.ErrTooBig) || errors.As(err, &body)
}

// uploaded opens the file of a form.
func uploaded(c *gin.Context) (multipart.File, error) {
	head, err := c.FormFile("file")
	switch {
	case tooBig(err):
		return nil, err
	case err != nil:
		return nil, fault.List{{Say: "Choose a file first."}}
	case head.Size == 0:
		return nil, fault.List{{Say: "The file is empty."}}
	}
	return head.Open()
}

// uploadFault says what is wrong with a file, false where the fault is not
// the file's.
func uploadFault(err error) (said string, status int, wrong bool) {
	var l fault.List
	switch {
	case tooBig(err):
		return exchange.ErrTooBig.Error() + ".", http.StatusRequestEntityTooLarge, true
	case errors.As(err, &l):
		return firstSentence(l), http.StatusUnprocessableEntity, true
	}
	return "", 0, false
}
