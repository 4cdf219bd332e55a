package judge

import (
	"fmt"
	"math"

	"idlehiss/core/quantity"
)

// Comparison sets a second hold beside a first: positive where the second loses
// faster. Flows are compared where both are known, since the same leak falls
// faster from less air.
type Comparison struct {
	ByFlow          bool     `json:"by_flow"`
	Difference      Interval `json:"difference"` // kPa/min, or cm³/min with by_flow
	PerCent         *float64 `json:"per_cent"`   // of the first; null where that is nothing
	Faster          float64  `json:"probability_faster"`
	SurelyDifferent bool     `json:"surely_different"` // the interval leaves nought out
	Sentence        string   `json:"sentence"`
	Cautions        []string `json:"cautions"` // what makes the two unlike
}

// Compare tells two reports apart by their steady losses, taken as normal with
// the doubt that each gives. It fails where one has no rate.
func Compare(first, second Report) (Comparison, error) {
	a, b, unit := first.RateKPaPerMin, second.RateKPaPerMin, "kPa a minute"
	if a == nil || b == nil {
		return Comparison{}, fmt.Errorf("a hold that was never judged cannot be compared: it has no rate")
	}
	c := Comparison{Cautions: []string{}}
	if first.FlowCm3PerMin != nil && second.FlowCm3PerMin != nil {
		a, b, unit, c.ByFlow = first.FlowCm3PerMin, second.FlowCm3PerMin, "cm³ a minute", true
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
	c.Faster = normalCDF(d / math.Max(side/1.96, 1e-12))
	c.SurelyDifferent = c.Difference.Low > 0 || c.Difference.High < 0
	if a.Low > 0 {
		c.PerCent = new(100 * d / a.Value)
	}
	size := func(x float64) string { return quantity.Significant(math.Abs(x), 2) }
	span := fmt.Sprintf("%s to %s", quantity.Significant(c.Difference.Low, 2), quantity.Significant(c.Difference.High, 2))
	if c.Difference.High < 0 { // "less" has the sign
		span = fmt.Sprintf("%s to %s", size(c.Difference.High), size(c.Difference.Low))
	}
	switch {
	case c.SurelyDifferent && d > 0:
		c.Sentence = fmt.Sprintf("The second loses %s %s more than the first (%s).", size(d), unit, span)
	case c.SurelyDifferent:
		c.Sentence = fmt.Sprintf("The second loses %s %s less than the first (%s).", size(d), unit, span)
	default:
		c.Sentence = fmt.Sprintf("No difference that these holds could tell: %s %s.", span, unit)
	}
	c.Sentence += " " + odds(c.Faster)
	if p1, p2 := first.TestPressureKPa, second.TestPressureKPa; math.Abs(p2-p1) > unlike*math.Abs(p1) {
		c.Cautions = append(c.Cautions, fmt.Sprintf("They stand at different pressures, %s and %s kPa: a leak loses more at the higher.", quantity.Significant(p1, 3), quantity.Significant(p2, 3)))
	}
	if !c.ByFlow {
		which := "neither"
		if first.FlowCm3PerMin != nil || second.FlowCm3PerMin != nil {
			which = "only one"
		}
		c.Cautions = append(c.Cautions, "The trapped air of "+which+" is known: with more air the same leak falls more slowly.")
	}
	return c, nil
}

// unlike is the share by which two test pressures may differ without a word.
const unlike = 0.1

// odds says how likely it is that the second is really the faster.
func odds(p float64) string {
	way := "faster"
	if p < 0.5 {
		p, way = 1-p, "slower"
	}
	if p > 0.995 {
		return "It is all but sure that the second is " + way + "."
	}
	return fmt.Sprintf("%s to 1 that the second is %s.", quantity.Significant(p/(1-p), 2), way)
}
