// Package browsertest drives the real interface in headless Chromium, as its
// users would. This file is the one place that knows the browser's protocol.
package browsertest

import (
	"context"
	_ "embed"
	"encoding/json"
	"fmt"
	"log/slog"
	"net"
	"net/http"
	"os"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/chromedp/cdproto/emulation"
	"github.com/chromedp/cdproto/input"
	cdplog "github.com/chromedp/cdproto/log"
	"github.com/chromedp/cdproto/page"
	"github.com/chromedp/cdproto/runtime"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"largo/demo/tour"
	"largo/store"
	"largo/store/storetest"
	"largo/web"
)

// browser is the one Chromium of this test binary.
var browser context.Context

func TestMain(m *testing.M) {
	options := append(chromedp.DefaultExecAllocatorOptions[:],
		chromedp.ExecPath("/usr/bin/chromium"), chromedp.WindowSize(1280, 800), chromedp.DisableGPU,
		chromedp.Flag("no-sandbox", os.Geteuid() == 0), chromedp.Flag("disable-quic", true),
		chromedp.Flag("disable-component-update", true),
		chromedp.Flag("disable-background-networking", true), chromedp.Flag("no-proxy-server", true),
		chromedp.Flag("host-resolver-rules", "MAP * ~NOTFOUND, EXCLUDE 127.0.0.1, EXCLUDE localhost"))
	allocator, stop := chromedp.NewExecAllocator(context.Background(), options...)
	var cancel context.CancelFunc
	browser, cancel = chromedp.NewContext(allocator)
	if err := chromedp.Run(browser); err != nil {
		fmt.Fprintln(os.Stderr, "no browser for the tests:", err)
		os.Exit(1)
	}
	defer stop()
	defer cancel()
	storetest.Main(m)
}

// tab is a page of the browser on a site of its own. The test fails on any
// console error or warning, uncaught exception, or breach of the CSP.
type tab struct {
	t       *testing.T
	ctx     context.Context
	base    string
	server  *http.Server
	handler http.Handler
	store   *store.Store
	width   int64 // of the screen, px
	byKeys  bool  // what would be clicked is brought into focus and entered

	mu       sync.Mutex
	problems []string
	expected []string // fragments of problems that the test brings about
}

type screen struct {
	width, height int64
	phone         bool
	dark          bool
}

var (
	laptop = screen{width: 1280, height: 800}
	phone  = screen{width: 390, height: 844, phone: true}
)

// open starts a server on the demo tour and a tab of the given size.
func open(t *testing.T, s screen) *tab {
	t.Helper()
	b := &tab{t: t}
	b.handler, b.store = site(t)
	b.listen("127.0.0.1:0")
	b.attach(s)
	return b
}

// beside opens a second tab on the same site, as a second person has.
func (b *tab) beside() *tab {
	b.t.Helper()
	second := &tab{t: b.t, base: b.base, server: b.server, handler: b.handler, store: b.store}
	second.attach(laptop)
	return second
}

// attach gives the tab its page in the browser.
func (b *tab) attach(s screen) {
	t := b.t
	t.Helper()
	b.width = s.width
	ctx, cancel := chromedp.NewContext(browser)
	ctx, stop := context.WithTimeout(ctx, 12*time.Minute)
	b.ctx = ctx
	chromedp.ListenTarget(ctx, b.hear)
	t.Cleanup(func() {
		_ = chromedp.Cancel(ctx)
		stop()
		cancel()
		b.server.Close()
		b.mu.Lock()
		defer b.mu.Unlock()
		for _, p := range b.problems {
			t.Error("the browser reports: " + p)
		}
	})
	scale := 1.0
	if s.phone {
		scale = 2
	}
	scheme := "light"
	if s.dark {
		scheme = "dark"
	}
	b.do(emulation.SetDeviceMetricsOverride(s.width, s.height, scale, s.phone),
		emulation.SetTouchEmulationEnabled(s.phone),
		emulation.SetEmulatedMedia().WithFeatures([]*emulation.MediaFeature{
			{Name: "prefers-color-scheme", Value: scheme}, {Name: "prefers-reduced-motion", Value: "reduce"}}),
		cdplog.Enable(), runtime.Enable(),
		page.BringToFront()) // a page behind another is not painted, and waits seconds for each move of the mouse
}

