package study

import (
	"math"
	"runtime"
	"slices"
	"sync"

	"idlehiss/core/judge"
	"idlehiss/core/physics"
	"idlehiss/core/trace"
)

// Result is what came of one hold.
type Result struct {
	Seed    uint64
	Ratio   float64
	Kind    Kind
	Class   Class
	Law     physics.Law
	Creeps  int
	Log     bool
	Warm    bool
	Slow    bool       // creeps, at slow times only
	Sharp   bool       // a digital gauge quieter than its last digit
	Corner  string     // of the second corpus: what happened in it beside
	Called  judge.Call // watching, at the first reading that told
	AtS     float64
	Full    judge.Call // of the whole hold, looked at once
	Promise *float64   // s from half the hold on, in which a call was promised there; nil: none was made
	Kept    bool       // it came within half as much again
	AskedS  float64    // when that was asked
	Unsaid  bool       // not called although the interval lies on one side, and nothing says why
	Silent  bool       // open at half the hold, and no time was promised
	IdealS  float64
	HoldS   float64
	// IdealOpen is the chance that an ideal observer leaves the whole hold open.
	IdealOpen float64
	Truth     judge.Shape
	Rate      judge.Interval // over the allowance, at the full hold
	BoundSD   float64        // the Cramér–Rao bound of the true form, over the allowance
	FullSD    float64        // the same of the full model
	Shape     judge.Shape
	Gap       float64                  // expected log-likelihood of the true shape over the next; +Inf when every other contains it
	Schools   [len(SchoolMinutes)]bool // passed
}

// Wrong tells a call on the wrong side while it was watched, WrongFull one of the whole hold.
func (r *Result) Wrong() bool     { return r.wrong(r.Called) }
func (r *Result) WrongFull() bool { return r.wrong(r.Full) }

func (r *Result) wrong(c judge.Call) bool {
	return c == judge.Tight && r.Ratio > 1 || c == judge.Leaking && r.Ratio < 1
}

// SchoolMinutes are the stopwatch holds judged beside: two readings, the fall
// between them against what the allowance makes of the time.
var SchoolMinutes = [...]float64{2, 3, 5, 10, 15}

// slowS is from where a time of creep, s, imitates a steady loss.
const slowS = 30.0

// result holds what is known of a hold before it is judged.
func (h *Hold) result() Result {
	res := Result{Seed: h.Seed, Ratio: h.Ratio, Kind: h.Kind, Class: h.Class, Law: h.Law, Creeps: len(h.Creeps), Warm: h.Warmth != 0, IdealS: h.IdealS, HoldS: h.HoldS,
		Called: judge.NotYet, Truth: h.Class.Shape(), Log: len(h.Creeps) > 0 && h.Creeps[0].Log, Sharp: h.Kind == Digital && h.NoisePa < 0.45*h.StepPa}
	res.Slow = len(h.Creeps) > 0
	for _, c := range h.Creeps {
		res.Slow = res.Slow && !c.Log && c.TauS > slowS
	}
	return res
}

// keptX is how much later than promised a call may come.
const keptX = 1.5

// watchedS is how long the gauge is looked at, to see whether any promise is kept that is made
// at half a hold.
func watchedS(holdS float64) float64 { return 3*holdS + 500 }

// replay judges a hold as it grows, looking at every reading, and the whole of it once.
func (r *Result) replay(tr *trace.Trace, q judge.Question, limitPa, fromS, holdS float64) {
	live, err := judge.NewLive(q, nil)
	if err != nil {
		panic(err) // a question drawn here has an answer
	}
	event, whole, due := 0, false, 0.0
	for _, x := range tr.Readings {
		for ; event < len(tr.Events) && tr.Events[event].AtS <= x.AtS; event++ {
			live.Event(tr.Events[event])
		}
		if k, ok := judge.Degrees(tr.Temperature, x.AtS); ok {
			live.Temperature(trace.Sample{AtS: x.AtS, Value: k})
		}
		if t := x.AtS - fromS; t > holdS && !whole {
			r.told(live.Report(), limitPa)
			whole = true
		}
		if whole && (r.Promise == nil || r.Kept || x.AtS > due) {
			return
		}
		live.Reading(x)
		t := x.AtS - fromS
		if r.Called == judge.NotYet && !whole {
			if call, firm := live.Look(); firm {
				r.Called, r.AtS = call, t
			}
		}
		half := t >= holdS/2 && r.AskedS == 0
		if half {
			r.AskedS = t
			if r.Called == judge.NotYet {
				live.Watch(true)
				r.Promise = live.Report().MoreS
				live.Watch(false)
				r.Silent = r.Promise == nil
			}
			if r.Promise != nil {
				due = x.AtS + keptX**r.Promise
			}
		} else if r.Promise != nil && !r.Kept && x.AtS <= due {
			_, r.Kept = live.Look()
		}
	}
	if !whole {
		r.told(live.Report(), limitPa)
	}
}

