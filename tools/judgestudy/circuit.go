package main

import (
	"math"

	"idlehiss/core/judge/study"
	"idlehiss/core/physics"
	"idlehiss/core/simulate"
)

// onCircuit plays a hold on the circuit simulator, on which everything hangs
// together: walls that give way follow the pressure that the leak lowers, and what
// creeps and what leaks share one room of gas.
func onCircuit(h *study.Hold) []float64 {
	abs := h.AtPa + h.Ambient
	chamber := simulate.Chamber{GasM3: h.GasM3}
	give := 0.0 // m³ a pascal, of all the walls
	add := func(fallPa, tauS float64) {
		g := simulate.Give{M3PerPa: fallPa * h.GasM3 / abs / math.Abs(h.AtPa), TauS: tauS}
		give += g.M3PerPa
		chamber.Gives = append(chamber.Gives, g)
	}
	for _, c := range h.Creeps {
		if !c.Log {
			add(c.FallPa, c.TauS)
			continue
		}
		// A logarithm is a band of times: 1/(τ+t) = ∫ e^(−st)·e^(−sτ) ds.
		const step = 2.0
		for tau := 0.25 * c.TauS; tau < 2e4; tau *= step {
			add(c.FallPa/math.Log1p(600/c.TauS)*math.Exp(-c.TauS/tau)*math.Log(step), tau)
		}
	}
	// The flow that makes the rate once all has given way: n = p·(V + G·(p − a)).
	flow := h.RatePa * (h.GasM3 + give*(h.AtPa+abs))
	leak := simulate.Passage{From: 0, To: simulate.Outside, Law: h.Law, RefPa: h.AtPa, StdM3PeS: math.Copysign(flow/physics.StandardPa, h.AtPa)}
	if h.Law == physics.Liquid {
		chamber.LiquidM3 = 1e3 * h.GasM3 // never runs out
		leak.StdM3PeS = flow / abs
	}
	sys := simulate.System{AmbientPa: h.Ambient, Chambers: []simulate.Chamber{chamber}}
	if h.RatePa > 0 {
		sys.Passages = []simulate.Passage{leak}
	}
	sim, err := simulate.New(sys)
	if err != nil {
		panic(err) // what is drawn can be simulated
	}
	stroke := h.GasM3 * h.AtPa / h.Ambient
	if h.AtPa < 0 {
		stroke = h.GasM3 * (1 - h.Ambient/abs)
	}
	sim.Stroke(0, stroke)
	curve := make([]float64, study.CurveN)
	for i := range curve {
		curve[i] = sim.GaugePa(0)
		sim.Advance(study.CurveS)
	}
	return curve
}
