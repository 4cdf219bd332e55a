package judge

import (
	"math"
	"slices"

	"idlehiss/core/physics"
	"idlehiss/core/quantity"
	"idlehiss/core/trace"
)

// Live judges a trace as it grows. Readings and events are added in order of
// time, events before the readings of the same moment; the cost of a report
// does not depend on how many readings there have been.
type Live struct {
	q        Question
	schools  []School
	tr       trace.Trace
	run      running
	past     []segment // what was held before each top-up
	settled  bool      // a hold has begun
	over     bool      // the pressure has been let go
	holdAt   int       // first reading of the hold
	highest  float64
	watched  bool // the hold goes on
	stroked  bool // there was a stroke, last at strokeAt
	strokeAt float64
	warmth   warmth
	nowS     float64                   // how late it is, where no reading says so
	acts     map[trace.Event]ActReport // that nothing later can change
	actsPast []ActReport               // of what was held before the last pumping
	actHeldS float64                   // s: how old the hold was when actIs was worked out
	actIs    *float64                  // for how long an act would be watched
	needle   sticks                    // where it is filmed
	acting   bool                      // something is done to a part: what follows is no longer the circuit as it was
}

// warmS is how long after a stroke the air that it warmed hides everything else:
// it cools within a second or two, faster than any settling that is fitted.
const warmS = 2.0

// NewLive starts an empty judge.
func NewLive(q Question, schools []School) (*Live, error) {
	if err := q.Check(); err != nil {
		return nil, err
	}
	return &Live{q: q, schools: schools, run: running{gauge: q.Gauge}, needle: sticks{gauge: q.Gauge}}, nil
}

// Expect makes room for so many readings.
func (l *Live) Expect(readings int) { l.tr.Readings = slices.Grow(l.tr.Readings, readings) }

// Event tells of something that happened. Pumping, bleeding back and shutting the
// supply start the hold again.
func (l *Live) Event(e trace.Event) {
	l.tr.Events = append(l.tr.Events, e)
	if e.Kind == trace.Tap {
		if l.needle.follows && !l.over {
			l.again() // it stood elsewhere until now
		}
		l.needle.tap(e.AtS)
		return // it moves the needle, not the pressure
	}
	l.run.note(e.Kind)
	switch e.Kind {
	case trace.Stroke, trace.Isolate, trace.TopUp, trace.Bleed:
		if e.Kind == trace.Stroke {
			l.stroked, l.strokeAt = true, e.AtS
		}
		if l.q.HoldFrom == nil && !l.over {
			if e.Kind == trace.TopUp && len(l.run.bins) >= leastBins {
				l.past = append(l.past, l.run.segment())
			}
			l.again()
		}
	case trace.Release:
		l.over = true
	case trace.ActOver:
		l.acting = false
	}
	if trace.IsAct(e.Kind) {
		l.acting = true
	}
}

// again judges from here on; what acts have told until now stays told.
func (l *Live) again() {
	l.actsPast = l.Acts()
	for i := range l.actsPast {
		l.actsPast[i].Over = true
	}
	l.restart()
}

func (l *Live) restart() {
	l.run = running{gauge: l.q.Gauge}
	l.holdAt = len(l.tr.Readings)
	l.warmth.restart()
	l.needle.restart()
}

// Reading adds one reading. One whose time or pressure is no figure, or beyond what
// a gauge can show, is left out: it must not reach a fit.
func (l *Live) Reading(r trace.Reading) {
	if !quantity.PossiblePa(r.GaugePa) || !quantity.PossibleSeconds(r.AtS) {
		return
	}
	if r.How == trace.Camera {
		var says bool
		if r, says = l.needle.look(r); !says {
			return
		}
	} else if l.needle.beside(r) {
		return
	}
	l.tr.Readings = append(l.tr.Readings, r)
	if math.Abs(r.GaugePa) > math.Abs(l.highest) {
		l.highest = r.GaugePa
	}
	if l.over || l.acting {
		return
	}
	if l.q.HoldFrom != nil && !l.settled {
		if r.AtS < *l.q.HoldFrom-1e-6 {
			return
		}
		l.settled = true
		l.restart()
		l.holdAt--
	}
	// A needle is read when it has come to rest; a digital gauge shows the heat.
	if l.stroked && l.q.Gauge.DigitalPa > 0 && r.AtS < l.strokeAt+warmS {
		return
	}
	if r = l.warmth.takenOut(r, &l.q); !quantity.PossiblePa(r.GaugePa) {
		return // so warm that a loop this full would have burst
	}
	l.run.moved = math.Copysign(l.warmth.moved, l.warmth.moved*r.GaugePa)
	if k := l.warmth.kelvin - l.warmth.first; k != 0 {
		l.run.loop = l.q.Coolant
		l.run.perK = math.Abs(l.warmth.moved / k)
	}
	l.run.add(r)
}

