package main

import (
	"fmt"
	"strings"

	"idlehiss/core/circuit"
	"idlehiss/core/quantity"
	"idlehiss/core/runsheet"
	"idlehiss/library"
)

type planCmd struct {
	ID       string       `arg:"" help:"A circuit's id."`
	Mark     string       `required:"" help:"The mark on the cap, as it stands there, such as 1.1 or 13-15." placeholder:"MARK"`
	School   string       `default:"exactly" help:"School of target: exactly, middle, at-least, margin, modest."`
	Unit     string       `default:"psi" help:"Unit of the gauge's ring that is read."`
	Top      float64      `default:"30" help:"Where that ring ends, in its unit."`
	Division float64      `default:"0.5" help:"Between two printed marks, in its unit."`
	Hold     string       `default:"five-minutes-still" help:"School of hold for the allowance."`
	Ambient  pressureFlag `default:"101.325kPa" help:"Air pressure around, absolute."`
	JSON     bool         `name:"json" help:"Print one JSON document."`
}

// planned is the run sheet as a document.
type planned struct {
	Circuit         string           `json:"circuit"`
	Mark            string           `json:"mark"`
	MarkUnit        string           `json:"mark_unit"`
	MarkKPa         float64          `json:"mark_kpa"`
	Doubt           string           `json:"doubt"`
	WeakestOf       string           `json:"weakest_of"`
	WeakestKPa      float64          `json:"weakest_kpa"`
	TargetKPa       float64          `json:"target_kpa"`
	Target          string           `json:"target"`
	Says            string           `json:"says"`
	GaugeFits       bool             `json:"gauge_fits"`
	GaugeSays       []string         `json:"gauge_says"`
	AllowanceKPaMin float64          `json:"allowance_kpa_per_min"`
	AllowanceSays   string           `json:"allowance_says"`
	Stages          []runsheet.Stage `json:"stages"`
	NotTested       []string         `json:"not_tested"`
	Standing        string           `json:"standing"`
}

func (c *planCmd) Run(o outside) error {
	x, err := library.Circuit(c.ID)
	if err != nil {
		return badInput("%w", err)
	}
	m, err := quantity.DecodeMark(c.Mark, x.Plausible())
	if err != nil {
		return badInput("--mark: %w", err)
	}
	g := runsheet.Gauge{Name: "gauge", Kind: "needle", Rings: []runsheet.Ring{{Unit: c.Unit, To: c.Top, Division: c.Division}}}
	if err := g.Faults(); err != nil {
		return badInput("the gauge: %w", err)
	}
	target, err := c.aim(&x, m.Readings[0], g)
	if err != nil {
		return err
	}
	holds, err := library.HoldSchools()
	if err != nil {
		return err
	}
	var allow runsheet.Allowance
	asked := 0.0 // "nothing" is by its nature what the gauge can see
	for _, s := range holds {
		if s.ID == c.Hold {
			if allow = runsheet.OfSchool(s, g); s.AllowedPa > 0 {
				asked = allow.PaPerS
			}
		}
	}
	if allow.From == "" {
		return badInput("--hold: there is no school of hold %q", c.Hold)
	}
	fit := g.Fit(target.Pa, asked, allow.HoldS)
	r := m.Readings[0]
	doc := planned{Circuit: x.ID, Mark: m.Text, MarkUnit: r.Unit.Symbol, MarkKPa: r.HighPa / 1e3, Doubt: m.Doubt, WeakestOf: target.Weakest.Of, WeakestKPa: target.Weakest.Pa / 1e3,
		TargetKPa: target.Pa / 1e3, Target: target.Printed, Says: target.Says, GaugeFits: fit.Fits, GaugeSays: fit.Says, AllowanceKPaMin: allow.PaPerS * 60 / 1e3, AllowanceSays: allow.Says,
		Stages: runsheet.Stages(&x), NotTested: x.NotTested, Standing: x.Standing}
	if c.JSON {
		return document(o.out, doc)
	}
	fmt.Fprintf(o.out, "%s\nThe %s says %s: %s kPa. %s\n%s\n%s\n%s\n", x.Title, x.Mark.On, m.Text, quantity.Significant(doc.MarkKPa, 3), m.Doubt, target.Says, strings.Join(fit.Says, " "), allow.Says)
	for i, s := range doc.Stages {
		fmt.Fprintf(o.out, "\n%2d. %s. %s\n", i+1, s.Title, s.Text)
		for _, k := range s.Cautions {
			fmt.Fprintf(o.out, "    ! %s\n", k.Text)
		}
		for _, t := range s.Ticks {
			fmt.Fprintf(o.out, "    [ ] %s\n", t.Text)
		}
	}
	fmt.Fprintf(o.out, "\n%s\n%s\n", strings.Join(x.NotTested, "\n"), x.Standing)
	return nil
}

func (c *planCmd) aim(x *circuit.Circuit, r quantity.Reading, g runsheet.Gauge) (runsheet.Target, error) {
	schools, err := library.TargetSchools()
	if err != nil {
		return runsheet.Target{}, err
	}
	var parts []runsheet.Limit
	if p, ok := x.WeakestPart(x.Tested().ID); ok {
		parts = append(parts, runsheet.Limit{Of: strings.ToLower(p.Title), Pa: float64(p.Limit), CeilingPa: float64(p.Limit), Source: x.Source})
	}
	for _, s := range schools {
		if s.ID == c.School {
			t, err := runsheet.Aim(s, r, x.Mark.On, parts, g)
			if err != nil {
				return t, badInput("--school: %w", err)
			}
			return t, nil
		}
	}
	return runsheet.Target{}, badInput("--school: there is no school of target %q", c.School)
}
