package judge

import (
	"math"

	"idlehiss/core/physics"
)

// shown is how many standard errors a loss must have to be missed once in twenty
// holds while none is taken for one once in twenty.
const shown = 2 * z90

// z90 is how many standard errors leave one in twenty on one side.
const z90 = 1.645

// size turns the loss into a flow, a hole and a loss of coolant, where the
// trapped air is known. Gas leaving above the liquid line and liquid leaving from
// below it fall alike and lose differently: both are told.
func (r *running) size(rep *Report, q Question, f *fitted, rate Interval, atPa float64) {
	smallest := shown * (rate.High - rate.Low) / (2 * z95)
	rep.SmallestKPaPerMin = new(kpaPerMin(smallest))
	if q.GasM3 <= 0 {
		return
	}
	gas, se := f.gaveWay(&q, atPa)
	doubt := z95 * se / gas
	flow := func(x, side float64) float64 {
		return physics.StandardFlow(x, gas, physics.StandardK) * (1 + side*doubt)
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
	rep.FlowCm3PerMin = each(func(x float64) float64 { return x * cm3PerMin })
	rep.HoleUm = each(func(x float64) float64 { return 1e6 * physics.EquivalentHole(x, from, to, physics.StandardK) })
	if q.Coolant && atPa > 0 {
		hot := func(flow float64) float64 {
			return mlPerHour * math.Max(0, physics.LiquidOfGas(flow, from, to, atPa, physics.MuCoolantHot))
		}
		rep.LossMLPerH = each(hot)
		rep.SmallestMLPerH = new(hot(flow(smallest, 0)))
		// dP/dt = −p·q/V: the flow of liquid is V·rate/p (PHYSICS §3).
		weep := func(flow float64) float64 {
			return mlPerHour * math.Max(0, flow) * physics.StandardPa / inside
		}
		rep.WeepColdMLPerH = each(weep)
		const thinner = physics.MuCoolantCold / physics.MuCoolantHot
		rep.LossColdMLPerH = rep.LossMLPerH.times(1 / thinner)
		rep.WeepMLPerH = rep.WeepColdMLPerH.times(thinner)
		if rep.Call == Tight {
			rep.MissedMLPerH = new(rep.WeepMLPerH.High)
		}
	}
}

func (i *Interval) times(f float64) *Interval {
	return &Interval{i.Value * f, i.Low * f, i.High * f}
}
