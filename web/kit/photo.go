package kit

import (
	"net/http"

	"github.com/gin-gonic/gin"

	"largo/core/fault"
	"largo/exchange"
)

// ReceivePhoto is the photograph that was sent, made small, with the form that came with it. What
// is none, or too large, is a fault that says so; the form is there all the same.
func ReceivePhoto(c *gin.Context) (jpeg []byte, f *Form, err error) {
	file, err := Uploaded(c)
	if err == nil {
		defer file.Close()
		jpeg, err = exchange.Photo(file)
	}
	if TooBig(err) {
		err = fault.At("file", "The photograph is larger than %d MB. Send a smaller one.", exchange.MostPhotoBytes>>20)
	}
	f, wrong := ReadForm(c)
	if wrong != nil {
		f = &Form{Gin: c}
	}
	return jpeg, f, err
}

// SendPhoto sends a photograph that whoever asks may see. One never changes.
func SendPhoto(s *Server, c *gin.Context, id int64) {
	p, err := s.Store.Photo(c, id)
	if err != nil {
		s.Fail(c, err)
		return
	}
	c.Header("Cache-Control", "private, max-age=31536000, immutable")
	c.Data(http.StatusOK, "image/jpeg", p.JPEG)
}
