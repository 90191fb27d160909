package web_test

import (
	"net/http"
	"net/url"
	"strings"
	"testing"

	"largo/web/webtest"
)

// Forms of any shape: never a fault of ours, never markup as it was typed.
func FuzzForms(f *testing.F) {
	s := webtest.Open(f)
	forms := []string{webtest.Boathouse + "/brief", webtest.Boathouse + "/wire/add", webtest.Boathouse + "/wire/connect",
		webtest.Boathouse + "/wire/hang", webtest.Boathouse + "/wire/lead", webtest.Boathouse + "/wire/device",
		webtest.Boathouse + "/wire/place", webtest.Boathouse + "/wire/reading", webtest.Boathouse + "/match/wishes",
		webtest.Boathouse + "/match/pair", webtest.Boathouse + "/protect/limiter", webtest.Boathouse + "/protect/knob",
		webtest.Boathouse + "/start/order", webtest.Boathouse + "/mend", webtest.Boathouse + "/undo", webtest.Boathouse +
			"/history/name", webtest.Boathouse + "/history/restore", webtest.Boathouse + "/match/plan", "/gear/new/amplifier",
		"/gear/new/loudspeaker", "/stock", "/stock/undo", "/gear/import/take", "/stock/import/take", "/jobs"}
	for i, body := range []string{"title=x", "rev=1&command=x", "tags=%00", "from=a%09b&to=c",
		"boxes=TOP+1+to+400&each=1", "x=NaN&y=1e999", "order=&order=", "%ff=%fe", "number=99999999999",
		"name=<script>alert(1)</script>", "list=id,place,count"} {
		f.Add(uint8(i), body)
	}
	f.Fuzz(func(t *testing.T, which uint8, body string) {
		v, err := url.ParseQuery(body)
		if err != nil {
			return
		}
		path := forms[int(which)%len(forms)]
		if v.Get("rev") == "" {
			v.Set("rev", "1")
		}
		if v.Get("command") == "" {
			v.Set("command", webtest.Fresh())
		}
		res, err := s.Client().Post(s.URL+path, "application/x-www-form-urlencoded", strings.NewReader(v.Encode()))
		if err != nil {
			t.Fatal(err)
		}
		defer res.Body.Close()
		var page strings.Builder
		_ = res.Write(&page)
		if res.StatusCode >= http.StatusInternalServerError || strings.Contains(page.String(), "<script>alert(1)") {
			t.Fatalf("%s with %q: %d", path, body, res.StatusCode)
		}
	})
}
