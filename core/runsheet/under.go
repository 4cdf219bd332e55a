package runsheet

import (
	"fmt"
	"strings"

	"idlehiss/core/circuit"
	"idlehiss/core/terms"
)

// HeldUnder is a condition that is offered before a hold, with its words.
type HeldUnder struct {
	Title     string          `json:"title"`
	Condition terms.Condition `json:"condition"`
	Says      string          `json:"says"` // what must be known before the first stroke; empty: nothing
}

// Conditions are those under which a step may be held: its own two, where it has two;
// else what matters in its circuit.
func Conditions(c *circuit.Circuit, s circuit.Step) []HeldUnder {
	var out []HeldUnder
	for _, x := range s.Conditions {
		out = append(out, HeldUnder{Title: x.Title, Condition: terms.Condition{Under: x.ID}})
	}
	if len(out) > 0 {
		return out
	}
	loop := c.Liquid == circuit.Coolant
	heats := ""
	if loop {
		heats = heatSays
	}
	out = []HeldUnder{{"cold", terms.Condition{Warmth: terms.Cold}, ""}, {"warm", terms.Condition{Warmth: terms.Warm}, heats}}
	if loop {
		out = append(out, HeldUnder{"hot", terms.Condition{Warmth: terms.Hot}, heats}, HeldUnder{"engine running", terms.Condition{Engine: true}, heats})
	}
	return append(out, HeldUnder{"something moved", terms.Condition{Note: "something moved"}, ""})
}

// heatSays is what a loop that warms or cools can do and can tell.
const heatSays = "Heat raises the pressure by itself, and nothing relieves the loop while its cap is off: leave room for the coolant to expand, stay with it, and stop at the limit. While it cools, no fall is judged unless its temperature is read beside the pressure. What a warm hold shows is where it is wet, and whether it rises."

// UnderSays is the condition of a hold of a step in words; empty where none was said.
func UnderSays(s circuit.Step, c terms.Condition) string {
	var out []string
	if x, ok := s.Condition(c.Under); ok {
		out = append(out, x.Title)
	} else if c.Under != "" {
		out = append(out, c.Under)
	}
	if c.Warmth != terms.NotSaid {
		out = append(out, string(c.Warmth))
	}
	if c.Engine {
		out = append(out, "engine running")
	}
	if c.Note != "" {
		out = append(out, c.Note)
	}
	return strings.Join(out, ", ")
}

// CheckCondition refuses a condition under which a step is not held. A step that compares two is held
// under one of them.
func CheckCondition(s circuit.Step, c terms.Condition) error {
	_, known := s.Condition(c.Under)
	switch {
	case c.Under != "" && !known:
		return fmt.Errorf("%s is not held under %q", s.Title, c.Under)
	case c.Under == "" && len(s.Conditions) > 0:
		var which []string
		for _, x := range s.Conditions {
			which = append(which, x.Title)
		}
		return fmt.Errorf("say first how it is held: %s", strings.Join(which, ", or "))
	}
	return nil
}
