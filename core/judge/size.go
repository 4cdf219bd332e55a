package judge

import (
	"math"

	"idlehiss/core/physics"
)

// size turns the loss into a flow, a hole and a loss of coolant, where the
// trapped air is known.
func (r *running) size(rep *Report, q Question, rate Interval, atPa float64) {
	if q.GasM3 <= 0 {
		return
	}
	doubt := 1.96 * q.GasSE / q.GasM3
	flow := func(x, side float64) float64 {
		return physics.StandardFlow(x, q.GasM3, physics.StandardK) * (1 + side*doubt)
	}
	away := func(x float64) float64 {
		if x < 0 {
			return -1
		}
		return 1
	}
	fl := Interval{flow(rate.Value, 0), flow(rate.Low, -away(rate.Low)), flow(rate.High, away(rate.High))}
	each := func(g func(float64) float64) *Interval {
		return &Interval{g(fl.Value), g(fl.Low), g(fl.High)}
	}
	inside := atPa + q.AmbientPa
	from, to := math.Max(inside, q.AmbientPa), math.Min(inside, q.AmbientPa)
	rep.FlowCm3PerMin = each(func(x float64) float64 { return x * 60e6 })
	rep.HoleUm = each(func(x float64) float64 { return 1e6 * physics.EquivalentHole(x, from, to, physics.StandardK) })
	if q.Coolant && atPa > 0 {
		rep.LossMLPerH = each(func(x float64) float64 {
			return 3600e6 * math.Max(0, physics.LiquidOfGas(x, from, to, atPa, physics.MuCoolantHot))
		})
	}
}
