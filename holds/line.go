package holds

import (
	"context"
	"math"
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

// attach gives a hold the lines to its gauges that speak by themselves.
func (k *keeper) attach(ctx context.Context) error {
	k.detach()
	ctx, k.leaves = context.WithCancel(ctx)
	rec := &k.now.record
	now := k.room.desk.Clock.Now()
	near := rec.rig.near()
	var sim *gauges.StandIn
	for i, g := range []*kit.Gauge{&near, rec.rig.Far} {
		if g == nil {
			continue
		}
		ln := newLine(Near+Side(i), *g, now)
		switch {
		case ln == nil:
			continue
		case g.StandIn != nil && sim != nil:
			ln.stand = sim // both sit on the one circuit
		case g.StandIn != nil:
			var err error
			if ln.stand, err = rec.standIn(g); err != nil {
				return err
			}
			sim = ln.stand
		case g.Wire != nil:
			k.listen(ctx, ln, g.Wire)
		}
		k.lines = append(k.lines, ln)
	}
	return nil
}

// standIn is the simulated circuit behind a gauge, as the hold's events have left it.
func (rec *record) standIn(g *kit.Gauge) (*gauges.StandIn, error) {
	var done []gauges.Action
	for _, e := range rec.events {
		done = append(done, gauges.Action{AtS: rec.axis(e.At), Kind: e.Kind})
	}
	r := &rec.rig
	return gauges.New(rec.hold.ID, *g.StandIn, rec.circuit, rec.step, rec.proof(), math.Copysign(r.Pump.StrokeM3, r.Target.Pa), g.DivisionPa(), r.AmbientPa, done)
}

// listen starts to ask a gauge on the wire.
func (k *keeper) listen(ctx context.Context, ln *line, w *gauges.Wire) {
	ln.box = &gauges.Inbox{}
	k.room.asking.Add(1)
	go func() {
		defer k.room.asking.Done()
		w.Run(ctx, k.room.desk.Clock.Now, ln.box.Put, ln.box.Miss)
	}()
}

// due are the readings that a line has for the book, and the gauge's own counts.
func (k *keeper) due(ln *line, now time.Time) ([]logbook.Reading, []uint64) {
	var out []logbook.Reading
	var counts []uint64
	seq := k.now.lastSeq(ln.side)
	switch {
	case ln.stand != nil:
		for at := ln.nextRead; !at.After(now); at = at.Add(gaugeEvery) {
			seq++
			out, counts = append(out, k.standReading(ln, at, seq)), append(counts, 0)
		}
	case ln.box != nil:
		said, _ := ln.box.Look()
		for _, x := range said {
			seq++
			out, counts = append(out, k.heardReading(ln, x, seq)), append(counts, x.Count)
		}
	}
	return out, counts
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

// farNoise sets the noise of a far simulated gauge apart from the near one's.
const farNoise = 1 << 30

func (k *keeper) standReading(ln *line, at time.Time, seq int) logbook.Reading {
	n := seq
	if ln.side == Far {
		n += farNoise
	}
	value := ln.unit.Of(ln.stand.Read(k.now.axis(at), n))
	return k.heardReading(ln, gauges.Said{At: at, Value: value, Unit: ln.unit.Symbol}, seq)
}

// heardReading is an answer as the book keeps it, rounded as the face shows it.
func (k *keeper) heardReading(ln *line, x gauges.Said, seq int) logbook.Reading {
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
	if at.Before(k.now.hold.At) {
		at = k.now.hold.At
	}
	return logbook.Reading{HoldID: k.now.hold.ID, Gauge: int(ln.side), Seq: seq, At: at.Truncate(time.Microsecond), Value: value, Unit: x.Unit, How: string(trace.Read), By: byGauge, Device: ln.face.ID}
}

// foreign tells whether the gauge speaks another unit just now.
func (ln *line) foreign() bool { return ln.fault == trace.OtherUnit }

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
	why := gapWhy(ln.fault)
	if why == "" {
		return logbook.Gap{}, false
	}
	ln.fault, ln.jumped = "", ""
	return logbook.Gap{HoldID: holdID, From: ln.believed, To: at, Why: why}, true
}
