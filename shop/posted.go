package shop

import (
	"context"
	"time"

	"idlehiss/core/quantity"
	"idlehiss/gauges"
	"idlehiss/logbook"
)

// Posted is what a gauge, a logger or a script says over plain HTTP.
type Posted struct {
	Write
	Readings []PostedReading `json:"readings" minItems:"1" maxItems:"10000"`
}

// PostedReading is one of them.
type PostedReading struct {
	Value float64    `json:"value"`
	Unit  string     `json:"unit,omitempty" maxLength:"20" doc:"such as kPa; absent: that of the gauge's face"`
	At    *time.Time `json:"at,omitempty" doc:"when it was read, on the server's clock; absent: when it arrived"`
}

// Post takes down what a gauge says of the hold it is on now.
func (s *Shop) Post(ctx context.Context, gaugeID string, in Posted) (Ack, error) {
	g, err := s.gauge(ctx, gaugeID)
	if err != nil {
		return Ack{}, err
	}
	if !g.Posted {
		return Ack{}, refuse("gauge", "%s is not a gauge whose readings are posted: describe one so in the kit", g.Name)
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	now := s.clock.Now()
	var l *live
	var ln *line
	for _, x := range s.live {
		for _, y := range x.lines {
			if y.face.ID == gaugeID {
				l, ln = x, y
			}
		}
	}
	var t taking
	ack, ran, err := put(ctx, s, in.Write, in, func(tx *logbook.Tx, st logbook.Stamp) (Ack, error) {
		if l == nil {
			return Ack{}, conflict("no hold runs on %s: begin one with it first", g.Name)
		}
		seq, last := ln.seq, time.Time{}
		if ln.gauge == nearGauge {
			seq = l.lastSeq()
			if n := len(l.readings); n > 0 {
				last = l.readings[n-1].At
			}
		} else if n := len(l.far); n > 0 {
			last = l.far[n-1].At
		}
		t = taking{l: l, ln: ln}
		for i, r := range in.Readings {
			unit := r.Unit
			if unit == "" {
				unit = ln.unit.Symbol
			}
			u, err := quantity.Named(unit, quantity.Pressure)
			switch {
			case err != nil:
				return Ack{}, refuse("readings", "reading %d: %v", i+1, err)
			case !quantity.PossiblePa(u.SI(r.Value)):
				return Ack{}, refuse("readings", "reading %d, %g %s, is beyond any gauge: at most 1 GPa either way is taken", i+1, r.Value, u.Symbol)
			}
			at := st.At
			if r.At != nil {
				at = r.At.UTC()
			}
			switch {
			case at.After(now.Add(time.Second)):
				return Ack{}, refuse("readings", "reading %d is of %s, and it is only %s here: leave 'at' out, or ask /api/clock for the time", i+1, at.Format(time.RFC3339), now.Format(time.RFC3339))
			case at.Before(last):
				return Ack{}, refuse("readings", "reading %d is of %s, before one that is in the book already: send them in order", i+1, at.Format(time.RFC3339Nano))
			}
			seq++
			last = at
			t.rs = append(t.rs, l.heardReading(ln, gauges.Said{At: at, Value: r.Value, Unit: u.Symbol}, seq))
			t.counts = append(t.counts, 0)
		}
		return Ack{Seq: seq}, tx.AddReadings(t.rs...)
	})
	if err != nil {
		return Ack{}, err
	}
	if ran {
		ln.heard = now
		s.absorb(ctx, []taking{t})
	}
	return ack, nil
}
