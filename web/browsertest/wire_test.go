package browsertest

import (
	"fmt"
	"strconv"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/input"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"largo/core/rigtest"
	"largo/store"
)

// jack is the selector of a connector, "A1/out A", on the drawing.
func jack(ref string) string { return `.jack[data-ref="` + strings.ReplaceAll(ref, "/", `\9 `) + `"]` }

// begin begins a job and adds its devices.
func (b *tab) begin(title string, devices ...[2]string) {
	b.t.Helper()
	b.visit("/")
	b.click(".forms summary")
	b.fill("#job-title", title)
	b.click("#begin")
	b.awaitHeading("The rig is empty")
	for i, d := range devices {
		b.fill("#add-model", d[0])
		b.fill("#add-tags", d[1])
		b.submit("#add", fmt.Sprint(i+2))
	}
}

var smallRig = [][2]string{{"Lapwell Lark receiver", "RADIO"}, {"Osierby Eight", "DESK"}, {"Fennholt 1400", "A1"},
	{"Brackwater Reed 10", "TOP L1, TOP L2"}}

// A rig is wired from nothing with the mouse alone: plugged on the drawing,
// with leads from stock.
func TestWiringFromNothingByMouse(t *testing.T) {
	b := open(t, laptop)
	b.begin("Mouse", smallRig...)
	rev := 5
	plug := func(from, to string) {
		t.Helper()
		rev++
		b.click(jack(from))
		b.await("the connector picked", `document.querySelector(".jack[aria-pressed=true]")`)
		b.submit(jack(to), fmt.Sprint(rev))
	}
	plug("RADIO/out 1", "DESK/in 1")
	plug("DESK/main L", "A1/in 1")
	plug("TOP L1/in", "A1/out A") // the input first: the lead still starts at the output
	plug("TOP L1/link", "TOP L2/in")
	b.awaitText("#lists td", "speaker lead")
	b.awaitText("#board .port-name", "out A · 4 Ω")

}

// drag presses, moves and lets go.
func (b *tab) drag(x, y, toX, toY float64) {
	b.t.Helper()
	b.do(chromedp.MouseEvent(input.MousePressed, x, y, chromedp.ButtonLeft, chromedp.ClickCount(1)),
		chromedp.MouseEvent(input.MouseMoved, (x+toX)/2, (y+toY)/2, chromedp.ButtonLeft),
		chromedp.MouseEvent(input.MouseMoved, toX, toY, chromedp.ButtonLeft),
		chromedp.MouseEvent(input.MouseReleased, toX, toY, chromedp.ButtonLeft, chromedp.ClickCount(1)))
}

// In the picture of the supply a device is dragged onto another circuit, a part onto what feeds
// it; what is no place for it leaves all as it was.
func TestDraggingInTheSupply(t *testing.T) {
	b := open(t, laptop)
	b.visit("/jobs/saltpan-quay/feed")
	middle := func(selector string) (at [2]float64) {
		b.eval(`(() => { const r = document.querySelector(`+strconv.Quote(selector)+`).getBoundingClientRect();
			return [r.x + r.width / 2, r.y + r.height / 2] })()`, &at)
		return at
	}
	onto := func(what, row string) {
		from, to := middle(".feed-tree "+what), middle(`.feed-tree [data-row="`+row+`"] .place`)
		b.drag(from[0], from[1], to[0], to[1])
	}
	onto(`[data-load="LIGHTS"]`, "L1")
	b.awaitText(".revision", "revision 2,")
	b.await("the lamps on the first phase", `document.querySelector('[data-row="L1"] [data-load="LIGHTS"]')`)
	onto(`[data-part="quay lead"] rect`, "L1")
	b.awaitText(".revision", "revision 3,")
	onto(`[data-load="A1"]`, "barge") // which has no outlet
	onto(`[data-part="L2"] rect`, "L3")
	b.awaitText(".revision", "revision 4,")
}

