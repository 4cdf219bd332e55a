package runsheet

import (
	"fmt"
	"math"

	"idlehiss/core/quantity"
)

// Beside is one pressure read on a gauge and on a better one at the same moment, Pa.
type Beside struct{ ReadPa, TruePa float64 }

// Check is what a comparison tells of a gauge: true = offset + gain·read. Offset
// and its standard error in Pa, gain without a unit.
type Check struct {
	OffsetPa float64 `json:"offset_pa"`
	OffsetSE float64 `json:"offset_se_pa"`
	Gain     float64 `json:"gain"`
	GainSE   float64 `json:"gain_se"`
	WorstPa  float64 `json:"worst_pa"` // largest difference seen
	Within   bool    `json:"within"`   // its class, where that is known
	Says     string  `json:"says"`
}

// Against compares a gauge with a better one from two or more pressures, by least
// squares with the reading's own doubt of a quarter of a division. One pressure
// alone tells an offset and nothing else.
func (g Gauge) Against(pairs []Beside) (Check, error) {
	if len(pairs) == 0 {
		return Check{}, fmt.Errorf("read both gauges at one pressure at least, better at three: low, middle, high")
	}
	ring, u := g.Ring()
	span := u.SI(ring.To) - u.SI(ring.From)
	sigma := g.DivisionPa() / 4
	n := float64(len(pairs))
	var mx, my, xx, xy float64
	c := Check{Gain: 1}
	for _, p := range pairs {
		mx, my = mx+p.ReadPa/n, my+p.TruePa/n
		c.WorstPa = math.Max(c.WorstPa, math.Abs(p.TruePa-p.ReadPa))
	}
	for _, p := range pairs {
		xx += (p.ReadPa - mx) * (p.ReadPa - mx)
		xy += (p.ReadPa - mx) * (p.TruePa - my)
	}
	// Pressures too near each other would make a gain of their noise.
	if xx > math.Pow(0.1*span, 2) {
		c.Gain, c.GainSE = xy/xx, sigma/math.Sqrt(xx)
	}
	c.OffsetPa = my - c.Gain*mx
	c.OffsetSE = math.Hypot(sigma/math.Sqrt(n), c.GainSE*mx)
	c.Within = g.Class == 0 || c.WorstPa <= g.Class/100*span+g.DivisionPa()/2
	off := u.Figure(c.WorstPa, g.DivisionPa()/4) + " " + u.Symbol
	switch {
	case g.Class == 0:
		c.Says = fmt.Sprintf("Up to %s apart; its class is not known, so nothing says whether that is much.", off)
	case c.Within:
		c.Says = fmt.Sprintf("Up to %s apart: within its class of %s %%.", off, quantity.Significant(g.Class, 2))
	default:
		c.Says = fmt.Sprintf("Up to %s apart: more than its class of %s %% allows. A hold still tells a loss, but pump by another gauge.", off, quantity.Significant(g.Class, 2))
	}
	if c.GainSE > 0 && math.Abs(c.Gain-1) > 2*c.GainSE && math.Abs(c.Gain-1) > 0.005 {
		c.Says += fmt.Sprintf(" It reads %s %% too %s, in proportion.", quantity.Significant(math.Abs(c.Gain-1)*100, 2), map[bool]string{true: "low", false: "high"}[c.Gain > 1])
	}
	return c, nil
}

// AtRest judges what a gauge shows with nothing on it, Pa.
func (g Gauge) AtRest(pa float64) string {
	ring, u := g.Ring()
	span := u.SI(ring.To) - u.SI(ring.From)
	shows := u.Show(pa, g.DivisionPa()/4)
	switch d := math.Abs(pa - math.Max(0, u.SI(ring.From))); {
	case d <= g.DivisionPa()/4:
		return "It rests at nought."
	case g.Class > 0 && d <= g.Class/100*span:
		return fmt.Sprintf("It rests at %s, within its class. A hold tells the same loss; the target is read with that added.", shows)
	default:
		return fmt.Sprintf("It rests at %s. Tap it; if it stays so, set its needle or take another gauge.", shows)
	}
}
