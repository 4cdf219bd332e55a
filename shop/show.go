package shop

import (
	"encoding/json"
	"fmt"
	"math"

	"idlehiss/core/judge"
	"idlehiss/core/quantity"
	"idlehiss/core/trace"
	"idlehiss/logbook"
)

// show sends a hold to the pages with the readings that are new.
func (s *Shop) show(l *live) { s.send(l, false) }

// showWhole sends all of it, after something earlier has changed.
func (s *Shop) showWhole(l *live) { s.send(l, true) }

// inFull is how often (s of the wall) what is made of a hold is sent with its
// readings: a person does not read faster, and it is most of the message.
const inFull = 0.5

func (s *Shop) send(l *live, whole bool) {
	now, speed := s.Now()
	brief := !whole && len(l.calls) == l.sentCalls && now.Sub(l.sentFull).Seconds() < inFull*speed
	if !brief {
		l.sentFull, l.sentCalls = now, len(l.calls)
	}
	s.bus.send("hold", s.view(l, whole, brief))
	l.sent, l.sentFar = len(l.readings), len(l.far)
}

// screenPoints is as many points as a screen can draw.
const screenPoints = 600

// viewOf makes the page's view; whole gives every point, thinned, else the new ones.
func (s *Shop) viewOf(l *live, whole bool) HoldView { return s.view(l, whole, false) }

// view leaves out of a brief one what the page has already.
func (s *Shop) view(l *live, whole, brief bool) HoldView {
	h := l.hold
	digit := l.rig.Gauge.ForJudge().StepPa()
	div := l.rig.Gauge.DivisionPa()
	said := l.said()
	v := HoldView{ID: h.ID, JobID: h.JobID, Machine: l.machine, Purpose: h.Purpose, Test: l.step.ID, Draws: l.draws(), Stage: l.stage(), Condition: h.Condition, State: h.State, Simulated: h.Simulated, LaidBy: h.LaidBy,
		StartedAt: h.At, Gauge: l.rig.Gauge, Unit: l.unit.Symbol, UnitPa: l.unit.Factor, Whole: whole, Target: l.rig.Target, TargetText: l.shown(l.rig.Target.Pa, div), Limit: l.shown(l.rig.Limit.Pa, div), Allowance: l.rig.Allowance,
		Report: said, Ring: RingOf(said), Air: l.airSeen(), Marks: l.marks(), LastSeq: l.lastSeq(), Brief: brief, NowS: l.axis(s.clock.Now()),
		Faults: []FaultView{}, Points: []Point{}, Events: []EventView{}, Gaps: []GapView{}, Calls: []CallView{}}
	if v.Marks == nil {
		v.Marks = []NextMark{}
	}
	if h.IsolatedAt != nil {
		t := l.axis(*h.IsolatedAt)
		v.IsolatedS = &t
	}
	if h.EndedAt != nil {
		t := l.axis(*h.EndedAt)
		v.EndedS, v.NowS = &t, t
	}
	ring, _ := l.rig.Gauge.Ring()
	v.Step = ring.Division
	if l.rig.Gauge.Kind == "needle" {
		v.Step = ring.Division / 4
	}
	if pa, ok := l.last(); ok {
		x := l.shown(pa, digit)
		v.Value = &x
	}
	v.OverLimit = l.over()
	v.Alarm = l.alarm()
	for _, ln := range l.lines {
		if ln.fault != "" && h.State != "ended" {
			v.Faults = append(v.Faults, FaultView{ln.gauge, string(ln.fault), ln.says, l.axis(ln.believed)})
		}
	}
	if l.rig.Far != nil {
		v.Far = l.farView(whole)
	}
	if l.highest > 0 {
		x := l.shown(l.highest*l.sign(), digit)
		v.Highest = &x
	}
	for _, e := range l.events {
		v.Events = append(v.Events, EventView{l.axis(e.At), e.Kind})
		switch e.Kind {
		case trace.Stroke:
			v.Strokes++
		case trace.FirstHiss:
			if v.FirstHeard == nil && e.PressurePa != nil {
				x := l.shown(*e.PressurePa, digit)
				v.FirstHeard = &x
			}
		}
	}
	for _, g := range l.gaps {
		v.Gaps = append(v.Gaps, GapView{l.axis(g.From), l.axis(g.To), g.Why})
	}
	if brief {
		v.Report = nil
	} else {
		for _, c := range l.calls {
			v.Calls = append(v.Calls, l.callView(c))
		}
		v.Fork = l.fork()
	}
	if v.Fork == nil {
		v.Fork = []ForkAt{}
	}
	v.Trail = []ForkAt{}
	if n := len(l.trail); n > 0 {
		v.Trail = l.trail[n-1:]
		if whole {
			v.Trail = l.trail
		}
	}
	if !brief || l.over() || h.State == "pumping" {
		v.Sentence = l.sentence(said, v.Fork)
	}
	if l.report != nil && l.report.MoreS != nil && h.State == "holding" && len(l.calls) == 0 {
		if pts := len(l.readings); pts > 0 {
			t := l.axis(l.readings[pts-1].At) + *l.report.MoreS
			v.CallAtS = &t
		}
	}
	fresh := l.readings
	if !whole {
		fresh = fresh[min(l.sent, len(fresh)):]
	}
	v.Points = l.points(fresh)
	return v
}

// stopShare is the share of the ceiling at which an engine that runs with the cap
// off must be stopped: nothing relieves the loop, and heat goes on after it stops.
const stopShare = 0.9

