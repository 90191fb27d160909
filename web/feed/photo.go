package feed

import (
	"fmt"
	"net/http"
	"slices"
	"strconv"
	"time"

	"github.com/gin-gonic/gin"

	"largo/core/fault"
	"largo/core/finding"
	"largo/core/rig"
	"largo/store"
	"largo/web/kit"
)

// shot is a photograph of a part of the supply.
type shot struct{ Href, Says string }

// photograph keeps a photograph of a part of the supply.
func photograph(s *kit.Server, c *gin.Context) {
	small, f, err := kit.ReceivePhoto(c)
	part := f.Text("part")
	if err == nil {
		err = keepShot(s, c, f, part, small)
	}
	if err == nil {
		c.Redirect(http.StatusSeeOther, "/jobs/"+c.Param("job")+"/feed?"+visitQuery(part))
		return
	}
	s.Edit(c, finding.Feed, "photo", func(_ rig.Rig, f *kit.Form) rig.Edit { // nothing is edited: the page says why
		f.Fault("", "The photograph was not kept: %s", err)
		return nil
	})
}

// keepShot keeps a photograph of a part that is there.
func keepShot(s *kit.Server, c *gin.Context, f *kit.Form, part string, small []byte) error {
	j, err := s.Store.Job(c, c.Param("job"))
	if err != nil {
		return err
	}
	if supplyNamed(j.Rig, part) == nil {
		return fault.At("part", "There is no part %.60q of the supply any more.", part)
	}
	return s.Store.AddSupplyPhoto(c, f.Act(), j.Slug, part, small)
}

// photo sends a photograph of this place.
func photo(s *kit.Server, c *gin.Context) {
	id, err := strconv.ParseInt(c.Param("photo"), 10, 64)
	all, wrong := s.Store.SupplyPhotos(c, c.Param("job"))
	if wrong != nil {
		s.Fail(c, wrong)
		return
	}
	if err != nil || !slices.ContainsFunc(all, func(p store.SupplyPhoto) bool { return p.Photo == id }) {
		s.Fail(c, store.ErrNotFound)
		return
	}
	kit.SendPhoto(s, c, id)
}

// shotsOf are the photographs of a part, of this visit and those before, the newest first.
func shotsOf(s *kit.Server, p *kit.Page, part string) (list []shot, err error) {
	all, err := s.Store.SupplyPhotos(p.Gin, p.Job.Slug)
	for _, photo := range all {
		if photo.Part == part {
			list = append(list, shot{fmt.Sprintf("/jobs/%s/feed/photo/%d", p.Job.Slug, photo.Photo),
				photo.Author + ", " + photo.At.In(time.Local).Format("2 January 2006")})
		}
	}
	return list, err
}