// Look makes the call or not, without figures and words; firm tells that a live
// call may be made of it.
func (l *Live) Look() (call Call, firm bool) {
	v, _ := l.run.decide(&l.q)
	return v.call, v.firm
}

// Watch says that the hold goes on and is looked at again and again: what is not firm is not
// called. Unless it is said, a report is that of a whole hold, looked at once.
func (l *Live) Watch(on bool) { l.watched = on }

// Report is the answer to everything so far.
func (l *Live) Report() Report {
	rep := l.run.report(l.q, l.watched)
	l.warmth.name(&rep, &l.run, &l.q)
	l.floor(&rep)
	l.neverReached(&rep)
	l.engine(&rep)
	l.needle.say(&rep)
	l.phases(&rep)
	hold := l.HoldReadings()
	if l.over {
		if ps := l.tr.Phases(l.q.HoldFrom); len(ps) > 0 {
			for _, p := range ps {
				if p.Kind == trace.Hold {
					hold = l.tr.In(p)
				}
			}
		}
	}
	for _, s := range l.schools {
		rep.Schools = append(rep.Schools, s.View(hold, l.q))
	}
	rep.Acts = l.Acts()
	if rep.Call == Leaking {
		rep.ActS = l.actS()
	}
	rep.Word(l.q.Unit)
	return rep
}

// Fork gives the fork at moments ahead of the last reading, for drawing.
func (l *Live) Fork(aheadS []float64) []ForkPoint {
	r := &l.run
	if r.n < leastFits || r.lastT <= 0 || math.Abs(r.startPa) < leastPressurePa {
		return nil
	}
	limit := l.q.limit()
	f := r.fit(&l.q, r.sign*r.testPa(&l.q))
	if f == nil {
		return nil
	}
	out := make([]ForkPoint, 0, len(aheadS))
	for _, a := range aheadS {
		out = append(out, *r.fork(f, l.q, limit, a))
	}
	whole(out)
	return out
}

// whole leaves of the tight side only what is not broken off again: while much still settles a
// reading so high would be called now, and not a moment later.
func whole(fork []ForkPoint) {
	from := len(fork)
	for from > 0 && fork[from-1].TightAboveKPa != nil {
		from--
	}
	if from == len(fork) {
		return // it ends before: nothing later contradicts what is drawn
	}
	for i := range from {
		fork[i].TightAboveKPa = nil
	}
}

// neverReached tells a pump-up that stalled: strokes, no isolation, and a top
// well below the test pressure.
func (l *Live) neverReached(rep *Report) {
	if l.q.AtPa == nil || math.Abs(l.highest) >= reachedShare*math.Abs(*l.q.AtPa) || rep.Call == Leaking {
		return
	}
	var strokes []float64
	for _, e := range l.tr.Events {
		switch e.Kind {
		case trace.Stroke:
			strokes = append(strokes, e.AtS)
		case trace.Isolate:
			return
		}
	}
	if len(strokes) < stallLeast || !l.seenStalled(strokes[stallLeast-1]) {
		return
	}
	rep.Call, rep.Shape, rep.MoreS, rep.NextStep = NeverReached, ShapeUnclear, nil, nil
	rep.Reasons = []Reason{}
	rep.say(StalledBelow, figureStrokes, float64(len(strokes)), figureHighest, kpa(l.highest), figureTarget, kpa(*l.q.AtPa))
	// What the pump still brings in at the stall is what leaves.
	last := strokes[max(0, len(strokes)-stallStrokes):]
	if took := last[len(last)-1] - last[0]; l.q.StrokeM3 > 0 && took > 0 {
		flow := float64(len(last)-1) / took * l.q.StrokeM3 * l.q.AmbientPa / physics.StandardPa
		rep.FlowCm3PerMin = &Interval{flow * cm3PerMin, flow * cm3PerMin / stallDoubt, flow * cm3PerMin * stallDoubt}
		rep.say(StallFlow, figureFlow, flow*cm3PerMin)
	}
}

// seenStalled reports whether the gauge was read at least twice since a stroke: strokes
// alone, or one look on the way up, show no stall.
func (l *Live) seenStalled(since float64) bool {
	n := 0
	for i := len(l.tr.Readings) - 1; i >= 0 && l.tr.Readings[i].AtS >= since; i-- {
		n++
	}
	return n >= stallReadings
}

