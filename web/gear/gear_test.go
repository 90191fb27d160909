package gear_test

import (
	"context"
	"fmt"
	"html"
	"io"
	"net/http"
	"net/url"
	"regexp"
	"strings"
	"testing"

	"largo/core/gear"
	"largo/demo"
	"largo/store"
	"largo/store/storetest"
	"largo/web/webtest"
)

func TestMain(m *testing.M) { storetest.Main(m) }

// Of two who change one model the second sees what the first did, keeps what was
// typed, and can keep it on top; both are in the history and can be undone.
func TestTwoEditorsOfTheLibrary(t *testing.T) {
	s := webtest.Open(t)
	const at = "/gear/model/brackwater-reed-12"
	old := s.Base(at)
	form := func(note string) url.Values {
		v := webtest.FormOf(t, s, at)
		v.Set("note", note)
		v.Set("base", old)
		v.Set("command", webtest.Fresh())
		return v
	}
	if status, _ := s.Post(at, form("first")); status != http.StatusOK {
		t.Fatalf("%d: the first", status)
	}
	second := form("second")
	status, page := s.Post(at, second)
	if status != http.StatusConflict || !strings.Contains(page, "Somebody else has changed this model") ||
		!strings.Contains(page, `value="second"`) || !strings.Contains(page, "first to <b>second</b>") {
		t.Errorf("%d: the second was not told", status)
	}
	if m, err := s.Store.Model(context.Background(), "brackwater-reed-12"); err != nil || m.Note != "first" {
		t.Errorf("%q, %v: the first was overwritten", m.Note, err)
	}
	second.Set("base", s.Base(at))
	second.Set("command", webtest.Fresh())
	if status, page = s.Post(at, second); status != http.StatusOK || strings.Count(page, "<td>Changed</td>") != 2 {
		t.Errorf("%d: kept on top", status)
	}
	s.Post(at+"/undo", url.Values{})
	if m, _ := s.Store.Model(context.Background(), "brackwater-reed-12"); m.Note != "first" || !m.CanRedo {
		t.Errorf("undone to %q", m.Note)
	}
	s.Post(at+"/redo", url.Values{})
	if m, _ := s.Store.Model(context.Background(), "brackwater-reed-12"); m.Note != "second" {
		t.Errorf("made again to %q", m.Note)
	}
	s.Post(at+"/archive", url.Values{"to": {"archive"}})
	if _, page := s.Get("/gear?q=reed+12"); strings.Contains(page, "brackwater-reed-12") {
		t.Error("an archived model is offered")
	}
	if _, page := s.Get("/gear?archived=yes"); !strings.Contains(page, "brackwater-reed-12") ||
		!strings.Contains(page, "in the archive") {
		t.Error("the archive of the library")
	}
	s.Post(at+"/archive", url.Values{"to": {"library"}})
	if _, page := s.Get("/gear?q=reed+12"); !strings.Contains(page, "brackwater-reed-12") {
		t.Error("it did not come back")
	}
}

// A file that is taken writes back only what differed when it was shown, and
// nothing where somebody else has changed one of its models since.
func TestTakingAFileLosesNobodysWork(t *testing.T) {
	s := webtest.Open(t)
	_, table := s.Get("/gear.csv")
	changed := strings.Replace(table, "brackwater-reed-10,loudspeaker,Brackwater,Reed 10,",
		"brackwater-reed-10,loudspeaker,Brackwater,Reed 10 b,", 1)
	_, shown := s.UploadTo("/gear/import", strings.NewReader(changed))
	id := regexp.MustCompile(`name="import" value="([^"]+)"`).FindStringSubmatch(shown)
	if id == nil || !strings.Contains(shown, "One model changed") && !strings.Contains(shown, "one model changed") {
		t.Fatalf("the import: %s", webtest.Heading(shown))
	}
	other := webtest.FormOf(t, s, "/gear/model/fennholt-1400")
	other.Set("note", "changed meanwhile")
	s.Post("/gear/model/fennholt-1400", other)
	if status, _ := s.Post("/gear/import/take", url.Values{"import": {id[1]}}); status != http.StatusOK {
		t.Errorf("%d: the file was not taken", status)
	}
	if m, _ := s.Store.Model(context.Background(), "fennholt-1400"); m.Note != "changed meanwhile" {
		t.Error("a model that did not differ was written back over a newer one")
	}
	if m, _ := s.Store.Model(context.Background(), "brackwater-reed-10"); m.Name != "Reed 10 b" {
		t.Error("the changed model was not taken")
	}
	_, shown = s.UploadTo("/gear/import", strings.NewReader(table))
	id = regexp.MustCompile(`name="import" value="([^"]+)"`).FindStringSubmatch(shown)
	mine := webtest.FormOf(t, s, "/gear/model/brackwater-reed-10")
	mine.Set("note", "mine")
	s.Post("/gear/model/brackwater-reed-10", mine)
	status, page := s.Post("/gear/import/take", url.Values{"import": {id[1]}})
	if status != http.StatusConflict || !strings.Contains(page, "somebody else has changed the library") {
		t.Errorf("%d: taken over somebody's work", status)
	}
	if m, _ := s.Store.Model(context.Background(), "brackwater-reed-10"); m.Note != "mine" {
		t.Error("somebody's work is lost")
	}
}

