package bench

import (
	"slices"
	"strconv"

	"github.com/gin-gonic/gin"

	"largo/core/bench"
	"largo/store"
	"largo/web/kit"
)

// photograph keeps a photograph with what it shows.
func photograph(s *kit.Server, c *gin.Context) {
	h, ok := sessionOf(s, c)
	if !ok {
		return
	}
	small, f, err := kit.ReceivePhoto(c)
	if err == nil {
		e := readEvent(f, &h)
		e.Kind = bench.Note
		if len(f.Faults) == 0 {
			err = s.Store.AddSeen(c, f.Act(), h.ID, e, small, now())
		}
	}
	answered(s, c, h, f, "photo", err)
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
