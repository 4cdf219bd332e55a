package holds

import (
	"context"
	"math"
	"runtime"
	"time"

	"idlehiss/core/quantity"
	"idlehiss/core/terms"
	"idlehiss/core/trace"
	"idlehiss/desk"
	"idlehiss/gauges"
	"idlehiss/kit"
	"idlehiss/logbook"
)

// taking is what one gauge of a hold has to be taken down.
type taking struct {
	ln     *line
	rs     []logbook.Reading
	counts []uint64
}

// takeDown takes down what the hold's gauges have said up to a moment that has come:
// in one commit with the other holds of its round, then judged, then shown.
func (k *keeper) takeDown(ctx context.Context, now time.Time, round *desk.Round) {
	var all []taking
	hushed := false
	for _, ln := range k.lines {
		if rs, counts := k.due(ln, now); len(rs) > 0 {
			all = append(all, taking{ln, rs, counts})
		} else if ln.hush(now, k.room.desk.Clock.Speed()) {
			hushed = true
		}
	}
	if hushed {
		k.sent.whole = true
	}
	if len(all) == 0 {
		round.Pass()
		if k.owes && !k.askedLately() || hushed {
			k.settled(ctx)
		}
		return
	}
	if err := round.Take(ctx, func(tx *logbook.Tx) error {
		for _, t := range all {
			if err := tx.Arrive(t.rs...); err != nil {
				return err
			}
		}
		return nil
	}); err != nil {
		return // nothing was acknowledged, the next tick tries again
	}
	for _, t := range all {
		t.ln.taken(t.rs)
	}
	k.absorb(ctx, all)
}

// absorb lets the watch look over readings that are in the book, judges what stands, and
// shows both.
func (k *keeper) absorb(ctx context.Context, all []taking) {
	var found findings
	for _, t := range all {
		k.believe(t, &found)
	}
	if len(found.strikes)+len(found.gaps) > 0 {
		// Were this refused, the readings would stand again after a restart; what is
		// judged and shown now is right all the same.
		_ = k.room.desk.Take(ctx, func(tx *logbook.Tx) error {
			for _, x := range found.strikes {
				if err := tx.Strike(k.now.hold.ID, int(x.side), x.seq, x.why); err != nil {
					return err
				}
			}
			for _, g := range found.gaps {
				if err := tx.AddGap(g); err != nil {
					return err
				}
			}
			return nil
		})
	}
	if found.earlier || len(found.gaps) > 0 {
		k.sent.whole = true
	}
	// Readings first; what they mean follows those of other holds, and seldom changes.
	first := !k.restart && !k.sent.whole && k.now.hold.State == terms.Holding
	if first {
		k.send(true)
		if k.askedLately() {
			k.owes = true
			return
		}
		runtime.Gosched()
	}
	if k.restart || k.now.hold.State != terms.Pumping {
		k.judgeIt()
	} else if k.now.air == nil || k.now.hold.State == terms.Pumping {
		k.now.air = airView(&k.now.record)
	}
	_ = k.callIfMade(ctx) // a call that could not be kept is made at the next reading
	if !first || !k.brief() {
		k.show()
	}
}

// The judge is asked askEveryS (s of the wall) after it was asked last while things are young, for no eye follows faster, and it
// is most of the work; later at a share of the time since something was last done: a call is no more than that late.
const (
	askEveryS = 0.2
	askShare  = 0.005
	askMostS  = 2.0 // and the figures still move before somebody's eyes
)

func (k *keeper) askedLately() bool {
	c, last := k.room.desk.Clock, k.now.hold.At
	if n := len(k.now.events); n > 0 {
		last = k.now.events[n-1].At
	}
	now, speed := c.Now(), max(1, c.Speed())
	every := min(max(askShare*now.Sub(last).Seconds(), askEveryS*speed), askMostS*speed)
	return now.Sub(k.asked).Seconds() < every
}

// findings are what the watch over a gauge found.
type findings struct {
	strikes []strike
	gaps    []logbook.Gap
	earlier bool // a reading that was shown before changed
}

// strike is a reading of a gauge at fault.
type strike struct {
	side Side
	seq  int
	why  string
}

// believe goes through the readings of one gauge that are in the book.
func (k *keeper) believe(t taking, found *findings) {
	rec, ln := &k.now.record, t.ln
	for i, row := range t.rs {
		r := rec.taken(row)
		ln.heard = row.At
		f := ln.watch.Look(row.Seq, r.Reading(), rec.still(r.AtS), t.counts[i])
		r.Set(trace.Held, true)
		// Most readings stand at once, or are known to be wrong at once.
		for _, seq := range f.Stand {
			if seq == row.Seq {
				r.Set(trace.Held, false)
			}
		}
		for _, seq := range f.Strike {
			if seq == row.Seq {
				r.Set(trace.Held, false)
				r.Why = rec.whys.Place(f.Why)
			}
		}
		rec.add(ln.side, r)
		for _, seq := range f.Strike {
			found.strikes = append(found.strikes, strike{ln.side, seq, f.Why})
			if seq == row.Seq {
				continue
			}
			found.earlier = true
			rec.change(ln.side, seq, func(was *reading) {
				if was.Is&trace.Held == 0 && ln.side == Near {
					k.restart = true // it was believed until now
				}
				was.Set(trace.Held, false)
				was.Why = rec.whys.Place(f.Why)
			})
		}
		for _, seq := range f.Stand {
			at := row.At
			if seq != row.Seq {
				found.earlier = true
				rec.change(ln.side, seq, func(was *reading) {
					was.Set(trace.Held, false)
					at = rec.moment(was.AtS)
				})
			}
			if g, ended := ln.mended(rec.hold.ID, at); ended {
				found.gaps = append(found.gaps, g)
				rec.gaps = append(rec.gaps[:len(rec.gaps):len(rec.gaps)], g)
			}
			ln.believed = at
		}
		ln.doubt = f.Doubt
		switch {
		case f.Fault != "":
			ln.fault = f.Fault
			if f.Says != "" {
				ln.jumped = f.Says
			}
			ln.since = row.At
		case len(f.Stand) > 0 && (ln.fault != trace.Jumped || row.At.Sub(ln.since) > jumpTold):
			ln.fault, ln.jumped = "", ""
		}
	}
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

// Needle is the simulated circuit behind the needle gauge of a running hold, and how late it is there, s; nil where there
// is none.
func (r *Room) Needle(holdID string) (stand *gauges.StandIn, nowS float64, err error) {
	if k := r.running(holdID); k != nil {
		rec := k.pic.Load().record
		if near := rec.rig.near(); near.StandIn != nil && !near.ByItself() {
			stand, err = rec.standIn(&near)
		}
		nowS = rec.axis(r.desk.Clock.Now())
	}
	return stand, nowS, err
}

// listen starts to ask a gauge on the wire.
func (k *keeper) listen(ctx context.Context, ln *line, w *gauges.Wire) {
	ln.box = &gauges.Inbox{}
	k.room.asking.Go(func() {
		w.Run(ctx, k.room.desk.GaugesAt, k.room.desk.Clock.Now, ln.box.Put, ln.box.Miss)
	})
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
