package shop

import (
	"context"
	"encoding/json"
	"math"
	"sort"
	"time"

	"idlehiss/core/circuit"
	"idlehiss/core/judge"
	"idlehiss/core/quantity"
	"idlehiss/core/trace"
	"idlehiss/gauges"
	"idlehiss/logbook"
)

// live is a hold with its judge, kept in memory while it runs and rebuilt from
// the book for those that have ended.
type live struct {
	hold    logbook.Hold
	rig     rig
	machine string
	circuit circuit.Circuit
	schools []judge.School

	judge    *judge.Live
	readings []logbook.Reading // in order of time, struck ones too
	warmth   []trace.Sample    // °C, on the hold's own time; where it was read
	events   []logbook.Event
	gaps     []logbook.Gap
	calls    []logbook.Call
	report   *judge.Report
	trail    []ForkAt
	sent     int     // readings already sent to the pages
	highest  float64 // of the readings that stand, Pa
	shutAir  *Air    // what the strokes told, once the supply is shut

	stand    *gauges.StandIn
	unit     quantity.Unit
	nextRead time.Time
}

// gaugeEvery is how often a simulated gauge speaks, on the shop's clock.
const gaugeEvery = time.Second

// gapAfter is a silence of a stream that is worth showing.
const gapAfter = 3 * time.Second

// load brings a hold from the book into memory.
func (s *Shop) load(ctx context.Context, h logbook.Hold) (*live, error) {
	j, err := s.book.Job(ctx, h.JobID)
	if err != nil {
		return nil, err
	}
	sn, err := snapshotOf(j)
	if err != nil {
		return nil, err
	}
	l := &live{hold: h, machine: j.Machine, circuit: sn.Circuit, schools: sn.Hold}
	if err := json.Unmarshal(h.Rig, &l.rig); err != nil {
		return nil, err
	}
	_, l.unit = l.rig.Gauge.Ring()
	read, err := s.book.Readings(ctx, h.ID)
	if err != nil {
		return nil, err
	}
	for _, r := range read {
		if r.Gauge == thermometer {
			l.warmth = append(l.warmth, trace.Sample{AtS: l.axis(r.At), Value: r.Value})
		} else {
			l.readings = append(l.readings, r)
		}
	}
	if l.events, err = s.book.Events(ctx, h.ID); err != nil {
		return nil, err
	}
	if l.gaps, err = s.book.Gaps(ctx, h.ID); err != nil {
		return nil, err
	}
	if l.calls, err = s.book.Calls(ctx, h.ID); err != nil {
		return nil, err
	}
	if n := len(l.calls); h.State == "ended" && n > 0 {
		// What was said then stands; a newer judge does not rewrite it.
		rep := l.callView(l.calls[n-1]).Report
		l.report = &rep
		for _, r := range l.trace().Readings {
			l.highest = max(l.highest, r.GaugePa)
		}
		return l, nil
	}
	return l, l.rebuild()
}

// resume takes a running hold up again after the process was away.
func (s *Shop) resume(ctx context.Context, h logbook.Hold) error {
	l, err := s.load(ctx, h)
	if err != nil {
		return err
	}
	if err := s.attach(l); err != nil {
		return err
	}
	now := s.clock.Now()
	if l.stand != nil {
		last := h.At
		if n := len(l.readings); n > 0 {
			last = l.readings[n-1].At
		}
		if now.Sub(last) > gapAfter {
			g := logbook.Gap{HoldID: h.ID, From: last, To: now, Why: "the server was off"}
			if err := s.book.Batch(ctx, func(tx *logbook.Tx) error { return tx.AddGap(g) }); err != nil {
				return err
			}
			l.gaps = append(l.gaps, g)
		}
		l.nextRead = now
	}
	l.sent = len(l.readings)
	s.live[h.ID] = l
	return nil
}

// attach gives a hold on a simulated gauge its stand-in.
func (s *Shop) attach(l *live) error {
	if l.rig.StandIn == nil {
		return nil
	}
	var actions []gauges.Action
	for _, e := range l.events {
		actions = append(actions, gauges.Action{AtS: l.axis(e.At), Kind: e.Kind})
	}
	var err error
	l.stand, err = gauges.New(l.hold.ID, *l.rig.StandIn, &l.circuit, l.hold.Purpose == "rig proof", l.rig.Pump.StrokeM3, l.rig.Gauge.DivisionPa(), l.rig.AmbientPa, actions)
	l.nextRead = s.clock.Now()
	return err
}

// axis is the hold's own time, seconds since it began. Microseconds divide to
// the same double that an exported file reads back as.
func (l *live) axis(t time.Time) float64 {
	return float64(t.UnixMicro()-l.hold.At.UnixMicro()) / 1e6
}

func (l *live) question() judge.Question {
	at := l.rig.Target.Pa
	q := judge.Question{AmbientPa: l.rig.AmbientPa, AtPa: &at, LimitPaPerS: l.rig.Allowance.PaPerS, Gauge: l.rig.Gauge.ForJudge(),
		GasM3: l.rig.GasM3, GasSE: l.rig.GasSE, StrokeM3: l.rig.Pump.StrokeM3}
	if l.hold.Purpose != "rig proof" {
		q.Coolant = l.circuit.Liquid == "coolant"
		q.LiquidM3 = l.rig.LiquidM3
		if c := l.circuit.Tested(); q.LiquidM3 == 0 && c.Holds == "liquid" {
			q.LiquidM3 = float64(c.Volume)
		}
		q.NotTested = l.circuit.NotTested
		q.RigProven = &l.rig.Proven
		if l.rig.Loss != nil {
			q.RigPaPerS, q.RigSE = l.rig.Loss.on(q.GasM3, q.GasSE)
			q.RigPaPerS, q.RigSE = asWritten(q.RigPaPerS), asWritten(q.RigSE)
		}
	}
	return q
}

