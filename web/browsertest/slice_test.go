package browsertest

import (
	"bytes"
	"context"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
	"time"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/chromedp"

	"largo/store/storetest"
)

const (
	boathouse = "/jobs/wherry-lock-boathouse"
	hall      = "/jobs/marigold-roller-hall"
)

// From an empty job to the sheet, as a newcomer would: enter a model, begin a
// job, add and plug the devices, judge them, set limiters, read the orders.
func TestFromNothingToTheSheet(t *testing.T) {
	t.Run("laptop", func(t *testing.T) { fromNothingToTheSheet(t, laptop) })
	t.Run("phone", func(t *testing.T) { fromNothingToTheSheet(t, phone) })
}

func fromNothingToTheSheet(t *testing.T, s screen) {
	b := open(t, s)
	b.visit("/gear")
	b.fill("#gear-q", "brack reed") // 8, 10, 10/4, 12 and 15
	b.await("only what was typed", `document.querySelectorAll("#gear-found tbody tr").length === 5`)
	b.visit("/gear")
	b.click(`a[href="/gear/new/amplifier"]`)
	b.awaitHeading("A new amplifier")
	b.fill("#model-maker", "Quern")
	b.fill("#model-name", "Two")
	b.fill("#model-ratings", "8 ohm 350 W\n4 ohm 600 W")
	b.fill("#model-gain", "32 dB")
	b.click("#save-model")
	b.awaitHeading("Quern Two")

	b.visit("/")
	b.click(".forms summary")
	b.fill("#job-title", "Reed Bank")
	b.fill("#job-listeners", "80")
	b.fill("#job-wanted", "90")
	b.fill("#job-distance", "30 ft")
	b.fill("#job-region", "230 V")
	b.click("#begin")
	b.awaitHeading("The rig is empty")

	rev := 1
	add := func(model, tags string) {
		t.Helper()
		rev++
		b.fill("#add-model", model)
		b.fill("#add-tags", tags)
		b.submit("#add", fmt.Sprint(rev))
	}
	plug := func(from, to string) {
		t.Helper()
		rev++
		b.fill("#connect-from", from)
		b.fill("#connect-to", to)
		b.submit("#plug", fmt.Sprint(rev))
	}
	add("Lapwell Lark", "RADIO")
	add("Osierby Eight", "DESK")
	add("Quern Two", "A1")
	add("Brackwater Reed 10", "TOP 1, TOP 2, TOP 3")
	plug("RADIO out 1", "DESK in 1")
	plug("DESK main L", "A1 in 1")
	plug("A1 out A", "TOP 1 in")
	plug("TOP 1 link", "TOP 2 in")
	plug("TOP 2 link", "TOP 3 in")

	b.key("2") // Match, by key
	b.awaitHeading("One output runs below the least load")
	b.click(".finding.stop .btn-mend")
	b.awaitText(".preview", "2.67 Ω to 4 Ω")
	rev++
	b.submit("#do-mend", fmt.Sprint(rev))
	b.awaitHeading("All 3 boxes driven")
	b.awaitText(".changed", "What that changed")
	b.key("u")
	b.awaitHeading("One output runs below the least load")
	b.key("r")
	b.awaitHeading("All 3 boxes driven")

	b.click(`#out-A1-out-A a.sum`) // the load, and its sum
	b.awaitText("#margin .sumline", "8 Ω / 2")

	b.key("4")
	b.awaitHeading("on dense music it takes")
	b.key("5")
	b.awaitHeading("to spare at the least")
	b.key("6")
	b.awaitHeading("no limiter on record")
	rev++ // output A, at 600 W into two boxes of 300 W, cannot harm them
	b.click(".finding.mend .btn-mend")
	b.submit("#do-mend", fmt.Sprint(rev))
	b.awaitHeading("held within what the boxes stand")
	b.awaitText(".limit-row", "48.9 V")

	b.key("7")
	b.awaitHeading("amplifiers last")
	b.await("the order RADIO, DESK, A1",
		`[...document.querySelectorAll(".step .tape")].map(e => e.innerText).join() === "RADIO,DESK,A1"`)
	b.key("8")
	b.await("the order reversed",
		`[...document.querySelectorAll(".step .tape")].map(e => e.innerText).join() === "A1,DESK,RADIO"`)
	b.key("p")
	b.awaitText(".sheet", "A1 out A")
}