// Of two who count the same shelf the second is told; each act is in the history
// and is taken back as long as nothing of it changed since.
func TestTwoWhoCountTheStock(t *testing.T) {
	s := webtest.Open(t)
	old := s.Base("/stock")
	count := func(n, base string) (int, string) {
		return s.Post("/stock", url.Values{"model": {"fennholt-1400"}, "place": {"Van"}, "count": {n}, "base": {base}})
	}
	if status, _ := count("3", old); status != http.StatusOK {
		t.Fatalf("%d", status)
	}
	if status, page := count("5", old); status != http.StatusConflict ||
		!strings.Contains(page, "somebody else has changed how many") {
		t.Errorf("%d: the second overwrote the first", status)
	}
	if status, page := count("5", s.Base("/stock")); status != http.StatusOK ||
		!strings.Contains(page, "5 of Fennholt 1400 in Van") {
		t.Errorf("%d: kept on top", status)
	}
	_, page := s.Get("/stock")
	acts := regexp.MustCompile(`name="act" value="(\d+)"`).FindAllStringSubmatch(page, -1)
	if len(acts) < 2 {
		t.Fatalf("%d acts to undo", len(acts))
	}
	if status, _ := s.Post("/stock/undo", url.Values{"act": {acts[1][1]}}); status != http.StatusConflict {
		t.Errorf("%d: an act was undone over a newer one", status)
	}
	s.Post("/stock/undo", url.Values{"act": {acts[0][1]}})
	if _, list := s.Get("/stock.csv"); !strings.Contains(list, "Van,3") {
		t.Error("not undone")
	}
	if _, page := s.Get("/stock"); !strings.Contains(page, "Undid: 5 of Fennholt 1400 in Van") {
		t.Error("the undoing has no line")
	}
}

func TestGearInAndOut(t *testing.T) {
	s := webtest.Open(t)
	_, table := s.Get("/gear.csv")
	_, file := s.Get("/gear.json")
	for what, f := range map[string]string{"table": table, "JSON": file} {
		if status, page := s.UploadTo("/gear/import", strings.NewReader(f)); status != 200 ||
			!strings.Contains(page, "No models new, no models changed, 119 models as they are") {
			t.Errorf("%s back again: %d", what, status)
		}
	}
	changed := strings.Replace(table, "420 W into 8 Ω", "430 W into 8 Ω", 1) + "\n"
	changed = strings.Replace(changed, "fennholt-2900,", "quern-9,", 1)
	before := s.State()
	status, page := s.UploadTo("/gear/import", strings.NewReader(changed))
	if status != 200 || !strings.Contains(page, "One model new, one model changed") ||
		!strings.Contains(page, "430 W into 8 Ω") || s.State() != before {
		t.Fatalf("%d: the dry run does not show what would change, or changed it", status)
	}
	id := regexp.MustCompile(`name="import" value="([^"]+)"`).FindStringSubmatch(page)
	if status, page = s.Post("/gear/import/take", url.Values{"import": {id[1]}}); status != 200 ||
		!strings.Contains(page, "120 models in the library") {
		t.Errorf("%d: not taken", status)
	}
	if status, page := s.Post("/gear/import/take", url.Values{"import": {"nothing"}}); status != 422 ||
		!strings.Contains(page, "No import is named") {
		t.Errorf("%d for an import that is not one, want 422", status)
	}
	for what, c := range map[string]struct {
		file   io.Reader
		status int
		say    string
	}{
		"a fault in a row": {strings.NewReader(strings.Replace(table, "420 W into 8 Ω", "plenty", 1)), 422, "column ratings"},
		"50 MB":            {io.LimitReader(webtest.Spaces{}, 50<<20), 413, "larger than 4 MiB"},
		"empty":            {strings.NewReader(""), 422, "empty"},
	} {
		before := s.State()
		if status, page := s.UploadTo("/gear/import", c.file); status != c.status || !strings.Contains(page, c.say) ||
			s.State() != before {
			t.Errorf("%s: %d, want %d and %q", what, status, c.status, c.say)
		}
	}
}

