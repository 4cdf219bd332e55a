// Package runsheet works out, before anything is pumped, what will be done: the
// limit and the target, whether the gauge fits, and the stages with their
// cautions in the order of work.
package runsheet

import (
	"fmt"
	"math"

	"idlehiss/core/judge"
	"idlehiss/core/quantity"
	"idlehiss/core/terms"
)

// Ring is one ring of figures on a gauge's face.
type Ring struct {
	Unit     string  `json:"unit" yaml:"unit"`
	From     float64 `json:"from" yaml:"from"` // in its unit
	To       float64 `json:"to" yaml:"to"`
	Division float64 `json:"division" yaml:"division"` // between two printed marks
	Numbered float64 `json:"numbered" yaml:"numbered"` // between two figures
}

// Shows reports whether a needle or figure may stand at a value in the ring's unit: a needle goes a little past both ends.
func (r Ring) Shows(value float64) bool {
	beyond := (r.To - r.From) * overFace
	return value >= r.From-beyond && value <= r.To+beyond
}

// overFace is how far a needle may stand past the end of its ring, of the span.
const overFace = 0.02

// Gauge is what reads the pressure: a needle over rings of figures, or digits.
type Gauge struct {
	ID        string         `json:"id" yaml:"id"`
	Name      string         `json:"name" yaml:"name"`
	Kind      terms.FaceKind `json:"kind" yaml:"kind"`
	Rings     []Ring         `json:"rings" yaml:"rings"` // a digital gauge has one; its division is the last digit
	Read      int            `json:"read" yaml:"read"`   // which ring is read
	Class     float64        `json:"class" yaml:"class"` // % of span; 0 when unknown
	RestZero  float64        `json:"rest_zero" yaml:"rest_zero"`
	RatingPa  float64        `json:"rating_pa" yaml:"-"`
	Simulated bool           `json:"simulated" yaml:"simulated"`
}

// Faults says what is wrong with a gauge as described.
func (g Gauge) Faults() error {
	if g.Kind != terms.Needle && g.Kind != terms.Digital {
		return fmt.Errorf("a gauge is a needle or digital one, not %q", g.Kind)
	}
	if len(g.Rings) == 0 || len(g.Rings) > 3 {
		return fmt.Errorf("a gauge face has one to three rings of figures; this one has %d", len(g.Rings))
	}
	if !(g.Class >= 0) || g.Class > 10 || !quantity.PossiblePa(g.RestZero) {
		return fmt.Errorf("a gauge class is 0 (not known) to 10 %% of the span")
	}
	if g.Read < 0 || g.Read >= len(g.Rings) {
		return fmt.Errorf("ring %d is to be read, but the face has %d", g.Read+1, len(g.Rings))
	}
	for i, r := range g.Rings {
		u, err := quantity.Named(r.Unit, quantity.Pressure)
		if err != nil {
			return fmt.Errorf("ring %d: %w", i+1, err)
		}
		for _, figure := range []float64{r.From, r.To, r.Division, r.Numbered} {
			if !quantity.PossiblePa(u.SI(figure)) {
				return fmt.Errorf("ring %d: no gauge shows %g %s; at most 1 GPa either way is taken", i+1, figure, u.Symbol)
			}
		}
		if !(r.To > r.From) || !(r.Division > 0) || r.Division > (r.To-r.From)/2 {
			return fmt.Errorf("ring %d: figures must run upwards, with a division above zero and well inside the range", i+1)
		}
	}
	return nil
}

// Ring gives the ring that is read and its unit.
func (g Gauge) Ring() (Ring, quantity.Unit) {
	r := g.Rings[g.Read]
	u, err := quantity.Named(r.Unit, quantity.Pressure)
	if err != nil {
		u = quantity.MustNamed("kPa", quantity.Pressure)
	}
	return r, u
}

// DivisionPa is the step between printed marks, or the last digit, Pa.
func (g Gauge) DivisionPa() float64 {
	r, u := g.Ring()
	return u.SI(r.Division)
}

// ForJudge is how readings of this gauge are to be weighed.
func (g Gauge) ForJudge() judge.Gauge {
	j := judge.Gauge{ClassPercent: g.Class}
	if g.Kind == terms.Digital {
		j.DigitalPa = g.DivisionPa()
	} else {
		r, u := g.Ring()
		j.DivisionPa = g.DivisionPa()
		j.FrictionPa = g.Class / 100 * (u.SI(r.To) - u.SI(r.From)) // its train's, at most about its class
	}
	return j
}

// Suitable is a plain gauge on which a pressure stands about the middle: what to
// look for where none at hand reads so far.
func Suitable(pa float64) Gauge {
	top := math.Pow(10, math.Ceil(math.Log10(math.Abs(pa)*1.6)))
	for _, part := range []float64{0.16, 0.25, 0.4, 0.6} {
		if top*part >= 1.6*math.Abs(pa) {
			top *= part
			break
		}
	}
	r := Ring{Unit: "kPa", To: top / 1e3, Division: top / 1e3 / 100}
	if pa < 0 {
		r.From, r.To = -100, 0
		r.Division = 1
	}
	return Gauge{Name: fmt.Sprintf("a gauge from %g to %g kPa", r.From, r.To), Kind: terms.Needle, Rings: []Ring{r}}
}

// Advice is whether a gauge suits a target and an allowance.
type Advice struct {
	Fits      bool     `json:"fits"`
	OffMiddle bool     `json:"off_middle"` // the target lies outside the middle half of the scale
	TooCoarse bool     `json:"too_coarse"` // two readings cannot show what may be lost
	Says      []string `json:"says"`
	LowPa     float64  `json:"middle_low_pa"`  // the middle half of the scale
	HighPa    float64  `json:"middle_high_pa"` //
	TopPa     float64  `json:"top_pa"`
	BottomPa  float64  `json:"bottom_pa"`
}

// Fit looks at the rule of thumb: the target in the middle half of the scale,
// and a division smaller than half of what may be lost in the hold.
func (g Gauge) Fit(targetPa, ratePaPerS, holdS float64) Advice {
	r, u := g.Ring()
	low, high := u.SI(r.From), u.SI(r.To)
	span := high - low
	a := Advice{Says: []string{}, LowPa: low + span/4, HighPa: high - span/4, TopPa: high, BottomPa: low}
	a.OffMiddle = targetPa < a.LowPa || targetPa > a.HighPa
	a.TooCoarse = ratePaPerS > 0 && u.SI(r.Division) > ratePaPerS*holdS/2*(1+1e-9)
	a.Fits = !a.OffMiddle && !a.TooCoarse
	fitSays(&a, g, targetPa, ratePaPerS, holdS)
	return a
}
