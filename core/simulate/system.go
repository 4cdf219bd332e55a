// Package simulate runs a circuit in time: gas squeezed in by a pump or a
// regulated supply, hoses that creep, gas that warms and cools, liquid that weeps,
// lips, valves and reliefs. It stands in for a real circuit in the demo shop, in
// practice and in the tests of the judge.
package simulate

import (
	"fmt"
	"maps"
	"math"
	"slices"

	"idlehiss/core/circuit"
	"idlehiss/core/physics"
)

// Give is a chamber's slow or instant widening: m³ per Pa, with its time in s.
type Give struct{ M3PerPa, TauS float64 }

// Chamber is a space with gas in it, and perhaps liquid.
type Chamber struct {
	ID       string
	GasM3    float64 // at rest
	LiquidM3 float64 // outgrows its walls when it warms, and weeps from below the gas
	Coolant  bool    // the liquid gives off vapour when hot
	Gives    []Give
	Heats    float64  // share of the pump's adiabatic heating that comes in: 1 for a vessel filled at once
	CoolsS   float64  // in which the gas comes to its walls' temperature; 0: at once
	HeldPa   *float64 // gauge: a supply, a cylinder, the shop's air; its pressure never moves
}

// Outside stands for the air around as an end of a passage.
const Outside = -1

// Passage lets gas or liquid pass between two chambers, or a chamber and the
// outside. Its flow is told at one pressure difference; its law does the rest.
type Passage struct {
	Part     string
	From, To int
	Law      physics.Law // Liquid: liquid of the chamber From
	StdM3PeS float64     // at RefPa across it: standard flow of gas, or flow of liquid
	RefPa    float64
	OneWay   bool    // a lip or a check valve: nothing comes back
	Lifts    float64 // Pa across it at which it opens; 0: always open
	Reseats  float64 // Pa at which it shuts again; 0: never, once open
	Meant    bool    // an orifice or bleed that belongs there
	Shut     bool    // a valve or lever that starts shut
}

// System is what is simulated.
type System struct {
	AmbientPa float64
	AirK      float64 // temperature of the air and, at the start, of everything; 0: 20 °C
	Chambers  []Chamber
	Passages  []Passage
}

func (s *System) check() error {
	if s.AmbientPa <= 0 || len(s.Chambers) == 0 {
		return fmt.Errorf("a system needs an ambient pressure and at least one chamber")
	}
	for _, c := range s.Chambers {
		if c.GasM3 <= 0 && c.HeldPa == nil {
			return fmt.Errorf("chamber %q holds no gas: nothing can be squeezed", c.ID)
		}
	}
	for _, l := range s.Passages {
		for _, end := range []int{l.From, l.To} {
			if end != Outside && (end < 0 || end >= len(s.Chambers)) {
				return fmt.Errorf("the passage at %q ends in a chamber that is not there", l.Part)
			}
		}
		if l.Law == physics.Liquid && (l.From == Outside || s.Chambers[l.From].LiquidM3 <= 0) {
			return fmt.Errorf("liquid is to leave at %q, but there is none before it", l.Part)
		}
		if l.RefPa == 0 {
			return fmt.Errorf("the flow at %q is told at no pressure: give the one it was told at", l.Part)
		}
		if l.Lifts > 0 && l.Reseats > l.Lifts {
			return fmt.Errorf("%q would reseat at %.4g kPa, above the %.4g at which it lifts", l.Part, l.Reseats/1e3, l.Lifts/1e3)
		}
	}
	return nil
}

// Leak is one that is put into a circuit: its flow (m³/s) with the test pressure
// refPa across it, standard flow of gas or flow of liquid.
type Leak struct {
	Part    string
	M3PerS  float64
	Law     physics.Law
	Inward  bool // it passes from the second side of its part to the first only
	Outward bool // or the other way only
}

// FromCircuit makes the system of a circuit's first hold with leaks of given flow
// (m³/s at refPa gauge) at its parts.
func FromCircuit(c *circuit.Circuit, leaks map[string]float64, law physics.Law, refPa, ambientPa float64) (System, error) {
	var list []Leak
	for _, p := range slices.Sorted(maps.Keys(leaks)) {
		list = append(list, Leak{Part: p, M3PerS: leaks[p], Law: law})
	}
	step, _ := c.Test("")
	sys, _, err := FromStep(c, step, list, refPa, ambientPa)
	return sys, err
}

