package runsheet

import (
	"fmt"
	"math"
	"slices"

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
	Likely bool    `json:"likely"` // the one to wait for
	Up     bool    `json:"up"`     // above the needle on the face
	Target bool    `json:"target"`
}

// Standing is where the needle was last seen; Seen is false before the first reading.
type Standing struct {
	Pa   float64
	Seen bool
}

// How many marks are given at once: enough for a page that has lost the server to go on with.
const (
	marksBelow   = 24 // in halves of a division
	figuresAbove = 5
)

// NextMarks are the marks around the needle of a gauge while a circuit is pumped to a target (Pa) or held
// at it, nearest first on either side. The target is always among them, and none lies beyond the ceiling
// (Pa from ambient). A digital gauge has none.
func (g Gauge) NextMarks(at Standing, state terms.HoldState, targetPa, ceilingPa float64) []NextMark {
	switch {
	case g.Kind != terms.Needle || state == terms.Ended:
		return []NextMark{}
	case targetPa < 0:
		return g.mirrored(at, state, targetPa, ceilingPa)
	}
	ring, u := g.Ring()
	pumping := state == terms.Pumping
	if !at.Seen && !pumping {
		at.Pa = targetPa
	}
	half := ring.Division / 2
	above := int(math.Floor((u.Of(at.Pa)-ring.From)/half+1e-6)) + 1
	below := int(math.Ceil((u.Of(at.Pa)-ring.From)/half-1e-6)) - 1
	aim := int(math.Floor((u.Of(math.Min(targetPa, ceilingPa))-ring.From)/half + 1e-6))
	ladder := []int{above}
	if pumping {
		// The needle climbs by strokes: it can be caught at the figures of the face, and at the target.
		every := int(math.Round(ring.figures() / half))
		next := (above + every - 1) / every * every
		ladder = []int{above + above%2}
		for i := range figuresAbove {
			ladder = append(ladder, next+i*every)
		}
	}
	ladder = append(ladder, aim)
	slices.Sort(ladder)
	ladder = slices.Compact(ladder)
	if !pumping {
		for n := below; n > below-marksBelow && n >= 0; n-- {
			ladder = append(ladder, n)
		}
	}
	var out []NextMark
	seen := map[int]bool{}
	for _, n := range ladder {
		v := ring.From + float64(n)*half
		m := NextMark{Pa: u.SI(v), Value: math.Round(v*1e6) / 1e6, Half: n%2 != 0, Up: n >= above, Target: n == aim}
		if seen[n] || m.Pa > ceilingPa*(1+1e-9) {
			continue
		}
		seen[n] = true
		m.Text = u.Figure(m.Pa, u.SI(ring.digit(m.Half)))
		out = append(out, m)
	}
	// A printed mark is crossed more surely than a half-way. A hold falls; while it is pumped, the next
	// figure or the target is waited for, whichever comes first.
	every := int(math.Round(ring.figures() / half))
	for i := range out {
		n := int(math.Round((out[i].Value - ring.From) / half))
		if !pumping && n <= below && !out[i].Half || pumping && out[i].Up && (n%every == 0 || out[i].Target) {
			out[i].Likely = true
			break
		}
	}
	return out
}

// mirrored are the marks under vacuum: the same face seen upside down.
func (g Gauge) mirrored(at Standing, state terms.HoldState, targetPa, ceilingPa float64) []NextMark {
	ring, u := g.Ring()
	down := g
	ring.From, ring.To = -ring.To, -ring.From
	down.Rings, down.Read = []Ring{ring}, 0
	out := down.NextMarks(Standing{-at.Pa, at.Seen}, state, -targetPa, ceilingPa)
	for i := range out {
		m := &out[i]
		m.Pa, m.Value, m.Up = -m.Pa, -m.Value, !m.Up
		m.Text = u.Figure(m.Pa, u.SI(ring.digit(m.Half)))
	}
	return out
}

// FinestStep is the least that a person can tell on the gauge, in its unit: a quarter of a division, or the
// last digit.
func (g Gauge) FinestStep() float64 {
	ring, _ := g.Ring()
	if g.Kind == terms.Needle {
		return ring.Division / 4
	}
	return ring.Division
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
