package judge

import (
	"math"
	"sort"

	"idlehiss/core/physics"
	"idlehiss/core/quantity"
	"idlehiss/core/trace"
)

// warmth takes the temperature out of what a gauge shows: every reading is
// brought to the temperature of the hold's first.
type warmth struct {
	kelvin float64 // the last one read; 0 when none was
	first  float64 // at the first reading of the hold; 0 before it
	moved  float64 // Pa, what the temperature made of the last reading
}

func (w *warmth) restart() { *w = warmth{kelvin: w.kelvin} }

// Temperature adds a temperature (°C) read at a moment; readings from then on
// are taken to be at it.
// A figure that no thermometer can give is left out.
func (l *Live) Temperature(s trace.Sample) {
	if quantity.PossibleCelsius(s.Value) {
		l.warmth.kelvin = s.Value - quantity.AbsoluteZero
	}
}

// usualGlycol is the share of glycol of a common half-and-half fill.
const usualGlycol = 0.5

// vapour is the pressure of the coolant's own vapour at a temperature, Pa; nothing without coolant.
func vapour(kelvin float64, q *Question) float64 {
	if !q.Coolant {
		return 0
	}
	pa, err := physics.VapourPressure(physics.EthyleneGlycol, usualGlycol, kelvin)
	if err != nil {
		return 0 // below freezing there is next to none
	}
	return pa
}

// WarmthFresh reports whether temperatures tell what they do to a pressure read at a moment (s): two
// at least, and the last of them not long before it.
func WarmthFresh(read []trace.Sample, atS float64) bool {
	n := len(read)
	return n > 1 && atS-read[n-1].AtS <= warmthFreshS
}

// warmthFreshS is how long a temperature is good for, s: a hot loop cools by about a kelvin in it.
const warmthFreshS = 120

// takenOut is the reading as it would be at the first temperature. Dry gas:
// p ∝ T. Liquid-filled: dp/dT = p·(V_g/T + β·V_l)/V_eff, the coolant's own vapour set aside first
// (PHYSICS §4).
func (w *warmth) takenOut(r trace.Reading, q *Question) trace.Reading {
	if w.kelvin == 0 {
		return r
	}
	if w.first == 0 {
		w.first = w.kelvin
	}
	liquid := 0.0
	if q.LiquidM3 > 0 && q.GasM3 > 0 {
		liquid = physics.ExpansionCoolant * q.LiquidM3 / q.GasM3
	}
	log := math.Log(w.kelvin/w.first) + liquid*(w.kelvin-w.first)
	shown := r.GaugePa
	now, then := vapour(w.kelvin, q), vapour(w.first, q)
	r.GaugePa = (shown+q.AmbientPa-now)*math.Exp(-log) + then - q.AmbientPa
	w.moved = shown - r.GaugePa
	return r
}

// thermometerK is what a thermometer shows apart: a tenth of a kelvin. Two readings of it tell a
// rise so well, and more where it passes more of its figures. A loop full of coolant is not at one
// temperature: its skin tells it to about half a kelvin.
const (
	thermometerK = 0.1
	loopK        = 0.5
)

// thermometer is the standard error of the rate from the thermometer, Pa/s.
func (r *running) thermometer() float64 {
	if r.perK == 0 {
		return 0
	}
	k := thermometerK
	if r.loop {
		k = loopK
	}
	return k * r.perK / math.Max(r.lastT, 1) / math.Sqrt(1+math.Abs(r.moved)/r.perK/k)
}

// Degrees is the temperature (°C) at a moment, on the line between the samples
// about it; the nearest one's outside them.
func Degrees(samples []trace.Sample, atS float64) (float64, bool) {
	n := len(samples)
	if n == 0 {
		return 0, false
	}
	i := sort.Search(n, func(i int) bool { return samples[i].AtS >= atS })
	switch {
	case i == 0:
		return samples[0].Value, true
	case i == n:
		return samples[n-1].Value, true
	}
	a, b := samples[i-1], samples[i]
	return a.Value + (b.Value-a.Value)*(atS-a.AtS)/(b.AtS-a.AtS), true
}

// name says what the temperature has to do with the fall, where it moved.
func (w *warmth) name(rep *Report, r *running, q *Question) {
	seen := warmthSeen * r.gauge.readSigma() * math.Sqrt(math.Max(r.noiseScale(), warmthQuiet))
	if rep.RateKPaPerMin == nil || math.Abs(w.moved) < seen {
		return
	}
	moved, kelvin := kpa(math.Abs(w.moved)), w.kelvin-w.first
	left := rep.RateKPaPerMin.Value * rep.HeldS / 60 // kPa lost, the temperature taken out
	if rep.Shape != ShapeStep && (rep.Shape == ShapeTight || math.Abs(left) < explained*kpa(math.Abs(w.moved)) || rep.RateKPaPerMin.Low < 0) {
		rep.RunnerUp, rep.RunnerUpShare = rep.Shape, rep.ShapeShare
		rep.Shape = ShapeTemperature
		rep.say(TemperatureExplains, figureKelvin, kelvin, figureFall, moved)
		return
	}
	rep.say(TemperatureTakenOut, figureKelvin, kelvin, figureFall, moved)
}

const (
	explained   = 0.25 // of what the temperature did: what may be left over
	warmthSeen  = 4.0  // errors of reading that a move by temperature must exceed to be spoken of
	warmthQuiet = 0.1  // of the nominal variance: no gauge is taken for quieter
)
