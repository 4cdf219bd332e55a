package shop

import (
	"context"
	"encoding/json"
	"errors"
	"math"
	"slices"

	"idlehiss/core/judge"
	"idlehiss/core/trace"
	"idlehiss/gauges"
	"idlehiss/logbook"
)

// HoldEvent is something done or heard during a hold.
type HoldEvent struct {
	Write
	Kind string `json:"kind" maxLength:"80" doc:"stroke, bleed, isolate, top-up, moved, first hiss, release, engine on, engine off, spray, or a remark"`
}

// TypedReading is one reading by a person.
type TypedReading struct {
	Write
	Value float64 `json:"value" doc:"as read, in the gauge's unit"`
	How   string  `json:"how" enum:"read,mark" doc:"mark: the needle crossed that mark at that moment"`
	Gauge int     `json:"gauge,omitempty" minimum:"0" maximum:"2" doc:"2: the gauge at the other end"`
}

// StrikeOut takes a reading out of the reckoning; it stays in the book.
type StrikeOut struct {
	Write
	Seq    int    `json:"seq" minimum:"0" doc:"which reading; 0: the last one typed"`
	Reason string `json:"reason,omitempty" maxLength:"120"`
}

// LayBy is a hold left to run on by itself, or picked up again.
type LayBy struct {
	Write
	LaidBy bool `json:"laid_by"`
}

// Ack is the answer to a write on a hold: the sequence it got and the hold now.
type Ack struct {
	Seq int `json:"seq"`
}

// saveRig keeps what was settled about the rig after the hold began.
func (l *live) saveRig(ctx context.Context, book *logbook.Book) error {
	raw, err := json.Marshal(l.rig)
	if err != nil {
		return err
	}
	l.hold.Rig = raw
	return book.Batch(ctx, func(tx *logbook.Tx) error { return tx.SaveHold(l.hold) })
}

// entering gives a hold that still takes entries, or none where the write is in the
// book already: then there is only to answer.
func (s *Shop) entering(ctx context.Context, id string, w Write, content any) (*live, error) {
	if done, err := s.stands(ctx, w, content); done || err != nil {
		return nil, err
	}
	if l, ok := s.live[id]; ok {
		return l, nil
	}
	if _, err := s.book.Hold(ctx, id); err != nil {
		return nil, &Refusal{Says: err.Error(), Kind: Missing}
	}
	return nil, conflict("this hold has ended: nothing more is taken down on it. Begin a repeat to go on")
}

