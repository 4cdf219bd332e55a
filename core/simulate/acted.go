package simulate

import (
	"math"
	"slices"

	"idlehiss/core/circuit"
	"idlehiss/core/physics"
)

// Acted is what the gauge would show of an act or a condition: the loss after it as a share of the loss
// before.
type Acted struct {
	ID    string // of the act, or a circuit.Change
	Share float64
}

// losses are what leaves each part now, either way, meant escapes left out; as standard flow, so that liquid
// counts by the gas that it lets expand.
func (s *Sim) losses() map[string]float64 {
	out := map[string]float64{}
	for k, p := range s.sys.Passages {
		if !s.open[k] || p.Meant {
			continue
		}
		flow := math.Abs(s.Flow(k))
		if p.Law == physics.Liquid {
			flow *= (s.sys.AmbientPa + math.Abs(p.RefPa)) / physics.StandardPa
		}
		out[p.Part] += flow
	}
	return out
}

// Acts plays every act that cuts something off in a step, at the pressure of now: on the gauge that stays, the
// same loss out of less gas falls faster.
func (s *Sim) Acts(c *circuit.Circuit, step circuit.Step) []Acted {
	out := []Acted{}
	for _, a := range c.ActsOf(step) {
		cut := c.CutOff(a, step)
		if len(cut) == 0 {
			continue
		}
		if share, ok := s.left(func(part string) float64 {
			if slices.Contains(cut, part) {
				return 0
			}
			return 1 / (1 - a.Air)
		}); ok {
			out = append(out, Acted{a.ID, share})
		}
	}
	return out
}

// Changes plays the conditions under which a leak grows or shrinks.
func (s *Sim) Changes(c *circuit.Circuit) []Acted {
	out := []Acted{}
	for _, change := range []circuit.Change{circuit.WhenHot, circuit.WhenMoved} {
		if share, ok := s.left(func(part string) float64 {
			for _, p := range c.Parts {
				if times, ok := p.Changes[change]; p.ID == part && ok {
					return times
				}
			}
			return 1
		}); ok {
			out = append(out, Acted{string(change), share})
		}
	}
	return out
}

// left is the loss with each part's multiplied, as a share of what it is; ok: there is one.
func (s *Sim) left(times func(part string) float64) (share float64, ok bool) {
	before, after := 0.0, 0.0
	for part, flow := range s.losses() {
		before += flow
		after += flow * times(part)
	}
	if before <= 0 {
		return 0, false
	}
	return after / before, true
}
