// Package gauges is where readings come from. The stand-in is a simulated circuit
// with a gauge on it that ships with the program, for the demo shop and practice;
// everything it says is marked as simulated.
package gauges

import (
	"fmt"
	"hash/fnv"
	"math"
	"slices"
	"sort"
	"strings"

	"idlehiss/core/circuit"
	"idlehiss/core/physics"
	"idlehiss/core/quantity"
	"idlehiss/core/simulate"
)

// Spec is what a stand-in hides: how much air there is and what leaks. Written
// quantities are SI.
type Spec struct {
	AirM3      float64 `json:"air_m3"`
	Part       string  `json:"part"`       // where it leaks; "" for nowhere
	LeakM3PerS float64 `json:"leak_m3_ps"` // standard flow at RefPa
	RefPa      float64 `json:"ref_pa"`
	NoisePa    float64 `json:"noise_pa"`
}

// Action is something done to the stand-in, seconds after its hold began.
type Action struct {
	AtS  float64
	Kind string // a stroke, a bleed, a release, or an act
}

// Kinds of action that move the stand-in; others pass it by.
const (
	Stroke  = "stroke"
	Bleed   = "bleed"
	Release = "release"
	Act     = "act:"     // and the id of one of the circuit's acts, or of a part that is shut off
	ActOver = "act over" // it is undone
	Tap     = "tap"      // moves a needle, not the pressure
)

// StandIn is one simulated gauge on one hold. Played from the same actions it
// comes to the same pressures, so that it survives its process.
type StandIn struct {
	sim      *simulate.Sim
	port     int // the chamber it is on
	reader   simulate.Reader
	strokeM3 float64
	actions  []Action
	next     int
	cuts     func(act string) (parts []string, air float64) // what it cuts off, with the share of the gas
	shut     []string                                       // by the act that is on
	air      float64
}

// rigAirM3 is the air in a tester, its hose and adapter, dead-headed.
const rigAirM3 = 150e-6

// New makes a stand-in for a step's hold. A rig proof squeezes only the rig, whose
// joints are sound. A stroke below nothing draws.
func New(holdID string, s Spec, c *circuit.Circuit, step circuit.Step, rigProof bool, strokeM3, digitPa, ambientPa float64, actions []Action) (*StandIn, error) {
	if s.AirM3 <= 0 || strokeM3 == 0 {
		return nil, fmt.Errorf("a simulated gauge needs some air (%g m³) and a pump stroke (%g m³)", s.AirM3, strokeM3)
	}
	var sys simulate.System
	port := 0
	if rigProof {
		sys = simulate.System{AmbientPa: ambientPa, Chambers: []simulate.Chamber{{ID: "rig", GasM3: rigAirM3,
			Gives: []simulate.Give{{M3PerPa: rigAirM3 * 0.012 / 100e3, TauS: 5}}}}}
	} else {
		var err error
		if sys, port, err = s.system(c, step, strokeM3 < 0, ambientPa); err != nil {
			return nil, err
		}
	}
	sim, err := simulate.New(sys)
	if err != nil {
		return nil, err
	}
	seed := fnv.New64a()
	seed.Write([]byte(holdID))
	sort.SliceStable(actions, func(i, j int) bool { return actions[i].AtS < actions[j].AtS })
	cuts := func(act string) ([]string, float64) {
		for _, a := range c.Acts {
			if a.ID == act {
				return c.CutOff(a, step), a.Air
			}
		}
		return []string{act}, 0
	}
	return &StandIn{sim: sim, port: port, strokeM3: strokeM3, actions: actions, cuts: cuts,
		reader: simulate.Reader{StepPa: digitPa, NoisePa: s.NoisePa, Seed: seed.Sum64()}}, nil
}

// tooMuch is how many times what a step allows a weeping stand-in loses.
const tooMuch = 3

