package holds

import (
	"fmt"
	"time"

	"idlehiss/core/quantity"
	"idlehiss/core/runsheet"
	"idlehiss/core/trace"
	"idlehiss/gauges"
	"idlehiss/kit"
	"idlehiss/logbook"
)

// line is one gauge on a hold that speaks by itself, with the watch over it. It is the
// keeper's own but for its inbox.
type line struct {
	side   Side
	face   runsheet.Gauge
	unit   quantity.Unit
	everyS float64 // how often it speaks; 0 when nobody knows
	watch  trace.Watch

	// A simulated one is read when it is due; the others put what they say in the
	// inbox, from their own goroutine.
	stand    *gauges.StandIn
	nextRead time.Time
	box      *gauges.Inbox

	heard    time.Time // it last said anything
	believed time.Time // it last said anything believable
	doubt    bool
	fault    trace.GaugeFault
	jumped   string    // the sentence of the watch, where it has one
	lost     string    // why it cannot be asked
	since    time.Time // the fault was last seen
}

const (
	// gaugeEvery is how often a simulated gauge speaks, on the shop's clock.
	gaugeEvery = time.Second
	// gapAfter is a silence of a stream that is worth showing.
	gapAfter = 3 * time.Second
	// jumpTold is how long a spike that is over is still spoken of.
	jumpTold = 20 * time.Second
)

// newLine makes the line of a gauge that speaks by itself; nil for one that a person
// reads.
func newLine(s Side, g kit.Gauge, now time.Time) *line {
	if !g.ByItself() {
		return nil
	}
	ring, u := g.Ring()
	ln := &line{side: s, face: g.Gauge, unit: u, heard: now, believed: now, nextRead: now,
		watch: trace.Watch{LowPa: u.SI(ring.From), HighPa: u.SI(ring.To), DigitPa: g.DivisionPa(), Unit: u}}
	switch {
	case g.StandIn != nil:
		ln.everyS = gaugeEvery.Seconds()
	case g.Wire != nil:
		ln.everyS, ln.watch.Counts = float64(g.Wire.Map.Every), g.Wire.Map.Count != nil
	}
	return ln
}

// taken lets go of what is in the book now.
func (ln *line) taken(rs []logbook.Reading) {
	if ln.box != nil {
		ln.box.Drop(len(rs))
	}
	if ln.stand != nil && len(rs) > 0 {
		ln.nextRead = rs[len(rs)-1].At.Add(gaugeEvery)
	}
}

// hush looks whether a gauge has gone silent.
func (ln *line) hush(now time.Time, speed float64) (changed bool) {
	quiet := now.Sub(ln.heard).Seconds() / speed
	if ln.box == nil || ln.everyS == 0 || ln.fault == trace.Silent || quiet < trace.Quiet(ln.everyS) {
		return false
	}
	ln.fault, ln.doubt = trace.Silent, true
	_, ln.lost = ln.box.Look()
	return true
}

// mended ends the gap that a fault has left; a spike leaves none.
func (ln *line) mended(holdID string, at time.Time) (logbook.Gap, bool) {
	why := ln.fault.Gap()
	if why == "" {
		return logbook.Gap{}, false
	}
	ln.fault, ln.jumped = "", ""
	return logbook.Gap{HoldID: holdID, From: ln.believed, To: at, Why: why}, true
}

// view is a gauge at fault, for the pages.
func (ln *line) view(rec *record) FaultView {
	says := ln.jumped
	if ln.fault == trace.Silent {
		says = fmt.Sprintf("No reading from %s since %s. Look at its plug and cable. The hold goes on, and the gauge comes back by itself.", ln.face.Name, ln.heard.Local().Format("15:04:05"))
		if ln.lost != "" {
			says += " (" + ln.lost + ")"
		}
	}
	return FaultView{ln.side, ln.fault, says, rec.axis(ln.believed)}
}
