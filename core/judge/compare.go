package judge

import (
	"fmt"
	"math"
)

// Comparison sets a second hold beside a first: positive where the second loses
// faster. Flows are compared where both are known, since the same leak falls
// faster from less air.
type Comparison struct {
	ByFlow          bool     `json:"by_flow"`
	Difference      Interval `json:"difference"` // kPa/min, or cm³/min with by_flow
	PerCent         *float64 `json:"per_cent"`   // of the first; null where that is nothing
	Faster          float64  `json:"probability_faster"`
	SurelyDifferent bool     `json:"surely_different"` // the interval leaves zero out
	Sentence        string   `json:"sentence"`
	Cautions        []string `json:"cautions"` // what makes the two unlike
}

// Compare tells two reports apart by their steady losses, taken as normal with
// the doubt that each gives. It fails where one has no rate.
func Compare(first, second Report) (Comparison, error) {
	a, b := first.RateKPaPerMin, second.RateKPaPerMin
	if a == nil || b == nil {
		return Comparison{}, fmt.Errorf("a hold that was never judged cannot be compared: it has no rate")
	}
	c := Comparison{Cautions: []string{}}
	if first.FlowCm3PerMin != nil && second.FlowCm3PerMin != nil {
		a, b, c.ByFlow = first.FlowCm3PerMin, second.FlowCm3PerMin, true
	}
	d := b.Value - a.Value
	// Each side of the difference takes the doubt on that side of both.
	low := math.Hypot(b.Value-b.Low, a.High-a.Value)
	high := math.Hypot(b.High-b.Value, a.Value-a.Low)
	c.Difference = Interval{d, d - low, d + high}
	side := low
	if d < 0 {
		side = high
	}
	c.Faster = normalCDF(d / math.Max(side/z95, nothing))
	c.SurelyDifferent = c.Difference.Low > 0 || c.Difference.High < 0
	if a.Low > 0 {
		c.PerCent = new(100 * d / a.Value)
	}
	c.Sentence = c.says()
	if p1, p2 := first.TestPressureKPa, second.TestPressureKPa; math.Abs(p2-p1) > unlike*math.Abs(p1) {
		c.Cautions = append(c.Cautions, unlikePressures(p1, p2))
	}
	if !c.ByFlow {
		c.Cautions = append(c.Cautions, airNotKnown(first.FlowCm3PerMin != nil || second.FlowCm3PerMin != nil))
	}
	return c, nil
}

// unlike is the share by which two test pressures may differ without a word.
const unlike = 0.1
