package exchange_test

import (
	"bytes"
	"strings"
	"testing"

	"largo/core/gear"
	"largo/exchange"
)

func TestStockTable(t *testing.T) {
	models := library(t)
	held := []gear.Holding{{Model: models[0], Place: "Truck 1", Count: 4}, {Model: models[1], Place: "Store, left", Count: 0}}
	var b bytes.Buffer
	if err := exchange.WriteStock(&b, held); err != nil {
		t.Fatal(err)
	}
	back, err := exchange.ReadStock(bytes.NewReader(b.Bytes()), models)
	if err != nil || len(back) != 2 || back[0].Count != 4 || back[1].Place != "Store, left" || back[0].Model.ID != models[0].ID {
		t.Errorf("%+v, %v", back, err)
	}
	for what, c := range map[string]struct{ file, say string }{
		"nothing":          {"", "empty"},
		"no count":         {"id,place\n", `"count" is missing`},
		"a strange model":  {"id,place,count\nnot-here,Truck,1\n", "Row 2, column id"},
		"half a lead":      {"id,place,count\n" + models[0].ID + ",Truck,1.5\n", "Row 2, column count"},
		"fewer than none":  {"id,place,count\n" + models[0].ID + ",Truck,-1\n", "Row 2, column count"},
		"no place":         {"id,place,count\n" + models[0].ID + ",,1\n", "Row 2, column place"},
		"a quote left off": {"id,place,count\n\"x,Truck,1\n", "Row"},
	} {
		if _, err := exchange.ReadStock(strings.NewReader(c.file), models); err == nil || !strings.Contains(err.Error(), c.say) {
			t.Errorf("%s: %v, want %q", what, err, c.say)
		}
	}
}