// alarm is what must be done at once.
func (l *live) alarm() string {
	div := l.rig.Gauge.DivisionPa()
	if l.over() {
		return fmt.Sprintf("Over the limit of %s. Bleed back now.", l.unit.Show(l.rig.Limit.Pa, div))
	}
	pa, ok := l.last()
	if ok && l.hold.State == "holding" && l.engineRuns() && l.sign()*pa > stopShare*l.ceiling() {
		return fmt.Sprintf("Stop the engine now: %s, and nothing relieves it.", l.unit.Show(pa, div))
	}
	return ""
}

// engineRuns tells whether the engine was last said to be on.
func (l *live) engineRuns() bool {
	for i := len(l.events) - 1; i >= 0; i-- {
		switch l.events[i].Kind {
		case trace.EngineOn:
			return true
		case trace.EngineOff:
			return false
		}
	}
	return false
}

// stage is where a hold is looked at now: in a job of several steps at its own.
func (l *live) stage() string {
	switch {
	case l.hold.Purpose == "rig proof":
		return "prove"
	case len(l.circuit.Tests()) > 1:
		return "step-" + l.step.ID
	case l.hold.State == "pumping":
		return "pressurise"
	case len(l.calls) > 0:
		return "call"
	}
	return "hold"
}

// over tells whether the pressure is above the limit, by either gauge and at
// once: an alarm does not wait until a gauge is believed. Only one that speaks
// another unit is known to mean something else.
func (l *live) over() bool {
	if l.hold.State == "ended" {
		return false
	}
	for i, rs := range [][]logbook.Reading{l.readings, l.far} {
		ln := l.line(nearGauge + i)
		for k := len(rs) - 1; k >= 0; k-- {
			if rs[k].Struck != "" && ln == nil {
				continue // a wrong press
			}
			if (ln == nil || ln.fault != trace.OtherUnit) && l.sign()*l.traced(rs[k]).GaugePa > l.ceiling() {
				return true
			}
			break
		}
	}
	return false
}

func (l *live) farView(whole bool) *FarView {
	g := l.rig.Far.Gauge
	ring, u := g.Ring()
	digit := g.ForJudge().StepPa()
	v := &FarView{Gauge: g, Unit: u.Symbol, UnitPa: u.Factor, Step: ring.Division, Marks: []NextMark{}, Points: []Point{}}
	if g.Kind == "needle" {
		v.Step = ring.Division / 4
	}
	far, ok := standingLast(l, l.far)
	if ok {
		x := Show(far, digit, u)
		v.Value = &x
		v.Says = "The near gauge has not been read yet."
		if near, ok := l.last(); ok {
			v.Says = apart(near, far, math.Max(digit, l.rig.Gauge.ForJudge().StepPa()), u)
		}
	}
	if m := marksOf(g, far, ok, l.hold.State, l.rig.Target.Pa); m != nil {
		v.Marks = m
	}
	fresh := l.far
	if !whole {
		fresh = fresh[min(l.sentFar, len(fresh)):]
	}
	v.Points = l.points(fresh)
	return v
}

// apart is what the two gauges say of each other.
func apart(near, far, digitPa float64, u quantity.Unit) string {
	switch d := far - near; {
	case math.Abs(d) <= digitPa:
		return "Both gauges show the same."
	case d < 0:
		return "The far gauge stands " + u.Show(-d, digitPa) + " below the near one."
	default:
		return "The far gauge stands " + u.Show(d, digitPa) + " above the near one."
	}
}

func (l *live) callView(c logbook.Call) CallView {
	var rep judge.Report
	// A call that cannot be read any more still shows its word.
	if err := json.Unmarshal(c.Report, &rep); err != nil {
		rep = judge.Report{Call: judge.Call(c.Call)}
	}
	return CallView{At: c.At, AtS: l.axis(c.At), Call: judge.Call(c.Call), Ring: RingOf(&rep), Report: rep}
}

// points thins a long trace for the screen but keeps every struck reading and
// every one that a person took.
func (l *live) points(rs []logbook.Reading) []Point {
	keep := map[float64]bool{}
	thinned := len(rs) > screenPoints
	if thinned {
		plain := make([]trace.Reading, 0, len(rs))
		for _, r := range rs {
			plain = append(plain, l.traced(r))
		}
		for _, r := range trace.Thin(plain, screenPoints) {
			keep[r.AtS] = true
		}
	}
	out := []Point{}
	for _, r := range rs {
		t := l.traced(r)
		if thinned && !keep[t.AtS] && r.By == "gauge" && r.Struck == "" {
			continue
		}
		p := Point{AtS: t.AtS, Pa: t.GaugePa, Seq: r.Seq, How: string(t.How), Struck: r.Struck}
		if p.Struck == "" && l.withheld(r) {
			p.Struck = "not believed yet"
		}
		out = append(out, p)
	}
	return out
}

// shown writes a pressure in the gauge's unit and in the other one.
func (l *live) shown(pa, digitPa float64) Shown { return Show(pa, digitPa, l.unit) }

// Show writes a pressure in a unit, and beside it in kPa, or in psi where the
// gauge itself is in kPa.
func Show(pa, digitPa float64, u quantity.Unit) Shown {
	other := quantity.MustNamed("kPa", quantity.Pressure)
	if u.Symbol == other.Symbol {
		other = quantity.MustNamed("psi", quantity.Pressure)
		if pa < 0 {
			other = quantity.MustNamed("inHg", quantity.Pressure)
		}
	}
	// The other unit's figure is a conversion: its last digit is a power of ten.
	tenth := math.Pow(10, math.Floor(math.Log10(math.Max(other.Of(digitPa), 0.1))))
	return Shown{Pa: pa, Text: u.Figure(pa, digitPa), Unit: u.Symbol, Other: other.Show(pa, other.SI(tenth))}
}
