package hunt

import "idlehiss/core/circuit"

// What was seen before any tool, and somebody's own guess, weigh so much against the
// odds that a circuit's file gives. Shop practice.
const (
	signTells  = 4.0
	hunchTells = 3.0
)

// Priors are how likely each part is the culprit before anything was looked at, as
// shares of one: its odds, times what every sign seen tells for it (signs by id), more for a
// hunch (a part's id, or none).
func Priors(parts []circuit.Part, seen map[string]float64, hunch string) []float64 {
	out := make([]float64, len(parts))
	sum := 0.0
	for i, p := range parts {
		out[i] = p.Odds
		for _, s := range p.Signs {
			if tells, ok := seen[s]; ok {
				out[i] *= tells
			}
		}
		if p.ID == hunch {
			out[i] *= hunchTells
		}
		sum += out[i]
	}
	for i := range out {
		if sum > 0 {
			out[i] /= sum
		}
	}
	return out
}

// Tells is how many times likelier each sign that was seen makes the parts it points to.
func Tells(c *circuit.Circuit, seen map[string]bool) map[string]float64 {
	out := map[string]float64{}
	for id, yes := range seen {
		if yes {
			out[id] = signTells
		}
	}
	for _, s := range c.Signs {
		if out[s.ID] > 0 && s.Tells > 0 {
			out[s.ID] = s.Tells
		}
	}
	return out
}

// SignsOf are the signs of what some step of a circuit tries, then of what none does, such as a
// cap that is off.
func SignsOf(c *circuit.Circuit) []string {
	parts := Bounding(c)
	for _, p := range c.Parts {
		if p.Removed {
			parts = append(parts, p)
		}
	}
	return Signs(parts)
}

// Signs are those of some parts, each once, in their order.
func Signs(parts []circuit.Part) []string {
	var out []string
	had := map[string]bool{}
	for _, p := range parts {
		for _, s := range p.Signs {
			if !had[s] {
				had[s] = true
				out = append(out, s)
			}
		}
	}
	return out
}
