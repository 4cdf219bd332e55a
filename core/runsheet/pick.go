package runsheet

import (
	"math"
	"slices"
)

// Candidate is a gauge that may be read for a step.
type Candidate struct {
	Gauge
	ByItself bool // it speaks by itself, so it stands on something already
}

// What counts against a gauge when one is proposed: own figures, tried on how a shop
// reads its gauges. The least is taken.
const (
	rankLast    = 0.0 // the gauge last used
	rankOther   = 1.0
	rankWired   = 4.0 // nobody measures by chance with a gauge that stands elsewhere
	outsideHalf = 2.0 // the pressure lies outside the middle half of its scale
	offMark     = 0.4 // or between two printed marks
	otherRing   = 0.3 // or on the ring that is not usually read
	onMark      = 0.02
	leastMarks  = 5 // divisions from zero to the pressure, below which a face cannot be read well
)

// PickGauge finds the gauge on which a pressure (Pa) is read best, and on which ring;
// exact where the pressure is a figure of the step's own, not one that is rounded
// anyway. With no pressure known it is the one last used. all is not empty.
func PickGauge(all []Candidate, last string, atPa float64, exact bool) Gauge {
	if atPa == 0 {
		if i := slices.IndexFunc(all, func(g Candidate) bool { return g.ID == last }); i >= 0 {
			return all[i].Gauge
		}
		return all[0].Gauge
	}
	best, least := all[0].Gauge, math.Inf(1) // the plan says where it does not fit
	for _, g := range all {
		for i := range g.Rings {
			face := g.Gauge
			face.Read = i
			if !face.readable(atPa) {
				continue
			}
			rank := rankOther
			switch {
			case g.ID == last:
				rank = rankLast
			case g.ByItself:
				rank = rankWired
			}
			if fit := face.Fit(atPa, 0, 0); !fit.Fits {
				rank += outsideHalf
			}
			if d := math.Mod(math.Abs(atPa), face.DivisionPa()) / face.DivisionPa(); exact && d > onMark && d < 1-onMark {
				rank += offMark
			}
			if i != g.Read {
				rank += otherRing
			}
			if rank < least {
				best, least = face, rank
			}
		}
	}
	return best
}

// readable reports whether a pressure stands well on the ring that is read.
func (g Gauge) readable(pa float64) bool {
	r, u := g.Ring()
	low, high := u.SI(r.From), u.SI(r.To)
	return pa <= high && pa >= low && math.Abs(pa) >= leastMarks*u.SI(r.Division) && (g.RatingPa == 0 || pa <= g.RatingPa)
}
