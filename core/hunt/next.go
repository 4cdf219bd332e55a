package hunt

import (
	"math"
	"slices"

	"idlehiss/core/circuit"
	"idlehiss/core/physics"
)

// Shop practice, until the gauge says how long an act is watched.
const (
	watchS    = 120.0 // of the gauge before and after an act
	toName    = 0.95  // 19 to 1
	blind     = 0.02  // chance of a look below which its method is struck out
	loudShop  = 10.0  // how many times larger a leak must be to be heard there
	waitMostS = 300.0 // of a wait that counts: other work goes on meanwhile
)

// Scene is where a leak is hunted: a circuit as fitted, in a step, under a pressure.
type Scene struct {
	Circuit   *circuit.Circuit
	Step      circuit.Step
	AtPa      float64 // gauge
	AmbientPa float64
	Suspects  []Suspect
	Methods   []Method
	Off       map[string]bool // covers that are off, by id
	Dripped   *bool           // what was seen; nil: not known
	Loud      bool
}

// Check is something to do next, and what it promises.
type Check struct {
	Part    int // looked at; -1: none
	Method  Method
	Act     *circuit.Act
	Cover   *circuit.Cover // that comes off for it
	Tries   []int          // suspects whose leak it would show
	HandsS  float64
	WaitS   float64
	IfThere float64 // chance of it showing the leak, if that is there
	Chance  float64 // of it showing a leak
}

// Minutes is the whole of it.
func (c Check) Minutes() float64 { return (c.HandsS + c.WaitS) / 60 }

// Struck is a method that is not offered at all, and why.
type Struck struct {
	Method   Method
	Unsuited Unsuited // of the first suspect, where that is why
	Needs    float64  // m³/s that it would see half of the time, where the leak is too small; else 0
	Liquid   bool     // of liquid
}

// liquidAt is the chance that what leaves a suspect is liquid.
func (s Scene) liquidAt(p Suspect) float64 {
	wet := s.Circuit.Medium() == circuit.WithOil
	switch {
	case wet:
		return 1
	case p.OfRig || p.Line == "" || s.Circuit.Liquid == "":
		return 0
	case p.Line == circuit.AboveLine:
		return 0.05
	case p.Line == circuit.BelowLine:
		return 0.95
	}
	return 0.5
}

// Liquid is that of every suspect.
func (s Scene) Liquid() []float64 {
	out := make([]float64, len(s.Suspects))
	for i, p := range s.Suspects {
		out[i] = s.liquidAt(p)
	}
	return out
}

// asLiquid is the flow of liquid that lets the trapped gas expand as if so much gas (standard)
// were lost.
func (s Scene) asLiquid(flow float64) float64 {
	if s.Circuit.Medium() == circuit.WithOil {
		return flow // a flow of oil is counted as such
	}
	return flow * physics.StandardPa / (s.AmbientPa + s.AtPa)
}

// Chance is that of a method showing a leak of a suspect of so much (m³/s, standard).
func (s Scene) Chance(p Suspect, m Method, flow float64) float64 {
	if s.Loud && m.ByEar {
		flow /= loudShop
	}
	wet := s.liquidAt(p)
	return wet*m.Chance(s.asLiquid(flow), true) + (1-wet)*m.Chance(flow, false)
}

// places are those of a suspect.
func (s Scene) places(p Suspect) []Place { return There(s.Circuit, s.Step, p.Part) }

// Checks are all the looks that could show something, with what a walk needs of them, the
// covers' prices (minutes), and the methods that are struck out.
func (s Scene) Checks(b Belief) (checks []Check, looks []Lookable, covers []float64, struck []Struck) {
	var ids []string
	for _, m := range s.Methods {
		if m.Counts > 0 {
			continue // it counts at the end of a hose, which is an act
		}
		offered, why, sees := false, Struck{Method: m}, 0.0
		for i, p := range s.Suspects {
			if b.Odds[i] <= 0 {
				continue
			}
			if u := m.Suits(math.Abs(s.AtPa), s.places(p)...); u.Matters {
				why.Unsuited = u
				continue
			}
			offered = true
			c := Check{Part: i, Method: m, Tries: []int{i}, HandsS: float64(p.Reach) + float64(m.Takes), WaitS: float64(m.Waits)}
			l := Lookable{Part: i, Cover: -1}
			for k, f := range Grid {
				l.Chance[k] = s.Chance(p, m, f)
				c.Chance += b.Sizes[i][k] * l.Chance[k]
			}
			c.IfThere = c.Chance / b.Odds[i]
			sees = math.Max(sees, c.IfThere)
			if c.IfThere < blind {
				continue
			}
			l.Minutes = (c.HandsS + math.Min(c.WaitS, waitMostS)) / 60
			if cover, ok := s.Circuit.CoverOf(p.Part); ok && !s.Off[cover.ID] {
				c.Cover = &cover
				l.Cover = slices.Index(ids, cover.ID)
				if l.Cover < 0 {
					l.Cover = len(ids)
					ids, covers = append(ids, cover.ID), append(covers, float64(cover.Off)/60)
				}
			}
			checks, looks = append(checks, c), append(looks, l)
		}
		if sees < blind {
			if offered {
				why.Unsuited = Unsuited{}
				why.Needs = float64(m.LeastGas)
				if why.Needs == 0 {
					why.Needs, why.Liquid = float64(m.LeastLiquid), true
				}
			}
			struck = append(struck, why)
		}
	}
	return checks, looks, covers, struck
}

