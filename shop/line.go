package shop

import (
	"context"
	"fmt"
	"math"
	"sync"
	"time"

	"idlehiss/core/quantity"
	"idlehiss/core/runsheet"
	"idlehiss/core/trace"
	"idlehiss/gauges"
	"idlehiss/logbook"
)

// Which gauge of a hold a reading is of.
const (
	nearGauge = 1
	farGauge  = 2 // at the other end; watched beside the first, never judged
)

// line is one gauge on a hold that speaks by itself, with the watch over it.
type line struct {
	gauge  int
	face   runsheet.Gauge
	unit   quantity.Unit
	everyS float64 // how often it speaks; 0 when nobody knows
	watch  trace.Watch
	seq    int

	// A simulated one is read when it is due; the others put what they say in the
	// inbox, from their own goroutine.
	stand    *gauges.StandIn
	nextRead time.Time
	box      *inbox
	stop     context.CancelFunc

	withheld map[int]logbook.Reading // committed, and not believed yet
	heard    time.Time               // it last said anything
	believed time.Time               // it last said anything believable
	doubt    bool
	fault    trace.GaugeFault
	says     string
	since    time.Time // the fault was last seen
}

// inbox holds what a gauge has said and nobody has taken down yet.
type inbox struct {
	mu   sync.Mutex
	said []gauges.Said
	lost string
}

func (b *inbox) put(s gauges.Said) {
	b.mu.Lock()
	defer b.mu.Unlock()
	b.said, b.lost = append(b.said, s), ""
}

func (b *inbox) miss(err error) {
	b.mu.Lock()
	defer b.mu.Unlock()
	b.lost = err.Error()
}

// look gives what is there; drop takes the first n away once they are kept.
func (b *inbox) look() ([]gauges.Said, string) {
	b.mu.Lock()
	defer b.mu.Unlock()
	return b.said[:len(b.said):len(b.said)], b.lost
}

func (b *inbox) drop(n int) {
	b.mu.Lock()
	defer b.mu.Unlock()
	b.said = append([]gauges.Said(nil), b.said[n:]...)
}

// newLine makes the line of a gauge that speaks by itself; nil for one that a
// person reads.
func newLine(gauge int, k KitGauge, now time.Time) *line {
	if k.StandIn == nil && k.Wire == nil && !k.Posted {
		return nil
	}
	ring, u := k.Ring()
	ln := &line{gauge: gauge, face: k.Gauge, unit: u, withheld: map[int]logbook.Reading{}, heard: now, believed: now, nextRead: now,
		watch: trace.Watch{LowPa: u.SI(ring.From), HighPa: u.SI(ring.To), DigitPa: k.DivisionPa(), Unit: u}}
	switch {
	case k.StandIn != nil:
		ln.everyS = gaugeEvery.Seconds()
	case k.Wire != nil:
		ln.everyS, ln.watch.Counts = float64(k.Wire.Map.Every), k.Wire.Map.Count != nil
	}
	return ln
}

// listen starts to ask a gauge on the wire.
func (s *Shop) listen(ln *line, w *gauges.Wire) {
	var ctx context.Context
	ctx, ln.stop = context.WithCancel(s.ctx)
	ln.box = &inbox{}
	s.asking.Add(1)
	go func() {
		defer s.asking.Done()
		w.Run(ctx, s.clock.Now, ln.box.put, ln.box.miss)
	}()
}

// due are the readings that a line has for the book, and the gauge's own counts.
func (s *Shop) due(l *live, ln *line, now time.Time) ([]logbook.Reading, []uint64) {
	var out []logbook.Reading
	var counts []uint64
	seq := ln.seq
	if ln.gauge == nearGauge {
		seq = l.lastSeq()
	}
	switch {
	case ln.stand != nil:
		for at := ln.nextRead; !at.After(now); at = at.Add(gaugeEvery) {
			seq++
			out, counts = append(out, l.standReading(ln, at, seq)), append(counts, 0)
		}
	case ln.box != nil:
		said, _ := ln.box.look()
		for _, x := range said {
			seq++
			out, counts = append(out, l.heardReading(ln, x, seq)), append(counts, x.Count)
		}
	}
	return out, counts
}

// taken lets go of what is in the book now.
func (ln *line) taken(rs []logbook.Reading) {
	if ln.box != nil {
		ln.box.drop(len(rs))
	}
	if ln.stand != nil && len(rs) > 0 {
		ln.nextRead = rs[len(rs)-1].At.Add(gaugeEvery)
	}
}

func (l *live) standReading(ln *line, at time.Time, seq int) logbook.Reading {
	n := seq
	if ln.gauge == farGauge {
		n += 1 << 30 // a gauge of its own has a noise of its own
	}
	return l.heardReading(ln, gauges.Said{At: at, Value: ln.unit.Of(ln.stand.Read(l.axis(at), n)), Unit: ln.unit.Symbol}, seq)
}

