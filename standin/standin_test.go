package standin_test

import (
	"context"
	"math"
	"net"
	"net/http/httptest"
	"strings"
	"testing"
	"time"

	"largo/core/thermal"
	"largo/exchange"
	"largo/standin"
)

func driver(t *testing.T, fault standin.Fault) *standin.Driver {
	t.Helper()
	d := &standin.Driver{Body: thermal.Body{R20: 5.3, Alpha: thermal.Copper, C1: 110, R1: 0.22, C2: 5200, R2: 0.55},
		Air:   20,
		Ratio: 1, Fault: fault, FaultAt: 30 * time.Minute}
	if err := d.Begin(time.Now(), 1); err != nil {
		t.Fatal(err)
	}
	return d
}

// The worked example: 56.39 V, the coil at 162.16 °C after a quarter of an hour, 8.253 Ω.
func TestItHeatsAsTheModelDoes(t *testing.T) {
	d := driver(t, standin.Sound)
	begun := time.Now()
	d.Begin(begun, 1)
	d.Drive(begun, 56.3915)
	r := d.Read(begun.Add(15 * time.Minute))
	if want := 5.3 * (1 + thermal.Copper*142.16); math.Abs(*r.Volts / *r.Amps - want) > 0.01 {
		t.Errorf("%.4f Ω, want %.4f", *r.Volts / *r.Amps, want)
	}
	if *r.First <= *r.Other || *r.Other <= *r.Air {
		t.Errorf("%v %v %v", *r.First, *r.Other, *r.Air)
	}
}

func TestProbesFail(t *testing.T) {
	for fault, at40 := range map[standin.Fault]func(sound, read, air float64) bool{
		standin.Falls:  func(_, read, air float64) bool { return read == air+2 },
		standin.Loose:  func(sound, read, air float64) bool { return math.Abs(read-air-0.6*(sound-air)) < 0.2 },
		standin.Freeze: func(sound, read, _ float64) bool { return read < sound-5 },
	} {
		d, sound := driver(t, fault), driver(t, standin.Sound)
		begun := time.Now()
		d.Begin(begun, 1)
		sound.Begin(begun, 1)
		d.Drive(begun, 40)
		sound.Drive(begun, 40)
		for m := 1; m < 40; m++ {
			d.Read(begun.Add(time.Duration(m) * time.Minute))
		}
		at := begun.Add(40 * time.Minute)
		is, was := d.Read(at), sound.Read(at)
		if !at40(*was.First, *is.First, *is.Air) {
			t.Errorf("%s: reads %.1f where a sound one reads %.1f", fault, *is.First, *was.First)
		}
	}
	if err := (&standin.Driver{Body: thermal.Body{}}).Begin(time.Now(), 1); err == nil {
		t.Error("a driver of nothing begins")
	}
}

// Both protocols say the same of one driver, and what is no message is not answered.
func TestBothProtocols(t *testing.T) {
	d := driver(t, standin.Sound)
	d.Drive(time.Now(), 24)
	web := httptest.NewServer(d)
	defer web.Close()
	conn, err := net.ListenPacket("udp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	ctx, cancel := context.WithCancel(t.Context())
	done := make(chan error, 1)
	go func() { done <- d.ServeOSC(ctx, conn) }()
	overHTTP, err := exchange.AskProbe(ctx, strings.Replace(web.URL, "localhost", "127.0.0.1", 1))
	if err != nil {
		t.Fatal(err)
	}
	if _, err := net.Dial("udp", conn.LocalAddr().String()); err != nil {
		t.Fatal(err)
	}
	overOSC, err := exchange.AskProbe(ctx, "osc://"+conn.LocalAddr().String())
	if err != nil {
		t.Fatal(err)
	}
	if overOSC.N != overHTTP.N+1 || overOSC.Volts != overHTTP.Volts || !overOSC.Probe[0].Known() {
		t.Errorf("%+v\n%+v", overHTTP, overOSC)
	}
	cancel()
	if err := <-done; err != nil {
		t.Error(err)
	}
	if _, err := exchange.AskProbe(t.Context(), "osc://"+conn.LocalAddr().String()); err == nil {
		t.Error("a probe that is gone answers")
	}
}
