// Package study plays the judge against holds whose truth is known: it draws
// them widely, judges each as it grows, and tells how often and how soon the
// call was right, beside an ideal observer and the stopwatch.
package study

import (
	"math"
	"math/rand/v2"

	"idlehiss/core/judge"
	"idlehiss/core/physics"
	"idlehiss/core/trace"
)

// Bands are the true rates over the allowance that are studied.
var Bands = []float64{0, 0.25, 0.5, 0.8, 1.25, 2, 4, 10}

// Class is what truly happens in a hold.
type Class string

// The classes of truth.
const (
	Still        Class = "still"
	Settling     Class = "settling"
	Leak         Class = "leak"
	SettlingLeak Class = "settling+leak"
)

// Clean tells a class without creep, in which an interval has nothing to doubt.
func (c Class) Clean() bool { return c == Still || c == Leak }

// Kind is how a hold is read.
type Kind string

// The kinds of gauge.
const (
	Needle  Kind = "needle"  // read by eye every so often
	Marks   Kind = "marks"   // the needle's crossings noted, read now and then
	Digital Kind = "digital" // logged
)

// Kinds are all of them.
var Kinds = []Kind{Needle, Marks, Digital}

// Creep is one exponential (or, with log, a logarithm over ten minutes) of settling.
type Creep struct {
	FallPa, TauS float64
	Log          bool
}

// Hold is one simulated hold: the truth, and what its gauge showed.
type Hold struct {
	Seed     uint64
	Ratio    float64 // true loss over the allowance
	Kind     Kind
	Class    Class
	AtPa     float64 // where it starts, gauge
	Ambient  float64
	LimitPa  float64 // allowed loss, Pa/s
	RatePa   float64 // true loss at AtPa, Pa/s
	GasM3    float64 // true trapped gas
	Law      physics.Law
	Creeps   []Creep
	Warmth   float64 // how far the temperature drifts, K; read beside the pressure
	WarmTauS float64
	NoisePa  float64 // of the pressure seen
	StepPa   float64 // read to
	EveryS   float64
	HoldS    float64
	IdealS   float64 // when an ideal observer calls; +Inf when not within an hour
	Question judge.Question

	curve []float64 // true gauge pressure at the temperature of the start, every CurveS
}

// CurveS is the time between the points of a hold's true curve, s; CurveN how many
// it has.
const (
	CurveS = 0.5
	CurveN = int(longestS/CurveS) + 2
)

const (
	longestS = 3600.0
	startK   = 293.15
)

// draw makes the n-th hold of a band. What cannot be told by this gauge within
// twenty-five minutes even by an ideal observer is drawn again: a plan would have
// refused it.
func draw(seed uint64, ratio float64) *Hold {
	for try := uint64(0); ; try++ {
		rng := rand.New(rand.NewPCG(seed, 77+try))
		h := roll(rng, seed, ratio)
		h.trace()
		apart := math.Abs(h.RatePa - h.LimitPa)
		if ratio > 0.5 && ratio < 2 {
			apart = h.LimitPa // the gauge is judged by what is clear
		}
		clear := h.ideal(apart)
		if clear > 1500 {
			continue
		}
		h.IdealS = h.ideal(math.Abs(h.RatePa - h.LimitPa))
		h.HoldS = math.Min(longestS-1, math.Max(180, 2.2*math.Min(h.IdealS, 1500)+4*h.EveryS))
		return h
	}
}

func roll(rng *rand.Rand, seed uint64, ratio float64) *Hold {
	between := func(a, b float64) float64 { return a * math.Exp(rng.Float64()*math.Log(b/a)) }
	pick := func(list ...float64) float64 { return list[rng.IntN(len(list))] }
	h := &Hold{Seed: seed, Ratio: ratio, Kind: Kinds[rng.IntN(3)], Ambient: between(88e3, 103e3), Law: physics.Laminar}
	h.AtPa = pick(20e3, 35e3, 50e3, 90e3, 110e3, 140e3, 300e3, 550e3, -25e3, -40e3)
	switch k := rng.IntN(10); {
	case k < 4:
		h.Law = physics.Orifice
	case k < 6 && h.AtPa > 0: // liquid does not weep inwards
		h.Law = physics.Liquid
	}
	span := math.Abs(h.AtPa)
	h.LimitPa = span * between(0.003, 0.04) / 60
	h.RatePa = ratio * h.LimitPa
	count := []int{0, 0, 1, 1, 2, 2, 2, 3, 3, 4}[rng.IntN(10)]
	total := span * between(0.01, 0.08)
	switch {
	case count == 4: // as long hoses creep, the pumped air cooling beside it
		h.Creeps = []Creep{{total * between(0.3, 1), between(1.5, 20), true}, {total * rng.Float64() / 2, between(2, 7), false}}
	case count > 0:
		shares, sum := make([]float64, count), 0.0
		for i := range shares {
			shares[i] = rng.ExpFloat64() + 0.05
			sum += shares[i]
		}
		for i := range shares {
			h.Creeps = append(h.Creeps, Creep{total * shares[i] / sum, between(2, 120), false})
		}
	}
	h.Class = []Class{Still, Settling, Leak, SettlingLeak}[b2i(count > 0)+2*b2i(ratio > 0)]
	if rng.IntN(4) == 0 {
		h.Warmth, h.WarmTauS = (rng.Float64()-0.5)*6, between(120, 1200)
	}
	q := judge.Question{AmbientPa: h.Ambient, AtPa: &h.AtPa}
	switch h.Kind {
	case Digital:
		h.StepPa = span / between(250, 2500)
		h.NoisePa = h.StepPa * between(0.1, 1)
		h.EveryS = pick(0.5, 1, 1, 2)
		q.Gauge.DigitalPa = h.StepPa
	default:
		division := span / between(12, 40)
		h.StepPa, h.NoisePa = division/4, 0.12*division
		h.EveryS = between(8, 40)
		if h.Kind == Marks {
			h.EveryS = between(40, 90)
		}
		q.Gauge.DivisionPa = division
	}
	// Half of the allowances are flows, from a volume known to some per cent.
	if h.GasM3 = 0.5e-3; rng.IntN(2) == 0 {
		q.LimitPaPerS = h.LimitPa
	} else {
		volume := between(5e-5, 8e-3)
		h.GasM3 = volume
		doubt := 0.01 + 0.04*rng.Float64()
		q.LimitFlow = physics.StandardFlow(h.LimitPa, volume, physics.StandardK)
		q.GasM3 = volume * (1 + doubt*rng.NormFloat64())
		q.GasSE = q.GasM3 * doubt
	}
	h.Question = q
	return h
}

