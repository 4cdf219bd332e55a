package circuit

import (
	"slices"

	"idlehiss/core/quantity"
)

// Changes lists what must be done between two steps: where air goes in, what is
// worked by hand, which openings are shut or open. What the second does not speak
// of stays as the first left it.
func (c *Circuit) Changes(from, to Step) []string {
	var out []string
	was, now := c.Pressed(from), c.Pressed(to)
	if was.Port.ID != now.Port.ID {
		out = append(out, "air in at the "+now.Port.Title)
	}
	name := func(id string) string {
		for _, p := range c.Parts {
			if p.ID == id {
				return quantity.Lower(p.Title)
			}
		}
		for _, cl := range now.Closures {
			if cl.Part.ID == id {
				return quantity.Lower(cl.Part.Title)
			}
		}
		return id
	}
	opening := func(id string) bool {
		return slices.ContainsFunc(c.Parts, func(p Part) bool { return p.ID == id && p.Opening })
	}
	for _, cl := range now.Closures {
		shut := slices.ContainsFunc(was.Closures, func(x Closure) bool { return x.Part.ID == cl.Part.ID })
		if !shut && slices.Contains(from.Open, cl.Part.ID) {
			out = append(out, name(cl.Part.ID)+" shut again: "+cl.Part.Close+cl.Part.ClosedBy)
		} else if !shut && !cl.Already {
			out = append(out, name(cl.Part.ID)+" shut: "+cl.Part.Close)
		}
	}
	for _, id := range to.Open {
		if opening(id) && !slices.Contains(from.Open, id) {
			out = append(out, name(id)+" open")
		}
	}
	stood := c.StateOf(from)
	for _, s := range c.StateOf(to) {
		if !slices.Contains(stood, s) {
			out = append(out, s)
		}
	}
	return out
}

// ChangesBefore lists what must be done for a hold since the hold before it; none
// for the first, and for what is no hold.
func (c *Circuit) ChangesBefore(s Step) []string {
	var last *Step
	for i, t := range c.Steps {
		if t.Kind != Hold {
			continue
		}
		if t.ID == s.ID {
			if last == nil {
				return nil
			}
			return c.Changes(*last, t)
		}
		last = &c.Steps[i]
	}
	return nil
}

// mostPermuted is how many holds are tried in every order: beyond it the file's
// own stands.
const mostPermuted = 8

// fewestChanges puts the holds into the order of the fewest changes of set-up, as
// far as what must come before what lets it; what is no hold keeps its place. Of
// equal orders the one nearest to the file's is taken.
func (c *Circuit) fewestChanges() []Step {
	var at []int
	for i, s := range c.Steps {
		if s.Kind == Hold {
			at = append(at, i)
		}
	}
	if len(at) < 3 || len(at) > mostPermuted {
		return c.Steps
	}
	cost := make([][]int, len(at))
	for i := range at {
		cost[i] = make([]int, len(at))
		for k := range at {
			cost[i][k] = len(c.Changes(c.Steps[at[i]], c.Steps[at[k]]))
		}
	}
	placed := func(order []int) []Step {
		out := slices.Clone(c.Steps)
		for i, k := range order {
			out[at[i]] = c.Steps[at[k]]
		}
		return out
	}
	out, least := c.Steps, -1
	var walk func(order []int, sum int)
	walk = func(order []int, sum int) {
		if least >= 0 && sum >= least {
			return
		}
		if len(order) == len(at) {
			if steps := placed(order); inOrder(steps) {
				out, least = steps, sum
			}
			return
		}
		for k := range at {
			if slices.Contains(order, k) {
				continue
			}
			step := 0
			if n := len(order); n > 0 {
				step = cost[order[n-1]][k]
			}
			walk(append(slices.Clone(order), k), sum+step)
		}
	}
	walk(nil, 0)
	// What is cautioned before the first hold is cautioned before whichever is first.
	if first, told := &out[at[0]], c.Steps[at[0]]; first.ID != told.ID {
		for i := range out { // out is a copy: another order than the file's
			if out[i].ID == told.ID {
				out[i].Cautions = nil
			}
		}
		first.Cautions = append(slices.Clone(told.Cautions), first.Cautions...)
	}
	return out
}

// inOrder reports whether each step comes after those that it must come after.
func inOrder(steps []Step) bool {
	for i, s := range steps {
		for _, before := range s.After {
			if slices.ContainsFunc(steps[i+1:], func(x Step) bool { return x.ID == before }) {
				return false
			}
		}
	}
	return true
}