// Event takes down what was done or heard.
func (s *Shop) Event(ctx context.Context, holdID string, in HoldEvent) (HoldView, error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	l, err := s.entering(ctx, holdID, in.Write, in)
	if err != nil {
		return HoldView{}, err
	}
	if l == nil {
		return s.holdView(ctx, holdID)
	}
	if in.Kind == "" {
		return HoldView{}, refuse("kind", "say what happened")
	}
	st := s.stamp(in.Write)
	stand := l.stand()
	if stand != nil {
		// What the simulated gauge has said up to now comes before what is done now.
		st.At = s.clock.Now()
		s.takeDown(ctx, st.At)
	}
	before := *l
	switch in.Kind {
	case trace.Isolate:
		if l.hold.State == "holding" {
			return HoldView{}, conflict("the supply is already shut; note a top-up if more was pumped in")
		}
	case trace.TopUp:
		if l.hold.State != "holding" {
			return HoldView{}, conflict("a top-up belongs into a hold; shut the supply first")
		}
	}
	var extra []logbook.Reading
	_, ran, err := put(ctx, s, in.Write, in, func(tx *logbook.Tx, _ logbook.Stamp) (Ack, error) {
		e := logbook.Event{Stamp: st, HoldID: holdID, Kind: in.Kind}
		if n := len(l.readings); n > 0 {
			pa := l.traced(l.readings[n-1]).GaugePa
			e.PressurePa = &pa
		}
		if err := tx.AddEvent(e); err != nil {
			return Ack{}, err
		}
		l.events = append(slices.Clone(l.events), e)
		if stand != nil {
			stand.stand.Do(gauges.Action{AtS: l.axis(e.At), Kind: e.Kind})
			if e.Kind == trace.Stroke || e.Kind == trace.Bleed {
				extra = []logbook.Reading{l.standReading(stand, e.At, l.lastSeq()+1)}
				if err := tx.AddReadings(extra...); err != nil {
					return Ack{}, err
				}
				l.readings = append(l.readings, extra...)
			}
		}
		switch e.Kind {
		case trace.Isolate:
			l.hold.State, l.hold.IsolatedAt = "holding", &e.At
			l.settle()
		case trace.Release:
			l.hold.State, l.hold.EndedAt = "ended", &e.At
		default:
			return Ack{}, nil
		}
		raw, err := json.Marshal(l.rig)
		if err != nil {
			return Ack{}, err
		}
		l.hold.Rig = raw
		return Ack{}, tx.SaveHold(l.hold)
	})
	if err != nil {
		*l = before
		if stand != nil { // it has lived what did not happen
			err = errors.Join(err, s.attach(l))
		}
		return HoldView{}, err
	}
	if ran {
		switch in.Kind {
		case trace.Stroke, trace.Bleed, trace.TopUp, trace.Isolate, trace.Release:
			for _, ln := range l.lines {
				ln.watch.Done()
			}
		}
		if err := l.rebuild(); err != nil {
			return HoldView{}, err
		}
		if in.Kind == trace.Release {
			if err := s.end(ctx, l); err != nil {
				return HoldView{}, err
			}
		}
		if in.Kind == trace.Isolate || in.Kind == trace.Release {
			s.bus.send("job", map[string]string{"id": l.hold.JobID})
		}
		s.showWhole(l)
	}
	return s.viewOf(l, true), nil
}

// end makes the last call on the whole hold and lets it go from memory.
func (s *Shop) end(ctx context.Context, l *live) error {
	// A hold that was let down before its supply was shut has no call, but for one:
	// it was pumped, watched, and never got there.
	stalled := l.report != nil && l.report.Call == judge.NeverReached && len(l.readings) >= 3
	if stalled || l.report != nil && l.hold.IsolatedAt != nil {
		if err := s.callIfMade(ctx, l); err != nil {
			return err
		}
	}
	delete(s.live, l.hold.ID)
	l.detach()
	return nil
}

// Reading takes down a reading by a person.
func (s *Shop) Reading(ctx context.Context, holdID string, in TypedReading) (HoldView, error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	l, err := s.entering(ctx, holdID, in.Write, in)
	if err != nil {
		return HoldView{}, err
	}
	if l == nil {
		return s.holdView(ctx, holdID)
	}
	face, into, number := l.rig.Gauge, &l.readings, nearGauge
	if in.Gauge == farGauge {
		if l.rig.Far == nil {
			return HoldView{}, refuse("gauge", "this hold has no gauge at the other end")
		}
		face, into, number = l.rig.Far.Gauge, &l.far, farGauge
	}
	ring, u := face.Ring()
	if math.IsNaN(in.Value) || in.Value < ring.From-(ring.To-ring.From)*0.02 || in.Value > ring.To*1.02 {
		return HoldView{}, refuse("value", "%v %s is off this gauge's face, which runs from %v to %v", in.Value, u.Symbol, ring.From, ring.To)
	}
	if ln := l.line(number); ln != nil && ln.stand != nil {
		return HoldView{}, conflict("this hold's simulated gauge speaks for itself; readings are not typed on it")
	}
	var r logbook.Reading
	_, ran, err := put(ctx, s, in.Write, in, func(tx *logbook.Tx, st logbook.Stamp) (Ack, error) {
		at := st.At
		if at.Before(l.hold.At) {
			at = l.hold.At
		}
		r = logbook.Reading{HoldID: holdID, Gauge: number, Seq: lastSeqOf(*into) + 1, At: at, Value: in.Value, Unit: u.Symbol, How: in.How, By: st.By, Device: st.Device}
		return Ack{Seq: r.Seq}, tx.AddReadings(r)
	})
	if err != nil {
		return HoldView{}, err
	}
	if ran {
		*into = append(*into, r)
		if ln := l.line(number); ln != nil {
			ln.seq = max(ln.seq, r.Seq)
		}
		if err := s.judgeAnew(ctx, l); err != nil {
			return HoldView{}, err
		}
	}
	return s.viewOf(l, true), nil
}

