// Package demo is the tour of an invented company that plays quays and
// boathouses from a canal barge. Every maker, model, place and person in it
// is invented.
package demo

import (
	"bytes"
	"embed"
	"fmt"

	"largo/core/gear"
	"largo/core/rig"
	"largo/exchange"
)

//go:embed gear.json stock.csv rigs/*.json
var files embed.FS

// Gear is the company's library.
func Gear() ([]gear.Model, error) {
	b, err := files.ReadFile("gear.json")
	if err != nil {
		return nil, err
	}
	return exchange.ReadGear(bytes.NewReader(b))
}

// Stock is what the company owns, and where it lies.
func Stock() ([]gear.Holding, error) {
	models, err := Gear()
	if err != nil {
		return nil, err
	}
	b, err := files.ReadFile("stock.csv")
	if err != nil {
		return nil, err
	}
	return exchange.ReadStock(bytes.NewReader(b), models)
}

// Rigs are the four dates of the tour, in order.
func Rigs() ([]rig.Rig, error) {
	entries, err := files.ReadDir("rigs")
	if err != nil {
		return nil, err
	}
	var rigs []rig.Rig
	for _, e := range entries {
		b, err := files.ReadFile("rigs/" + e.Name())
		if err != nil {
			return nil, err
		}
		r, err := exchange.ReadRig(bytes.NewReader(b))
		if err != nil {
			return nil, fmt.Errorf("%s: %w", e.Name(), err)
		}
		rigs = append(rigs, r)
	}
	return rigs, nil
}
