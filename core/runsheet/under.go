package runsheet

import (
	"idlehiss/core/circuit"
	"idlehiss/core/terms"
)

// HeldUnder is a condition that is offered before a hold, with its words.
type HeldUnder struct {
	Title     string          `json:"title"`
	Condition terms.Condition `json:"condition"`
}

// Conditions are those under which a step may be held: its own two, where it has two;
// else what matters in its circuit.
func Conditions(c *circuit.Circuit, s circuit.Step) []HeldUnder {
	var out []HeldUnder
	for _, x := range s.Conditions {
		out = append(out, HeldUnder{x.Title, terms.Condition{Under: x.ID}})
	}
	if len(out) > 0 {
		return out
	}
	out = []HeldUnder{{"cold", terms.Condition{Warmth: terms.Cold}}, {"warm", terms.Condition{Warmth: terms.Warm}}}
	if c.Liquid == circuit.Coolant {
		out = append(out, HeldUnder{"hot", terms.Condition{Warmth: terms.Hot}}, HeldUnder{"engine running", terms.Condition{Engine: true}})
	}
	return append(out, HeldUnder{"something moved", terms.Condition{Note: "something moved"}})
}