// asWritten is a rate as an exported file carries it, so that it is judged alike.
func asWritten(paPerS float64) float64 { return tenDigits(paPerS*60/1e3) * 1e3 / 60 }

// trace is the hold as a trace, without what was struck out.
func (l *live) trace() *trace.Trace {
	tr := &trace.Trace{Unit: l.unit, DigitPa: l.rig.Gauge.ForJudge().StepPa()}
	for _, r := range l.readings {
		if r.Struck == "" {
			tr.Readings = append(tr.Readings, l.traced(r))
		}
	}
	for _, e := range l.events {
		tr.Events = append(tr.Events, trace.Event{AtS: l.axis(e.At), Kind: e.Kind})
	}
	tr.Temperature = l.warmth
	return tr
}

func (l *live) traced(r logbook.Reading) trace.Reading {
	u, err := quantity.Named(r.Unit, quantity.Pressure)
	if err != nil {
		u = l.unit
	}
	return trace.Reading{AtS: l.axis(r.At), GaugePa: u.SI(r.Value), How: trace.How(r.How)}
}

// rebuild feeds a fresh judge with all that stands, in order of time.
func (l *live) rebuild() error {
	j, err := judge.NewLive(l.question(), l.schools)
	if err != nil {
		return err
	}
	sort.SliceStable(l.events, func(a, b int) bool { return l.events[a].At.Before(l.events[b].At) })
	sort.SliceStable(l.readings, func(a, b int) bool { return l.readings[a].At.Before(l.readings[b].At) })
	tr := l.trace()
	next := 0
	l.highest, l.shutAir = 0, nil
	for _, r := range tr.Readings {
		l.highest = max(l.highest, r.GaugePa)
		for ; next < len(tr.Events) && tr.Events[next].AtS <= r.AtS; next++ {
			j.Event(tr.Events[next])
		}
		if c, ok := judge.Degrees(tr.Temperature, r.AtS); ok {
			j.Temperature(trace.Sample{AtS: r.AtS, Value: c})
		}
		j.Reading(r)
	}
	for ; next < len(tr.Events); next++ {
		j.Event(tr.Events[next])
	}
	l.judge = j
	l.look()
	return nil
}

// look asks the judge anew.
func (l *live) look() {
	if l.hold.State == "pumping" {
		l.report = nil
		return
	}
	rep := l.judge.Report()
	l.report = &rep
	if rep.Fork != nil && (rep.Fork.TightAboveKPa != nil || rep.Fork.LeakingBelowKPa != nil) {
		if n := len(l.trail); n == 0 || rep.Fork.AtS > l.trail[n-1].AtS {
			l.trail = append(l.trail, forkAt(*rep.Fork))
		}
		if len(l.trail) > 400 {
			thin := l.trail[:0]
			for i, f := range l.trail {
				if i%2 == 0 {
					thin = append(thin, f)
				}
			}
			l.trail = thin
		}
	}
}

func forkAt(p judge.ForkPoint) ForkAt {
	pa := func(k *float64) *float64 {
		if k == nil {
			return nil
		}
		v := *k * 1e3
		return &v
	}
	return ForkAt{p.AtS, pa(p.TightAboveKPa), pa(p.LeakingBelowKPa)}
}

// readGauge takes the readings that are due from a simulated gauge: committed in
// one go, then judged, then shown.
func (s *Shop) readGauge(ctx context.Context, l *live) {
	now := s.clock.Now()
	var due []logbook.Reading
	seq := l.lastSeq()
	for ; !l.nextRead.After(now); l.nextRead = l.nextRead.Add(gaugeEvery) {
		seq++
		due = append(due, l.standReading(l.nextRead, seq))
	}
	if len(due) == 0 {
		return
	}
	if err := s.take(ctx, l, due); err != nil {
		// The book refused: nothing was acknowledged, the next tick tries again.
		l.nextRead = due[0].At
	}
}

func (l *live) standReading(at time.Time, seq int) logbook.Reading {
	pa := l.stand.Read(l.axis(at), seq)
	// Rounded as a digital face shows it, so that file and book say the same.
	ring, _ := l.rig.Gauge.Ring()
	value := math.Round(l.unit.Of(pa)/ring.Division) * ring.Division
	value = math.Round(value*1e6) / 1e6
	if value == 0 {
		value = 0 // no face shows a negative zero, and the book does not keep one
	}
	return logbook.Reading{HoldID: l.hold.ID, Gauge: 1, Seq: seq, At: at.Truncate(time.Microsecond), Value: value, Unit: l.unit.Symbol, How: "read", By: "gauge", Device: l.rig.Gauge.ID}
}

func (l *live) lastSeq() int {
	seq := 0
	for i := len(l.readings) - 1; i >= 0 && i >= len(l.readings)-64; i-- {
		seq = max(seq, l.readings[i].Seq)
	}
	return seq
}

// take commits readings of the server's own, then judges and shows them.
func (s *Shop) take(ctx context.Context, l *live, due []logbook.Reading) error {
	if err := s.book.Batch(ctx, func(tx *logbook.Tx) error { return tx.AddReadings(due...) }); err != nil {
		return err
	}
	for _, r := range due {
		l.readings = append(l.readings, r)
		x := l.traced(r)
		l.highest = max(l.highest, x.GaugePa)
		l.judge.Reading(x)
		if l.hold.State == "holding" && len(l.calls) == 0 {
			l.look()
			if err := s.callIfMade(ctx, l); err != nil {
				return err
			}
		}
	}
	if len(l.calls) > 0 {
		l.look()
		if err := s.callIfMade(ctx, l); err != nil {
			return err
		}
	}
	s.show(l)
	return nil
}
