package passages

import (
	"slices"
	"strings"

	"idlehiss/core/circuit"
)

// Does is what one change of a set-up is.
type Does string

// The changes, in the order in which they are made: pressure is off, so plugs come out before the rig moves, and go
// in before it blows.
const (
	LetGo  Does = "let go"  // a valve worked by hand, back as it was
	Unplug Does = "unplug"  // an opening
	Move   Does = "move"    // a lever, to a state
	Work   Does = "work"    // a valve held, open or shut
	Plug   Does = "plug"    // an opening
	Feed   Does = "feed"    // the rig into a bore
	Unfeed Does = "no feed" // the rig off
)

// Change is one thing to do between two tests.
type Change struct {
	Does Does   `json:"does"`
	At   string `json:"at"` // id of a port, an opening, a position or a part
	To   string `json:"to"` // of a lever: its state; of a valve: open or shut
}

// Changes are what to do before each test of a plan, and after the last to leave everything as it was found.
func (p Plan) Changes(c *circuit.Circuit) [][]Change {
	now := found(c)
	var out [][]Change
	for _, t := range p.Tests {
		out = append(out, now.changes(c, t.setup))
		now = t.setup
	}
	return append(out, now.changes(c, found(c)))
}

// changes lists what must be done from one set-up to another.
func (s setup) changes(c *circuit.Circuit, to setup) []Change {
	var out []Change
	worked := func(does Does, all []string) {
		for _, w := range all {
			i := strings.LastIndexByte(w, ' ')
			out = append(out, Change{does, w[:i], w[i+1:]})
		}
	}
	plugs := func(does Does, all []string) {
		for _, id := range all {
			out = append(out, Change{Does: does, At: id})
		}
	}
	if s.feed != "" && s.feed != to.feed {
		out = append(out, Change{Does: Unfeed, At: s.feed})
	}
	worked(LetGo, without(s.worked, to.worked))
	plugs(Unplug, without(s.plugs, to.plugs))
	for i, p := range c.Positions {
		if s.levers[i] != to.levers[i] {
			out = append(out, Change{Move, p.ID, to.levers[i]})
		}
	}
	worked(Work, without(to.worked, s.worked))
	plugs(Plug, without(to.plugs, s.plugs))
	if to.feed != "" && s.feed != to.feed {
		out = append(out, Change{Does: Feed, At: to.feed})
	}
	return out
}

// without are those of a list that another has not.
func without(a, b []string) []string {
	return slices.DeleteFunc(slices.Clone(a), func(x string) bool { return slices.Contains(b, x) })
}

// After is what a test takes when it follows another, or is the first (nil): minutes, its own included, and what is
// changed for it.
func (t Test) After(c *circuit.Circuit, before *Test) (minutes float64, changes []Change) {
	now := found(c)
	if before != nil {
		now = before.setup
	}
	return now.minutes(t.setup) + t.Minutes(), now.changes(c, t.setup)
}

// Back is the same for leaving everything as it was found.
func (t Test) Back(c *circuit.Circuit) (minutes float64, changes []Change) {
	return t.setup.minutes(found(c)), t.setup.changes(c, found(c))
}
