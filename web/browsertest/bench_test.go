package browsertest

import (
	"context"
	"fmt"
	"strings"
	"testing"
	"time"

	"largo/core/bench"
	"largo/core/unit"
	"largo/demo"
	"largo/store"
	"largo/web/kit"
)

// heated begins a session that has its cold reading and its first step, a few minutes ago.
func (b *tab) heated() string {
	b.t.Helper()
	now := time.Now().Unix()
	all, err := demo.Sessions(now)
	must(b.t, err)
	s := bench.Session{Setup: all[1].Setup}
	cold := bench.Event{Seq: 1, Kind: bench.Read, At: now - 400}
	cold.Probe[0] = unit.Of(unit.Celsius(20))
	s.Events = []bench.Event{cold, {Seq: 2, Kind: bench.Step, At: now - 390, Volts: unit.Of(unit.Volt(24.4))}}
	id, err := b.store.KeepSession(context.Background(), store.Command{ID: kit.NewCommand()}, s, now)
	must(b.t, err)
	return fmt.Sprintf("/bench/session/%d", id)
}

// On a phone a reading is typed and stands in the chart; one that is typed while the server
// is away waits in the browser, is sent when it is back, and is kept once.
func TestReadingsAreNeverLost(t *testing.T) {
	b := open(t, phone)
	b.expect("ERR_CONNECTION_REFUSED")
	b.expect("ajax")
	at := b.heated()
	b.visit(at)
	b.fits("the bench on a phone")
	b.accessible("the bench on a phone")
	b.fill("#reading-probe1", "22.5")
	b.click("#note-reading")
	b.awaitText("td", "Magnet 22.5 °C")

	addr := strings.TrimPrefix(b.base, "http://")
	b.server.Close()
	b.fill("#reading-air", "20.7")
	b.click("#note-reading")
	b.awaitText(".waiting", "1 entry waits for the network; nothing is lost.")
	b.listen(addr)
	time.Sleep(4 * time.Second) // it is not sent twice at once
	b.eval(`window.dispatchEvent(new Event("online"))`, nil)
	b.awaitText("td", "Air 20.7 °C")
	b.await("nothing waiting", `document.querySelector(".waiting").hidden`)
	id := strings.TrimPrefix(at, "/bench/session/")
	var n int64
	_, err := fmt.Sscan(id, &n)
	must(t, err)
	h, err := b.store.HeatedSession(context.Background(), n)
	must(t, err)
	if len(h.Events) != 4 {
		t.Errorf("%d events, 4 happened", len(h.Events))
	}
	b.visit("/bench")
	b.accessible("the list of sessions")
	b.visit("/bench/new?model=brackwater-keel-12")
	b.fits("a new session on a phone")
	b.accessible("a new session")
}

// The level line follows a control that is dragged, and says so; clipping does as well.
func TestTheLevelLineFollows(t *testing.T) {
	b := open(t, laptop)
	b.visit(boathouse + "/level")
	b.accessible("the level line")
	var before string
	b.eval(`document.querySelector(".line .signal").getAttribute("d")`, &before)
	b.on(`.line-moves .slide:nth-of-type(2) input`, `e => { e.value = -10;
		e.dispatchEvent(new Event("input", {bubbles: true})) }`, nil)
	b.await("another line", `document.querySelector(".line .signal").getAttribute("d") !== `+quoted(before))
	b.submit("#record-controls", "2")
	b.visit(boathouse + "/level/clip")
	b.accessible("what clipping does")
	b.on("#clip-over", `e => { e.value = 12; e.dispatchEvent(new Event("input", {bubbles: true})) }`, nil)
	b.awaitHeading("12.0 dB over its clip")
	b.visit("/signals")
	b.accessible("test signals")
	b.visit(boathouse + "/protect/run?of=A1%09out+A&length=60")
	b.accessible("limiters at work")
}
