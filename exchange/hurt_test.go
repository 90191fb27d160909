package exchange_test

import (
	"archive/zip"
	"bytes"
	"fmt"
	"runtime"
	"strings"
	"testing"

	"largo/core/gear"
	"largo/exchange"
)

// hurtful are files that once hurt: they ended the process, took its memory,
// were taken without a word, or were refused with a riddle. They are seeds of
// the fuzz targets too, the small ones.

// hurt is one such file, what it is read as, and what is said of it; "" where it
// has to be read.
type hurt struct {
	what, as, say string
	file          []byte
}

func rigOf(models, devices, more string) []byte {
	return []byte(`{"format":"largo-rig/1","brief":{"title":"T"},"models":[` + models + `],"devices":[` + devices +
		`],"links":[` + more + `]}`)
}

func gearOf(models string) []byte {
	return []byte(`{"format":"largo-gear/1","models":[` + models + `]}`)
}

func ampOf(part string) string {
	return `{"id":"a","kind":"amplifier","maker":"m","name":"n"` + part + `}`
}

func boxOf(part string) string {
	return `{"id":"b","kind":"loudspeaker","maker":"m","name":"n","loudspeaker":{` + part + `}}`
}

const aDevice = `{"tag":"A","model":"a"}`

func many(n int, entry string) string {
	return strings.TrimSuffix(strings.Repeat(entry+",", n), ",")
}

