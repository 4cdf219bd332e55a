package slate

import (
	"fmt"

	"idlehiss/core/judge"
	"idlehiss/core/quantity"
)

var hold = Calculator{
	ID: "hold", Title: "How long to hold", Formula: "the judge's own rule on an ordinary settling, tight and at twice the allowance",
	Fields: []Field{
		{ID: "limit", Label: "Allowance", Kind: Rate, Help: "such as 10 kPa in 2 min"}, atField,
		{ID: "division", Label: "Division of a needle gauge", Kind: Kind(quantity.Pressure), Unit: "kPa", Optional: true, Help: "such as 2 kPa; or"},
		{ID: "digital", Label: "Last digit of a digital gauge", Kind: Kind(quantity.Pressure), Unit: "kPa", Optional: true, Help: "such as 0.1 kPa"},
		ambientField,
	},
	work: func(in Inputs) (Answer, error) {
		at := in.SI("at")
		q := judge.Question{AmbientPa: in.ambient, AtPa: &at, LimitPaPerS: in.SI("limit"), Gauge: judge.Gauge{DivisionPa: in.SI("division"), DigitalPa: in.SI("digital")}}
		if in.Given("division") == in.Given("digital") {
			return Answer{}, wrong("division", "type the division of a needle gauge or the last digit of a digital gauge")
		}
		p, err := judge.PlanHold(q)
		if err != nil {
			return Answer{}, FieldError{"limit", err}
		}
		a := Answer{Sentence: p.Says(false), Figures: []Figure{}}
		for _, f := range []struct {
			id, label string
			s         *float64
		}{{"tight_s", "Until a tight one is called tight", p.TightS}, {"leaking_s", "Until a leak of twice the allowance is called", p.LeakingS}} {
			if f.s != nil {
				a.Figures = append(a.Figures, Figure{ID: f.id, Label: f.label, Value: *f.s, Text: quantity.Clock(*f.s) + " min"})
			}
		}
		a.Notes = []string{fmt.Sprintf("Read every %s.", quantity.Clock(p.EveryS))}
		return a, nil
	},
}