// The sheet of every job of the tour is one page of A4 and of Letter, and
// carries settings, limits, both orders, boxes to tick, and the cautions.
func TestTheSheetIsOnePage(t *testing.T) {
	b := open(t, laptop)
	for _, job := range []string{boathouse, hall, "/jobs/saltpan-quay", "/jobs/copperas-meadow"} {
		b.visit(job + "/sheet")
		for name, size := range map[string][2]float64{"A4": {8.27, 11.69}, "Letter": {8.5, 11}} {
			pdf := b.print(size[0], size[1])
			if pages := bytes.Count(pdf, []byte("/Type /Page\n")); pages != 1 {
				t.Errorf("%s on %s: %d pages", job, name, pages)
			}
			text := pdfText(t, pdf)
			for _, want := range []string{"Amplifiers, set before energising", "Limiters, at most", "Switch on", "Switch off",
				"Cautions", "licensed electrician", "DESK"} {
				if !strings.Contains(text, want) {
					t.Errorf("%s on %s lacks %q", job, name, want)
				}
			}
			for _, furniture := range []string{"Undo", "Find", "Strike"} {
				if strings.Contains(text, furniture) {
					t.Errorf("%s on %s prints the furniture: %q", job, name, furniture)
				}
			}
		}
	}
}

// The sheet of forty boxes on ten amplifiers is one page of A4 still.
func TestTheSheetOfFortyBoxesIsOnePage(t *testing.T) {
	b := open(t, laptop)
	b.begin("Forty boxes")
	lines := []string{"RADIO: Lapwell Lark receiver", "DESK: Osierby Eight", "RADIO > DESK"}
	for i := range 10 {
		lines = append(lines, fmt.Sprintf("A%d: Fennholt 1400", i+1),
			fmt.Sprintf("TOP %d to %d: Brackwater Reed 10", 4*i+1, 4*i+4),
			fmt.Sprintf("A%d > TOP %d to %d", i+1, 4*i+1, 4*i+4))
	}
	b.fill("#type-lines", strings.Join(lines, "\n"))
	b.click("#type-in")
	b.awaitText(".revision", "revision 2,")
	b.key("p")
	b.awaitText(".sheet", "TOP 37, TOP 38")
	pdf := b.print(8.27, 11.69)
	if pages := bytes.Count(pdf, []byte("/Type /Page\n")); pages != 1 {
		t.Errorf("%d pages:\n%s", pages, pdfText(t, pdf))
	}
}

func pdfText(t *testing.T, pdf []byte) string {
	t.Helper()
	file := filepath.Join(t.TempDir(), "sheet.pdf")
	must(t, os.WriteFile(file, pdf, 0o600))
	out, err := exec.Command("pdftotext", "-layout", file, "-").Output()
	must(t, err)
	return string(out)
}

func TestPhone(t *testing.T) {
	b := open(t, phone)
	b.visit("/")
	b.fits("the list of jobs")
	b.click(`a[href^="` + hall + `"]`)
	b.awaitHeading("One output runs below the least load")
	b.fits("match")
	b.click(".strip-fold")
	b.click(`.strip a[href="` + hall + `/start"]`)
	b.awaitHeading("A1 goes on before")
	b.fits("start")
	b.click(".finding.stop .btn-mend")
	b.click("#do-mend")
	b.awaitHeading("Do not energise: A1 out A drives 2.67 Ω") // what else is at stop holds the start
	for _, page := range []string{"brief", "wire", "wire?list=lines", "wire?list=pack", "feed",
		"feed?part=stage+1", "level", "protect", "strike",
		"sheet", "history"} {
		b.visit(hall + "/" + page)
		b.fits(page)
		b.accessible("phone, " + page)
	}
	for _, page := range []string{"/gear", "/gear/model/fennholt-1400", "/gear/model/oldhythe-twin", "/stock",
		hall + "/wire/hookup?amp=A1&pair=0", boathouse + "/match/plan", boathouse + "/match/output?at=A2%09out+A",
		boathouse + "/match/whatif", hall + "/wire?lead=A1%09in+1"} {
		b.visit(page)
		b.fits(page)
	}
}

