// Package study plays whole hunts against leaks whose place is known, by several ways of hunting,
// and tells how long each took and how often it named the right part.
package study

import (
	"math"
	"math/rand/v2"
	"slices"

	"idlehiss/core/circuit"
	"idlehiss/core/hunt"
)

// World is what the hunted circuits are truly like.
type World struct {
	Name     string
	OddsOff  float64 // by which factor each part's odds may be wrong, either way
	Stain    float64 // false alarms of eyes
	Froth    float64 // and of what bubbles or hisses
	Seen     float64 // of the chance that the library gives a method
	WrongAct float64 // how often an act is done at the wrong place
	Leaky    float64 // share of a leak that a clamp or valve lets through all the same
	HoldSE   float64 // standard error of a held flow, as a share
	Two      float64 // how often there are two leaks
}

// Worlds are the library's own, one whose odds are wrong by three, and a stranger's.
var Worlds = []World{
	{"as the files say", 1, 0.1, 0.01, 1, 0.05, 0.05, 0.08, 0.1},
	{"odds wrong by three", 3, 0.1, 0.01, 1, 0.05, 0.05, 0.08, 0.1},
	{"a stranger's", 3, 0.15, 0.03, 0.85, 0.1, 0.15, 0.15, 0.2},
}

// Sizes that leaks are drawn from, m³/s standard: four decades.
const (
	drawnLeast = 1e-9
	drawnMost  = 1e-5
)

// leak is a true one.
type leak struct {
	part   int
	flow   float64
	liquid bool
}

// Known is what is known of every circuit.
type Known struct {
	Methods []hunt.Method
	Repairs []circuit.Repair
}

// Case is a circuit with its leaks, and the chance that answers for it: the same for every policy.
type Case struct {
	Scene hunt.Scene
	Seed  uint64
	world World
	leaks []leak
	luck  *rand.Rand
}

// Draw makes a case. Its leaks lie where the first hold tries them.
func Draw(c *circuit.Circuit, known Known, w World, seed uint64) *Case {
	luck := rand.New(rand.NewPCG(seed, 0))
	step, _ := c.Test("")
	x := &Case{Seed: seed, world: w, luck: luck, Scene: hunt.Scene{Circuit: c, Step: step, AtPa: 100e3, AmbientPa: 101325, Methods: known.Methods, Repairs: known.Repairs, Suspects: hunt.Suspects(c, nil, nil, "")}}
	if len(step.Targets) > 0 && step.Targets[0].At != 0 {
		x.Scene.AtPa = float64(step.Targets[0].At)
	}
	tried := x.Scene.Tried(step).Factor
	odds := make([]float64, len(x.Scene.Suspects))
	for i, s := range x.Scene.Suspects {
		if tried[i] > 0 && x.findable(i) {
			odds[i] = s.Share * math.Pow(w.OddsOff, 2*luck.Float64()-1)
		}
	}
	liquid := x.Scene.Liquid()
	for range 1 + map[bool]int{true: 1}[luck.Float64() < w.Two] {
		i := pick(luck, odds)
		odds[i] = 0
		x.leaks = append(x.leaks, leak{i, drawnLeast * math.Pow(drawnMost/drawnLeast, luck.Float64()), luck.Float64() < liquid[i]})
	}
	return x
}

// findable tells a part that some method may be used at: no other can be found by any policy.
func (x *Case) findable(part int) bool {
	return slices.ContainsFunc(x.Scene.Methods, func(m hunt.Method) bool {
		return x.Scene.Offers(part, m) && math.Max(x.Scene.Chance(m, drawnMost, false)*(1-x.Scene.Liquid()[part]), x.Scene.Chance(m, drawnMost, true)*x.Scene.Liquid()[part]) > 0.2
	})
}

func pick(luck *rand.Rand, odds []float64) int {
	sum := 0.0
	for _, p := range odds {
		sum += p
	}
	at := luck.Float64() * sum
	for i, p := range odds {
		if at -= p; at < 0 {
			return i
		}
	}
	return len(odds) - 1
}

// Leaks tells whether a part leaks still.
func (x *Case) Leaks(part int) bool {
	return slices.ContainsFunc(x.leaks, func(l leak) bool { return l.part == part })
}

// held is what a hold of a step says.
func (x *Case) held(step circuit.Step) hunt.Held {
	out := x.Scene.Tried(step)
	true := 0.0
	for _, l := range x.leaks {
		true += out.Factor[l.part] * l.flow
	}
	se := math.Hypot(x.world.HoldSE*true, 2e-10)
	out.Flow, out.SE = math.Max(0, true+se*x.luck.NormFloat64()), se
	out.Leaking = out.Flow > 3*se
	return out
}

// sees is what a look shows: the leak itself, what ran down to the place, or nothing real.
func (x *Case) sees(part int, m hunt.Method) bool {
	false := x.world.Stain
	if m.LeastGas > 0 {
		false = x.world.Froth
	}
	miss := 1 - false
	for _, l := range x.leaks {
		flow := l.flow
		if l.liquid {
			flow = x.Scene.AsLiquid(flow)
		}
		chance := x.world.Seen * m.Chance(flow, l.liquid)
		switch {
		case l.part == part:
			miss *= 1 - chance
		case l.liquid && slices.Contains(x.Scene.Suspects[part].Below, x.Scene.Suspects[l.part].ID):
			miss *= 1 - chance/2
		}
	}
	return x.luck.Float64() > miss
}

// cut is what the gauge says of an act that cuts parts off.
func (x *Case) cut(cut []bool, air float64) hunt.Slowed {
	before, after := 0.0, 0.0
	wrong := x.luck.Float64() < x.world.WrongAct
	for _, l := range x.leaks {
		before += l.flow
		if !cut[l.part] || wrong {
			after += l.flow
		} else {
			after += l.flow * x.world.Leaky * x.luck.Float64()
		}
	}
	const se = 0.12
	return hunt.Slowed{Cut: cut, Share: math.Max(0, after/before/(1-air)+se*x.luck.NormFloat64()), SE: se, Air: air}
}

// answer is which of an act's answers is given: that which points to a leak, as a rule.
func (x *Case) answer(answers []hunt.Acted) int {
	var right []int
	for k, a := range answers {
		if slices.ContainsFunc(x.leaks, func(l leak) bool { return a.Points[l.part] }) {
			right = append(right, k)
		}
	}
	if len(right) == 0 || x.luck.Float64() < 2*x.world.WrongAct {
		return x.luck.IntN(len(answers))
	}
	return right[0]
}

// mend takes a leak away, nine times in ten, where the part leaks.
func (x *Case) mend(part int) {
	if x.luck.Float64() < 0.9 {
		x.leaks = slices.DeleteFunc(x.leaks, func(l leak) bool { return l.part == part })
	}
}
