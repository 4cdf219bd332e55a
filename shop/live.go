package shop

import (
	"context"
	"encoding/json"
	"fmt"
	"math"
	"sort"
	"strings"
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
	step    circuit.Step
	schools []judge.School

	judge     *judge.Live
	readings  []logbook.Reading // in order of time, struck ones too
	far       []logbook.Reading // of the gauge at the other end
	warmth    []trace.Sample    // °C, on the hold's own time; where it was read
	events    []logbook.Event
	gaps      []logbook.Gap
	calls     []logbook.Call
	report    *judge.Report
	unjudged  string // why it cannot be judged; empty where it can
	trail     []ForkAt
	sent      int       // readings already sent to the pages
	sentFar   int       // and those of the far gauge
	sentFull  time.Time // when all that is made of it was sent
	sentCalls int       // and how many calls then
	highest   float64   // of the readings that stand, Pa
	shutAir   *Air      // what the strokes told, once the supply is shut

	lines []*line // gauges that speak by themselves
	unit  quantity.Unit
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
	facts, err := s.book.Facts(ctx, h.JobID)
	if err != nil {
		return nil, err
	}
	sn, err := snapshotOf(j, facts)
	if err != nil {
		return nil, err
	}
	l := &live{hold: h, machine: j.Machine, circuit: sn.Circuit, schools: sn.Hold}
	if err := json.Unmarshal(h.Rig, &l.rig); err != nil {
		return nil, err
	}
	l.step, _ = l.circuit.Test(l.rig.Step)
	_, l.unit = l.rig.Gauge.Ring()
	read, err := s.book.Readings(ctx, h.ID)
	if err != nil {
		return nil, err
	}
	for _, r := range read {
		switch r.Gauge {
		case thermometer:
			l.warmth = append(l.warmth, trace.Sample{AtS: l.axis(r.At), Value: r.Value})
		case farGauge:
			l.far = append(l.far, r)
		default:
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
			l.highest = max(l.highest, l.sign()*r.GaugePa)
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
	if near := l.line(nearGauge); near != nil {
		now, last := s.clock.Now(), h.At
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
	}
	l.sent, l.sentFar = len(l.readings), len(l.far)
	s.live[h.ID] = l
	return nil
}

// attach gives a hold the lines to its gauges that speak by themselves.
func (s *Shop) attach(l *live) error {
	l.detach()
	now := s.clock.Now()
	var sim *gauges.StandIn
	for i, k := range []*KitGauge{{Gauge: l.rig.Gauge, StandIn: l.rig.StandIn, Wire: l.rig.Wire, Posted: l.rig.Posted}, l.rig.Far} {
		if k == nil {
			continue
		}
		ln := newLine(nearGauge+i, *k, now)
		if ln == nil {
			continue
		}
		for _, r := range l.far {
			if ln.gauge == farGauge {
				ln.seq = max(ln.seq, r.Seq)
			}
		}
		switch {
		case k.StandIn != nil && sim != nil:
			ln.stand = sim // both sit on the one circuit
		case k.StandIn != nil:
			var actions []gauges.Action
			for _, e := range l.events {
				actions = append(actions, gauges.Action{AtS: l.axis(e.At), Kind: e.Kind})
			}
			var err error
			if ln.stand, err = gauges.New(l.hold.ID, *k.StandIn, &l.circuit, l.step, l.hold.Purpose == "rig proof", math.Copysign(l.rig.Pump.StrokeM3, l.rig.Target.Pa), k.DivisionPa(), l.rig.AmbientPa, actions); err != nil {
				return err
			}
			sim = ln.stand
		case k.Wire != nil:
			s.listen(ln, k.Wire)
		}
		l.lines = append(l.lines, ln)
	}
	return nil
}

// detach lets its gauges go.
func (l *live) detach() {
	for _, ln := range l.lines {
		if ln.stop != nil {
			ln.stop()
		}
	}
	l.lines = nil
}

// line finds the line of a gauge; nil where a person reads it.
func (l *live) line(gauge int) *line {
	for _, ln := range l.lines {
		if ln.gauge == gauge {
			return ln
		}
	}
	return nil
}

// stand is the simulated gauge that the hold is judged by, if it is one.
func (l *live) stand() *line {
	if ln := l.line(nearGauge); ln != nil && ln.stand != nil {
		return ln
	}
	return nil
}

// doubted tells whether no call may lean on what the gauge says just now.
func (l *live) doubted() bool {
	ln := l.line(nearGauge)
	return ln != nil && ln.doubt
}

// withheld tells whether a reading is not believed yet.
func (l *live) withheld(r logbook.Reading) bool {
	ln := l.line(r.Gauge)
	if ln == nil {
		return false
	}
	_, held := ln.withheld[r.Seq]
	return held
}

// draws tells whether this hold is under vacuum, and sign turns a gauge pressure
// into its distance from ambient.
func (l *live) draws() bool { return l.rig.Target.Pa < 0 }

func (l *live) sign() float64 {
	if l.draws() {
		return -1
	}
	return 1
}

// axis is the hold's own time, seconds since it began. Microseconds divide to
// the same double that an exported file reads back as.
func (l *live) axis(t time.Time) float64 {
	return float64(t.UnixMicro()-l.hold.At.UnixMicro()) / 1e6
}

func (l *live) question() judge.Question {
	at := l.rig.Target.Pa
	q := judge.Question{AmbientPa: l.rig.AmbientPa, AtPa: &at, LimitPaPerS: l.rig.Allowance.PaPerS, Gauge: l.rig.Gauge.ForJudge(),
		GasM3: l.rig.GasM3, GasSE: l.rig.GasSE, GasByStrokes: l.rig.ByStrokes, StrokeM3: l.rig.Pump.StrokeM3}
	if l.hold.Purpose != "rig proof" {
		q.Coolant = l.circuit.Liquid == "coolant"
		q.LiquidM3 = l.rig.LiquidM3
		if c, _ := l.circuit.Chamber(l.hold.Chamber); q.LiquidM3 == 0 && c.Holds == "liquid" {
			q.LiquidM3 = float64(c.Volume)
		}
		q.NotTested = l.circuit.NotTested
		q.WarmthUnread = q.Coolant && len(l.warmth) == 0 && (l.rig.Unread || l.engineRuns() || strings.Contains(l.hold.Condition, "hot") || strings.Contains(l.hold.Condition, "engine running"))
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
	for _, r := range l.far {
		if r.Struck == "" {
			tr.Second = append(tr.Second, l.traced(r))
		}
	}
	for _, r := range l.readings {
		if r.Struck == "" && !l.withheld(r) {
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

// guarded runs what judges the hold. A hold that the judge cannot take says so; it
// must not bring down the shop.
func (l *live) guarded(judging func() error) (err error) {
	defer func() {
		if p := recover(); p != nil {
			l.judge, l.report, l.unjudged = nil, nil, fmt.Sprint(p)
			err = nil
		}
	}()
	l.unjudged = ""
	return judging()
}

// rebuild feeds a fresh judge with all that stands, in order of time.
func (l *live) rebuild() error { return l.guarded(l.judgedAnew) }

func (l *live) judgedAnew() error {
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
		l.highest = max(l.highest, l.sign()*r.GaugePa)
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
	l.ask()
	return nil
}

// look asks the judge anew.
func (l *live) look() {
	if l.judge != nil {
		_ = l.guarded(func() error { l.ask(); return nil }) // asking fails only by a panic
	}
}

func (l *live) ask() {
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

func (l *live) lastSeq() int { return lastSeqOf(l.readings) }

// lastSeqOf is the highest sequence; readings taken down late stand a little
// before the end.
func lastSeqOf(rs []logbook.Reading) int {
	seq := 0
	for i := len(rs) - 1; i >= 0 && i >= len(rs)-64; i-- {
		seq = max(seq, rs[i].Seq)
	}
	return seq
}