func TestKeysAlone(t *testing.T) {
	b := open(t, laptop)
	b.visit(boathouse + "/brief")
	b.key("/")
	b.await("the find dialog", `document.activeElement.id === "find-text"`)
	b.fill("#find-text", "sub l2")
	b.await("only the device", `[...document.querySelectorAll("#find-list li")].filter(li => !li.hidden).length === 1`)
	b.key(enter)
	b.await("the device's form", `document.querySelector("#device-newtag") &&
		document.querySelector("#device-newtag").value === "SUB L2"`)
	b.key("?")
	b.awaitText("#keys", "undo")
	b.key("\x1b")
	b.await("the keys gone", `!document.querySelector("#keys.show")`)
	b.visit(boathouse + "/match")
	b.eval(`document.querySelector("#wishes-policy").focus()`, nil)
	b.key("w") // within, chosen by its letter
	b.key(tabKey + tabKey)
	b.await("the button in focus", `document.activeElement.id === "set-wishes"`)
	b.key(enter)
	b.awaitText(".revision", "revision 2,")
	b.await("the focus kept", `document.activeElement.id === "set-wishes"`)
}

// A lead is plugged on the drawing: by the mouse, then by keys alone.
func TestPluggingOnTheDrawing(t *testing.T) {
	b := open(t, laptop)
	b.expect("422")
	b.visit(hall + "/wire")
	b.click(jack("HIRE 1/in 2")) // the input first: the lead still starts at the output
	b.await("the connector picked", `document.querySelector(".jack[aria-pressed=true]")`)
	b.submit(jack("DESK/main L"), "2")
	b.awaitText(".figures-table td", "HIRE 1 in 2")

	press := func(ref string) {
		t.Helper()
		b.eval(`document.querySelector(`+quoted(jack(ref))+`).focus()`, nil)
		b.key(enter)
	}
	press("CUES/left")
	press("DESK/in 1") // which the radio feeds
	b.awaitText("#problem", "join two outputs")
	b.visit(hall + "/wire")
	press("CUES/left")
	press("DESK/in 3")
	b.awaitText(".revision", "revision 3,")
	b.key("u")
	b.awaitText(".revision", "revision 2,")
}

func TestAccessibleInBothSchemes(t *testing.T) {
	drawn := []string{"/", hall + "/match?sum=A1+out+A&figure=load", hall + "/wire?device=TOP+1",
		hall + "/feed?plan=all", hall + "/feed/show",
		hall + "/protect", hall + "/start", boathouse + "/strike", "/gear/model/brackwater-reed-10",
		boathouse + "/match/plan",
		boathouse + "/match/output?at=A2%09out+A"}
	b := open(t, laptop)
	for _, path := range append([]string{hall + "/brief", hall + "/match?mend=match.load-below-least%40A1%40out+A&n=0",
		boathouse + "/sheet", boathouse + "/history", "/gear", "/gear/new/amplifier", "/stock", boathouse + "/match/whatif",
		"/jobs/saltpan-quay/wire/hookup?amp=A2&pair=0"}, drawn...) {
		b.visit(path)
		b.accessible(path)
	}
	s := laptop
	s.dark = true
	b = open(t, s)
	for _, path := range drawn { // of the dark scheme those that have drawings and shapes of their own
		b.visit(path)
		b.contrast(path + ", in the dark")
	}
}

func TestSchemeIsChosenByHand(t *testing.T) {
	b := open(t, laptop)
	b.visit(boathouse + "/match")
	paper := `getComputedStyle(document.body).backgroundColor`
	b.await("daylight", paper+` === "rgb(243, 239, 230)"`)
	b.key("d")
	b.await("the dark stage", paper+` === "rgb(18, 17, 13)"`)
	b.visit("/")
	b.await("the dark stage on every page", paper+` === "rgb(18, 17, 13)"`)
}

func TestARefusedFormKeepsWhatWasTyped(t *testing.T) {
	b := open(t, laptop)
	b.expect("422")
	b.visit(boathouse + "/brief")
	b.fill("#brief-wanted", "300 dB")
	b.click("#save-brief")
	b.awaitText(".fault", "cannot be right")
	b.await("the words typed, with the focus on them",
		`document.activeElement.id === "brief-wanted" && document.activeElement.value === "300 dB"`)
	b.accessible("a refused form")
}

