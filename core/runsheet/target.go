package runsheet

import (
	"fmt"
	"math"
	"strings"

	"idlehiss/core/circuit"
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

// Weakest is the ceiling nearest to ambient; of equal ones the first.
func Weakest(limits []Limit) Limit {
	least := limits[0]
	for _, l := range limits[1:] {
		if math.Abs(l.CeilingPa) < math.Abs(least.CeilingPa) {
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
	WantPa  float64 `json:"-"`    // before it was rounded or cut down
	Cause   Cause   `json:"-"`
}

// Cause is why a target is the figure it is.
type Cause string

// The causes.
const (
	AsWanted  Cause = "as-wanted"
	Rounded   Cause = "rounded"  // to a printed mark of the gauge
	CutByPart Cause = "cut-down" // by the weakest limit
	ByHand    Cause = "typed"    // by a person
)

// Values lists every cause.
func (Cause) Values() []string {
	return []string{string(AsWanted), string(Rounded), string(CutByPart), string(ByHand), ""}
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

// margin is what the margin school adds, Pa; a modest pressure lies between the other two.
const (
	margin     = 20e3
	modestFrom = 70e3
	modestTo   = 105e3
)

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
		if low < modestFrom || high > modestTo {
			return 0, fmt.Errorf("a modest pressure is for systems whose mark lies between 70 and 105 kPa")
		}
		return math.Min(high, (modestFrom+modestTo)/2), nil
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
	if school.ID == "at-least" {
		return atLeast(want, school, Weakest(limits), g)
	}
	return printed(want, mark.HalfDigitPa, school.ID, school.Title, Weakest(limits), g)
}

// atLeast rounds away from ambient, and refuses where that would pass the ceiling.
func atLeast(want float64, school TargetSchool, weakest Limit, g Gauge) (Target, error) {
	ring, u := g.Ring()
	up := u.SI(ring.From + math.Ceil((u.Of(want)-ring.From)/ring.Division-1e-9)*ring.Division)
	if up > weakest.CeilingPa*(1+1e-9) {
		div := g.DivisionPa()
		return Target{}, fmt.Errorf("at least %s cannot be set on this gauge: its next printed mark is %s, past the limit of the %s. Take a finer gauge, or the mark itself", u.Show(want, div/10), u.Show(up, div), weakest.Of)
	}
	return printed(up, 0, school.ID, school.Title, weakest, g)
}

// printed rounds a wanted pressure to a printed mark of the gauge: to the nearest
// where that lies within half (Pa) of it and below the ceiling, else towards
// ambient.
func printed(want, half float64, school, title string, weakest Limit, g Gauge) (Target, error) {
	ring, u := g.Ring()
	div := u.SI(ring.Division)
	mark := func(n float64) float64 { return u.SI(ring.From + n*ring.Division) }
	less := func(pa float64) float64 { // the last mark that is not beyond pa
		n := (u.Of(pa) - ring.From) / ring.Division
		if pa < 0 {
			return mark(math.Ceil(n - 1e-9))
		}
		return mark(math.Floor(n + 1e-9))
	}
	rounded := mark(math.Round((u.Of(want) - ring.From) / ring.Division))
	if math.Abs(rounded-want) > half*(1+1e-9) || math.Abs(rounded) > math.Abs(weakest.CeilingPa)*(1+1e-9) {
		rounded = less(want)
	}
	if math.Abs(rounded) > math.Abs(weakest.CeilingPa) {
		rounded = less(weakest.CeilingPa)
	}
	if rounded*want <= 0 || math.Abs(rounded) < div/2 {
		return Target{}, fmt.Errorf("%s cannot be set on this gauge: its first printed mark is %s", u.Show(want, div), u.Show(math.Copysign(div, want), div))
	}
	if low, high := u.SI(ring.From), u.SI(ring.To); rounded < low-div/2 || rounded > high+div/2 {
		return Target{}, fmt.Errorf("%s cannot be read on this gauge, which runs from %s to %s: take another gauge or another of its rings", u.Show(want, div), u.Show(low, div), u.Show(high, div))
	}
	t := Target{Pa: rounded, School: school, Weakest: weakest, Printed: u.Show(rounded, div), WantPa: want, Cause: AsWanted}
	if math.Abs(rounded-want) > worthSaying {
		t.Cause = Rounded
	}
	t.Says = targetSays(t.Printed, title, rounded, want)
	if math.Abs(want) > math.Abs(weakest.CeilingPa)*(1+1e-9) {
		t.Cause, t.Says = CutByPart, ruledSays(t.Printed, title, rounded, weakest)
	}
	return t, nil
}

// StepLimits are the pressure limits that a step knows of by its circuit: its own
// ceiling, and the weakest of what bounds it. Under vacuum only its ceiling.
func StepLimits(c *circuit.Circuit, s circuit.Step) []Limit {
	source := s.Source
	if source == "" {
		source = c.Source
	}
	var out []Limit
	if s.Most != 0 {
		out = append(out, Limit{Of: "step", Pa: float64(s.Most), CeilingPa: float64(s.Most), Source: source})
	}
	if p, ok := c.Pressed(s).Weakest(); ok && !s.Draws() {
		out = append(out, Limit{Of: strings.ToLower(p.Title), Pa: float64(p.Limit), CeilingPa: float64(p.Limit), Source: c.Source})
	}
	return out
}

// StepSchools are the targets of a step as schools.
func StepSchools(s circuit.Step) []TargetSchool {
	var out []TargetSchool
	for _, t := range s.Targets {
		out = append(out, TargetSchool{t.ID, t.Title, t.Why})
	}
	return out
}

// AimStep applies one of a step's own targets. A mark is wanted only where the
// target is told above it; a target beyond a limit is brought down to it.
func AimStep(t circuit.Target, mark *quantity.Reading, limits []Limit, g Gauge) (Target, error) {
	want := float64(t.At)
	if t.OverMark != 0 {
		if mark == nil {
			return Target{}, fmt.Errorf("the mark comes first: this target lies %s kPa above it", quantity.Significant(float64(t.OverMark)/1e3, 3))
		}
		want = mark.HighPa + float64(t.OverMark)
	}
	if len(limits) == 0 {
		limits = []Limit{{Of: "step", Pa: want, CeilingPa: want, Source: "shop practice"}}
	}
	return printed(want, 0, t.ID, t.Title, Weakest(limits), g)
}

// MarkLimit is the limit that a decoded mark sets.
func MarkLimit(mark quantity.Reading, on string) Limit {
	return Limit{Of: on, Pa: mark.LimitPa(), CeilingPa: mark.CeilingPa(), Source: "mark"}
}

// Typed takes a pressure somebody chose. Above the weakest limit it is refused
// unless a reason is given, which goes on the sheet.
func Typed(pa float64, limits []Limit, reason string) (Target, error) {
	w := Weakest(limits)
	if pa*w.CeilingPa <= 0 {
		return Target{}, fmt.Errorf("a target %s ambient is wanted", map[bool]string{true: "below", false: "above"}[w.CeilingPa < 0])
	}
	t := Target{Pa: pa, School: SchoolTyped, Printed: kpa(pa), Weakest: w, WantPa: pa, Cause: ByHand, Over: math.Abs(pa) > math.Abs(w.CeilingPa)*(1+1e-9)}
	if t.Over && len([]rune(reason)) < leastReason {
		return Target{}, overLimit(pa, w)
	}
	t.Says = typedTargetSays(t, reason)
	return t, nil
}

// leastReason is the letters of a reason that says anything.
const leastReason = 8
