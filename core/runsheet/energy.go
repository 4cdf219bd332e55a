package runsheet

import (
	"math"
	"slices"

	"idlehiss/core/circuit"
	"idlehiss/core/physics"
)

// From hurts (J) on the stored energy is shown before anything is pumped: a hard
// hammer blow (docs/PHYSICS.md, Stored energy); from pushes (N) on the thrust: fifty kilograms. From
// askFill on filling or a shield is asked for. Shop practice.
const (
	hurts   = 100.0
	pushes  = 500.0
	askFill = 1000.0
)

// plugAcross is a common plug or stub (m), for the thrust where no part's own area is known.
const plugAcross = 25e-3

// Stored is what a step's gas holds at its target, and pushes with.
type Stored struct {
	Joules  float64
	Newtons float64 // on the largest part whose area is known, or on a 25 mm plug
	Part    string  // that part, by name; empty: the plug
	AskFill bool
	Running bool // at its running pressure, which cannot be less
	With    circuit.Medium
	Fill    circuit.Liquid // what it may be filled with; empty: nothing
}

// StoredIn works it out at a pressure (Pa gauge); ok is false where it cannot hurt.
func StoredIn(c *circuit.Circuit, s circuit.Step, atPa, ambientPa float64) (e Stored, ok bool) {
	if atPa <= 0 {
		return e, false
	}
	e.Joules, _ = physics.StoredEnergy(atPa, c.Room(s), ambientPa)
	area := math.Pi / 4 * plugAcross * plugAcross
	in := c.Pressed(s)
	largest := func(p circuit.Part) {
		if own := float64(p.Area); own > area {
			area, e.Part = own, p.Title
		}
	}
	for _, p := range in.Suspects {
		largest(p)
	}
	for _, x := range in.Closures {
		largest(x.Part)
	}
	e.Newtons = atPa * area
	e.AskFill, e.With, e.Fill = e.Joules >= askFill, c.Medium(), c.MayBeFilled()
	if s.Dry {
		e.Fill = ""
	}
	e.Running = len(s.Targets) > 0 && !slices.ContainsFunc(s.Targets, func(t circuit.Target) bool { return !t.Asked })
	return e, e.Joules >= hurts || e.Newtons >= pushes
}
