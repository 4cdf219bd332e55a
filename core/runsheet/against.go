package runsheet

import (
	"fmt"
	"math"
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
	c.Says = c.says(g)
	return c, nil
}

// Rests judges what a gauge shows with nothing on it, Pa.
func (g Gauge) Rests(pa float64) Rest {
	ring, u := g.Ring()
	span := u.SI(ring.To) - u.SI(ring.From)
	switch d := math.Abs(pa - math.Max(0, u.SI(ring.From))); {
	case d <= g.DivisionPa()/4:
		return AtZero
	case g.Class > 0 && d <= g.Class/100*span:
		return WithinClass
	}
	return OffZero
}
