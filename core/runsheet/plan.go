package runsheet

import (
	"fmt"
	"slices"
	"strings"

	"idlehiss/core/circuit"
	"idlehiss/core/judge"
	"idlehiss/core/quantity"
)

// Wish is what was chosen for a step: how far, by which school, and what may be lost.
type Wish struct {
	School        string // of target, one of the step's own, or SchoolTyped
	Typed         string // a pressure, where the school is SchoolTyped
	Reason        string // why a typed target may lie above the weakest limit
	Allowance     string // FromHouse, FromTyped, the id of a hold school or of one of the step's own
	AllowanceText string // such as 10 kPa in 2 min
}

// SchoolTyped is a target of one's own.
const SchoolTyped = "typed"

// Schools are the schools of practice at hand.
type Schools struct {
	Target []TargetSchool
	Hold   []judge.School
}

// Planned is one step, planned: the limits it knows, the target, what may be lost, and
// whether the gauge can show it.
type Planned struct {
	Limits    []Limit
	Target    Target
	Schools   []TargetSchool // from which the target may be taken
	Wanted    Wanted
	Allowance Allowance // before the trapped air is measured
	Fit       Advice
}

// FieldError is a wish that cannot be met, and which input it is.
type FieldError struct {
	Field string
	error
}

func (e FieldError) Unwrap() error { return e.error }

// InputOf is the input that an error names, by its JSON name; "" for none.
func (e FieldError) InputOf() string { return e.Field }

// ErrNoMark is wrapped where the mark must be known first.
var ErrNoMark = fmt.Errorf("the mark must be known first")

// Aims reports whether a step is done at some pressure.
func Aims(c *circuit.Circuit, s circuit.Step) bool {
	return s.Kind == circuit.Hold || len(s.Targets) > 0 || s.Kind == circuit.Floor && c.Marked()
}

// About is roughly the pressure of a step (Pa), for the choice of gauge and pump; 0
// where nothing tells it yet.
func About(s circuit.Step, mark *quantity.Reading) float64 {
	switch {
	case len(s.Targets) > 0 && s.Targets[0].OverMark == 0:
		return float64(s.Targets[0].At)
	case mark == nil:
		return 0
	case len(s.Targets) > 0:
		return mark.HighPa + float64(s.Targets[0].OverMark)
	}
	return mark.LowPa
}

// DefaultWish is what a step is planned by until something else is chosen.
func DefaultWish(s circuit.Step, schools Schools) Wish {
	w := Wish{School: "exactly", Allowance: s.Allow}
	if len(s.Targets) > 0 {
		w.School = s.Targets[0].ID
	}
	switch {
	case len(s.Allows) > 0:
		w.Allowance = s.Allows[0].ID
	case s.Allow == "":
		w.Allowance = FromHouse
	case s.Allow != FromHouse && !slices.ContainsFunc(schools.Hold, func(h judge.School) bool { return h.ID == s.Allow }):
		w.Allowance, w.AllowanceText = FromSheet, s.Allow
	}
	return w
}

// PlanStep works out a step on a gauge: a mark is nil where none is known or none
// limits the circuit; others are the limits of the gauge and the rig. It fails with
// ErrNoMark, or with the input that cannot be met (FieldError).
func PlanStep(c *circuit.Circuit, s circuit.Step, mark *quantity.Reading, w Wish, g Gauge, others []Limit, schools Schools, ambientPa float64) (Planned, error) {
	var p Planned
	if mark == nil && c.Marked() && len(s.Targets) == 0 {
		return p, ErrNoMark
	}
	parts := StepLimits(c, s)
	if !s.Draws() { // a vacuum strains no rating
		parts = append(parts, others...)
	}
	p.Limits = parts
	if mark != nil && len(s.Targets) == 0 {
		p.Limits = append([]Limit{MarkLimit(*mark, c.Mark.On)}, parts...)
	}
	if p.Schools = StepSchools(s); len(p.Schools) == 0 && mark != nil {
		p.Schools = Offered(schools.Target, *mark, parts)
	}
	var err error
	if p.Target, err = aim(c, s, mark, w, g, parts, p.Limits, schools.Target, ambientPa); err != nil {
		return p, err
	}
	p.Wanted = w.wanted(s)
	if p.Wanted.From == FromTyped {
		if err := CheckAllowance(p.Wanted.Text, g, ambientPa); err != nil {
			return p, FieldError{"allowance_text", err}
		}
	}
	p.Allowance, _ = p.Wanted.Resolve(s, g, schools.Hold, 0, p.Target.Pa, ambientPa)
	// Whether the gauge can show it is looked at with the usual air.
	usual, asked := p.Wanted.Resolve(s, g, schools.Hold, c.Room(s), p.Target.Pa, ambientPa)
	if s.Kind == circuit.Feed {
		asked = 0 // judged by its flow
	}
	p.Fit = g.Fit(p.Target.Pa, asked, usual.HoldS)
	return p, nil
}

func aim(c *circuit.Circuit, s circuit.Step, mark *quantity.Reading, w Wish, g Gauge, parts, limits []Limit, schools []TargetSchool, ambientPa float64) (t Target, err error) {
	if w.School == SchoolTyped {
		_, unit := g.Ring()
		v, err := quantity.Parse(w.Typed, quantity.Pressure, unit, ambientPa)
		if err != nil {
			return t, FieldError{"typed", err}
		}
		if len(limits) == 0 {
			return t, FieldError{"typed", fmt.Errorf("no pressure limit of %s is known: choose one of its targets", quantity.Lower(s.Title))}
		}
		if t, err = Typed(v.Mid(), limits, strings.TrimSpace(w.Reason)); err != nil {
			return t, FieldError{"typed", err}
		}
		return t, nil
	}
	for _, x := range s.Targets {
		if x.ID != w.School {
			continue
		}
		if x.OverMark != 0 && mark == nil {
			return t, ErrNoMark
		}
		if t, err = AimStep(x, mark, limits, g); err != nil {
			return t, FieldError{"school", err}
		}
		return t, nil
	}
	i := slices.IndexFunc(schools, func(t TargetSchool) bool { return t.ID == w.School })
	if i < 0 || len(s.Targets) > 0 || mark == nil {
		return t, FieldError{"school", fmt.Errorf("there is no school of target %q for %s", w.School, quantity.Lower(s.Title))}
	}
	if t, err = Aim(schools[i], *mark, c.Mark.On, parts, g); err != nil {
		return t, FieldError{"school", err}
	}
	return t, nil
}