// On the drawing a switch is thrown and the loads follow, a device is dragged,
// a programme followed, and a lead changed where it lies.
func TestSwitchesAndLoadsOnTheDrawing(t *testing.T) {
	b := open(t, laptop)
	b.visit(boathouse + "/wire")
	b.awaitText("#board .port-name", "out A · 4 Ω")
	b.click(`.throw-switch[data-tag="A1"][data-output="bridged"]`)
	b.awaitText(".revision", "revision 2,")
	b.await("the switch set", `document.querySelector('.throw-switch.set[data-tag="A1"][data-output="separate"]')`)
	b.visit(boathouse + "/match")
	b.awaitText(".finding", "one hot terminal")
	b.visit(boathouse + "/wire")
	b.key("u")
	b.awaitText(".revision", "revision 1,")

	// Dragged, a device stands where it was left, and Tidy takes it back.
	var at []float64
	b.eval(`(() => { const r = document.querySelector('.device[data-tag="CUES"] .label').getBoundingClientRect();
		return [r.x + r.width / 2, r.y + r.height / 2] })()`, &at)
	b.drag(at[0], at[1], at[0]+30, at[1]+90)
	b.await("the device moved", `document.querySelector("#tidy")`)
	var y float64
	b.eval(`Number(document.querySelector('.device[data-tag="CUES"]').dataset.y)`, &y)
	if y < 120 {
		t.Errorf("dragged 90 px down, CUES stands at %.0f", y)
	}
	b.submit("#tidy", "4")

	// Followed, the rest of the drawing is dimmed.
	b.fill("#follow", "DESK mon 1")
	b.eval(`document.querySelector("#follow").dispatchEvent(new Event("change", {bubbles: true}))`, nil)
	b.await("tops dimmed, wedges not",
		`document.querySelector('.device.dim-part[data-tag="TOP L1"]') &&
			!document.querySelector('.device.dim-part[data-tag="WEDGE 1"]')`)

	b.eval(`window.here = true`, nil)
	b.click(`a.sum`) // the margin comes anew beside the drawing
	b.awaitText("#margin h2", "worked out")
	b.click(`.throw-switch[data-tag="A1"][data-input]:nth-of-type(2)`)
	b.awaitText(".revision", "revision 5,")
	b.await("the programme still followed, on the same page",
		`document.querySelector('.device.dim-part[data-tag="TOP L1"]') && window.here`)
	b.submit("#undo", "4")
	b.await("still", `document.querySelector('.device.dim-part[data-tag="TOP L1"]') && window.here`)

	// Nearer and all of it.
	box := `document.querySelector("svg.board").getAttribute("viewBox")`
	var before, nearer, all string
	b.eval(box, &before)
	b.click(`[data-zoom="in"]`)
	b.eval(box, &nearer)
	b.click(`[data-zoom="fit"]`)
	b.eval(box, &all)
	if nearer == before || all == nearer {
		t.Errorf("the drawing shows %q, nearer %q, all %q", before, nearer, all)
	}

	// A lead is changed where it lies.
	b.visit(boathouse + "/wire?lead=A1%09in+1")
	b.fill("#lead-first", "microphone lead 5 m")
	b.submit("#save-lead", "6")
	b.awaitText("#lists td", "microphone lead 5 m")
	b.accessible("a lead looked at")
}

// Without a mouse: Tab brings the drawing, arrows go from connector to
// connector, Enter plugs, Shift and arrows move, and the forms do the rest.
func TestWiringFromNothingByKeysAlone(t *testing.T) {
	b := open(t, laptop)
	b.byKeys = true
	b.begin("Keys", smallRig...)
	b.eval(`document.querySelector("#follow").focus()`, nil)
	for range 12 { // past the tools, into the drawing
		b.do(chromedp.KeyEvent(tabKey))
		var in bool
		b.eval(`document.activeElement.matches(".jack")`, &in)
		if in {
			break
		}
	}
	b.await("a connector in focus", `document.activeElement.matches(".jack")`)
	here := func() (ref string) { b.eval(`document.activeElement.dataset.ref || ""`, &ref); return ref }
	// go walks by arrows to a connector, as somebody looking at it would.
	walk := func(ref string) {
		t.Helper()
		want := strings.ReplaceAll(ref, "/", "\t")
		for range 40 {
			if here() == want {
				return
			}
			var key string
			b.eval(`(() => { const m = (e) => { const r = e.getBoundingClientRect(); return [r.x, r.y] };
				const a = m(document.activeElement), b = m(document.querySelector(`+quoted(jack(ref))+`));
		const dx = b[0] - a[0], dy = b[1] - a[1];
				if (Math.abs(dx) > Math.abs(dy)) return dx > 0 ? "R" : "L"; return dy > 0 ? "D" : "U" })()`, &key)
			b.do(chromedp.KeyEvent(map[string]string{"R": kb.ArrowRight, "L": kb.ArrowLeft, "D": kb.ArrowDown,
				"U": kb.ArrowUp}[key]))
		}
		t.Fatalf("the arrows never reach %s; they stand at %q", ref, here())
	}
	rev := 5
	for _, lead := range [][2]string{{"RADIO/out 1", "DESK/in 1"}, {"DESK/main L", "A1/in 1"}, {"A1/out A", "TOP L1/in"},
		{"TOP L1/link", "TOP L2/in"}} {
		walk(lead[0])
		b.do(chromedp.KeyEvent(enter))
		walk(lead[1])
		b.do(chromedp.KeyEvent(enter))
		rev++
		b.awaitText(".revision", fmt.Sprintf("revision %d,", rev))
		b.await("the focus kept", `document.activeElement.matches(".jack")`)
	}
	b.do(chromedp.KeyEvent(kb.ArrowDown, chromedp.KeyModifiers(input.ModifierShift)))
	b.await("the device moved", `document.querySelector("#tidy")`)
	b.do(chromedp.KeyEvent("+"))
	b.key("3")
	b.awaitText("#lists td", "TOP L2 in")
	if strings.Contains(b.text("#lists"), "not chosen") {
		t.Error("a lead was plugged without one of stock")
	}
}