// system is what the stand-in hides, in a circuit's step. What was said of a cooling
// loop is scaled to other circuits: their own room, the likeliest suspect where the
// part is none of theirs, and a leak of some times what their step allows.
func (s Spec) system(c *circuit.Circuit, step circuit.Step, draws bool, ambientPa float64) (simulate.System, int, error) {
	in := c.Pressed(step)
	leak := simulate.Leak{Part: s.Part, M3PerS: s.LeakM3PerS, Law: physics.Laminar}
	ref, air := s.RefPa, s.AirM3
	if c.Family != "cooling" {
		air = 0
		if len(step.Targets) > 0 {
			ref = float64(step.Targets[0].At)
		}
		if s.Part != "" {
			leak.M3PerS *= c.Room(step) / s.AirM3 * math.Abs(ref) / s.RefPa
			if rate, _, _, err := quantity.ParseRate(step.Allowance(), quantity.MustNamed("kPa", quantity.Pressure), ambientPa); err == nil {
				leak.M3PerS = tooMuch * simulate.FlowM3PerS(rate, c.Room(step))
			}
			var likeliest []circuit.Part // of a row of things they are alike
			for _, p := range in.Suspects {
				switch {
				case !intoTheOpen(c, in, p):
				case len(likeliest) == 0 || p.Odds > likeliest[0].Odds:
					likeliest = []circuit.Part{p}
				case p.Odds == likeliest[0].Odds && p.Each != "" && p.Each == likeliest[0].Each:
					likeliest = append(likeliest, p)
				}
			}
			if len(likeliest) > 0 {
				leak.Part = likeliest[len(likeliest)/3].ID
			}
		}
	}
	if draws {
		ref = -math.Abs(ref)
	}
	var leaks []simulate.Leak
	if leak.Part != "" {
		leaks = append(leaks, leak)
	}
	sys, port, err := simulate.FromStep(c, step, leaks, ref, ambientPa)
	if err == nil && air > 0 {
		sys.Chambers[port].GasM3 = air
	}
	return sys, port, err
}

// intoTheOpen reports whether what leaks at a part of what is under pressure can get
// away, and does not only fill the room behind it.
func intoTheOpen(c *circuit.Circuit, in circuit.Pressed, p circuit.Part) bool {
	for _, side := range p.Between {
		if slices.Contains(in.Chambers, side) {
			continue
		}
		ch, ok := c.Chamber(side)
		return !ok || ch.Open
	}
	return false
}

// Do adds an action that has just happened.
func (g *StandIn) Do(a Action) { g.actions = append(g.actions, a) }

// Done is how many actions it knows of.
func (g *StandIn) Done() int { return len(g.actions) }

// Since is how long before a moment, s, the last action of a kind was; +Inf: never.
func (g *StandIn) Since(kind string, atS float64) float64 {
	since := math.Inf(1)
	for _, a := range g.actions {
		if a.Kind == kind && a.AtS <= atS {
			since = min(since, atS-a.AtS)
		}
	}
	return since
}

// Read lets time pass to atS (seconds after the hold began, never backwards) and
// gives what the gauge shows as its n-th reading, Pa gauge.
func (g *StandIn) Read(atS float64, n int) float64 { return g.reader.Show(g.Pressure(atS), n) }

// Pressure lets time pass likewise and gives what is truly there, Pa gauge.
func (g *StandIn) Pressure(atS float64) float64 {
	for ; g.next < len(g.actions) && g.actions[g.next].AtS <= atS; g.next++ {
		a := g.actions[g.next]
		g.sim.Advance(a.AtS - g.sim.Now())
		switch a.Kind {
		case Stroke:
			g.sim.Stroke(g.port, g.strokeM3)
		case Bleed:
			g.sim.Stroke(g.port, -g.strokeM3/8) // a short hiss at the valve
		case Release:
			g.sim.Vent(g.port, true)
		case ActOver:
			g.work(nil, 0)
		default:
			if act, ok := strings.CutPrefix(a.Kind, Act); ok {
				g.work(g.cuts(act))
			}
		}
	}
	g.sim.Advance(atS - g.sim.Now())
	return g.sim.GaugePa(g.port)
}

// work shuts parts off, after those that were shut are opened again.
func (g *StandIn) work(parts []string, air float64) {
	if g.air > 0 {
		g.sim.Part(g.port, -g.air)
	}
	if air > 0 {
		g.sim.Part(g.port, air)
	}
	g.air = air
	for _, p := range g.shut {
		g.sim.Work(p, true)
	}
	for _, p := range parts {
		g.sim.Work(p, false)
	}
	g.shut = parts
}
