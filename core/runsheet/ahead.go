package runsheet

import (
	"fmt"

	"idlehiss/core/circuit"
	"idlehiss/core/judge"
	"idlehiss/core/quantity"
)

// HoldPlan is how long a hold will need: with this gauge, with a finer one, and in a loop that is
// filled further.
type HoldPlan struct {
	Says   string      `json:"says"`
	With   judge.Times `json:"with"`
	Finer  string      `json:"finer"`  // empty where this gauge is fine enough
	Filled string      `json:"filled"` // empty where nothing is filled, or it is full already
}

const (
	worthFiner   = 0.75 // how much sooner a finer gauge must call it to be proposed
	worthFilling = 2.0  // times the air of a loop filled with care, from which filling is proposed
)

// Ahead works out before a hold of a step how long it will need with so much air (m³; counted by
// strokes, or the usual). times plays the judge for a question.
func Ahead(c *circuit.Circuit, s circuit.Step, p *Planned, g Gauge, schools []judge.School, airM3 float64, counted bool, ambientPa float64, times func(judge.Question) (judge.Times, error)) (out HoldPlan, err error) {
	at := p.Target.Pa
	fills := c.MayBeFilled() != "" && !s.Draws()
	with := func(airM3 float64, gauge judge.Gauge) (judge.Times, float64, error) {
		allow, _ := p.Wanted.Resolve(s, g, schools, airM3, at, ambientPa)
		t, err := times(judge.Question{AmbientPa: ambientPa, AtPa: &at, LimitPaPerS: allow.PaPerS, Gauge: gauge})
		return t, allow.PaPerS * airM3, err
	}
	about := "the usual " + quantity.Significant(airM3*1e3, 2) + " L of air"
	if counted {
		about = "the " + quantity.Significant(airM3*1e3, 2) + " L of air that the strokes show"
	}
	var size float64 // of the leak that is allowed, Pa·m³/s
	if out.With, size, err = with(airM3, g.ForJudge()); err != nil {
		return out, err
	}
	out.Says = fmt.Sprintf("With this gauge and %s: %s", about, quantity.Lower(out.With.Says(fills)))
	if fine, ok := judge.Finer(g.ForJudge(), at); ok {
		better, _, err := with(airM3, fine)
		if err != nil {
			return out, err
		}
		if better.TightS != nil && (out.With.TightS == nil || *better.TightS < *out.With.TightS*worthFiner) {
			out.Finer = fmt.Sprintf("A digital gauge that shows %s kPa: %s", quantity.Significant(fine.DigitalPa/1e3, 1), quantity.Lower(better.Says(fills)))
		}
	}
	if full := judge.NearlyFullM3; fills && airM3 > worthFilling*full {
		filled, smaller, err := with(full, g.ForJudge())
		if err != nil {
			return out, err
		}
		out.Filled = fmt.Sprintf("Filled until %s L of air is left: %s", quantity.Significant(full*1e3, 1), quantity.Lower(filled.Says(fills)))
		if less := size / smaller; less > worthFilling {
			out.Filled += fmt.Sprintf(" What is allowed is then a leak %s times smaller.", quantity.Significant(less, 2))
		}
	}
	return out, nil
}
