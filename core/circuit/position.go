package circuit

import (
	"slices"

	"idlehiss/core/quantity"
)

// Position is something that stands in one of several states: a lever, a spool, a piston, a
// selector, a throttle. The state decides which parts a step tries.
type Position struct {
	ID     string          `yaml:"id" json:"id"`
	Title  string          `yaml:"title" json:"title"`
	States []PositionState `yaml:"states" json:"states"`

	With    []string `yaml:"with" json:"with,omitempty"`       // options that must be fitted
	Without []string `yaml:"without" json:"without,omitempty"` // and those that must not
}

// PositionState is one way to stand. Steps name it in at, parts in at and open_at.
type PositionState struct {
	ID    string `yaml:"id" json:"id"`
	Title string `yaml:"title" json:"title"`

	With    []string `yaml:"with" json:"with,omitempty"`       // options that must be fitted
	Without []string `yaml:"without" json:"without,omitempty"` // and those that must not
}

// Line is where a part stands beside the liquid line of its chamber: what leaves it is gas,
// liquid, or either.
type Line string

// The three places.
const (
	AboveLine Line = "above"
	BelowLine Line = "below"
	AtLine    Line = "at"
)

// Change is something that makes a leak larger or smaller.
type Change string

// What changes a leak. Above 1 it grows, below 1 it shrinks, 0 it is shut.
const (
	WhenHot      Change = "hot"
	WhenCold     Change = "cold"
	WhenMoved    Change = "moved"
	WhenVacuum   Change = "vacuum"   // against the same pressure above ambient
	WhenPressure Change = "pressure" // against the same vacuum
	WhenEngine   Change = "engine"   // while the engine runs
	WhenSettled  Change = "settled"  // after some minutes under pressure
)

// Changes are all of them.
var Changes = []Change{WhenHot, WhenCold, WhenMoved, WhenVacuum, WhenPressure, WhenEngine, WhenSettled}

// Cover is what must come off before a part is seen, and its price.
type Cover struct {
	ID    string     `yaml:"id" json:"id"`
	Title string     `yaml:"title" json:"title"`
	Off   quantity.S `yaml:"off" json:"off"` // to take it off and put it back
}

// CoverOf is the cover that hides a part. A circuit from before covers had ids names it
// itself.
func (c *Circuit) CoverOf(p Part) (Cover, bool) {
	if p.Behind == "" {
		return Cover{}, false
	}
	for _, x := range c.Covers {
		if x.ID == p.Behind {
			return x, true
		}
	}
	return Cover{ID: p.Behind, Title: p.Behind}, true
}

// positionOf is the position that a state belongs to.
func (c *Circuit) positionOf(state string) (Position, PositionState, bool) {
	for _, p := range c.Positions {
		for _, s := range p.States {
			if s.ID == state {
				return p, s, true
			}
		}
	}
	return Position{}, PositionState{}, false
}

// StateOf is how everything stands in a step, in words: its positions, then what it says
// beside them.
func (c *Circuit) StateOf(s Step) []string {
	out := []string{}
	for _, id := range s.At {
		if p, state, ok := c.positionOf(id); ok {
			out = append(out, p.Title+": "+state.Title)
		}
	}
	return append(out, s.State...)
}

// stands reports whether a step stands in one of these states: of each position that they
// belong to, as far as the step says how it stands.
func (c *Circuit) stands(s Step, states []string) bool {
	for _, p := range c.Positions {
		named, met, said := false, false, false
		for _, x := range p.States {
			in := slices.Contains(s.At, x.ID)
			said = said || in
			if slices.Contains(states, x.ID) {
				named = true
				met = met || in
			}
		}
		if named && said && !met {
			return false
		}
	}
	return true
}
