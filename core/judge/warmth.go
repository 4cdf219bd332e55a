package judge

import (
	"math"

	"idlehiss/core/physics"
	"idlehiss/core/trace"
)

const zeroCelsiusK = 273.15

// warmth takes the temperature out of what a gauge shows: every reading is
// brought to the temperature of the hold's first.
type warmth struct {
	kelvin  float64 // the last one read; 0 when none was
	first   float64 // at the first reading of the hold
	at      float64 // up to where logarithm is taken
	log     float64 // logarithm of the pressure over that at the first temperature
	low     float64
	high    float64
	fallRaw float64 // Pa, of the first reading and the last, as shown
	moved   float64 // Pa, what the temperature made of the last reading
}

func (w *warmth) restart() { *w = warmth{kelvin: w.kelvin} }

// Temperature adds a temperature (°C) read at a moment; readings from then on
// are taken to be at it.
func (l *Live) Temperature(s trace.Sample) { l.warmth.kelvin = s.Value + zeroCelsiusK }

// takenOut is the reading as it would be at the first temperature. Dry gas:
// p ∝ T. Liquid-filled: dp/dT = p·(V_g/T + β·V_l)/V_eff (PHYSICS §4).
func (w *warmth) takenOut(r trace.Reading, q *Question) trace.Reading {
	if w.kelvin == 0 {
		return r
	}
	if w.first == 0 {
		w.first, w.at, w.low, w.high = w.kelvin, w.kelvin, w.kelvin, w.kelvin
	}
	gas, liquid := 1.0, 0.0
	if q.LiquidM3 > 0 && q.GasM3 > 0 {
		liquid = physics.ExpansionCoolant * q.LiquidM3 / q.GasM3
	}
	w.log += gas*math.Log(w.kelvin/w.at) + liquid*(w.kelvin-w.at)
	w.at = w.kelvin
	w.low, w.high = math.Min(w.low, w.kelvin), math.Max(w.high, w.kelvin)
	shown := r.GaugePa
	r.GaugePa = (shown+q.AmbientPa)*math.Exp(-w.log) - q.AmbientPa
	w.moved = shown - r.GaugePa
	return r
}