// told takes down what a report of the whole hold says.
func (r *Result) told(rep judge.Report, limitPa float64) {
	r.Full, r.Shape = rep.Call, rep.Shape
	if x := rep.RateKPaPerMin; rep.Call == judge.NotYet && x != nil && (x.Low > rep.LimitKPaPerMin || x.High < rep.LimitKPaPerMin) {
		r.Unsaid = !slices.ContainsFunc(judge.HoldBacks[:], func(c judge.Code) bool {
			_, says := rep.Says(c)
			return says
		})
	}
	if x, perMin := rep.RateKPaPerMin, limitPa*60/1e3; x != nil {
		r.Rate = judge.Interval{Value: x.Value / perMin, Low: x.Low / perMin, High: x.High / perMin}
	}
}

// play judges one hold of the first corpus.
func play(h *Hold) Result {
	res := h.result()
	tr := trace.Trace{}
	tr.Readings, tr.Temperature = h.Readings(math.Max(watchedS(h.HoldS), 60*SchoolMinutes[len(SchoolMinutes)-1]+h.EveryS))
	readings := tr.Readings
	if h.Warmth == 0 {
		tr.Temperature = nil
	}
	res.replay(&tr, h.Question, h.LimitPa, 0, h.HoldS)
	var clean []trace.Reading
	for _, r := range readings {
		if r.AtS > h.HoldS {
			break
		}
		clean = append(clean, trace.Reading{AtS: r.AtS, GaugePa: h.truth(r.AtS)})
	}
	res.Gap = gap(clean, h.Question, h.NoisePa, h.StepPa, h.Class)
	bound := h.bound(h.HoldS, false)
	res.BoundSD, res.FullSD = bound/h.LimitPa, h.bound(h.HoldS, true)/h.LimitPa
	res.IdealOpen = open(h.RatePa-h.LimitPa, bound, h.LimitPa, &h.Question)
	for k, minutes := range SchoolMinutes {
		first := readings[0]
		for _, r := range readings {
			if r.AtS >= minutes*60-h.EveryS/2 {
				res.Schools[k] = math.Abs(first.GaugePa)-math.Abs(r.GaugePa) <= h.LimitPa*(r.AtS-first.AtS)
				break
			}
		}
	}
	return res
}

// Curve makes the true gauge pressure of a hold, Pa every CurveS, in place of the
// study's own: a circuit simulated.
type Curve func(h *Hold) []float64

// Run plays so many holds in every band, on all processors, the same each time.
// other, where it is given, makes their truth.
func Run(seed uint64, each int, other Curve) []Result {
	return run(each, func(i int) Result {
		h := draw(seed+uint64(i), Bands[i%len(Bands)])
		if other != nil {
			h.curve = other(h)
		}
		return play(h)
	})
}

// RunStrangers plays the second corpus.
func RunStrangers(seed uint64, each int) []Result {
	return run(each, func(i int) Result {
		return playStranger(drawStranger(seed+uint64(i), Bands[i%len(Bands)]))
	})
}

func run[R any](each int, one func(i int) R) []R {
	out := make([]R, each*len(Bands))
	var wg sync.WaitGroup
	for w := range runtime.NumCPU() {
		wg.Add(1)
		go func() {
			defer wg.Done()
			for i := w; i < len(out); i += runtime.NumCPU() {
				out[i] = one(i)
			}
		}()
	}
	wg.Wait()
	return out
}

// Shapes are the classes as the judge names them, in the order of judge.Fits.
var Shapes = [...]judge.Shape{judge.ShapeTight, judge.ShapeSettling, judge.ShapeLeak, judge.ShapeSettlingLeak}

// Shape is the class as the judge names it.
func (c Class) Shape() judge.Shape {
	return map[Class]judge.Shape{Still: judge.ShapeTight, Settling: judge.ShapeSettling, Leak: judge.ShapeLeak, SettlingLeak: judge.ShapeSettlingLeak}[c]
}

// gap compares the best fits of the true shape and of the next that does not contain it, to
// readings without error.
func gap(clean []trace.Reading, q judge.Question, noisePa, stepPa float64, of Class) float64 {
	fits := judge.Fits(clean, q, math.Sqrt(noisePa*noisePa+stepPa*stepPa/12))
	const settles, leaks = 1, 2
	has := b2i(of == Settling || of == SettlingLeak)*settles + b2i(of == Leak || of == SettlingLeak)*leaks
	next := math.Inf(-1)
	for shape, f := range fits {
		if shape&has != has { // what lacks a part of the truth does not contain it
			next = math.Max(next, f)
		}
	}
	return fits[has] - next
}

// Right tells a shape that was named as it is. A still hold in changing warmth
// may be named after the warmth.
func (r *Result) Right() bool {
	return r.Shape == r.Truth || r.Class == Still && r.Warm && r.Shape == judge.ShapeTemperature
}