// What is wide open, and what a relief lets go: flows (m³/s) at the pressures (Pa)
// they are told at, so large that the two sides are one, or that it cannot rise.
const (
	openM3PerS = 2e-3
	openPa     = 5e3
	liftM3PerS = 1e-3
)

// FromStep makes the system of one step: chambers, what is open between them,
// escapes that are meant, reliefs, and leaks. port is the chamber into which the
// rig pumps.
func FromStep(c *circuit.Circuit, step circuit.Step, leaks []Leak, refPa, ambientPa float64) (sys System, port int, err error) {
	sys = System{AmbientPa: ambientPa}
	index := map[string]int{circuit.Outside: Outside}
	for _, ch := range c.Chambers {
		out := Chamber{ID: ch.ID, GasM3: float64(ch.TrappedAir), Heats: ch.PumpHeat.Share, CoolsS: float64(ch.PumpHeat.Over)}
		if ch.Open {
			out.HeldPa = new(0.0)
		}
		switch {
		case ch.Holds == circuit.HoldsLiquid:
			out.LiquidM3, out.Coolant = float64(ch.Volume), c.Liquid == circuit.Coolant
		case out.GasM3 == 0:
			out.GasM3 = float64(ch.Volume)
		}
		for _, g := range ch.Gives {
			out.Gives = append(out.Gives, Give{float64(g.Volume) / float64(g.At), float64(g.Over)})
		}
		index[ch.ID] = len(sys.Chambers)
		sys.Chambers = append(sys.Chambers, out)
	}
	known := map[string]circuit.Part{}
	under := c.Pressed(step).Chambers
	for _, p := range c.Parts {
		// What stays open behind the space under pressure lets out what leaks into it.
		vents := p.Opening && p.LeftOpen != "" && !slices.Contains(under, p.Between[0]) && !slices.Contains(under, p.Between[1])
		known[p.ID] = p
		way := Passage{Part: p.ID, From: index[p.Between[0]], To: index[p.Between[1]], Law: physics.Orifice, OneWay: p.OneWay && !p.Forced(step)}
		switch {
		case p.Removed:
		case p.Passes(step), vents:
			way.StdM3PeS, way.RefPa, way.Meant = openM3PerS, openPa, true
			sys.Passages = append(sys.Passages, way)
		case p.Meant > 0:
			way.StdM3PeS, way.RefPa, way.Meant = float64(p.Meant), float64(p.MeantAt), true
			sys.Passages = append(sys.Passages, way)
		}
		if p.Lifts > 0 && !p.Removed {
			way.StdM3PeS, way.RefPa, way.Lifts, way.Reseats = liftM3PerS, float64(p.Lifts), float64(p.Lifts), float64(p.Reseats)
			sys.Passages = append(sys.Passages, way)
		}
	}
	for _, l := range leaks {
		p, ok := known[l.Part]
		if !ok {
			return sys, 0, fmt.Errorf("%q is no part of %s", l.Part, c.ID)
		}
		if l.M3PerS <= 0 {
			continue
		}
		way := Passage{Part: p.ID, From: index[p.Between[0]], To: index[p.Between[1]], Law: l.Law, StdM3PeS: l.M3PerS, RefPa: refPa, OneWay: l.Inward || l.Outward}
		if refPa < 0 {
			way.StdM3PeS = -way.StdM3PeS
		}
		if l.Inward {
			// A flow is told with ambient behind it; this one ends in the vacuum.
			deep := math.Abs(refPa)
			way.From, way.To, way.RefPa = way.To, way.From, deep
			way.StdM3PeS = l.M3PerS
			if refPa < 0 {
				way.StdM3PeS *= l.Law.Drive(deep, ambientPa) / l.Law.Drive(deep, ambientPa-deep)
			}
		}
		sys.Passages = append(sys.Passages, way)
	}
	return sys, index[c.Pressed(step).Port.Chamber], nil
}
