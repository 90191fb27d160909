package browsertest

import (
	"context"
	"log/slog"
	"net/http"
	"net/http/httptest"
	"net/url"
	"strings"
	"testing"

	"largo/store/storetest"
	"largo/web"
)

// A refused form shows its faults in its place, at the field, with what was
// typed.
func TestARefusedFormShowsItsFaultsInPlace(t *testing.T) {
	b := open(t, laptop)
	b.expect("422")
	b.visit(boathouse + "/wire")
	b.fill("#hang-boxes", "GHOST")
	b.fill("#hang-outputs", "A1 A")
	b.fill("#hang-each", "2")
	b.click("#hang")
	b.awaitText("#hang-boxes-fault", "GHOST")
	b.await("what was typed", `document.querySelector("#hang-outputs").value === "A1 A"`)
}

// A page hears of an edit made on another server and offers to catch up; what is
// half typed stays.
func TestCatchingUp(t *testing.T) {
	b := open(t, laptop)
	other, err := web.New(storetest.Beside(t, b.store), slog.New(slog.DiscardHandler))
	must(t, err)
	second := httptest.NewServer(other)
	defer second.Close()
	b.visit(boathouse + "/brief")
	b.fill("#brief-wantedBy", "half ty")
	form := url.Values{"rev": {"1"}, "command": {"00000000-0000-4000-8000-00000000c0de"}, "policy": {"within"},
		"bridging": {"never"}, "stage": {"match"}}
	req, err := http.NewRequestWithContext(context.Background(), http.MethodPost, second.URL+boathouse+"/match/wishes",
		strings.NewReader(form.Encode()))
	must(t, err)
	req.Header.Set("Content-Type", "application/x-www-form-urlencoded")
	res, err := http.DefaultClient.Do(req)
	must(t, err)
	res.Body.Close()
	b.awaitText("#others", "revision 2 is in force, and this page shows 1")
	b.click("#catch-up")
	b.awaitText(".revision", "revision 2,")
	b.await("the offer gone", `document.querySelector("#others").hidden`)
	b.await("what was half typed", `document.querySelector("#brief-wantedBy").value === "half ty"`)
	b.submit("#save-brief", "3")
	b.await("no offer over its own edit", `document.querySelector("#others").hidden`)
}
