package standin

import (
	"context"
	"encoding/json"
	"errors"
	"net"
	"net/http"
	"strconv"
	"time"

	"largo/exchange"
)

// ServeHTTP answers what the driver reads: GET for a reading, POST with volts=… to drive it.
func (d *Driver) ServeHTTP(w http.ResponseWriter, r *http.Request) {
	switch r.Method {
	case http.MethodGet:
	case http.MethodPost:
		volts, err := strconv.ParseFloat(r.FormValue("volts"), 64)
		if err != nil || !(volts >= 0 && volts <= 500) {
			http.Error(w, "volts=… from 0 to 500, rms", http.StatusUnprocessableEntity)
			return
		}
		d.Drive(time.Now(), volts)
	default:
		http.Error(w, "GET reads, POST drives", http.StatusMethodNotAllowed)
		return
	}
	w.Header().Set("Content-Type", "application/json")
	_ = json.NewEncoder(w).Encode(d.Read(time.Now()))
}

// ServeOSC answers messages of OSC until the context ends: exchange.OSCAsk for a reading,
// /probe/drive with a float to drive it. What is none is not answered.
func (d *Driver) ServeOSC(ctx context.Context, conn net.PacketConn) error {
	stop := context.AfterFunc(ctx, func() { _ = conn.Close() })
	defer stop()
	b := make([]byte, 2048)
	for {
		n, from, err := conn.ReadFrom(b)
		if err != nil {
			if ctx.Err() != nil || errors.Is(err, net.ErrClosed) {
				return nil
			}
			return err
		}
		m, err := exchange.UnmarshalOSC(b[:n])
		if err != nil {
			continue
		}
		if m.Address == oscDrive && len(m.Args) == 1 {
			if volts, ok := m.Args[0].(float32); ok && volts >= 0 && volts <= 500 {
				d.Drive(time.Now(), float64(volts))
			}
		}
		if m.Address != exchange.OSCAsk && m.Address != oscDrive {
			continue
		}
		if answer, err := exchange.MarshalProbed(d.Read(time.Now())); err == nil {
			_, _ = conn.WriteTo(answer, from)
		}
	}
}

// oscDrive sets the volts rms: of the stand-in alone, a real probe drives nothing.
const oscDrive = "/probe/drive"
