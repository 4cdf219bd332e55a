package hunt

import (
	"math"
	"slices"

	"idlehiss/core/circuit"
	"idlehiss/core/physics"
)

// Shop practice.
const (
	usualWatchS = 120.0 // of the gauge before and after an act
	toName      = 0.95  // 19 to 1
	blind       = 0.02  // chance of a look below which its method is not offered
	nearlyBlind = 0.001 // the same where nothing else is left
	loudShop    = 10.0  // how many times larger a leak must be to be heard there
	waitLost    = 0.25  // share of a wait in which nothing else is done
	waitMostS   = 300.0 // the longest wait of which so much is lost: then it is left with a reminder
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
	Loud      bool
	Tools     map[string]bool  // methods that not every shop has, and this one does
	Spent     map[string]bool  // looks, as part/method, that were done so often that another tells nothing
	WatchS    float64          // for which the gauge is watched after an act; 0: as usual
	Repairs   []circuit.Repair // of circuits that have no ladder of their own
}

// CheckKind is a kind of check.
type CheckKind string

// The kinds.
const (
	ALook      CheckKind = "look"      // at one part, by a method
	AnAct      CheckKind = "act"       // something is done to a part, and the gauge is watched
	AnIsolate  CheckKind = "isolate"   // another step of the circuit is held
	ACondition CheckKind = "condition" // held again hot, or while something is moved
	AMend      CheckKind = "mend"      // the cheap mend is tried, and the gauge is watched
	AConfirm   CheckKind = "confirm"   // a look at the part that is named and not seen yet
)

// CheckKinds are all of them.
var CheckKinds = []CheckKind{ALook, AnAct, AnIsolate, ACondition, AMend, AConfirm}

