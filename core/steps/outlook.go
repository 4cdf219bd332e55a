package steps

import (
	"fmt"

	"idlehiss/core/judge"
	"idlehiss/core/quantity"
)

// ForkAt is the fork at a moment of the hold's axis.
type ForkAt struct {
	AtS     float64  `json:"t"`
	AbovePa *float64 `json:"above_pa"` // tight above
	BelowPa *float64 `json:"below_pa"` // leaking below
}

// ForkIn turns a point of the judge's fork (kPa) into Pa.
func ForkIn(p judge.ForkPoint) ForkAt {
	pa := func(k *float64) *float64 {
		if k == nil {
			return nil
		}
		return new(*k * 1e3)
	}
	return ForkAt{p.AtS, pa(p.TightAboveKPa), pa(p.LeakingBelowKPa)}
}

// Ahead is what the outlook of a hold that is not called yet follows from.
type Ahead struct {
	Fork   []ForkAt
	NowPa  float64 // where the needle stands
	ShutS  float64 // the supply was shut, on the hold's axis
	Draws  bool    // under vacuum
	Unit   quantity.Unit
	StepPa float64 // what the gauge shows
}

// Says is how a hold that is not called yet will be.
func (a Ahead) Says(r *judge.Report) string {
	lead := "Too early to say."
	switch r.Shape {
	case judge.ShapeSettling:
		lead = "Settling. Too early to say."
	case judge.ShapeSettlingLeak, judge.ShapeLeak:
		lead = "Losing pressure. Not sure yet whether too much."
	}
	if r.MoreS == nil || *r.MoreS <= 0 || r.Fork == nil {
		return lead
	}
	away, back, sign := "above", "Below", 1.
	if a.Draws {
		away, back, sign = "deeper than", "Less deep than", -1
	}
	// Of the fork's two sides the one that the needle is heading for: it must lie below
	// where the needle stands, since it will not climb back.
	want := r.Fork.AtS + *r.MoreS
	leaks := r.RateKPaPerMin != nil && r.RateKPaPerMin.Value > r.LimitKPaPerMin
	for _, f := range a.Fork {
		at := quantity.Clock(f.AtS - a.ShutS)
		switch {
		case f.AtS < want-1:
		case !leaks && f.AbovePa != nil && sign*(*f.AbovePa-a.NowPa) < 0:
			return fmt.Sprintf("%s Still %s %s at %s in: tight.", lead, away, a.Unit.Show(*f.AbovePa, a.StepPa), at)
		case leaks && f.BelowPa != nil && sign*(*f.BelowPa-a.NowPa) < 0:
			return fmt.Sprintf("%s %s %s at %s in: leaking.", lead, back, a.Unit.Show(*f.BelowPa, a.StepPa), at)
		}
	}
	return fmt.Sprintf("%s About %s more for a call.", lead, quantity.Duration(*r.MoreS))
}
