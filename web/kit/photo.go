package kit

import (
	"net/http"

	"github.com/gin-gonic/gin"
)

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
