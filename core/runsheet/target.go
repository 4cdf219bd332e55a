package runsheet

import (
	"fmt"
	"math"

	"idlehiss/core/quantity"
)

// TargetSchool is a way to come from the mark to the pressure pumped to.
type TargetSchool struct {
	ID    string `json:"id" yaml:"id"`
	Title string `json:"title" yaml:"title"`
	Why   string `json:"why" yaml:"why"`
}

// Limit is a ceiling: of which part, from where. Never a loss; that is an allowance.
type Limit struct {
	Of        string  `json:"of"`
	Pa        float64 `json:"pa"`         // nominal, gauge
	CeilingPa float64 `json:"ceiling_pa"` // to half the last digit of a mark; else the same
	Source    string  `json:"source"`
}

// Weakest is the least ceiling; of equal ones the first.
func Weakest(limits []Limit) Limit {
	least := limits[0]
	for _, l := range limits[1:] {
		if l.CeilingPa < least.CeilingPa {
			least = l
		}
	}
	return least
}

// Target is the pressure to pump to and how it was come by.
type Target struct {
	Pa      float64 `json:"pa"`
	School  string  `json:"school"`
	Printed string  `json:"printed"` // the printed mark it was rounded to
	Says    string  `json:"says"`
	Weakest Limit   `json:"weakest"`
	Over    bool    `json:"over"` // above the weakest limit, by an override
}

// Offered lists the schools that may be chosen with this mark and these limits:
// the middle needs a band, the margin a known and higher part limit.
func Offered(all []TargetSchool, mark quantity.Reading, limits []Limit) []TargetSchool {
	var out []TargetSchool
	for _, s := range all {
		if _, err := wanted(s.ID, mark, limits); err == nil {
			out = append(out, s)
		}
	}
	return out
}

// margin is what the margin school adds.
const margin = 20e3

func wanted(school string, mark quantity.Reading, limits []Limit) (float64, error) {
	low, high := mark.LowPa, mark.HighPa
	switch school {
	case "exactly":
		return low, nil
	case "middle":
		if low == high {
			return 0, fmt.Errorf("the middle of the band needs a mark with two figures")
		}
		return (low + high) / 2, nil
	case "at-least":
		return high, nil
	case "margin":
		for _, l := range limits {
			if l.CeilingPa < high+margin {
				return 0, fmt.Errorf("a margin of 20 kPa needs every other limit known and higher: the %s stands at %s kPa", l.Of, quantity.Significant(l.Pa/1e3, 3))
			}
		}
		if len(limits) == 0 {
			return 0, fmt.Errorf("a margin of 20 kPa is offered only when the weakest part's own limit is known")
		}
		return high + margin, nil
	case "modest":
		if high > 105e3 {
			return 0, fmt.Errorf("a modest pressure is for systems whose mark is not above 105 kPa")
		}
		return math.Min(high, 87.5e3), nil
	}
	return 0, fmt.Errorf("there is no school of target %q", school)
}

// Aim applies a school and rounds to a printed mark of the gauge: to the nearest
// inside the mark's own last digit, else down (PHYSICS §1). parts are the other
// known limits.
func Aim(school TargetSchool, mark quantity.Reading, markOn string, parts []Limit, g Gauge) (Target, error) {
	want, err := wanted(school.ID, mark, parts)
	if err != nil {
		return Target{}, err
	}
	limits := parts
	if school.ID != "margin" {
		limits = append([]Limit{MarkLimit(mark, markOn)}, parts...)
	}
	weakest := Weakest(limits)
	ring, u := g.Ring()
	div := u.SI(ring.Division)
	printed := func(n float64) float64 { return u.SI(ring.From + n*ring.Division) }
	steps := (u.Of(want) - ring.From) / ring.Division
	rounded := printed(math.Round(steps))
	if math.Abs(rounded-want) > mark.HalfDigitPa*(1+1e-9) || rounded > weakest.CeilingPa*(1+1e-9) {
		rounded = printed(math.Floor(steps + 1e-9))
	}
	if rounded > weakest.CeilingPa {
		rounded = printed(math.Floor((u.Of(weakest.CeilingPa)-ring.From)/ring.Division + 1e-9))
	}
	if rounded <= 0 {
		return Target{}, fmt.Errorf("%s cannot be set on this gauge: its first printed mark is %s", u.Show(want, div), u.Show(div, div))
	}
	t := Target{Pa: rounded, School: school.ID, Weakest: weakest, Printed: u.Show(rounded, div)}
	t.Says = fmt.Sprintf("Pump to %s: %s", t.Printed, school.Title)
	if by := rounded - want; math.Abs(by) > 50 {
		word := "above"
		if by < 0 {
			word = "below"
		}
		t.Says += fmt.Sprintf(", at the gauge's nearest printed mark, %s kPa %s", quantity.Significant(math.Abs(by)/1e3, 2), word)
	}
	t.Says += "."
	return t, nil
}

// MarkLimit is the limit that a decoded mark sets.
func MarkLimit(mark quantity.Reading, on string) Limit {
	return Limit{Of: on, Pa: mark.LimitPa(), CeilingPa: mark.CeilingPa(), Source: "mark"}
}

// Typed takes a pressure somebody chose. Above the weakest limit it is refused
// unless a reason is given, which goes on the sheet.
func Typed(pa float64, limits []Limit, reason string) (Target, error) {
	w := Weakest(limits)
	if pa <= 0 {
		return Target{}, fmt.Errorf("a target above ambient is wanted")
	}
	t := Target{Pa: pa, School: "typed", Weakest: w, Over: pa > w.CeilingPa*(1+1e-9)}
	kpa := func(p float64) string { return quantity.Significant(p/1e3, 3) + " kPa" }
	t.Says = fmt.Sprintf("Pump to %s, as typed.", kpa(pa))
	if t.Over {
		if len([]rune(reason)) < 8 {
			return Target{}, fmt.Errorf("%s is above the weakest limit, the %s at %s: choose at most that, or type the reason for going over it (it is printed on the sheet)", kpa(pa), w.Of, kpa(w.Pa))
		}
		t.Says = fmt.Sprintf("Pump to %s, ABOVE the %s's %s. Reason given: %s.", kpa(pa), w.Of, kpa(w.Pa), reason)
	}
	return t, nil
}
