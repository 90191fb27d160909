package bench

import (
	"slices"
	"strconv"

	"github.com/gin-gonic/gin"

	"largo/core/bench"
	"largo/core/fault"
	"largo/exchange"
	"largo/store"
	"largo/web/kit"
)

// photograph keeps a photograph with what it shows.
func photograph(s *kit.Server, c *gin.Context) {
	h, ok := sessionOf(s, c)
	if !ok {
		return
	}
	small, err := received(c)
	if kit.TooBig(err) {
		err = fault.At("file", "The photograph is larger than %d MB. Send a smaller one.", exchange.MostPhotoBytes>>20)
	}
	f, wrong := kit.ReadForm(c)
	if wrong != nil {
		f = &kit.Form{Gin: c}
	}
	if err == nil {
		e := readEvent(f, &h)
		e.Kind = bench.Note
		if len(f.Faults) == 0 {
			err = s.Store.AddSeen(c, f.Act(), h.ID, e, small, now())
		}
	}
	answered(s, c, h, f, "photo", err)
}

// received is the photograph that was sent, made small.
func received(c *gin.Context) ([]byte, error) {
	file, err := kit.Uploaded(c)
	if err != nil {
		return nil, err
	}
	defer file.Close()
	return exchange.Photo(file)
}

// photo sends a photograph of a session.
func photo(s *kit.Server, c *gin.Context) {
	h, ok := sessionOf(s, c)
	if !ok {
		return
	}
	id, err := strconv.ParseInt(c.Param("photo"), 10, 64)
	if err != nil || !slices.ContainsFunc(h.Events, func(e bench.Event) bool { return e.Photo == id && id > 0 }) {
		s.Fail(c, store.ErrNotFound)
		return
	}
	kit.SendPhoto(s, c, id)
}