// Plan is what comes next, the best first, and the minutes until the part is seen.
type Plan struct {
	Checks  []Check
	Minutes float64 // infinite: nothing that is offered would show it
	Struck  []Struck
}

// Next chooses. One step ahead over looks and acts, with a walk by chance a minute as what
// follows (rollout; docs/PHYSICS.md, Where to look).
func (s Scene) Next(b Belief, done map[string]bool, keep int) Plan {
	checks, looks, covers, struck := s.Checks(b)
	order, minutes := Walk(b.Sizes, looks, covers, 4*keep)
	out := Plan{Minutes: minutes, Struck: struck}
	best, first := Check{}, math.Inf(1)
	for _, a := range s.Circuit.ActsOf(s.Step) {
		if done[a.ID] {
			continue
		}
		c, m := s.act(b, a, looks, covers)
		if m < first {
			best, first = c, m
		}
	}
	if first < minutes {
		out.Checks, out.Minutes = append(out.Checks, best), first
	}
	for n, k := range order {
		if len(out.Checks) < keep && !slices.Contains(order[:n], k) {
			out.Checks = append(out.Checks, checks[k])
		}
	}
	return out
}

// Split are the suspects to which an answer of an act points in a step, and those to which its
// other answers do.
func (s Scene) Split(a circuit.Act, x circuit.Answer) Acted {
	out := Acted{Points: s.among(s.Circuit.Points(a, x, s.Step)), Others: make([]bool, len(s.Suspects)), All: x.Seen == circuit.Stops}
	for _, other := range a.Answers {
		if other.Seen == x.Seen {
			continue
		}
		for i, yes := range s.among(s.Circuit.Points(a, other, s.Step)) {
			out.Others[i] = out.Others[i] || yes && !out.Points[i]
		}
	}
	return out
}

// among marks those of the suspects that are named; the rig's joints go by the rig.
func (s Scene) among(ids []string) []bool {
	out := make([]bool, len(s.Suspects))
	for i, p := range s.Suspects {
		out[i] = slices.Contains(ids, p.ID) || p.OfRig && slices.Contains(ids, circuit.OfTheRig)
	}
	return out
}

// act weighs an act: its minutes, and the walk that is left after each of its answers.
func (s Scene) act(b Belief, a circuit.Act, looks []Lookable, covers []float64) (Check, float64) {
	c := Check{Part: -1, Act: &a, HandsS: float64(a.Takes + a.Reached), WaitS: watchS}
	tries := s.Circuit.CutOff(a, s.Step)
	if len(tries) == 0 {
		tries = s.Circuit.Points(a, a.Answers[0], s.Step)
	}
	for i, yes := range s.among(tries) {
		if yes {
			c.Tries = append(c.Tries, i)
		}
	}
	total, mean := 0.0, 0.0
	answers := 0
	for _, x := range a.Answers {
		e := s.Split(a, x)
		if !slices.Contains(e.Points, true) && !slices.Contains(e.Others, true) {
			continue // it tells none of them apart
		}
		left := make([][GridSizes]float64, len(b.Sizes))
		mass := 0.0
		for i := range left {
			w := e.Weight([]Leak{{Part: i}})
			for k, v := range b.Sizes[i] {
				left[i][k] = v * w
				mass += left[i][k]
			}
		}
		if mass <= 0 {
			continue
		}
		_, m := Walk(left, looks, covers, 0)
		answers++
		total += mass
		mean += mass * m
	}
	if answers < 2 || total <= 0 {
		return c, math.Inf(1)
	}
	c.IfThere = pointed
	for _, i := range c.Tries {
		c.Chance += b.Odds[i] * pointed
	}
	c.Chance = math.Min(c.Chance, 1)
	return c, c.Minutes() + mean/total
}

// Named is the part that is named by the odds alone.
func (b Belief) Named() (part int, ok bool) {
	for i, p := range b.Odds {
		if p >= toName {
			return i, true
		}
	}
	return 0, false
}