const (
	stallReadings = 2
	reachedShare  = 0.85 // of the test pressure: who came so far has reached it
	stallLeast    = 3    // strokes that make a pump-up
	stallStrokes  = 6    // that tell the pump's pace at a stall
	stallDoubt    = 1.5  // either way: strokes are not all whole
)

// engine says what a rise with the engine running may be: combustion gas and heat
// are told apart by eye and ear, not by the rise alone.
func (l *Live) engine(rep *Report) {
	if rep.Shape != ShapeRising {
		return
	}
	running := false
	for _, e := range l.tr.Events {
		switch e.Kind {
		case trace.EngineOn:
			running = true
		case trace.EngineOff:
			running = false
		}
	}
	if running {
		rep.say(EngineRaises)
	}
}

func (l *Live) phases(rep *Report) {
	rep.Phases = []PhaseReport{}
	for _, p := range l.tr.Phases(l.q.HoldFrom) {
		if p.Kind != trace.Hold || rep.SettleS == nil {
			rep.Phases = append(rep.Phases, PhaseReport{string(p.Kind), p.FromS, p.ToS})
			continue
		}
		cut := math.Min(p.ToS, p.FromS+settleTimes*rep.SettleS.Value)
		rep.Phases = append(rep.Phases, PhaseReport{"settle", p.FromS, cut})
		if cut < p.ToS {
			rep.Phases = append(rep.Phases, PhaseReport{"hold", cut, p.ToS})
		}
	}
}

// Judge answers for a whole trace. With live it also replays it reading by
// reading and gives the first call that was made.
func Judge(tr *trace.Trace, q Question, schools []School, live bool) (Report, error) {
	inferred := q.Gauge.DivisionPa == 0 && q.Gauge.DigitalPa == 0
	if inferred {
		q.Gauge.DigitalPa = InferStep(tr)
	}
	if q.Unit.Symbol == "" {
		q.Unit = tr.Unit
	}
	l, err := NewLive(q, schools)
	if err != nil {
		return Report{}, err
	}
	l.Expect(len(tr.Readings))
	var called *Call
	var calledAt *float64
	next := 0
	for _, r := range tr.Readings {
		for ; next < len(tr.Events) && tr.Events[next].AtS <= r.AtS; next++ {
			l.Event(tr.Events[next])
		}
		if k, ok := Degrees(tr.Temperature, r.AtS); ok {
			l.Temperature(trace.Sample{AtS: r.AtS, Value: k})
		}
		l.Reading(r)
		if live && called == nil && !l.over && worthALook(l.run.n) {
			if v, ok := l.run.decide(&l.q); ok && v.firm {
				at := r.AtS
				called, calledAt = &v.call, &at
			}
		}
	}
	for ; next < len(tr.Events); next++ {
		l.Event(tr.Events[next])
	}
	rep := l.Report()
	rep.Called, rep.CalledAtS, rep.Unused = called, calledAt, tr.Unused
	if inferred {
		rep.say(StepInferred, figureStep, kpa(q.Gauge.DigitalPa))
		rep.Word(q.Unit)
	}
	return rep, nil
}

// worthALook spaces the looks of a long replay: every reading at first, then
// each per cent more, so that a million readings replay in reasonable time.
func worthALook(n int) bool {
	if n <= looksAtAll {
		return true
	}
	return n%(n/looksEach) == 0
}

const (
	looksAtAll = 200 // readings
	looksEach  = 100 // looks in each e-fold of a trace
)

// usualSteps are the steps in which gauges count, in last digits of what they show.
var usualSteps = [...]float64{1, 2, 2.5, 5, 10, 12.5, 20, 25, 50, 100}

// InferStep finds the smallest step the values were written in: the largest
// 1, 2, 2.5 or 5 times a power of ten of the file's unit that all values are multiples of.
func InferStep(tr *trace.Trace) float64 {
	unit := tr.Unit
	best := unit.Of(tr.DigitPa)
	if best <= 0 {
		best = 1
	}
	for _, m := range usualSteps {
		step := unit.Of(tr.DigitPa) * m
		if !multiples(tr, step) {
			continue
		}
		best = math.Max(best, step)
	}
	return unit.SI(best)
}

func multiples(tr *trace.Trace, step float64) bool {
	differ := false
	for i, r := range tr.Readings {
		n := tr.Unit.Of(r.GaugePa) / step
		if math.Abs(n-math.Round(n)) > 1e-6 {
			return false
		}
		differ = differ || i > 0 && r.GaugePa != tr.Readings[i-1].GaugePa
	}
	return differ
}

// HoldReadings gives the readings of the hold as they were judged, for those
// who draw or compare them.
func (l *Live) HoldReadings() []trace.Reading {
	return l.tr.Readings[min(l.holdAt, len(l.tr.Readings)):]
}