// Workbooks, curves and stock lists go in whole or not at all.
func TestWorkbooksCurvesAndStock(t *testing.T) {
	s := webtest.Open(t)
	_, book := s.Get("/gear.xlsx")
	if status, page := s.UploadTo("/gear/import", strings.NewReader(book)); status != 200 ||
		!strings.Contains(page, "No models new, no models changed, 119 models as they are") {
		t.Errorf("%d: the workbook came back changed", status)
	}
	box := "/gear/model/brackwater-reed-12"
	if status, page := s.UploadTo(box+"/curve/impedance",
		strings.NewReader("* bench\n20 9 20\n100 7.1 -5\n1000 6.6 0\n")); status != 200 ||
		!strings.Contains(page, "3 points, 6.6 Ω at least, at 1000 Hz") {
		t.Errorf("%d: the curve is not there", status)
	}
	if status, text := s.Get(box + "/curve/impedance"); status != 200 || !strings.Contains(text, "100\t7.1\t-5") {
		t.Errorf("%d: %q", status, text)
	}
	if status, page := s.UploadTo(box+"/curve/impedance", strings.NewReader("20 9\n100 plenty\n")); status != 422 ||
		!strings.Contains(page, "Line 2") || !strings.Contains(page, "3 points") {
		t.Errorf("%d: a broken curve", status)
	}
	if status, page := s.Post("/stock",
		url.Values{"model": {"fennholt-1400"}, "place": {"Van"}, "count": {"3"}}); status != 200 ||
		!strings.Contains(page, "Barge, Store, Van") {
		t.Errorf("%d: the stock was not kept", status)
	}
	for field, c := range map[string][2]string{"count": {"-1", "cannot be right"}, "place": {"", "missing"},
		"model": {"ghost", "Choose a model"}} {
		v := url.Values{"model": {"fennholt-1400"}, "place": {"Van"}, "count": {"3"}}
		v.Set(field, c[0])
		if status, page := s.Post("/stock", v); status != 422 || !strings.Contains(page, c[1]) {
			t.Errorf("%d for %s %q", status, field, c[0])
		}
	}
	if status, page := s.UploadTo("/stock/import",
		strings.NewReader("id,place,count\nfennholt-1400,Van,9\nghost,Van,1\n")); status != 422 ||
		!strings.Contains(page, "Row 3, column id") {
		t.Errorf("%d: a stock list with a ghost", status)
	}
	if _, list := s.Get("/stock.csv"); !strings.Contains(list, "fennholt-1400,Fennholt,1400,Van,3") {
		t.Error("half of the refused list was taken")
	}
	status, page := s.UploadTo("/stock/import", strings.NewReader("id,place,count\nfennholt-1400,Van,9\n"))
	if status != 200 || !strings.Contains(page, "One entry changed, no entries as they are. Nothing is taken yet.") {
		t.Errorf("%d: what a stock list would change is not shown", status)
	}
	if _, list := s.Get("/stock.csv"); !strings.Contains(list, "Van,3") {
		t.Error("a list that was only looked at was taken")
	}
	_, rest, _ := strings.Cut(page, `name="list" value="`)
	shown, _, _ := strings.Cut(rest, `"`)
	if status, page = s.Post("/stock/import/take", url.Values{"list": {html.UnescapeString(shown)}}); status != 200 ||
		!strings.Contains(page, "Barge, Store, Van") {
		t.Errorf("%d: the list was not taken", status)
	}
	if _, book := s.Get("/stock.xlsx"); !strings.HasPrefix(book, "PK") {
		t.Error("no workbook of the stock")
	}
	if _, list := s.Get("/stock.csv"); !strings.Contains(list, "Van,9") {
		t.Error("the list that was taken is not in stock")
	}
}

// BenchmarkSearch searches a library of 5,000 models as somebody types; the
// aim is under 50 ms on the server.
func BenchmarkSearch(b *testing.B) {
	s := webtest.Open(b)
	models, err := demo.Gear()
	webtest.Must(b, err)
	many := make([]gear.Model, 5000)
	for i := range many {
		many[i] = models[i%len(models)]
		many[i].ID, many[i].Name = fmt.Sprintf("m%d", i), fmt.Sprintf("%s no %d", many[i].Name, i)
	}
	changes := make([]store.ModelChange, len(many))
	for i, m := range many {
		changes[i].Model = m
	}
	webtest.Must(b, s.Store.SaveModels(context.Background(), store.Command{ID: webtest.Fresh(), Author: "test"},
		"Entered", changes...))
	for _, typed := range []string{"", "f", "fennholt", "brackwater 49"} {
		b.Run("q="+typed, func(b *testing.B) {
			for b.Loop() {
				if status, _ := s.Get("/gear?q=" + url.QueryEscape(typed)); status != http.StatusOK {
					b.Fatal(status)
				}
			}
		})
	}
}