// The database is killed in the middle of an edit, and then the server: the
// page says that nothing was kept, keeps what was typed, and works again.
func TestEditsWhileThingsAreDown(t *testing.T) {
	b := open(t, laptop)
	b.expect("503")
	b.expect("ERR_CONNECTION_REFUSED")
	b.expect("ERR_INCOMPLETE_CHUNKED_ENCODING") // the stream of events is broken off too
	b.expect("ajax")
	b.visit(boathouse + "/brief")
	b.fill("#brief-wantedBy", "harbour master")

	must(t, storetest.Cluster.Kill())
	b.click("#save-brief")
	b.awaitText("#notice", "The edit was not kept. The database does not answer")
	b.await("what was typed", `document.querySelector("#brief-wantedBy").value === "harbour master"`)
	must(t, storetest.Cluster.Restart(context.Background()))

	addr := strings.TrimPrefix(b.base, "http://")
	b.server.Close()
	b.click("#save-brief")
	b.awaitText("#notice", "Largo cannot be reached")
	b.await("what was typed", `document.querySelector("#brief-wantedBy").value === "harbour master"`)
	b.listen(addr)
	b.submit("#save-brief", "2")
	b.await("the notice gone", `document.querySelector("#notice").hidden`)
}

// An edit and all its consequences should be on screen within 100 ms. The
// figure is printed, not asserted.
func TestEditIsOnScreenFast(t *testing.T) {
	b := open(t, laptop)
	b.visit(boathouse + "/match")
	b.measureEdits()
	for rev, policy := range []string{"within", "tenth over", "headroom", "level first", "within", "headroom"} {
		b.eval(`window.took = 0`, nil)
		b.fill("#wishes-policy", policy)
		b.click("#set-wishes")
		time.Sleep(400 * time.Millisecond) // asking the page meanwhile would slow it down
		b.await("the time taken", `window.took > 0`)
		b.awaitText(".revision", fmt.Sprintf("revision %d,", rev+2))
		var ms float64
		b.eval(`window.took`, &ms)
		t.Logf("from the click until the page is laid out anew: %.0f ms", ms)
	}
}

// TestScreenshots takes the pictures of the README when it is told where to
// put them.
func TestScreenshots(t *testing.T) {
	dir := os.Getenv("LARGO_SCREENSHOTS")
	if dir == "" {
		t.Skip("LARGO_SCREENSHOTS names no folder")
	}
	shoot := func(s screen, name, path string) {
		t.Helper()
		t.Run(name, func(t *testing.T) { // each gives its connections back
			b := open(t, s)
			var png []byte
			if b.do(chromedp.Navigate(b.base + path)); !strings.Contains(path, "/run/") { // which has a frame of its own
				b.ready()
			}
			b.do(chromedp.Evaluate(`document.fonts.ready.then(() => true)`, nil), chromedp.CaptureScreenshot(&png))
			must(t, os.WriteFile(filepath.Join(dir, name+".png"), png, 0o644))
		})
	}
	dark := laptop
	dark.dark = true
	darkPhone := phone
	darkPhone.dark = true
	shoot(laptop, "jobs", "/")
	shoot(laptop, "brief", boathouse+"/brief")
	shoot(laptop, "match", hall+"/match?sum=A1+out+A&figure=load")
	shoot(dark, "match-dark", "/jobs/saltpan-quay/match")
	shoot(laptop, "bench", "/bench/session/2")
	shoot(laptop, "wire", boathouse+"/wire")
	shoot(laptop, "protect", hall+"/protect")
	shoot(laptop, "start", hall+"/start")
	shoot(dark, "strike-dark", boathouse+"/strike")
	shoot(laptop, "gear", "/gear?kind=amplifier")
	shoot(phone, "bench-phone", "/bench/session/2")
	shoot(laptop, "plan", "/jobs/saltpan-quay/match/plan")
	shoot(laptop, "output", boathouse+"/match/output?at=A2%09out+A")
	shoot(laptop, "level", "/jobs/saltpan-quay/level")
	shoot(laptop, "clip", boathouse+"/level/clip?over=10")
	shoot(dark, "limiter-dark", boathouse+"/protect/run?of=A1%09out+A")
	shoot(darkPhone, "run-phone", "/jobs/saltpan-quay/run/4")
	shoot(laptop, "feed", "/jobs/saltpan-quay/feed")

	b := open(t, screen{width: 794, height: 1123})
	b.visit(boathouse + "/sheet")
	b.do(emulation.SetEmulatedMedia().WithMedia("print"))
	var png []byte
	b.do(chromedp.CaptureScreenshot(&png))
	must(t, os.WriteFile(filepath.Join(dir, "sheet.png"), png, 0o644))
}
