package passages

import (
	"fmt"
	"hash/fnv"
	"maps"
	"slices"
	"strings"

	"idlehiss/core/circuit"
)

// Siblings are the tests of sections that are built alike: of a test by its number, those that are the same on another
// section. Two sections are alike where the circuit's graph maps onto itself with one in the place of the other:
// chamber for chamber, every part with another of its kind, odds and direction. An escape that is meant may be on one
// of them only.
func Siblings(c *circuit.Circuit, tests []Test) map[int][]int {
	out := map[int][]int{}
	for _, m := range mirrors(c) {
		for i, t := range tests {
			setup, ok := m.setup(c, t.setup)
			if !ok || t.setup.minutes(setup) == 0 && t.setup.feed == setup.feed {
				continue
			}
			k := slices.IndexFunc(tests, func(u Test) bool {
				return u.setup.feed == setup.feed && u.setup.minutes(setup) == 0
			})
			if k >= 0 && !slices.Contains(out[i], k) {
				out[i] = append(out[i], k)
			}
		}
	}
	return out
}

// mirror maps a circuit onto itself: ids of chambers, parts and ports, and states of levers.
type mirror map[string]string

// mostMirrors bounds the search: a housing has few sections that are alike.
const mostMirrors = 24

// mirrors are the ways in which chambers can change places, the one that leaves all aside.
func mirrors(c *circuit.Circuit) []mirror {
	like := map[string]string{circuit.Outside: circuit.Outside} // of each chamber what it is known by
	for _, ch := range c.Chambers {
		like[ch.ID] = fmt.Sprint(ch.Holds, ch.Open, ch.Volume)
	}
	for range 3 { // and by what it is joined to, three steps deep
		next := map[string]string{circuit.Outside: circuit.Outside}
		for _, ch := range c.Chambers {
			var edges []string
			for _, p := range c.Parts {
				for side, id := range p.Between {
					if id == ch.ID && p.Meant == 0 {
						edges = append(edges, fmt.Sprint(kindOf(p), side, like[p.Between[1-side]]))
					}
				}
			}
			slices.Sort(edges)
			known := fnv.New64a() // keeps what it is known by short
			fmt.Fprint(known, like[ch.ID], edges)
			next[ch.ID] = fmt.Sprintf("%x", known.Sum64())
		}
		like = next
	}
	var out []mirror
	var place func(i int, m mirror)
	place = func(i int, m mirror) {
		if len(out) >= mostMirrors {
			return
		}
		if i == len(c.Chambers) {
			if whole, ok := m.parts(c); ok {
				out = append(out, whole)
			}
			return
		}
		from := c.Chambers[i].ID
		for _, to := range c.Chambers {
			if like[to.ID] != like[from] || slices.Contains(slices.Collect(maps.Values(m)), to.ID) {
				continue
			}
			m[from] = to.ID
			place(i+1, m)
			delete(m, from)
		}
	}
	place(0, mirror{circuit.Outside: circuit.Outside})
	return slices.DeleteFunc(out, func(m mirror) bool {
		return !slices.ContainsFunc(c.Chambers, func(ch circuit.Chamber) bool { return m[ch.ID] != ch.ID })
	})
}

// kindOf is what a part is known by, its place and its levers aside.
func kindOf(p circuit.Part) string {
	return fmt.Sprint(p.Kind, p.Odds, p.OneWay, p.BothWays, p.Joins, p.Opening, p.Removed, p.LeftOpen != "", p.Lifts, len(p.OpenAt), len(p.At))
}

// parts completes a mapping of chambers by parts, levers and ports; ok: everything has its like.
func (m mirror) parts(c *circuit.Circuit) (mirror, bool) {
	out := maps.Clone(m)
	used := map[string]bool{}
	for _, p := range c.Parts {
		if p.Meant > 0 {
			continue
		}
		want := [2]string{m[p.Between[0]], m[p.Between[1]]}
		fits := func(x circuit.Part) bool {
			return !used[x.ID] && kindOf(x) == kindOf(p) && (x.Between == want || !p.OneWay && x.Between == [2]string{want[1], want[0]}) && out.levers(p, x)
		}
		// A part that stays between its own chambers is its own like.
		i := slices.IndexFunc(c.Parts, func(x circuit.Part) bool { return x.ID == p.ID && want == p.Between && fits(x) })
		if i < 0 {
			i = slices.IndexFunc(c.Parts, fits)
		}
		if i < 0 {
			return nil, false
		}
		used[c.Parts[i].ID] = true
		out[p.ID] = c.Parts[i].ID
		for k, s := range p.OpenAt {
			out[s] = c.Parts[i].OpenAt[k]
		}
		for k, s := range p.At {
			out[s] = c.Parts[i].At[k]
		}
	}
	for _, p := range c.Ports {
		i := slices.IndexFunc(c.Ports, func(x circuit.Port) bool {
			return x.Chamber == m[p.Chamber] && (p.Mouth == "" && x.Mouth == "" || out[p.Mouth] == x.Mouth)
		})
		if i < 0 {
			return nil, false
		}
		out[p.ID], out["port-"+p.ID] = c.Ports[i].ID, "port-"+c.Ports[i].ID
	}
	return out, true
}

// levers reports whether the states in which two parts let through can stand for each other.
func (m mirror) levers(a, b circuit.Part) bool {
	fits := func(from, to []string) bool {
		for k, s := range from {
			if was, known := m[s]; known && was != to[k] {
				return false
			}
		}
		return true
	}
	return fits(a.OpenAt, b.OpenAt) && fits(a.At, b.At)
}

// setup is a set-up on the other section; ok: it has one.
func (m mirror) setup(c *circuit.Circuit, s setup) (setup, bool) {
	out := found(c)
	out.feed = m[s.feed]
	for _, id := range s.plugs {
		out.plugs = append(out.plugs, m[id])
	}
	for _, w := range s.worked {
		i := strings.LastIndexByte(w, ' ')
		out.worked = append(out.worked, m[w[:i]]+w[i:])
	}
	slices.Sort(out.plugs)
	slices.Sort(out.worked)
	for i, p := range c.Positions {
		if s.levers[i] == p.States[0].ID {
			continue // as it is found
		}
		to, known := m[s.levers[i]]
		if !known {
			return out, false
		}
		k := slices.IndexFunc(c.Positions, func(x circuit.Position) bool {
			return slices.ContainsFunc(x.States, func(y circuit.PositionState) bool { return y.ID == to })
		})
		out.levers[k] = to
	}
	return out, true
}
