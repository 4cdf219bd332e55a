package shop

import (
	"context"
	"time"

	"idlehiss/logbook"
)

// ReadGauges takes down what the gauges have said since the last time: all in one
// commit, then judged, then shown.
func (s *Shop) ReadGauges(ctx context.Context) {
	s.mu.Lock()
	defer s.mu.Unlock()
	s.takeDown(ctx, s.clock.Now())
}

// takeDown is ReadGauges up to a moment that has come.
func (s *Shop) takeDown(ctx context.Context, now time.Time) {
	var all []taking
	speed := s.clock.Speed()
	hushed := map[*live]bool{}
	for _, l := range s.live {
		for _, ln := range l.lines {
			if rs, counts := s.due(l, ln, now); len(rs) > 0 {
				all = append(all, taking{l, ln, rs, counts})
			} else if ln.hush(now, speed) {
				hushed[l] = true
			}
		}
	}
	if len(all) > 0 {
		if err := s.book.Batch(ctx, func(tx *logbook.Tx) error {
			for _, t := range all {
				if err := tx.AddReadings(t.rs...); err != nil {
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
		s.absorb(ctx, all)
	}
	for l := range hushed {
		s.showWhole(l)
	}
}

// absorb judges and shows readings that are in the book.
func (s *Shop) absorb(ctx context.Context, all []taking) {
	type outcome struct {
		l       *live
		strikes []strike
		gaps    []logbook.Gap
		anew    bool
		late    bool // something is believed only now
	}
	var out []*outcome
	of := map[*live]*outcome{}
	for _, t := range all {
		o := of[t.l]
		if o == nil {
			o = &outcome{l: t.l}
			of[t.l], out = o, append(out, o)
		}
		before := len(t.ln.withheld)
		strikes, gaps, anew := t.l.believe(t.ln, t.rs, t.counts)
		o.late = o.late || before > 0
		o.strikes, o.gaps, o.anew = append(o.strikes, strikes...), append(o.gaps, gaps...), o.anew || anew
	}
	for _, o := range out {
		if len(o.strikes)+len(o.gaps) > 0 {
			// Were this refused, the readings would stand again after a restart; what
			// is judged and shown now is right all the same.
			_ = s.book.Batch(ctx, func(tx *logbook.Tx) error {
				for _, x := range o.strikes {
					if err := tx.Strike(o.l.hold.ID, x.gauge, x.seq, x.why); err != nil {
						return err
					}
				}
				for _, g := range o.gaps {
					if err := tx.AddGap(g); err != nil {
						return err
					}
				}
				return nil
			})
		}
		if o.anew {
			if err := o.l.rebuild(); err != nil {
				continue
			}
		} else if o.l.hold.State != "pumping" {
			o.l.look()
		}
		_ = s.callIfMade(ctx, o.l) // a call that could not be kept is made at the next reading
		if o.anew || o.late || len(o.gaps) > 0 {
			s.showWhole(o.l)
		} else {
			s.show(o.l)
		}
	}
}

// taking is what one gauge of one hold has to be taken down.
type taking struct {
	l      *live
	ln     *line
	rs     []logbook.Reading
	counts []uint64
}
