//go:build js && wasm

// The sums in the browser: the same code as on the server, for when the network is
// away. `make sums` builds it.
package main

import (
	"encoding/json"
	"syscall/js"

	"largo/core/sum"
)

func main() {
	js.Global().Set("largoSum", js.FuncOf(func(_ js.Value, args []js.Value) any {
		if len(args) != 1 {
			return ""
		}
		b, err := json.Marshal(sum.Show(args[0].String()))
		if err != nil {
			return ""
		}
		return string(b)
	}))
	select {} // its function is called as long as the page lives
}