// site is the interface on a database with the demo tour.
func site(t *testing.T) (http.Handler, *store.Store) {
	t.Helper()
	st := storetest.Open(t)
	must(t, tour.Load(context.Background(), st))
	h, err := web.New(st, slog.New(slog.DiscardHandler))
	must(t, err)
	t.Cleanup(h.EndStreams)
	go h.Run(t.Context())
	return h, st
}

func must(t *testing.T, err error) {
	t.Helper()
	if err != nil {
		t.Fatal(err)
	}
}

func (b *tab) listen(addr string) {
	b.t.Helper()
	var l net.Listener
	var err error
	for range 50 { // a port that was just closed may take a moment
		if l, err = net.Listen("tcp", addr); err == nil {
			break
		}
		time.Sleep(20 * time.Millisecond)
	}
	must(b.t, err)
	b.base = "http://" + l.Addr().String()
	b.server = &http.Server{Handler: b.handler}
	go func(s *http.Server) { _ = s.Serve(l) }(b.server)
}

// hear notes whatever the browser complains of.
func (b *tab) hear(ev any) {
	said := ""
	switch e := ev.(type) {
	case *runtime.EventExceptionThrown:
		said = "exception: " + e.ExceptionDetails.Error()
	case *runtime.EventConsoleAPICalled:
		if e.Type == runtime.APITypeError || e.Type == runtime.APITypeWarning {
			said = "console: "
			for _, a := range e.Args {
				said += string(a.Value) + a.Description + " "
			}
		}
	case *cdplog.EventEntryAdded:
		if e.Entry.Level == cdplog.LevelError || e.Entry.Level == cdplog.LevelWarning {
			said = fmt.Sprintf("%s: %s %s", e.Entry.Source, e.Entry.Text, e.Entry.URL)
		}
	}
	b.mu.Lock()
	defer b.mu.Unlock()
	for _, x := range b.expected {
		if strings.Contains(said, x) {
			return
		}
	}
	if said != "" {
		b.problems = append(b.problems, said)
	}
}

// expect lets a problem pass that the test brings about on purpose.
func (b *tab) expect(fragment string) {
	b.mu.Lock()
	defer b.mu.Unlock()
	b.expected = append(b.expected, fragment)
}

func (b *tab) do(actions ...chromedp.Action) {
	b.t.Helper()
	must(b.t, chromedp.Run(b.ctx, actions...))
}

func (b *tab) visit(path string) {
	b.t.Helper()
	b.do(chromedp.Navigate(b.base + path))
	b.ready()
}

// ready waits until the page has its scripts, as a person would have.
func (b *tab) ready() {
	b.t.Helper()
	b.await("the page with its scripts",
		`document.readyState === "complete" && window.Alpine && document.querySelector("#matter")`)
}

// eval runs an expression in the page.
func (b *tab) eval(js string, into any) {
	b.t.Helper()
	b.do(chromedp.Evaluate(js, into))
}

// on does something with the element that a selector finds, as soon as it is
// there and in sight. Found and used in one breath: a page may replace itself
// between two.
func (b *tab) on(selector, act string, into any) {
	b.t.Helper()
	b.await(selector, `(() => { const e = document.querySelector(`+quoted(selector)+`);
		if (!e?.checkVisibility()) return false;
		window.acted = (`+act+`)(e); return true })()`)
	b.eval(`window.acted`, into)
}

// click presses the mouse on what a selector finds, once it is there and in
// sight. (Coordinates, not nodes: a page that replaces itself under the
// protocol's feet leaves node ids stale.)
func (b *tab) click(selector string) {
	b.t.Helper()
	b.ready()
	if b.byKeys {
		b.on(selector, `e => e.focus()`, nil)
		b.do(chromedp.KeyEvent(enter))
		return
	}
	var at []float64
	b.on(selector, `e => { e.scrollIntoView({block: "center", behavior: "instant"});
		const r = e.getClientRects()[0]; return [r.x + r.width / 2, r.y + r.height / 2] }`, &at)
	b.do(chromedp.MouseClickXY(at[0], at[1]))
}

// fill types into a field or chooses from a list.
func (b *tab) fill(selector, value string) {
	b.t.Helper()
	var kind string
	b.on(selector, `e => { e.focus(); if (e.select) e.select(); return e.tagName }`, &kind)
	if kind != "SELECT" {
		b.do(input.InsertText(value))
		return
	}
	var found bool
	b.on(selector, `s => { const o = [...s.options].find(o => o.label.startsWith(`+quoted(value)+
		`)); if (o) s.value = o.value; return !!o }`, &found)
	if !found {
		b.t.Fatalf("%s offers no %q", selector, value)
	}
}