func (b *tab) text(selector string) (s string) {
	b.t.Helper()
	b.eval(`document.querySelector(`+quoted(selector)+`).textContent`, &s)
	return s
}

// Left is made right in one act: twins, their leads and their settings.
func TestDuplicateLeftToRight(t *testing.T) {
	b := open(t, laptop)
	b.begin("Twins", smallRig...)
	rev := 5
	for _, lead := range [][2]string{{"DESK main L", "A1 in 1"}, {"A1 out A", "TOP L1 in"}, {"TOP L1 link", "TOP L2 in"}} {
		rev++
		b.fill("#connect-from", lead[0])
		b.fill("#connect-to", lead[1])
		b.submit("#plug", fmt.Sprint(rev))
	}
	b.await("the left side proposed", `document.querySelector("#mirror-tags").value === "TOP L1, TOP L2"`)
	b.submit("#mirror", fmt.Sprint(rev+1))
	b.awaitText("#lists td", "TOP R2 in")
	b.awaitText("#board .port-name", "out B · 4 Ω")
}

// Two editors meet: the second sees what the first changed, and can make the
// edit on top of it.
func TestTwoEditorsMeet(t *testing.T) {
	a := open(t, laptop)
	b := a.beside()
	b.expect("409")
	a.visit(boathouse + "/brief")
	b.visit(boathouse + "/brief")
	a.fill("#brief-wanted", "99")
	a.submit("#save-brief", "2")
	b.fill("#brief-wantedBy", "harbour master")
	b.click("#save-brief")
	b.awaitText("#problem", "Somebody else has changed this rig")
	b.awaitText(".changed", "What somebody else changed")
	b.await("what was typed", `document.querySelector("#brief-wantedBy").value === "harbour master"`)
	b.accessible("a conflict")
	b.submit("#again", "3")
	b.await("the edit kept", `document.querySelector("#brief-wantedBy").value === "harbour master"`)
}

// The board of a rig of 200 devices: from the click until the page with all
// its consequences is laid out anew. The figure is printed, not asserted.
func TestLargeBoardInTheBrowser(t *testing.T) {
	b := open(t, laptop)
	slug, err := b.store.CreateJob(t.Context(), store.Change{Command: "00000000-0000-4000-8000-0000000000aa",
		Rig: rigtest.Large(t), Said: "Began", Author: "test"})
	must(t, err)
	b.visit("/jobs/" + slug + "/wire")
	b.measureEdits()
	for rev := range 5 {
		b.eval(`window.took = 0`, nil)
		b.click(`.throw-switch[data-tag="A1"][data-input]:nth-of-type(2)`)
		time.Sleep(700 * time.Millisecond) // asking the page meanwhile would slow it down
		b.awaitText(".revision", fmt.Sprintf("revision %d,", rev+2))
		var ms float64
		b.eval(`window.took`, &ms)
		t.Logf("200 devices, from the click until the page is laid out anew: %.0f ms", ms)
	}
}

// Two switches thrown faster than the answers come are both thrown.
func TestQuickHands(t *testing.T) {
	b := open(t, laptop)
	b.visit(boathouse + "/wire")
	throw := `document.querySelector('.throw-switch[data-tag="%s"][data-output="bridged"]').` +
		`dispatchEvent(new MouseEvent("click", {bubbles: true}));`
	b.eval(`(() => {`+fmt.Sprintf(throw, "A1")+fmt.Sprintf(throw, "A2")+`})()`, nil)
	b.awaitText(".revision", "revision 3,")
	b.await("both switches set", `["A1", "A2"].every(tag =>
		document.querySelector('.throw-switch.set[data-tag="' + tag + '"][data-output="separate"]'))`)
	b.submit("#undo", "2")
	b.await("the second of them back",
		`["A1", "A2"].filter(tag =>
		document.querySelector('.throw-switch.set[data-tag="' + tag + '"][data-output="separate"]')).length === 1`)
}

// The line test is typed row after row: Enter keeps a reading and goes on to the next,
// and what it means stands at once.
func TestReadingsAreTypedRowAfterRow(t *testing.T) {
	b := open(t, laptop)
	b.visit(boathouse + "/wire?list=lines")
	row := func(n int) string { return fmt.Sprintf(`[...document.querySelectorAll("[data-row]")][%d]`, n) }
	b.eval(row(0)+".focus()", nil)
	b.key("3.1" + kb.Enter)
	b.await("the second row", "document.activeElement === "+row(1)+" && "+row(0)+`.value.startsWith("3.1")`)
	b.key("0.4" + kb.Enter)
	b.await("the third row", "document.activeElement === "+row(2))
	b.awaitText("td.fault", "short")
}
