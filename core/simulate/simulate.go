// Package simulate runs a circuit in time: gas squeezed in by a pump, hoses that
// creep, pumped air that cools, leaks through parts. It stands in for a real
// circuit in the demo shop, in practice and in the tests of the judge.
package simulate

import (
	"fmt"
	"math"

	"idlehiss/core/circuit"
	"idlehiss/core/physics"
)

// Give is a chamber's slow or instant widening: m³ per Pa, with its time in s.
type Give struct{ M3PerPa, TauS float64 }

// Chamber is a space with gas in it. Liquid only takes up room.
type Chamber struct {
	ID        string
	GasM3     float64 // at ambient pressure
	Gives     []Give
	HeatK     float64 // by how much pumped air comes in warmer
	HeatTauS  float64
	AtAmbient bool // open to the air: its pressure never moves
}

// Leak lets gas pass between two chambers; Outside is the shop's air.
type Leak struct {
	Part     string
	From, To int
	Law      physics.Law
	StdM3PeS float64 // standard flow at RefPa gauge
	RefPa    float64
}

// Outside stands for the air around as an end of a leak.
const Outside = -1

// System is what is simulated. One chamber is enough; more are joined by leaks.
type System struct {
	AmbientPa float64
	Chambers  []Chamber
	Leaks     []Leak
}

// state of one chamber. amount is pressure times volume at ambient temperature, Pa·m³.
type state struct {
	amount float64
	crept  []float64
	warm   float64 // relative excess temperature
}

// Sim is a system at a moment.
type Sim struct {
	sys     System
	chamber []state
	now     float64
	venting []bool
}

// New starts a system at rest at ambient pressure.
func New(sys System) (*Sim, error) {
	if sys.AmbientPa <= 0 || len(sys.Chambers) == 0 {
		return nil, fmt.Errorf("a system needs an ambient pressure and at least one chamber")
	}
	s := &Sim{sys: sys, chamber: make([]state, len(sys.Chambers)), venting: make([]bool, len(sys.Chambers))}
	for i, c := range sys.Chambers {
		if c.GasM3 <= 0 && !c.AtAmbient {
			return nil, fmt.Errorf("chamber %q holds no gas: nothing can be squeezed", c.ID)
		}
		s.chamber[i] = state{amount: sys.AmbientPa * c.GasM3, crept: make([]float64, len(c.Gives))}
	}
	for _, l := range sys.Leaks {
		for _, end := range []int{l.From, l.To} {
			if end != Outside && (end < 0 || end >= len(sys.Chambers)) {
				return nil, fmt.Errorf("the leak at %q ends in a chamber that is not there", l.Part)
			}
		}
	}
	return s, nil
}

// Now is the time simulated, s.
func (s *Sim) Now() float64 { return s.now }

// GaugePa is a chamber's pressure over ambient.
func (s *Sim) GaugePa(i int) float64 {
	c, st := &s.sys.Chambers[i], &s.chamber[i]
	if c.AtAmbient {
		return 0
	}
	// p·(V + crept + stiff·(p−a)) = amount·(1+warm), solved for g = p−a.
	v, stiff := c.GasM3, 0.0
	for k, g := range c.Gives {
		if g.TauS <= 0 {
			stiff += g.M3PerPa
		} else {
			v += st.crept[k]
		}
	}
	a := s.sys.AmbientPa
	n := st.amount * (1 + st.warm)
	if stiff == 0 {
		return n/v - a
	}
	b := v + stiff*a
	return 2 * (n - a*v) / (b + math.Sqrt(b*b+4*stiff*(n-a*v)))
}

// Stroke pushes one pump stroke of outside air into a chamber; a negative volume
// draws one out, as a vacuum pump does.
func (s *Sim) Stroke(i int, m3 float64) {
	c, st := &s.sys.Chambers[i], &s.chamber[i]
	if m3 < 0 {
		st.amount += (s.GaugePa(i) + s.sys.AmbientPa) * m3
		return
	}
	in := s.sys.AmbientPa * m3
	st.warm = (st.amount*st.warm + in*c.HeatK/physics.StandardK) / (st.amount + in)
	st.amount += in
}

// Vent opens or shuts a chamber's release valve.
func (s *Sim) Vent(i int, open bool) { s.venting[i] = open }

// step is the longest time step, s: short against every time constant worth showing.
const step = 0.05

// Advance lets time pass.
func (s *Sim) Advance(seconds float64) {
	for seconds > 1e-9 {
		dt := math.Min(step, seconds)
		s.advance(dt)
		seconds -= dt
		s.now += dt
	}
}

func (s *Sim) advance(dt float64) {
	for _, l := range s.sys.Leaks {
		moved := s.flow(l) * physics.StandardPa * dt
		if l.From != Outside {
			s.chamber[l.From].amount -= moved
		}
		if l.To != Outside {
			s.chamber[l.To].amount += moved
		}
	}
	for i := range s.chamber {
		c, st := &s.sys.Chambers[i], &s.chamber[i]
		g := s.GaugePa(i)
		if s.venting[i] {
			// A hand valve lets a hand-held circuit down in a few seconds.
			st.amount -= (st.amount - s.sys.AmbientPa*c.GasM3) * (1 - math.Exp(-dt/0.8))
			st.warm = 0
		}
		for k, give := range c.Gives {
			if give.TauS > 0 {
				st.crept[k] += (give.M3PerPa*g - st.crept[k]) * (1 - math.Exp(-dt/give.TauS))
			}
		}
		if c.HeatTauS > 0 {
			st.warm *= math.Exp(-dt / c.HeatTauS)
		}
	}
}

// flow is a leak's standard flow from its first end to its second, m³/s.
func (s *Sim) flow(l Leak) float64 {
	at := func(end int) float64 {
		if end == Outside {
			return s.sys.AmbientPa
		}
		return s.GaugePa(end) + s.sys.AmbientPa
	}
	p1, p2 := at(l.From), at(l.To)
	return l.StdM3PeS * l.Law.Drive(p1-p2, p2) / l.Law.Drive(l.RefPa, s.sys.AmbientPa)
}

// FromCircuit makes the system of a circuit with leaks of given standard flow
// (m³/s at refPa gauge) at its parts.
func FromCircuit(c *circuit.Circuit, leaks map[string]float64, law physics.Law, refPa, ambientPa float64) (System, error) {
	sys := System{AmbientPa: ambientPa}
	index := map[string]int{circuit.Outside: Outside}
	for _, ch := range c.Chambers {
		out := Chamber{ID: ch.ID, GasM3: float64(ch.TrappedAir), HeatK: ch.PumpHeat.Kelvin, HeatTauS: float64(ch.PumpHeat.Over), AtAmbient: ch.Open}
		if ch.Holds == "gas" && out.GasM3 == 0 {
			out.GasM3 = float64(ch.Volume)
		}
		for _, g := range ch.Gives {
			out.Gives = append(out.Gives, Give{float64(g.Volume) / float64(g.At), float64(g.Over)})
		}
		index[ch.ID] = len(sys.Chambers)
		sys.Chambers = append(sys.Chambers, out)
	}
	known := map[string]bool{}
	for _, p := range c.Parts {
		known[p.ID] = true
		if flow := leaks[p.ID]; flow > 0 {
			sys.Leaks = append(sys.Leaks, Leak{Part: p.ID, From: index[p.Between[0]], To: index[p.Between[1]], Law: law, StdM3PeS: flow, RefPa: refPa})
		}
	}
	for part := range leaks {
		if !known[part] {
			return sys, fmt.Errorf("%q is no part of %s", part, c.ID)
		}
	}
	return sys, nil
}
