package passages

import (
	"cmp"
	"slices"

	"idlehiss/core/circuit"
)

// Path is a way by which air may come from what is under pressure to a place.
type Path struct {
	Through []string // chambers, the first under pressure, the last at the place
	Leaks   []string // parts that must leak for it, in order
	Share   float64  // how likely it is among all the ways, of 1
}

// mostLeaks is how many parts in a row may leak on a way.
const mostLeaks = 3

// Trace finds the ways by which air may come to a place in a test, likeliest first: a chamber, a port, or a part that
// lets it out itself. A part that must leak counts by its odds; each further one is one in ten. Behind
// a chamber that has an opening no further part is tried: air would be noticed at the opening.
func Trace(c *circuit.Circuit, t Test, place string, odds map[string]float64) []Path {
	goal, last := place, -1 // the chamber where it ends, and the part that lets it out there
	for _, p := range c.Ports {
		if p.ID == place || "port-"+p.ID == place {
			goal = p.Chamber
		}
	}
	for i, p := range c.Parts {
		if p.ID != place {
			continue
		}
		goal = p.Between[0]
		if goal == circuit.Outside {
			goal = p.Between[1]
		}
		if !p.Opening || slices.Contains(t.setup.plugs, p.ID) {
			last = i // a plug may leak too
		}
	}
	sum := 0.0
	for _, p := range c.Parts {
		sum += odds[p.ID]
	}
	in := map[string]bool{}
	for _, id := range t.Pressed.Chambers {
		in[id] = true
	}
	var out []Path
	end := func(through, leaks []string, share float64) {
		if last >= 0 {
			leaks = append(slices.Clone(leaks), place)
			share *= max(odds[place], 1) / sum
		}
		if len(leaks) == 0 {
			return
		}
		if i := slices.IndexFunc(out, func(x Path) bool { return slices.Equal(x.Leaks, leaks) }); i >= 0 {
			return // come to by another open way already
		}
		for range len(leaks) - 1 {
			share *= twoBefore
		}
		out = append(out, Path{slices.Clone(through), slices.Clone(leaks), share})
	}
	var walk func(at string, through, leaks []string, share float64)
	walk = func(at string, through, leaks []string, share float64) {
		if at == goal {
			end(through, leaks, share)
			return
		}
		open := slices.ContainsFunc(through, func(id string) bool {
			ch, _ := c.Chamber(id)
			return !in[id] && lets(c, ch, t.Step)
		})
		for i, p := range c.Parts {
			to := p.Between[0]
			if to == at {
				to = p.Between[1]
			}
			if p.Between[0] != at && p.Between[1] != at || to == circuit.Outside || in[to] || slices.Contains(through, to) || p.Removed || i == last {
				continue
			}
			next := append(slices.Clone(through), to)
			switch {
			case p.Meant > 0, p.Passes(t.Step) && (!p.OneWay || at == p.Between[0] || p.Forced(t.Step)):
				walk(to, next, leaks, share)
			case odds[p.ID] > 0 && len(leaks) < mostLeaks && !open:
				walk(to, next, append(slices.Clone(leaks), p.ID), share*odds[p.ID]/sum)
			}
		}
	}
	for _, id := range t.Pressed.Chambers {
		walk(id, []string{id}, nil, 1)
	}
	slices.SortStableFunc(out, func(a, b Path) int { return cmp.Compare(b.Share, a.Share) })
	all := 0.0
	for _, x := range out {
		all += x.Share
	}
	for i := range out {
		out[i].Share /= all
	}
	return out
}