// Check is something to do next, and what it promises.
type Check struct {
	Kind    CheckKind
	Part    int // looked at; -1: none
	Method  Method
	Act     *circuit.Act
	Step    *circuit.Step // that is held
	Change  circuit.Change
	Cover   *circuit.Cover // that comes off for it
	Tries   []int          // suspects whose leak it would show
	Answers []Acted        // of what speaks for many suspects: what may be noticed
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
	Missing  bool     // this shop does not have it
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

// AsLiquid is the flow of liquid that lets the trapped gas expand as if so much gas (standard)
// were lost.
func (s Scene) AsLiquid(flow float64) float64 {
	if s.Circuit.Medium() == circuit.WithOil {
		return flow // a flow of oil is counted as such
	}
	return flow * physics.StandardPa / (s.AmbientPa + s.AtPa)
}

// Chance is that of a method showing a leak of so much (m³/s, standard), of liquid or of gas.
func (s Scene) Chance(m Method, flow float64, wet bool) float64 {
	if wet {
		return m.Chance(s.AsLiquid(flow), true)
	}
	if s.Loud && m.ByEar {
		flow /= loudShop
	}
	return m.Chance(flow, false)
}

// Chances are those of every cell.
func (s Scene) Chances(m Method) (out [Cells]float64) {
	for k, flow := range Grid {
		out[k], out[GridSizes+k] = s.Chance(m, flow, false), s.Chance(m, flow, true)
	}
	return out
}

// Offers reports whether a method is offered at a suspect, whatever the size of its leak.
func (s Scene) Offers(part int, m Method) bool {
	return m.Counts == 0 && (m.Shop == "" || m.Shop == Noisy == s.Loud) && (!m.Tool || s.Tools[m.ID]) && !m.Suits(math.Abs(s.AtPa), s.places(s.Suspects[part])...).Matters
}

// places are those of a suspect.
func (s Scene) places(p Suspect) []Place { return There(s.Circuit, s.Step, p.Part) }

// Checks are all the looks that could show something, with what a walk needs of them, the
// covers' prices (minutes), and the methods that are not offered.
func (s Scene) Checks(b Belief) (checks []Check, looks []Lookable, covers []float64, struck []Struck) {
	if checks, looks, covers, struck = s.checks(b, blind); len(checks) == 0 {
		checks, looks, covers, _ = s.checks(b, nearlyBlind) // better than none
	}
	return checks, looks, covers, struck
}

func (s Scene) checks(b Belief, least float64) (checks []Check, looks []Lookable, covers []float64, struck []Struck) {
	var ids []string
	places := make([][]Place, len(s.Suspects))
	hazards := s.Circuit.There()
	for i, p := range s.Suspects {
		places[i] = there(s.Circuit, hazards, s.Step, p.Part)
	}
	for _, m := range s.Methods {
		if m.Counts > 0 {
			continue // it counts at the end of a hose, which is an act
		}
		if m.Shop == Quiet && s.Loud || m.Shop == Noisy && !s.Loud {
			continue // the other kind of shop has its own
		}
		if m.Tool && !s.Tools[m.ID] {
			struck = append(struck, Struck{Method: m, Missing: true})
			continue
		}
		offered, why, sees := false, Struck{Method: m}, 0.0
		chances := s.Chances(m)
		for i, p := range s.Suspects {
			if b.Odds[i] <= 0 {
				continue
			}
			if u := m.Suits(math.Abs(s.AtPa), places[i]...); u.Matters {
				why.Unsuited = u
				continue
			}
			if offered = true; s.Spent[p.ID+"/"+m.ID] {
				continue
			}
			c := Check{Kind: ALook, Part: i, Method: m, Tries: []int{i}, HandsS: float64(p.Reach) + float64(m.Takes), WaitS: float64(m.Waits)}
			l := Lookable{Part: i, Cover: -1, Chance: chances}
			for k := range chances {
				c.Chance += b.Sizes[i][k] * l.Chance[k]
			}
			c.IfThere = c.Chance / b.Odds[i]
			sees = math.Max(sees, c.IfThere)
			if c.IfThere < least {
				continue
			}
			lost := waitLost * math.Min(c.WaitS, waitMostS)
			l.Minutes, l.Wait = (c.HandsS+lost)/60, (c.WaitS-lost)/60
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

// Next chooses. One step ahead over acts, isolating holds, conditions and covers, with a walk by
// chance a minute as what follows (rollout; docs/PHYSICS.md, Where to look). done are the ids of
// acts, steps and conditions that were done.
func (s Scene) Next(b Belief, done map[string]bool, keep int) Plan {
	checks, looks, covers, struck := s.Checks(b)
	of := byPart(looks, len(b.Sizes))
	order, least := Route(b.Sizes, looks, covers, 4*keep)
	out := Plan{Struck: struck}
	var best *Check
	for _, x := range s.splits(b, done) {
		if m := s.after(b, x, looks, of, covers); m < least*(1-noGain) {
			best, least = &x, m
		}
	}
	out.Minutes = least
	if best != nil {
		if !s.lookFirst(b, *best, least, order, looks, of, covers) {
			out.Checks = append(out.Checks, *best)
		}
	}
	for n, k := range order {
		if len(out.Checks) < keep && !slices.Contains(order[:n], k) {
			out.Checks = append(out.Checks, checks[k])
		}
	}
	return out
}

// lookFirst reports whether a quick look pays before a check that speaks for many: a few seconds
// of listening may spare it.
func (s Scene) lookFirst(b Belief, x Check, least float64, order []int, looks []Lookable, of [][]int, covers []float64) bool {
	if len(order) == 0 {
		return false
	}
	l := looks[order[0]]
	costs := l.Minutes
	if l.Cover >= 0 {
		costs += covers[l.Cover]
	}
	missed := Belief{Odds: slices.Clone(b.Odds), Sizes: slices.Clone(b.Sizes)}
	all, saw := 0.0, 0.0
	for i, p := range b.Odds {
		all += p
		if i != l.Part {
			continue
		}
		for k, v := range b.Sizes[i] {
			saw += v * l.Chance[k]
			missed.Sizes[i][k] = v * (1 - l.Chance[k])
		}
		missed.Odds[i] = p - saw
	}
	if all <= 0 {
		return false
	}
	then := s.after(missed, x, looks, of, covers)
	return costs+saw/all*l.Wait+(1-saw/all)*then < least
}

// Confirm is the cheapest look that would show a part if it leaks, among looks that were
// weighed; ok: there is one.
func Confirm(checks []Check, part int) (out Check, ok bool) {
	for _, c := range checks {
		price := func(c Check) float64 {
			m := c.Minutes()
			if c.Cover != nil {
				m += float64(c.Cover.Off) / 60
			}
			return m
		}
		if c.Part == part && c.IfThere >= confirms && (!ok || price(c) < price(out)) {
			out, ok = c, true
		}
	}
	out.Kind = AConfirm
	return out, ok
}

// Enough reports whether a part that was seen and stands so is mended without another look, which would take
// so many minutes: at 19 to 1, or where the look costs more than the doubt is worth. wrong is what a part
// renewed for nothing costs, minutes.
func Enough(odds, lookMinutes, wrong float64) bool {
	return odds >= toName || odds >= leastSeen && lookMinutes > (1-odds)*wrong
}

const (
	leastSeen     = 0.75  // of the odds, for a part that was seen
	wrongCostsMin = 240.0 // minutes of a part renewed for nothing, where the file does not say. Shop practice
)

// confirms is the chance of a look from which it is offered to confirm a part.
const confirms = 0.5

// Named is the part that is named by the odds alone.
func (b Belief) Named() (part int, ok bool) {
	for i, p := range b.Odds {
		if p >= toName {
			return i, true
		}
	}
	return 0, false
}
