package exchange

import (
	"encoding/csv"
	"io"
	"strconv"
	"time"

	"largo/core/bench"
	"largo/core/unit"
)

// heatedColumns are those of a session as a table.
var heatedColumns = []string{"time", "minutes", "event", "limiter_v", "probe1_c", "probe2_c", "air_c", "volts_v",
	"amps_a",
	"into_db", "coil_c", "seen", "note", "believed", "withdrawn", "by"}

// WriteHeated writes a session as CSV, an event a line in the order in which they were
// kept; times are those of the clock there.
func WriteHeated(w io.Writer, st *bench.Study) error {
	out := csv.NewWriter(w)
	if err := out.Write(heatedColumns); err != nil {
		return err
	}
	zone := time.FixedZone("", st.Setup.Zone)
	coils := map[int64]float64{}
	for _, m := range st.Measured {
		coils[m.At] = m.Degrees
	}
	for _, e := range st.Events {
		limiter, volts := e.Volts, unit.Given[unit.Volt]{}
		if e.Kind == bench.Read {
			limiter, volts = volts, e.Volts
		}
		coil := ""
		if t, known := coils[e.At]; known && e.Kind == bench.Read && volts.Known() {
			coil = strconv.FormatFloat(t, 'f', 1, 64)
		}
		believed := ""
		if e.Probe[0].Known() && st.Unsound(e, 0) || e.Probe[1].Known() && st.Unsound(e, 1) {
			believed = "no"
		}
		kind := string(e.Kind)
		if e.Kind == bench.Withdraw {
			kind += " " + strconv.Itoa(e.Of)
		}
		withdrawn := ""
		if st.Withdrawn(e.Seq) {
			withdrawn = "yes"
		}
		if err := out.Write([]string{time.Unix(e.At, 0).In(zone).Format("2006-01-02 15:04:05"),
			strconv.FormatFloat(st.Seconds(e.At)/60, 'f', 1, 64), kind, cell(limiter), cell(e.Probe[0]), cell(e.Probe[1]),
			cell(e.Air), cell(volts), cell(e.Amps), cell(e.Into), coil, string(e.Seen), quoted(e.Said), believed, withdrawn,
			quoted(e.By)}); err != nil {
			return err
		}
	}
	out.Flush()
	return out.Error()
}

func cell[T unit.Quantity](g unit.Given[T]) string {
	v, known := g.Get()
	if !known {
		return ""
	}
	return strconv.FormatFloat(float64(v), 'f', -1, 64)
}
