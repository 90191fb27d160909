package browsertest

import (
	"encoding/json"
	"fmt"
	"math/rand/v2"
	"net/http"
	"net/url"
	"slices"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/chromedp"
	"github.com/google/uuid"

	"largo/core/run"
)

// begun begins a power-up of the boathouse and opens it.
func (b *tab) begun() (at string, id int64) {
	b.t.Helper()
	answer, err := http.PostForm(b.base+boathouse+"/run", url.Values{"sort": {"start"}, "command": {uuid.NewString()}})
	must(b.t, err)
	must(b.t, answer.Body.Close())
	at = answer.Request.URL.Path
	b.do(chromedp.Navigate(b.base + at)) // a cold phone: no page of it was seen before
	b.onRun()
	_, err = fmt.Sscanf(at[strings.LastIndex(at, "/")+1:], "%d", &id)
	must(b.t, err)
	return at, id
}

func (b *tab) onRun() {
	b.t.Helper()
	b.await("the run with its script", `document.readyState === "complete" && window.largoRun`)
}

// press presses the button of a text.
func (b *tab) press(text string) {
	b.t.Helper()
	find := `[...document.querySelectorAll("button")].find(x => x.textContent === ` + quoted(text) + ` && !x.disabled)`
	b.await("a button "+text, find)
	b.eval(find+`.click()`, nil)
}

// A phone goes on without the network: what was thrown waits, over a reload of the page as well, and
// the server takes it as of when it happened. Another phone sees it at once.
func TestARunWithoutTheNetwork(t *testing.T) {
	b := open(t, phone)
	second := b.beside()
	for _, expected := range []string{"net::ERR_", "an unknown error occurred when fetching"} {
		b.expect(expected)
		second.expect(expected)
	}
	at, id := b.begun()
	var bytes int
	b.eval(`performance.getEntriesByType("resource").concat(performance.getEntriesByType("navigation"))
		.reduce((sum, e) => sum + e.transferSize, 0)`, &bytes)
	if bytes < 10_000 || bytes > 200_000 {
		t.Errorf("the page takes %d bytes", bytes)
	}
	b.fits("the run")
	b.accessible("the run")
	b.await("the page kept on the phone", `document.body.dataset.kept === "yes"`)
	second.do(chromedp.Navigate(b.base + at))
	second.onRun()
	b.press("It is switched on")
	second.await("what the first phone threw",
		`document.querySelector("#run-list").textContent.includes("RADIO settling")`)

	addr := b.server.Addr
	b.eval(`location.host`, &addr)
	must(t, b.server.Close())
	b.press("It is switched on") // CUES, which waits for nothing
	b.await("what waits", `document.querySelector("#run-net").textContent.includes("1 so far")`)
	b.do(chromedp.Navigate(b.base + at))
	b.onRun()
	b.await("what waits, after a reload", `document.querySelector("#run-net").textContent.includes("1 so far")`)
	time.Sleep(1200 * time.Millisecond)
	b.listen(addr)
	b.await("what waited, sent", `document.querySelector("#run-net").hidden`)
	r, err := b.store.Run(t.Context(), "wherry-lock-boathouse", id)
	must(t, err)
	if len(r.Events) != 2 || r.Events[1].Kind != run.Throw || r.Events[1].Step != 1 {
		t.Fatalf("%+v", r.Events)
	}
	if late := time.Now().UnixMilli() - r.Events[1].At; late < 1000 {
		t.Errorf("it happened %d ms ago by what was kept", late)
	}
}

// What the phone makes of a run is what the core makes of it.
func TestThePhoneJudgesAsTheCore(t *testing.T) {
	b := open(t, phone)
	_, id := b.begun()
	r, err := b.store.Run(t.Context(), "wherry-lock-boathouse", id)
	must(t, err)
	type moment struct {
		Events []run.Event `json:"events"`
		At     int64       `json:"at"`
	}
	var moments []moment
	var want [][]run.Status
	for seed := range uint64(60) {
		c, now := run.Run{Setup: r.Setup}, int64(1_000_000)
		rnd := rand.New(rand.NewPCG(seed, 5))
		kinds := []run.Kind{run.Throw, run.Throw, run.See, run.See, run.Trouble, run.Again, run.Leave}
		for range 40 {
			now += int64(rnd.IntN(30_000))
			_ = c.Take(run.Event{Kind: kinds[rnd.IntN(len(kinds))], Step: rnd.IntN(len(c.Steps)), By: "P", At: now,
				Wrong: run.NoLamp}, now)
		}
		moments = append(moments, moment{append([]run.Event{}, c.Events...), now})
		var all []run.Status
		for _, s := range c.States(now) {
			all = append(all, s.Status)
		}
		want = append(want, all)
	}
	doc, err := json.Marshal(moments)
	must(t, err)
	var got [][]run.Status
	b.eval(string(doc)+`.map(m => largoRun.statuses(m.events, m.at).map(s => s.status))`, &got)
	for i := range want {
		if !slices.Equal(got[i], want[i]) {
			t.Fatalf("run %d: the phone says %v, the core %v", i, got[i], want[i])
		}
	}
}
