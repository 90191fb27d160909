package kit

import (
	"net/url"
	"strconv"
)

// HookUpHref is where the hook-up of a bridged pair is shown.
func HookUpHref(slug, tag string, pair int) string {
	return "/jobs/" + slug + "/wire/hookup?" + url.Values{"amp": {tag}, "pair": {strconv.Itoa(pair)}}.Encode()
}