// heardReading is an answer as the book keeps it, rounded as the face shows it.
func (l *live) heardReading(ln *line, x gauges.Said, seq int) logbook.Reading {
	ring, _ := ln.face.Ring()
	digit := ring.Division
	if u, err := quantity.Named(x.Unit, quantity.Pressure); err == nil && u.Symbol != ln.unit.Symbol {
		digit = 0.001 // in another unit it comes as it is
	}
	value := math.Round(math.Round(x.Value/digit)*digit*1e6) / 1e6
	if value == 0 {
		value = 0 // no face shows a negative zero, and the book does not keep one
	}
	at := x.At
	if at.Before(l.hold.At) {
		at = l.hold.At
	}
	return logbook.Reading{HoldID: l.hold.ID, Gauge: ln.gauge, Seq: seq, At: at.Truncate(time.Microsecond), Value: value, Unit: x.Unit, How: "read", By: "gauge", Device: ln.face.ID}
}

// stillAfter is how long after a stroke or a bleed the pressure may leap.
const stillAfter = 3 * time.Second

// still tells whether nothing was done to the pressure in the last moments.
func (l *live) still(at time.Time) bool {
	if l.hold.State != "holding" {
		return false
	}
	for i := len(l.events) - 1; i >= 0; i-- {
		switch e := l.events[i]; e.Kind {
		case trace.Stroke, trace.Bleed, trace.TopUp, trace.Isolate, trace.Release:
			return at.Sub(e.At) > stillAfter
		}
	}
	return true
}

// believe lets the watch look over readings that are in the book. It feeds the
// judge with what stands and gives what is to be struck out and which gap ended.
func (l *live) believe(ln *line, rs []logbook.Reading, counts []uint64) (strikes []strike, gaps []logbook.Gap, anew bool) {
	into := &l.readings
	if ln.gauge == farGauge {
		into = &l.far
	}
	for i, r := range rs {
		*into = append(*into, r)
		ln.seq, ln.heard = r.Seq, r.At
		x := l.traced(r)
		f := ln.watch.Look(r.Seq, x, l.still(r.At), counts[i])
		ln.withheld[r.Seq] = r
		for _, seq := range f.Strike {
			if _, held := ln.withheld[seq]; !held {
				anew = true // it was believed until now
			}
			delete(ln.withheld, seq)
			strikes = append(strikes, strike{ln.gauge, seq, f.Why})
			for k := len(*into) - 1; k >= 0; k-- {
				if (*into)[k].Seq == seq {
					(*into)[k].Struck = f.Why
					break
				}
			}
		}
		for _, seq := range f.Stand {
			was, ok := ln.withheld[seq]
			if !ok {
				continue
			}
			delete(ln.withheld, seq)
			if g, ended := ln.mended(l.hold.ID, was.At); ended {
				gaps, l.gaps = append(gaps, g), append(l.gaps, g)
			}
			ln.believed = was.At
			if ln.gauge == nearGauge && !anew && l.judge != nil {
				l.judge.Reading(l.traced(was))
				l.highest = math.Max(l.highest, l.sign()*l.traced(was).GaugePa)
			}
		}
		ln.doubt = f.Doubt
		switch {
		case f.Fault != "":
			ln.fault = f.Fault
			if f.Says != "" {
				ln.says = f.Says
			}
			ln.since = r.At
		case len(f.Stand) > 0 && (ln.fault != trace.Jumped || r.At.Sub(ln.since) > jumpTold):
			ln.fault, ln.says = "", ""
		}
	}
	return strikes, gaps, anew
}

// jumpTold is how long a spike that is over is still spoken of.
const jumpTold = 20 * time.Second

// strike is a reading of a gauge at fault.
type strike struct {
	gauge, seq int
	why        string
}

// mended ends the gap that a fault has left.
func (ln *line) mended(holdID string, at time.Time) (logbook.Gap, bool) {
	why := gapWords[ln.fault]
	if why == "" {
		return logbook.Gap{}, false
	}
	ln.fault, ln.says = "", ""
	return logbook.Gap{HoldID: holdID, From: ln.believed, To: at, Why: why}, true
}

// gapWords name what a fault leaves; a spike leaves none.
var gapWords = map[trace.GaugeFault]string{
	trace.Silent: "the gauge said nothing", trace.Stuck: "the gauge was stuck",
	trace.OffScale: "the gauge was off its scale", trace.OtherUnit: "the gauge showed another unit",
}

// hush looks whether a gauge has gone silent.
func (ln *line) hush(now time.Time, speed float64) (changed bool) {
	quiet := now.Sub(ln.heard).Seconds() / speed
	if ln.box == nil || ln.everyS == 0 || ln.fault == trace.Silent || quiet < trace.Quiet(ln.everyS) {
		return false
	}
	ln.fault, ln.doubt = trace.Silent, true
	_, lost := ln.box.look()
	ln.says = fmt.Sprintf("Nothing comes from %s since %s. Look at its plug and cable; the hold goes on, and it comes back by itself.", ln.face.Name, ln.heard.Local().Format("15:04:05"))
	if lost != "" {
		ln.says += " (" + lost + ")"
	}
	return true
}
