package exchange_test

import (
	"bytes"
	"reflect"
	"strings"
	"testing"

	"largo/core/gear"
	"largo/exchange"
)

func TestStockTable(t *testing.T) {
	models := library(t)
	held := []gear.Holding{{Model: models[0], Place: "Truck 1", Count: 4},
		{Model: models[1], Place: "Store, left", Count: 0}}
	var b bytes.Buffer
	if err := exchange.WriteStock(&b, held); err != nil {
		t.Fatal(err)
	}
	back, err := exchange.ReadStock(bytes.NewReader(b.Bytes()), models)
	if err != nil || len(back) != 2 || back[0].Count != 4 || back[1].Place != "Store, left" ||
		back[0].Model.ID != models[0].ID {
		t.Errorf("%+v, %v", back, err)
	}
	b.Reset()
	if err := exchange.WriteStockWorkbook(&b, held); err != nil {
		t.Fatal(err)
	}
	if back, err = exchange.ReadStock(bytes.NewReader(b.Bytes()), models); err != nil || len(back) != 2 ||
		back[0].Count != 4 || back[1].Place != "Store, left" {
		t.Errorf("from the workbook: %+v, %v", back, err)
	}
	for what, c := range map[string]struct{ file, say string }{
		"nothing":         {"", "empty"},
		"no count":        {"id,place\n", `"count" is missing`},
		"a strange model": {"id,place,count\nnot-here,Truck,1\n", "Row 2, column id"},
		"half a lead":     {"id,place,count\n" + models[0].ID + ",Truck,1.5\n", "Row 2, column count"},
		"fewer than none": {"id,place,count\n" + models[0].ID + ",Truck,-1\n", "Row 2, column count"},
		"no place":        {"id,place,count\n" + models[0].ID + ",,1\n", "Row 2, column place"},
		"said twice": {"id,place,count\n" + models[0].ID + ",Truck,1\n" + models[0].ID + ",Truck,2\n",
			"Row 3: row 2 says already"},
		"no end of it": {"id,place,count\n" + models[0].ID + ",Truck" + strings.Repeat(" ", exchange.MostBytes) +
			",1\n", "larger"},
		"a broken book":    {"PK\x03\x04 and no more", "no workbook"},
		"a quote left off": {"id,place,count\n\"x,Truck,1\n", "Row"},
	} {
		if _, err := exchange.ReadStock(strings.NewReader(c.file), models); err == nil ||
			!strings.Contains(err.Error(), c.say) {
			t.Errorf("%s: %v, want %q", what, err, c.say)
		}
	}
}

func TestDiffStock(t *testing.T) {
	models := library(t)
	at := func(m, n int, place string) gear.Holding {
		return gear.Holding{Model: models[m], Place: place, Count: n}
	}
	changes, same := exchange.DiffStock([]gear.Holding{at(0, 4, "Truck"), at(1, 2, "Truck"), at(2, 1, "Store")},
		[]gear.Holding{at(0, 4, "Truck"), at(1, 0, "Truck"), at(2, 3, "Truck"), at(3, 0, "Truck")})
	want := []exchange.StockChange{{Model: models[1], Place: "Truck", Before: 2},
		{Model: models[2], Place: "Truck", After: 3}}
	if !reflect.DeepEqual(changes, want) || same != 2 {
		t.Errorf("%+v and %d the same", changes, same)
	}
}

func FuzzReadStock(f *testing.F) {
	models := library(f)
	f.Add([]byte("id,place,count\n" + models[0].ID + ",Truck,3\n"))
	f.Fuzz(func(t *testing.T, b []byte) {
		held, err := exchange.ReadStock(bytes.NewReader(b), models)
		if err != nil {
			return
		}
		var first, second bytes.Buffer
		if err := exchange.WriteStock(&first, held); err != nil {
			t.Fatal(err)
		}
		back, err := exchange.ReadStock(bytes.NewReader(first.Bytes()), models)
		if err != nil {
			t.Fatalf("what was read cannot be read again: %v", err)
		}
		if err := exchange.WriteStock(&second, back); err != nil || second.String() != first.String() {
			t.Fatal("what was read is written differently the second time", err)
		}
	})
}