// bookOf is an XLSX file whose one sheet holds the given rows as XML.
func bookOf(t testing.TB, rows string) []byte {
	t.Helper()
	var b bytes.Buffer
	z := zip.NewWriter(&b)
	for name, text := range map[string]string{
		"[Content_Types].xml": `<?xml version="1.0"?>
			<Types
				xmlns="http://schemas.openxmlformats.org/package/2006/content-types">
			<Default Extension="rels"
				ContentType="application/vnd.openxmlformats-package.relationships+xml"/>
			<Default Extension="xml"
				ContentType="application/xml"/>
			<Override PartName="/xl/workbook.xml"
				ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.sheet.main+xml"/>
			<Override PartName="/xl/worksheets/sheet1.xml"
				ContentType="application/vnd.openxmlformats-officedocument.spreadsheetml.worksheet+xml"/>
			</Types>`,
		"_rels/.rels": `<?xml version="1.0"?>
			<Relationships
				xmlns="http://schemas.openxmlformats.org/package/2006/relationships">
			<Relationship Id="r1"
				Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/officeDocument" Target="xl/workbook.xml"/>
			</Relationships>`,
		"xl/workbook.xml": `<?xml version="1.0"?>
			<workbook
				xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main"
				xmlns:r="http://schemas.openxmlformats.org/officeDocument/2006/relationships">
			<sheets>
			<sheet name="gear" sheetId="1" r:id="r1"/>
			</sheets>
			</workbook>`,
		"xl/_rels/workbook.xml.rels": `<?xml version="1.0"?>
			<Relationships
				xmlns="http://schemas.openxmlformats.org/package/2006/relationships">
			<Relationship Id="r1"
				Type="http://schemas.openxmlformats.org/officeDocument/2006/relationships/worksheet"
				Target="worksheets/sheet1.xml"/>
			</Relationships>`,
		"xl/worksheets/sheet1.xml": `<?xml version="1.0"?>
			<worksheet
				xmlns="http://schemas.openxmlformats.org/spreadsheetml/2006/main">
			<sheetData>` + rows + `</sheetData>
			</worksheet>`,
	} {
		w, err := z.Create(name)
		if err != nil {
			t.Fatal(err)
		}
		if _, err := w.Write([]byte(text)); err != nil {
			t.Fatal(err)
		}
	}
	if err := z.Close(); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

func cellsOf(row int, texts ...string) string {
	var b strings.Builder
	fmt.Fprintf(&b, `<row r="%d">`, row)
	for i, text := range texts {
		fmt.Fprintf(&b, `<c r="%c%d" t="inlineStr"><is><t>%s</t></is></c>`, 'A'+i, row, text)
	}
	b.WriteString(`</row>`)
	return b.String()
}

func hurtful(t testing.TB) []hurt {
	const most = exchange.MostBytes
	return []hurt{
		{"4 milliard channels", "rig", "channels cannot be right",
			rigOf(ampOf(`,"amplifier":{"channels":4000000000,"ratings":[]}`), aDevice, "")},
		{"an amplifier without its part", "rig", "must describe that kind", rigOf(ampOf(``), aDevice, "")},
		{"an amplifier that is a mixer", "rig", "must describe that kind",
			rigOf(ampOf(`,"mixer":{"inputs":4,"outputs":[]}`), aDevice, "")},
		{"channels below none", "rig", "channels cannot be right",
			rigOf(ampOf(`,"amplifier":{"channels":-2,"ratings":[]}`), aDevice, "")},
		{"a milliard outlets", "rig", "outlets cannot be right",
			rigOf(`{"id":"a","kind":"distro","maker":"m","name":"n","supply":{"outlets":1000000000}}`, aDevice, "")},
		{"a milliard sockets", "rig", "sockets cannot be right",
			rigOf(`{"id":"a","kind":"network switch","maker":"m","name":"n","switch":{"sockets":1000000000}}`, aDevice, "")},
		{"a milliard inputs", "rig", "inputs cannot be right",
			rigOf(`{"id":"a","kind":"mixer","maker":"m","name":"n",
				"mixer":{"inputs":1000000000,"outputs":[{"name":"o","signal":"line"}]}}`, aDevice, "")},
		{"900,000 empty models", "gear", "goes on after 10000 entries", gearOf(many(900_000, "{}"))},
		{"900,000 empty models in a rig", "rig", "goes on after 400 entries", rigOf(many(900_000, "{}"), "", "")},
		{"a million empty devices", "rig", "goes on after 1000 entries", rigOf("", many(1_000_000, "{}"), "")},
		{"a million empty links", "rig", "goes on after 4000 entries", rigOf("", "", many(1_000_000, "{}"))},
		{"a million ratings", "rig", "goes on after 20000 entries",
			rigOf(ampOf(`,"amplifier":{"channels":2,"ratings":[`+many(1_000_000, "{}")+`]}`), aDevice, "")},
		{"a million points", "rig", "goes on after 20000 entries",
			rigOf(boxOf(`"impedance":[`+many(1_000_000, "{}")+`]`), "", "")},
		{"9,999 models of nothing", "gear", "maker is missing", gearOf(many(9_999, "{}"))},
		{"20,000 lists", "rig", "400000 values", rigOf(many(380, boxOf(`"impedance":[`+many(3_000, "{}")+`]`)), "", "")},
		{"lists without end", "rig", "more than 32 deep",
			[]byte(`{"format":"largo-rig/1","brief":` + strings.Repeat("[", 100_000) + strings.Repeat("]", 100_000) + `}`)},
		{"one object of 300,000 names", "rig", "names",
			[]byte(`{"format":"largo-rig/1","brief":{` + numbered(300_000) + `}}`)},
		{"a title twice", "rig", "a second time",
			[]byte(`{"format":"largo-rig/1","brief":{"title":"One","title":"Two"},"models":[],"devices":[],"links":[]}`)},
		{"a title twice, in capitals", "rig", "a second time",
			[]byte(`{"format":"largo-rig/1","brief":{"title":"One","TITLE":"Two"},"models":[],"devices":[],"links":[]}`)},
		{"a name twice, spelled", "rig", "a second time",
			[]byte(`{"format":"largo-rig/1","brief":{"title":"One","t\u0069tle":"Two"},"models":[],"devices":[],"links":[]}`)},
		{"Latin-1", "rig", "UTF-8",
			[]byte("{\"format\":\"largo-rig/1\",\"brief\":{\"title\":\"M\xfchle\"},\"models\":[],\"devices\":[],\"links\":[]}")},
		{"a byte order mark", "rig", "", []byte("\ufeff" + string(rigOf("", "", "")))},
		{"a name that turns round", "rig", "direction of writing",
			[]byte(`{"format":"largo-rig/1","brief":{"title":"a\u202eb"},"models":[],"devices":[],"links":[]}`)},
		{"a figure's origin of 100,000", "rig", "characters",
			rigOf(boxOf(`"nominal":{"value":8,"from":"`+strings.Repeat("x", 100_000)+`"}`), "", "")},
		{"a figure's origin of 500", "rig", "keep it to 200",
			rigOf(boxOf(`"nominal":{"value":8,"from":"`+strings.Repeat("x", 500)+`"}`), "", "")},
		{"a reading's port of 1,500", "rig", "no output",
			rigOf(ampOf(`,"amplifier":{"channels":2,"ratings":[]}`), `{"tag":"A","model":"a","readings":[{"port":"`+
				strings.Repeat("x", 1500)+`","dc":5}]}`, "")},
		{"4 MiB of one text", "rig", "characters",
			[]byte(`{"format":"largo-rig/1","brief":{"title":"` + strings.Repeat("x", most-100) + `"}}`)},
		{"4 MiB of escapes", "rig", "characters",
			[]byte(`{"format":"largo-rig/1","brief":{"title":"` + strings.Repeat(`\u0041`, most/6-100) + `"}}`)},
		{"4 MiB of brackets", "rig", "deep", []byte(`{"format":"largo-rig/1","x":` + strings.Repeat("[", most-100))},
		{"4 MiB of spaces", "rig", "ends in the middle", []byte(`{` + strings.Repeat(" ", most-10))},
		{"NUL in a title", "rig", "control characters",
			[]byte(`{"format":"largo-rig/1","brief":{"title":"a\u0000b"},"models":[],"devices":[],"links":[]}`)},
		{"a half surrogate", "rig", "",
			[]byte(`{"format":"largo-rig/1","brief":{"title":"a\ud800b"},"models":[],"devices":[],"links":[]}`)},
		{"two rows of one id", "table", "is that of row 2 already",
			[]byte("kind,maker,name\nloudspeaker,Märkl,Box 1\nloudspeaker,märkl,box-1\n")},
		{"two Cyrillic names", "table", "", []byte("kind,maker,name\nloudspeaker,Завод,Один\nloudspeaker,Завод,Два\n")},
		{"a Latin-1 table", "table", "save the table as UTF-8", []byte("kind,maker,name\nloudspeaker,M\xe4rkl,Box 1\n")},
		{"thousands by comma", "table", "can be read as 1200 or as 1.200",
			[]byte("kind,maker,name,continuous_w\nloudspeaker,M,N,\"1,200\"\n")},
		{"a table of empty rows", "table", "", []byte("kind,maker,name\n" + strings.Repeat("\n", 1_000_000))},
		{"a table of a million rows", "table", "wrong number of fields",
			[]byte("kind,maker,name\n" + strings.Repeat("x\n", 1_000_000))},
		{"a row of a million cells", "table", "columns", []byte("kind,maker,name\n" + strings.Repeat(",", 2_000_000) + "\n")},
		{"a cell of 3 MB", "table", "characters",
			[]byte("kind,maker,name\nloudspeaker,M," + strings.Repeat("x", 3_000_000) + "\n")},
		{"a workbook of a million empty rows", "table", "goes on after row",
			bookOf(t, cellsOf(1, "kind", "maker", "name")+strings.Repeat("<row/>", 1_000_000))},
		{"a workbook with a row at the end of the sheet", "table", "goes on after row",
			bookOf(t, cellsOf(1, "kind", "maker", "name")+cellsOf(1_048_576, "loudspeaker", "M", "N"))},
		{"a workbook with a cell far right", "table", "columns",
			bookOf(t, `<row r="1"><c r="XFD1" t="inlineStr"><is><t>kind</t></is></c></row>`)},
		{"a workbook that unfolds to 60 MB", "table", "no workbook that can be read", bookOf(t, strings.Repeat(" ", 60<<20))},
		{"decimal commas in columns of spaces", "curve", "", []byte("20,5 6,4 -12,1\n40,5 7,25 0\n")},
		{"decimal commas in columns of tabs", "curve", "", []byte("20,5\t6,4\n40,5\t7,25\n")},
		{"commas that read two ways", "curve", "two ways", []byte("20,5,6\n40,5,7\n")},
		{"thousands in a curve", "curve", "can be read as", []byte("20;8\n1,000;8\n")},
		{"columns of commas", "curve", "", []byte("20,5.5,6\n40.5,6,7\n")},
		{"a curve of 4 MiB", "curve", "points", []byte(strings.Repeat("1 2\n", most/4-1))},
		{"notes of 4 MiB", "curve", "lines", []byte(strings.Repeat("*\n", most/2-1))},
		{"stock of 200,000 rows", "stock", "no model", []byte("id,place,count\n" + strings.Repeat("x,y,1\n", 200_000))},
	}
}

// numbered is an object's inside of so many names.
func numbered(n int) string {
	var b strings.Builder
	for i := range n {
		fmt.Fprintf(&b, `"k%d":0,`, i)
	}
	return strings.TrimSuffix(b.String(), ",")
}

func (h hurt) read(models []gear.Model) error {
	r := bytes.NewReader(h.file)
	var err error
	switch h.as {
	case "rig":
		_, err = exchange.ReadRig(r)
	case "gear", "table":
		_, err = exchange.ReadGearFile(r, nil)
	case "curve":
		_, err = exchange.ReadCurve(r)
	case "stock":
		_, err = exchange.ReadStock(r, models)
	}
	return err
}

// Each is refused with a sentence, or read; and none takes 100 MB, all that is
// ever asked for counted, which is more than is held at once.
func TestHurtfulFiles(t *testing.T) {
	models := library(t)
	files := hurtful(t)
	if len(files) < 30 {
		t.Errorf("%d files", len(files))
	}
	for _, h := range files {
		var before, after runtime.MemStats
		runtime.ReadMemStats(&before)
		err := h.read(models)
		runtime.ReadMemStats(&after)
		switch {
		case h.say == "" && err != nil:
			t.Errorf("%s: %.200v", h.what, err)
		case h.say != "" && (err == nil || !strings.Contains(err.Error(), h.say)):
			t.Errorf("%s: %.200v; want a sentence with %q", h.what, err, h.say)
		case err != nil && len(err.Error()) > 40_000:
			t.Errorf("%s is refused with %d bytes", h.what, len(err.Error()))
		}
		if took := (after.TotalAlloc - before.TotalAlloc) >> 20; took > 100 {
			t.Errorf("%s of %d kB takes %d MB", h.what, len(h.file)>>10, took)
		}
	}
}

// BenchmarkHurtfulFiles is what each takes; nothing of 4 MiB may take a second.
func BenchmarkHurtfulFiles(b *testing.B) {
	models := library(b)
	for _, h := range hurtful(b) {
		b.Run(h.what, func(b *testing.B) {
			b.ReportAllocs()
			for b.Loop() {
				_ = h.read(models)
			}
		})
	}
}