func quoted(s string) string {
	q, _ := json.Marshal(s)
	return string(q)
}

// key presses keys on the page.
func (b *tab) key(keys string) {
	b.t.Helper()
	b.ready()
	b.do(chromedp.KeyEvent(keys))
}

var enter, tabKey = kb.Enter, kb.Tab

// await waits until a condition of the page holds.
func (b *tab) await(what, condition string) {
	b.t.Helper()
	ctx, cancel := context.WithTimeout(b.ctx, 90*time.Second)
	defer cancel()
	for {
		var ok bool
		err := chromedp.Run(ctx, chromedp.Evaluate(`!!(`+condition+`)`, &ok))
		if err == nil && ok {
			return
		}
		if ctx.Err() != nil {
			var text string
			_ = chromedp.Run(b.ctx, chromedp.Evaluate(`document.body.innerText.slice(0, 1500)`, &text))
			b.t.Fatalf("%s never came; the page says:\n%s", what, text)
		}
		time.Sleep(15 * time.Millisecond)
	}
}

// awaitHeading waits for the verdict of a page.
func (b *tab) awaitHeading(part string) {
	b.t.Helper()
	b.await("a verdict with "+part,
		`document.querySelector("h1") && document.querySelector("h1").innerText.replace(/\s+/g, " ").includes(`+
			quoted(part)+`)`)
}

func (b *tab) awaitText(selector, part string) {
	b.t.Helper()
	b.await(selector+" with "+part, `[...document.querySelectorAll(`+quoted(selector)+
		`)].some(e => e.textContent.replace(/\s+/g, " ").includes(`+quoted(part)+`))`)
}

// submit presses a button that makes an edit and waits for its revision.
func (b *tab) submit(button, revisionAfter string) {
	b.t.Helper()
	var already bool
	b.eval(`!!document.querySelector(".revision")?.textContent.includes(`+quoted("revision "+revisionAfter+",")+
		`)`, &already)
	if already {
		b.t.Fatalf("%s is to bring revision %s, which is there already", button, revisionAfter)
	}
	b.click(button)
	b.awaitText(".revision", "revision "+revisionAfter+",")
}

// measureEdits lets the page measure each edit, from the request until the
// new page is laid out.
func (b *tab) measureEdits() {
	b.t.Helper()
	b.eval(`(() => { window.took = 0; const begun = {};
		document.addEventListener("ajax:before", () => { begun.at = performance.now() });
		window.addEventListener("ajax:after", () => { document.body.getBoundingClientRect();
		window.took = performance.now() - begun.at }); })()`, nil)
}

//go:embed testdata/axe.min.js
var axe string

// accessible runs axe-core on the page as it stands.
func (b *tab) accessible(what string) { b.axe(what, "") }

// contrast faults what cannot be read: the scheme changes nothing else of a page.
func (b *tab) contrast(what string) { b.axe(what, `runOnly: ["color-contrast"],`) }

func (b *tab) axe(what, only string) {
	b.t.Helper()
	var found []string
	b.do(chromedp.Evaluate(axe, nil), chromedp.Evaluate(
		`axe.run({`+only+` resultTypes: ["violations"]}).then(r => r.violations.map(v => v.id + " (" + v.impact + "): " +
			v.nodes.map(n => n.target.join(" ") + " " + n.failureSummary).slice(0, 3).join("; ")))`,
		&found, func(p *runtime.EvaluateParams) *runtime.EvaluateParams { return p.WithAwaitPromise(true) }))
	for _, f := range found {
		b.t.Errorf("%s: %s", what, f)
	}
}

// fits faults a page that is wider than the screen.
func (b *tab) fits(what string) {
	b.t.Helper()
	var over int
	// a phone widens its window to what is in it
	b.eval(fmt.Sprintf(`document.documentElement.scrollWidth - %d`, b.width), &over)
	if over > 0 {
		b.t.Errorf("%s is %d px wider than the screen", what, over)
	}
}

// print gives the page as a PDF of a paper size in inches.
func (b *tab) print(width, height float64) []byte {
	b.t.Helper()
	var pdf []byte
	b.do(chromedp.ActionFunc(func(ctx context.Context) error {
		var err error
		pdf, _, err = page.PrintToPDF().WithPaperWidth(width).WithPaperHeight(height).
			WithPreferCSSPageSize(false).WithPrintBackground(false).Do(ctx)
		return err
	}))
	return pdf
}
