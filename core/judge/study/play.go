package study

import (
	"math"
	"runtime"
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
	Slow    bool // creeps, at slow times only
	Sharp   bool // a digital gauge quieter than its last digit
	Called  judge.Call
	AtS     float64
	IdealS  float64
	HoldS   float64
	Rate    judge.Interval // over the allowance, at the full hold
	BoundSD float64        // the Cramér–Rao bound of the true form, over the allowance
	FullSD  float64        // the same of the full model
	Shape   judge.Shape
	Gap     float64                  // expected log-likelihood of the true shape over the next; +Inf when every other contains it
	Schools [len(SchoolMinutes)]bool // passed
}

// Wrong tells a call on the wrong side.
func (r *Result) Wrong() bool {
	return r.Called == judge.Tight && r.Ratio > 1 || r.Called == judge.Leaking && r.Ratio < 1
}

// SchoolMinutes are the stopwatch holds judged beside: two readings, the fall
// between them against what the allowance makes of the time.
var SchoolMinutes = [...]float64{2, 3, 5, 10, 15}

// slowS is from where a time of creep, s, imitates a steady loss.
const slowS = 30.0

// play judges one hold as it grows, looking at every reading.
func play(h *Hold) Result {
	res := Result{Seed: h.Seed, Ratio: h.Ratio, Kind: h.Kind, Class: h.Class, Law: h.Law, Creeps: len(h.Creeps), Warm: h.Warmth != 0, IdealS: h.IdealS, HoldS: h.HoldS,
		Called: judge.NotYet, Log: len(h.Creeps) > 0 && h.Creeps[0].Log, Sharp: h.Kind == Digital && h.NoisePa < 0.45*h.StepPa}
	res.Slow = len(h.Creeps) > 0
	for _, c := range h.Creeps {
		res.Slow = res.Slow && !c.Log && c.TauS > slowS
	}
	readings, kelvin := h.Readings(math.Max(h.HoldS, 60*SchoolMinutes[len(SchoolMinutes)-1]+h.EveryS))
	live, err := judge.NewLive(h.Question, nil)
	if err != nil {
		panic(err) // a question drawn here has an answer
	}
	for i, r := range readings {
		if r.AtS > h.HoldS {
			break
		}
		if h.Warmth != 0 {
			live.Temperature(kelvin[i])
		}
		live.Reading(r)
		if res.Called == judge.NotYet {
			if call, firm := live.Look(); firm {
				res.Called, res.AtS = call, r.AtS
			}
		}
	}
	rep := live.Report()
	perMin := h.LimitPa * 60 / 1e3
	if rep.RateKPaPerMin != nil {
		res.Rate = judge.Interval{Value: rep.RateKPaPerMin.Value / perMin, Low: rep.RateKPaPerMin.Low / perMin, High: rep.RateKPaPerMin.High / perMin}
	}
	res.Shape = rep.Shape
	res.Gap = h.gap(readings)
	res.BoundSD, res.FullSD = h.bound(h.HoldS, false)/h.LimitPa, h.bound(h.HoldS, true)/h.LimitPa
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
	out := make([]Result, each*len(Bands))
	var wg sync.WaitGroup
	for w := range runtime.NumCPU() {
		wg.Add(1)
		go func() {
			defer wg.Done()
			for i := w; i < len(out); i += runtime.NumCPU() {
				h := draw(seed+uint64(i), Bands[i%len(Bands)])
				if other != nil {
					h.curve = other(h)
				}
				out[i] = play(h)
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

// gap compares the best noise-free fits of the true shape and of the next that
// does not contain it.
func (h *Hold) gap(readings []trace.Reading) float64 {
	var clean []trace.Reading
	for _, r := range readings {
		if r.AtS > h.HoldS {
			break
		}
		clean = append(clean, trace.Reading{AtS: r.AtS, GaugePa: h.truth(r.AtS)})
	}
	fits := judge.Fits(clean, h.Question, math.Sqrt(h.NoisePa*h.NoisePa+h.StepPa*h.StepPa/12))
	const settles, leaks = 1, 2
	of := b2i(len(h.Creeps) > 0)*settles + b2i(h.Ratio > 0)*leaks
	next := math.Inf(-1)
	for shape, f := range fits {
		if shape&of != of { // what lacks a part of the truth does not contain it
			next = math.Max(next, f)
		}
	}
	return fits[of] - next
}

// Right tells a shape that was named as it is. A still hold in changing warmth
// may be named after the warmth.
func (r *Result) Right() bool {
	return r.Shape == r.Class.Shape() || r.Class == Still && r.Warm && r.Shape == judge.ShapeTemperature
}
