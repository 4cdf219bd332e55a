package shop

import (
	"slices"
	"strings"

	"idlehiss/core/circuit"
	"idlehiss/core/judge"
	"idlehiss/core/runsheet"
)

// wantedAllowance is what was asked for before the air was known.
type wantedAllowance struct {
	From string `json:"from"` // house | typed | the id of a school of hold, or of one of the step's own
	Text string `json:"text"` // of a typed one, or of the step's own school
}

// wantedOf is what a plan asks for at a step: its own schools are looked up.
func wantedOf(in *Plan, step circuit.Step) wantedAllowance {
	w := wantedAllowance{in.Allowance, in.AllowanceText}
	if w.From == "" {
		w.From = "house"
	}
	for _, l := range step.Allows {
		if l.ID == w.From {
			w.Text = l.Allow
		}
	}
	return w
}

// byDefault is what a step is planned by until something else is chosen.
func byDefault(step circuit.Step, schools []judge.School) *Plan {
	in := &Plan{Step: step.ID, School: "exactly", Allowance: step.Allow}
	if len(step.Targets) > 0 {
		in.School = step.Targets[0].ID
	}
	switch {
	case len(step.Allows) > 0:
		in.Allowance = step.Allows[0].ID
	case step.Allow == "":
		in.Allowance = "house"
	case step.Allow != "house" && !slices.ContainsFunc(schools, func(h judge.School) bool { return h.ID == step.Allow }):
		in.Allowance, in.AllowanceText = "typed", step.Allow
	}
	return in
}

func (l *live) allowance() runsheet.Allowance {
	if l.hold.Purpose == "rig proof" {
		return runsheet.ForProof(l.rig.Gauge)
	}
	a, _ := allowanceFor(l.rig.Wanted, l.step, l.rig.Gauge, l.schools, l.rig.GasM3, l.rig.Target.Pa, l.rig.AmbientPa)
	return a
}

// allowanceFor resolves a wanted allowance; the house's needs the air and falls
// back on the still needle without it, as does one that cannot be read. asked is
// what the gauge must be able to see of it, Pa/s.
func allowanceFor(w wantedAllowance, step circuit.Step, g runsheet.Gauge, schools []judge.School, gasM3, targetPa, ambientPa float64) (a runsheet.Allowance, asked float64) {
	from := w.From
	if w.Text != "" {
		from = w.Text
	}
	a, asked, err := runsheet.AllowanceOf(from, schools, g, gasM3, targetPa, ambientPa)
	if err != nil {
		a, asked, _ = runsheet.AllowanceOf("", schools, g, gasM3, targetPa, ambientPa)
	}
	if w.From == "house" && a.From != "house" {
		a.Says = "1 mL of coolant an hour, once the strokes have told the air; until then " + lower(a.Says)
	}
	if i := slices.IndexFunc(step.Allows, func(l circuit.Loss) bool { return l.ID == w.From }); i >= 0 {
		says := title(step.Allows[i].Title)
		if a.From == "typed" {
			says += "."
		} else {
			says += ": " + lower(a.Says)
		}
		a.From, a.Says = w.From, says
	} else if w.From == "typed" && w.Text == step.Allow {
		a.Says = strings.Replace(a.Says, "As typed", "By the sheet", 1) // nobody typed it
	}
	return a, asked
}