// What cannot be in a model is refused at its field.
func TestRefusedModels(t *testing.T) {
	amp := func(change ...string) url.Values {
		v := url.Values{"maker": {"Test"}, "name": {"N"}, "channels": {"2"}, "ratings": {"8 ohm 400 W\n4 ohm 700 W"}}
		for i := 0; i+1 < len(change); i += 2 {
			v.Set(change[i], change[i+1])
		}
		return v
	}
	box := func(name, value string) url.Values {
		return url.Values{"maker": {"Test"}, "name": {"B"}, "link": {"true"}, name: {value}}
	}
	webtest.Open(t).Refuses([]webtest.Refusal{
		webtest.Refused("0 ohms", "/gear/new/amplifier", amp("ratings", "0 ohm 400 W"), "ratings", "above 0 Ω"),
		webtest.Refused("negative ohms", "/gear/new/amplifier", amp("ratings", "-8 ohm 400 W"), "ratings", "above 0 Ω"),
		webtest.Refused("8 kW typed as W", "/gear/new/amplifier", amp("ratings", "8 ohm 8 W"), "ratings", "write 8 kW"),
		webtest.Refused("a falling table", "/gear/new/amplifier", amp("ratings", "8 ohm 700 W\n4 ohm 200 W"), "ratings",
			"falls more than constant current"),
		webtest.Refused("a rating in prose", "/gear/new/amplifier", amp("ratings", "plenty"), "ratings",
			"neither a load nor a power"),
		webtest.Refused("half a rating", "/gear/new/amplifier", amp("ratings", "8 ohm"), "ratings", "a load and a power"),
		webtest.Refused("gain in ohms", "/gear/new/amplifier", amp("gain", "32 ohm"), "gain", "unit should be dB"),
		webtest.Refused("no maker", "/gear/new/amplifier", amp("maker", ""), "maker", "missing"),
		webtest.Refused("a name of 10,000", "/gear/new/amplifier", amp("name", strings.Repeat("x", 10000)), "name",
			"10000 characters"),
		webtest.Refused("script in a name", "/gear/new/amplifier", amp("name", "<script>alert(1)</script>"), "name",
			"may not hold"),
		webtest.Refused("a model twice", "/gear/new/amplifier", amp("maker", "Fennholt", "name", "1400"), "name",
			"already has"),
		webtest.Refused("a box of 0 ohm", "/gear/new/loudspeaker", box("nominal", "0"), "nominal", "0 Ω cannot be right"),
		webtest.Refused("a box of 8 kW", "/gear/new/loudspeaker", box("continuous", "8 kW"), "continuous",
			"8000 W cannot be right"),
	})
}

// The library shows one kind alone where that is asked for, told apart by the
// figures of its kind, and a figure that a sheet does not give is no number.
func TestTheLibraryByKind(t *testing.T) {
	s := webtest.Open(t)
	_, page := s.Get("/gear?kind=amplifier&q=fennholt")
	for _, want := range []string{"Bridged 8 Ω", "1400 W", "Fennholt 2900", `title="not on record">?`} {
		if !strings.Contains(page, want) {
			t.Errorf("the amplifiers lack %q", want)
		}
	}
	if strings.Contains(page, "Harrowmill") || strings.Contains(page, `<h2 class="kind">loudspeakers`) {
		t.Error("what was not searched for is shown")
	}
	if _, page := s.Get("/gear?kind=generator"); !strings.Contains(page, "Two generators in the library.") ||
		!strings.Contains(page, "Enter a new generator") {
		t.Error("the generators alone")
	}
	if status, page := s.Get("/gear?kind=teapot"); status != 200 || !strings.Contains(page, "No teapots in the library.") {
		t.Errorf("a kind that is none: %d", status)
	}
}

// A model is read first, group by group; what a passive box cannot have is not shown, by
// what stands in its form.
func TestAModelIsReadFirst(t *testing.T) {
	_, page := webtest.Open(t).Get("/gear/model/oldhythe-twin")
	for _, want := range []string{`<i>Weight</i> 39 kg [sheet]`, `data-box="active"`, `>Link-through<`,
		"low: 8 Ω, least 6.6 Ω, 400 W"} {
		if !strings.Contains(page, want) {
			t.Errorf("the page lacks %q", want)
		}
	}
	if strings.Contains(page, `class="sheet-part" open`) {
		t.Error("a group is open that nobody asked for")
	}
	if _, page := webtest.Open(t).Get("/gear/new/loudspeaker"); strings.Count(page, " open>") < 3 {
		t.Error("a new model opens on nothing to fill")
	}
}