// judgeAnew rebuilds after a typed entry, which may lie a little in the past.
func (s *Shop) judgeAnew(ctx context.Context, l *live) error {
	if err := l.rebuild(); err != nil {
		return err
	}
	if l.hold.State == "holding" {
		if err := s.callIfMade(ctx, l); err != nil {
			return err
		}
	}
	s.showWhole(l)
	return nil
}

// Strike takes a wrong press out.
func (s *Shop) Strike(ctx context.Context, holdID string, in StrikeOut) (HoldView, error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	l, err := s.entering(ctx, holdID, in.Write, in)
	if err != nil {
		return HoldView{}, err
	}
	if l == nil {
		return s.holdView(ctx, holdID)
	}
	at := -1
	for i := len(l.readings) - 1; i >= 0; i-- {
		r := l.readings[i]
		if r.Struck == "" && (in.Seq == r.Seq || in.Seq == 0 && r.By != "gauge") {
			at = i
			break
		}
	}
	if at < 0 {
		return HoldView{}, refuse("seq", "there is no standing reading to strike out")
	}
	reason := in.Reason
	if reason == "" {
		reason = "wrong press"
	}
	_, ran, err := put(ctx, s, in.Write, in, func(tx *logbook.Tx, _ logbook.Stamp) (Ack, error) {
		return Ack{Seq: l.readings[at].Seq}, tx.Strike(holdID, 1, l.readings[at].Seq, reason)
	})
	if err != nil {
		return HoldView{}, err
	}
	if ran {
		l.readings[at].Struck = reason
		if err := s.judgeAnew(ctx, l); err != nil {
			return HoldView{}, err
		}
		// A call that leant on the struck reading is followed by one that takes it back.
		if n := len(l.calls); n > 0 && l.report != nil && l.hold.State == "holding" && l.calls[n-1].Call != string(l.report.Call) {
			if err := s.keep(ctx, l); err != nil {
				return HoldView{}, err
			}
			s.show(l)
		}
	}
	return s.viewOf(l, true), nil
}

// LayBy lets a hold run on without its person, or picks it up again.
func (s *Shop) LayBy(ctx context.Context, holdID string, in LayBy) (HoldView, error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	l, err := s.entering(ctx, holdID, in.Write, in)
	if err != nil {
		return HoldView{}, err
	}
	if l == nil {
		return s.holdView(ctx, holdID)
	}
	h := l.hold
	h.LaidBy = in.LaidBy
	if _, _, err = put(ctx, s, in.Write, in, func(tx *logbook.Tx, _ logbook.Stamp) (Ack, error) { return Ack{}, tx.SaveHold(h) }); err != nil {
		return HoldView{}, err
	}
	l.hold = h
	s.show(l)
	return s.viewOf(l, true), nil
}

// Hold gives a hold with its whole trace, thinned for the screen.
func (s *Shop) Hold(ctx context.Context, id string) (HoldView, error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	return s.holdView(ctx, id)
}

func (s *Shop) holdView(ctx context.Context, id string) (HoldView, error) {
	l, err := s.find(ctx, id)
	if err != nil {
		return HoldView{}, err
	}
	return s.viewOf(l, true), nil
}

func (s *Shop) find(ctx context.Context, id string) (*live, error) {
	if l, ok := s.live[id]; ok {
		return l, nil
	}
	h, err := s.book.Hold(ctx, id)
	if errors.Is(err, logbook.ErrNotFound) {
		return nil, &Refusal{Says: err.Error(), Kind: Missing}
	}
	if err != nil {
		return nil, err
	}
	return s.load(ctx, h)
}
