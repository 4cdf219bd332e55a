package runsheet

import (
	"fmt"
	"math"

	"idlehiss/core/circuit"
	"idlehiss/core/quantity"
	"idlehiss/core/terms"
)

// NextMark is a printed mark (or half-way between two) that the needle may cross next.
type NextMark struct {
	Pa     float64 `json:"pa"`
	Value  float64 `json:"value"` // in the gauge's unit
	Text   string  `json:"text"`
	Half   bool    `json:"half"`
	Likely bool    `json:"likely"`
	Up     bool    `json:"up"`
}

// Standing is where the needle was last seen; Seen is false before the first reading.
type Standing struct {
	Pa   float64
	Seen bool
}

// NextMarks are the marks next to the needle of a gauge while a circuit is pumped to a
// target (Pa) or held at it. A digital gauge has none.
func (g Gauge) NextMarks(at Standing, state terms.HoldState, targetPa float64) []NextMark {
	switch {
	case g.Kind != terms.Needle || state == terms.Ended:
		return []NextMark{}
	case targetPa < 0:
		return g.mirrored(at, state, targetPa)
	}
	ring, u := g.Ring()
	pumping := state == terms.Pumping
	if !at.Seen && !pumping {
		at.Pa = targetPa
	}
	half := ring.Division / 2
	halves := (u.Of(at.Pa) - ring.From) / half
	mark := func(n int, up bool) NextMark {
		v := ring.From + float64(n)*half
		m := NextMark{Pa: u.SI(v), Value: math.Round(v*1e6) / 1e6, Half: n%2 != 0, Up: up}
		m.Text = u.Figure(m.Pa, u.SI(ring.digit(m.Half)))
		return m
	}
	above := int(math.Floor(halves+1e-6)) + 1
	if pumping {
		// The needle climbs by strokes: it can be caught at the figures of the face.
		every := int(math.Round(ring.figures() / half))
		next := (above + every - 1) / every * every
		likely := mark(next, true)
		likely.Likely = true
		if printed := above + above%2; printed < next {
			return []NextMark{mark(printed, true), likely, mark(next+every, true)}
		}
		return []NextMark{likely, mark(next+every, true)}
	}
	// A hold falls, and a printed mark is crossed more surely than a half-way: the
	// likely next is the nearest printed one below.
	out := []NextMark{mark(above, true)}
	below := int(math.Ceil(halves-1e-6)) - 1
	for n := below; n > below-3 && n >= 0; n-- {
		out = append(out, mark(n, false))
	}
	for i := range out {
		if !out[i].Up && !out[i].Half {
			out[i].Likely = true
			break
		}
	}
	return out
}

// mirrored are the marks under vacuum: the same face seen upside down.
func (g Gauge) mirrored(at Standing, state terms.HoldState, targetPa float64) []NextMark {
	ring, u := g.Ring()
	down := g
	ring.From, ring.To = -ring.To, -ring.From
	down.Rings, down.Read = []Ring{ring}, 0
	out := down.NextMarks(Standing{-at.Pa, at.Seen}, state, -targetPa)
	for i := range out {
		m := &out[i]
		m.Pa, m.Value, m.Up = -m.Pa, -m.Value, !m.Up
		m.Text = u.Figure(m.Pa, u.SI(ring.digit(m.Half)))
	}
	return out
}

// digit is the smallest step worth writing of a mark.
func (r Ring) digit(half bool) float64 {
	if half {
		return r.Division / 2
	}
	return r.Division
}

// figures is how far apart the figures stand.
func (r Ring) figures() float64 {
	if r.Numbered > 0 {
		return r.Numbered
	}
	return 5 * r.Division
}

// MarkSays is a mark as it was read.
func MarkSays(c *circuit.Circuit, m quantity.Mark, r quantity.Reading) string {
	said := quantity.Significant(r.HighPa/1e3, 3) + " kPa"
	if m.Band() {
		said = quantity.Significant(r.LowPa/1e3, 3) + " to " + said
	}
	if !m.Bare {
		return fmt.Sprintf("The %s says %s: %s.", c.Mark.On, m.Text, said)
	}
	return fmt.Sprintf("The %s says %s, read in %s: %s.", c.Mark.On, m.Text, r.Unit.Symbol, said)
}