func b2i(b bool) int {
	if b {
		return 1
	}
	return 0
}

// trace integrates the true curve: a leak along its own pressure, creep beside it.
func (h *Hold) trace() {
	sign := 1.0
	if h.AtPa < 0 {
		sign = -1
	}
	full := h.Law.Drive(h.AtPa, h.Ambient)
	slope := func(p, t float64) float64 {
		d := -h.RatePa * h.Law.Drive(p, h.Ambient) / full
		for _, c := range h.Creeps {
			if c.Log {
				d -= c.FallPa / math.Log1p(600/c.TauS) / (c.TauS + t)
			} else {
				d -= c.FallPa / c.TauS * math.Exp(-t/c.TauS)
			}
		}
		return sign * d
	}
	h.curve = make([]float64, CurveN)
	p := h.AtPa
	for i := range h.curve {
		h.curve[i] = p
		t := float64(i) * CurveS
		k1 := slope(p, t)
		p += CurveS * slope(p+CurveS/2*k1, t+CurveS/2)
	}
}

// true gives the gauge pressure at a moment, before temperature.
func (h *Hold) truth(t float64) float64 {
	x := t / CurveS
	i := min(int(x), len(h.curve)-2)
	return h.curve[i] + (x-float64(i))*(h.curve[i+1]-h.curve[i])
}

func (h *Hold) kelvin(t float64) float64 {
	if h.Warmth == 0 {
		return startK
	}
	return startK + h.Warmth*(1-math.Exp(-t/h.WarmTauS))
}

// shown is the gauge pressure with the temperature's part: dry gas.
func (h *Hold) shown(t float64) float64 {
	return (h.truth(t)+h.Ambient)*h.kelvin(t)/startK - h.Ambient
}

// Readings is what the gauge showed up to a time, and the temperatures beside it.
func (h *Hold) Readings(until float64) (out []trace.Reading, kelvin []trace.Sample) {
	rng := rand.New(rand.NewPCG(h.Seed, 991))
	for t := 0.0; t <= until; {
		v := h.shown(t) + h.NoisePa*rng.NormFloat64()
		out = append(out, trace.Reading{AtS: t, GaugePa: math.Round(v/h.StepPa) * h.StepPa, How: trace.Read})
		kelvin = append(kelvin, trace.Sample{AtS: t, Value: h.kelvin(t) - 273.15})
		step := h.EveryS
		if h.Kind != Digital {
			step *= 0.8 + 0.4*rng.Float64()
		}
		if h.Kind == Marks {
			h.crossings(t, math.Min(t+step, until), rng, &out, &kelvin)
		}
		t += step
	}
	return out, kelvin
}

// parallax is how far beside a mark a needle looks to be on it, in divisions (one standard
// deviation, its own for each mark): what the bound and the judge reckon with.
const parallax = 0.03

// crossings notes the printed marks and half-way points passed between two
// moments, by a person some tenths of a second off.
func (h *Hold) crossings(from, to float64, rng *rand.Rand, out *[]trace.Reading, kelvin *[]trace.Sample) {
	half := h.Question.Gauge.DivisionPa / 2
	last := h.shown(from)
	seen := func(k float64) float64 { // where the needle looks to be on a mark
		own := rand.New(rand.NewPCG(h.Seed, uint64(int64(k))))
		return k*half + parallax*h.Question.Gauge.DivisionPa*own.NormFloat64()
	}
	for t := from + CurveS; t < to; t += CurveS {
		v := h.shown(t)
		for k := math.Floor(math.Min(v, last) / half); k <= math.Ceil(math.Max(v, last)/half); k++ {
			mark, at := k*half, seen(k)
			if (last-at)*(v-at) > 0 || last == at {
				continue
			}
			when := t - CurveS + CurveS*(last-at)/(last-v) + 0.3*rng.NormFloat64()
			if n := len(*out); when > (*out)[n-1].AtS && when < to {
				*out = append(*out, trace.Reading{AtS: when, GaugePa: mark, How: trace.Mark})
				*kelvin = append(*kelvin, trace.Sample{AtS: when, Value: h.kelvin(when) - 273.15})
			}
		}
		last = v
	}
}
