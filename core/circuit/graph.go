package circuit

import (
	"slices"

	"idlehiss/core/quantity"
)

// Pressed is what stands under pressure in a step, and what bounds it.
type Pressed struct {
	Port     Port
	Chambers []string  // the port's own first
	Suspects []Part    // that are in place and hold it in
	Closures []Closure // what must be shut for it
	Meant    []Part    // escapes that belong there
}

// Closure is one opening that must be shut for a step.
type Closure struct {
	Part    Part
	Already bool // by what is fitted
}

// Passes reports whether a part lets through in a step: opened for it, or open as a
// rule, or by how a lever stands; a check valve from its first side only.
func (p Part) Passes(s Step) bool {
	if slices.Contains(s.Open, p.ID) {
		return true
	}
	byPosition := slices.ContainsFunc(p.OpenAt, func(id string) bool { return slices.Contains(s.At, id) })
	return (p.Joins || p.OneWay || byPosition) && !slices.Contains(s.Shut, p.ID)
}

// opensFrom is the side from which a check valve lets through to the other, as the gauge sees
// it: a vacuum draws air through it from its first side, so that it opens from its second.
func (p Part) opensFrom(s Step) string {
	if s.Draws() {
		return p.Between[1]
	}
	return p.Between[0]
}

// Forced reports whether a part was opened for a step or by a position, so that it lets
// through from either side, a check valve too.
func (p Part) Forced(s Step) bool {
	return slices.Contains(s.Open, p.ID) || slices.ContainsFunc(p.OpenAt, func(id string) bool { return slices.Contains(s.At, id) })
}

// Pressed follows the air of a step through everything that is open.
func (c *Circuit) Pressed(s Step) Pressed {
	out := Pressed{Port: c.Ports[0]}
	for _, p := range c.Ports {
		if p.ID == s.Port {
			out.Port = p
		}
	}
	in := map[string]bool{out.Port.Chamber: true}
	out.Chambers = []string{out.Port.Chamber}
	for grown := true; grown; {
		grown = false
		for _, p := range c.Parts {
			a, b := p.Between[0], p.Between[1]
			if p.Removed || !p.Passes(s) || a == Outside || b == Outside || in[a] == in[b] || p.OneWay && !in[p.opensFrom(s)] && !p.Forced(s) {
				continue
			}
			next := a
			if in[a] {
				next = b
			}
			if ch, _ := c.Chamber(next); ch.Open {
				continue // it stays at ambient: what passes into it escapes
			}
			in[next], grown = true, true
			out.Chambers = append(out.Chambers, next)
		}
	}
	for _, p := range c.Parts {
		a, b := p.Between[0], p.Between[1]
		if p.Removed || in[a] == in[b] || !c.stands(s, p.At) {
			continue
		}
		switch {
		case p.Opening && p.LeftOpen != "":
		case p.Opening && !slices.Contains(s.Open, p.ID):
			out.Closures = append(out.Closures, Closure{p, p.ClosedBy != ""})
		case p.Meant > 0, p.Passes(s) && !p.Opening && (!p.OneWay || p.Forced(s) || in[p.opensFrom(s)]):
			out.Meant = append(out.Meant, p)
		case p.Odds <= 0 && (len(p.OpenAt) > 0 || p.OneWay): // a passage that is shut
		default:
			out.Suspects = append(out.Suspects, p)
		}
	}
	for _, p := range c.Ports {
		if p.ID != out.Port.ID && in[p.Chamber] && (p.Close != "" || p.ClosedBy != "") {
			out.Closures = append(out.Closures, Closure{p.mouth(), p.ClosedBy != ""})
		}
	}
	return out
}

// mouth is a port as an opening that is shut while the rig is elsewhere.
func (p Port) mouth() Part {
	return Part{ID: "port-" + p.ID, Title: quantity.Capital(p.Title), Between: [2]string{p.Chamber, Outside}, Kind: "opening", Opening: true, Close: p.Close, ClosedBy: p.ClosedBy}
}

// Vented reports whether air that leaks into a chamber in a step gets out of it, so that the
// leak goes on and shows.
func (c *Circuit) Vented(id string, s Step) bool {
	under := c.Pressed(s).Chambers
	pressed := func(a, b string) bool { return slices.Contains(under, a) || slices.Contains(under, b) }
	in := map[string]bool{id: true}
	for grown := true; grown; {
		grown = false
		for ch := range in {
			if x, ok := c.Chamber(ch); ch == Outside || ok && x.Open || c.letsOut(ch, s) {
				return true
			}
			for _, p := range c.Parts {
				a, b := p.Between[0], p.Between[1]
				if in[a] != in[b] && (a == ch || b == ch) && (p.Joins || p.Forced(s) || p.OneWay && p.opensFrom(s) == ch && !pressed(a, b)) && p.Passes(s) {
					in[a], in[b], grown = true, true, true
				}
			}
		}
	}
	return false
}

// letsOut reports whether an opening or a port of a chamber is left open in a step.
func (c *Circuit) letsOut(id string, s Step) bool {
	for _, p := range c.Parts {
		if (p.Between[0] == id || p.Between[1] == id) && p.Opening && (p.LeftOpen != "" || slices.Contains(s.Open, p.ID)) {
			return true
		}
	}
	return slices.ContainsFunc(c.Ports, func(p Port) bool { return p.Chamber == id && p.LeftOpen != "" && p.ID != s.Port })
}

// Weakest is the lowest pressure limit among what bounds a step; ok is false
// where none is known.
func (p Pressed) Weakest() (part Part, ok bool) {
	least := func(x Part) {
		if x.Limit > 0 && (!ok || x.Limit < part.Limit) {
			part, ok = x, true
		}
	}
	for _, x := range p.Suspects {
		least(x)
	}
	for _, x := range p.Meant {
		least(x)
	}
	for _, x := range p.Closures {
		least(x.Part)
	}
	return part, ok
}

// Tested is the chamber into which the air of the first hold goes.
func (c *Circuit) Tested() Chamber {
	s, _ := c.Test("")
	ch, _ := c.Chamber(c.Pressed(s).Port.Chamber)
	return ch
}

// Room is the gas in a step's chambers by the file, m³: what there usually is
// before anything is measured.
func (c *Circuit) Room(s Step) float64 {
	sum := 0.0
	for _, id := range c.Pressed(s).Chambers {
		ch, _ := c.Chamber(id)
		if ch.TrappedAir > 0 {
			sum += float64(ch.TrappedAir)
		} else {
			sum += float64(ch.Volume)
		}
	}
	return sum
}
