package steps

import (
	"cmp"
	"fmt"
	"math"
	"slices"

	"idlehiss/core/judge"
	"idlehiss/core/quantity"
	"idlehiss/core/terms"
)

// Tested is a called hold as far as the proof of a repair asks of it.
type Tested struct {
	ID          string
	Step        string
	Condition   terms.Condition
	Under       string  // the condition in words
	TargetPa    float64 // from ambient; under vacuum negative
	GasM3       float64 // trapped air; 0: not known
	LimitPaPerS float64 // allowed loss, Pa/s
	Unit        quantity.Unit
	Report      *judge.Report
}

// Proof is what the holds before and after a repair say of it.
type Proof struct {
	State  terms.Proof `json:"state"`
	Says   string      `json:"says"`   // empty where nothing was mended
	Lost   string      `json:"lost"`   // before; empty where no hold says so
	Loses  string      `json:"loses"`  // after
	Sure   string      `json:"sure"`   // how sure it is that it loses less
	Unlike []string    `json:"unlike"` // what makes the retest unlike the hold before the repair
	Before string      `json:"before"` // the hold that the retest is set against; empty: there is none
	After  string      `json:"after"`  // the retest; empty: there is none
}

// How unlike a retest may be. The pressure by a tenth (as two holds are compared), the trapped air by a third and an
// allowance by a tenth: shop practice.
const (
	unlikePressure  = 0.1
	unlikeAir       = 1.0 / 3
	unlikeAllowance = 0.1
)

// ProveRepair says whether holds before a repair and after it, each in order of time, prove it. Every step that leaked
// before is to be held again; without one, any tight hold after it proves it.
func ProveRepair(before, after []Tested) Proof {
	var all []Proof
	for i, b := range before {
		leaks := b.Report.Call == judge.Leaking || b.Report.Call == judge.NeverReached
		last := !slices.ContainsFunc(before[i+1:], func(x Tested) bool { return x.Step == b.Step && x.Report.Call == b.Report.Call })
		if leaks && last {
			all = append(all, prove(&before[i], after))
		}
	}
	if len(all) == 0 {
		all = append(all, prove(lastLike(before, after), after))
	}
	return slices.MaxFunc(all, func(a, b Proof) int { return cmp.Compare(worse[a.State], worse[b.State]) })
}

// worse orders what is said of several steps.
var worse = map[terms.Proof]int{terms.Proved: 0, terms.ProvedUnlike: 1, terms.ProofUnclear: 2, terms.Unproved: 3, terms.StillLeaks: 4}

// lastLike is the last hold before a repair of the step that was held last after it.
func lastLike(before, after []Tested) *Tested {
	if len(after) == 0 {
		return nil
	}
	step := after[len(after)-1].Step
	for i := range slices.Backward(before) {
		if before[i].Step == step {
			return &before[i]
		}
	}
	return nil
}

// prove sets what was held after a repair against one hold before it; nil: there is none.
func prove(b *Tested, after []Tested) Proof {
	p := Proof{State: terms.Unproved, Unlike: []string{}, Says: "Not proved yet. Hold it again in the same way: a new part can leak too."}
	var last, like *Tested
	for i := range after {
		if b != nil && after[i].Step != b.Step {
			continue
		}
		last = &after[i]
		if b == nil || len(unlike(b, last)) == 0 {
			like = last
		}
	}
	if b != nil {
		p.Before, p.Lost = b.ID, lost(b)
	}
	if last == nil {
		return p
	}
	a := last
	if like != nil && last.Report.Call != judge.Leaking && last.Report.Call != judge.NeverReached {
		a = like
	}
	p.After, p.Loses = a.ID, lost(a)
	if b != nil {
		p.Unlike = append(p.Unlike, unlike(b, a)...)
		p.Sure = sureLess(b, a)
	}
	switch {
	case a.Report.Call == judge.Leaking || a.Report.Call == judge.NeverReached:
		p.State, p.Says = terms.StillLeaks, "The retest leaks. The new part or its joint leaks, or another part leaks too: hunt again."
	case a.Report.Call != judge.Tight:
		p.State, p.Says = terms.ProofUnclear, "Not proved yet: the retest ended without a call. Hold it again for longer."
	case len(p.Unlike) > 0:
		p.State, p.Says = terms.ProvedUnlike, "Not proved yet: the retest is tight, but it was not held like the hold before the repair."
	case b == nil:
		p.State, p.Says = terms.Proved, "Proved: tight after the repair. There is no hold before it to compare with."
	default:
		p.State, p.Says = terms.Proved, "Proved: tight in the same test after the repair."
	}
	return p
}

// lost is what a hold lost, in the unit in which it was read; empty where it was not measured.
func lost(t *Tested) string {
	r := t.Report.RateKPaPerMin
	switch {
	case t.Report.Call == judge.NeverReached:
		return "It could not be pumped up"
	case r == nil:
		return ""
	}
	const paPerS = 1e3 / 60
	if r.Low <= 0 { // nothing is surely lost
		return "Under " + t.Unit.Rate(math.Max(r.High, 0)*paPerS, 2)
	}
	return t.Unit.RateBetween(r.Value*paPerS, r.Low*paPerS, r.High*paPerS, 2)
}

// sureLess says how sure it is that the second of two holds loses less; empty where that cannot be worked out.
func sureLess(b, a *Tested) string {
	c, err := judge.Compare(*b.Report, *a.Report)
	if err != nil {
		return ""
	}
	return quantity.Capital(judge.Likelihood(1-c.Faster)) + " that it loses less than before."
}

// unlike are the differences between a hold and its retest that make the retest prove less.
func unlike(b, a *Tested) []string {
	var out []string
	say := func(format string, args ...any) { out = append(out, fmt.Sprintf(format, args...)) }
	was, is := b.Condition, a.Condition
	was.Note, is.Note = "", "" // nothing follows from a note
	if was != is {
		say("Held before: %s. Held again: %s.", cmp.Or(b.Under, notSaid), cmp.Or(a.Under, notSaid))
	}
	if math.Abs(a.TargetPa-b.TargetPa) > unlikePressure*math.Abs(b.TargetPa) {
		digit := math.Abs(b.TargetPa) / 100
		say("Held before at %s, again at %s.", b.Unit.Show(b.TargetPa, digit), b.Unit.Show(a.TargetPa, digit))
	}
	if b.GasM3 > 0 && a.GasM3 > b.GasM3*(1+unlikeAir) {
		say("Trapped air before: %s L, again: %s L. With more air the same leak falls more slowly.", quantity.Significant(b.GasM3*1e3, 2), quantity.Significant(a.GasM3*1e3, 2))
	}
	if b.LimitPaPerS > 0 && a.LimitPaPerS > b.LimitPaPerS*(1+unlikeAllowance) && !(b.GasM3 > 0 && a.GasM3 > 0 && a.GasM3 < b.GasM3) {
		say("Allowed before: %s, again: %s.", b.Unit.Rate(b.LimitPaPerS, 2), b.Unit.Rate(a.LimitPaPerS, 2))
	}
	return out
}

const notSaid = "no condition noted"
