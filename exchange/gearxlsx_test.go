package exchange_test

import (
	"archive/zip"
	"bytes"
	"io"
	"strings"
	"testing"

	"github.com/xuri/excelize/v2"

	"largo/core/gear"
	"largo/exchange"
)

func workbook(t testing.TB, models []gear.Model) []byte {
	t.Helper()
	var b bytes.Buffer
	if err := exchange.WriteGearWorkbook(&b, models); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

// A workbook says the same as the CSV table, figure by figure.
func TestGearWorkbookRoundTrip(t *testing.T) {
	models := library(t)
	back, err := exchange.ReadGearWorkbook(bytes.NewReader(workbook(t, models)), nil)
	if err != nil {
		t.Fatal(err)
	}
	if table(t, back) != table(t, models) {
		t.Error("the library came back from a workbook changed")
	}
}

// Any program for spreadsheets finds the standard's parts in the file
// (ISO/IEC 29500, from memory), and numbers as numbers.
func TestGearWorkbookIsOne(t *testing.T) {
	b := workbook(t, library(t))
	archive, err := zip.NewReader(bytes.NewReader(b), int64(len(b)))
	if err != nil {
		t.Fatal(err)
	}
	parts := map[string]string{}
	for _, f := range archive.File {
		r, err := f.Open()
		if err != nil {
			t.Fatal(err)
		}
		text, err := io.ReadAll(r)
		if err != nil {
			t.Fatal(err)
		}
		parts[f.Name] = string(text)
	}
	for _, name := range []string{"[Content_Types].xml", "_rels/.rels", "xl/workbook.xml", "xl/worksheets/sheet1.xml"} {
		if parts[name] == "" {
			t.Errorf("the workbook has no %s", name)
		}
	}
	if !strings.Contains(parts["xl/worksheets/sheet1.xml"], "<v>8</v>") {
		t.Error("8 Ω is not written as a number")
	}
}

func TestGearWorkbookFaults(t *testing.T) {
	book := excelize.NewFile()
	defer book.Close()
	for cell, v := range map[string]any{"A1": "kind", "B1": "maker", "C1": "name", "D1": "nominal_ohm",
		"A3": "loudspeaker", "B3": "M", "C3": "N", "D3": 0} {
		if err := book.SetCellValue("Sheet1", cell, v); err != nil {
			t.Fatal(err)
		}
	}
	var b bytes.Buffer
	if err := book.Write(&b); err != nil {
		t.Fatal(err)
	}
	if _, err := exchange.ReadGearWorkbook(&b, nil); err == nil ||
		!strings.Contains(err.Error(), "Row 3, loudspeaker.nominal") {
		t.Errorf("0 Ω in row 3, after an empty row: %v", err)
	}
	for what, file := range map[string]string{"text": "kind,maker,name", "nothing": "",
		"half an archive": string(workbook(t, library(t))[:4000])} {
		if _, err := exchange.ReadGearWorkbook(strings.NewReader(file), nil); err == nil {
			t.Errorf("%s was read as a workbook", what)
		}
	}
}

func FuzzReadGearWorkbook(f *testing.F) {
	f.Add(workbook(f, library(f)[:3]))
	f.Fuzz(func(t *testing.T, b []byte) {
		if models, err := exchange.ReadGearWorkbook(bytes.NewReader(b), nil); err == nil {
			_ = workbook(t, models)
		}
	})
}

func TestReadCurve(t *testing.T) {
	for what, c := range map[string]struct {
		file, say string
		points    int
	}{
		// the comma parts columns
		"a measured file":     {"* measured in the store\n* Hz  ohm  deg\n20 12.1 35.2\n40\t38.0\t-2\n1000 6,4\n", "", 3},
		"falling, and twice":  {"1000;6.4;0\n20;12;3\n20;13;3\n", "", 2},
		"a word for a number": {"20 12\n40 high\n", "Line 2: \"high\" is not a number", 0},
		"no value":            {"20 12\n40\n", "Line 2", 0},
		"nothing":             {"* a note\n", "holds no curve", 0},
		"a picture":           {"\x89PNG\r\n\x1a\n", "holds no curve", 0},
	} {
		curve, err := exchange.ReadCurve(strings.NewReader(c.file))
		if c.say != "" {
			if err == nil || !strings.Contains(err.Error(), c.say) {
				t.Errorf("%s: %v, want %q", what, err, c.say)
			}
			continue
		}
		if err != nil || len(curve) != c.points || curve[0].Hz != 20 {
			t.Errorf("%s: %v, %v", what, curve, err)
		}
		var b bytes.Buffer
		if err := exchange.WriteCurve(&b, curve); err != nil {
			t.Fatal(err)
		}
		again, err := exchange.ReadCurve(&b)
		if err != nil || len(again) != len(curve) || again[1] != curve[1] {
			t.Errorf("%s: written and read again %v, %v", what, again, err)
		}
	}
}

func FuzzReadCurve(f *testing.F) {
	seed(f, "curve")
	f.Add([]byte("20 12.1 35\n40 38 -2\n"))
	f.Fuzz(func(t *testing.T, b []byte) {
		curve, err := exchange.ReadCurve(bytes.NewReader(b))
		if err != nil {
			return
		}
		for i := 1; i < len(curve); i++ {
			if !(curve[i].Hz >= curve[i-1].Hz) && curve[i].Hz == curve[i].Hz && curve[i-1].Hz == curve[i-1].Hz {
				t.Fatalf("point %d falls", i)
			}
		}
	})
}
