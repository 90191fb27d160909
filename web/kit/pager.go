package kit

import (
	"fmt"
	"net/url"
	"strconv"

	"github.com/gin-gonic/gin"
)

// Pager leads through a list that is too long for one page.
type Pager struct {
	Said         string // as "51 to 100 of 704"
	Newer, Older string // addresses, "" at the ends
}

// MostOnPage is how many jobs, or lines of a history, one page shows.
const MostOnPage = 50

// PageAsked is which page of a list is asked for, from 0.
func PageAsked(c *gin.Context) int {
	n, err := strconv.Atoi(c.Query("page"))
	if err != nil || n < 1 || n > 1_000_000 {
		return 0
	}
	return n - 1
}

// PagerOf leads on from a page; the address keeps what is asked beside it.
func PagerOf(path string, ask url.Values, page, shown, all int) Pager {
	at := func(n int) string {
		q := url.Values{}
		for name, values := range ask {
			if name != "page" && len(values) > 0 && values[0] != "" {
				q.Set(name, values[0])
			}
		}
		if n > 0 {
			q.Set("page", strconv.Itoa(n+1))
		}
		if len(q) == 0 {
			return path
		}
		return path + "?" + q.Encode()
	}
	var p Pager
	if all <= MostOnPage && page == 0 {
		return p
	}
	p.Said = fmt.Sprintf("%d to %d of %d", min(page*MostOnPage+1, all), page*MostOnPage+shown, all)
	if shown == 0 {
		p.Said = fmt.Sprintf("none of %d on this page", all)
	}
	if page > 0 {
		p.Newer = at(page - 1)
	}
	if (page+1)*MostOnPage < all {
		p.Older = at(page + 1)
	}
	return p
}
