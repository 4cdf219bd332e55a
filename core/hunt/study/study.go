package study

import (
	"slices"

	"idlehiss/core/circuit"
)

// Run hunts so many cases of every circuit by every policy, each policy with the same luck.
func Run(circuits []circuit.Circuit, known Known, w World, each int, seed uint64) []Outcome {
	var out []Outcome
	for c := range circuits {
		x := &circuits[c]
		for n := range each {
			for _, p := range Policies {
				o := p.Run(Draw(x, known, w, seed+uint64(c*each+n)))
				o.Policy = p.Name
				out = append(out, o)
			}
		}
	}
	return out
}

// Row is what came of one policy.
type Row struct {
	Policy  string
	N       int
	Mean    float64 // minutes
	Ninth   float64 // nine in ten took no longer
	Right   float64 // share whose first named part leaks
	Wrong   float64 // parts mended for nothing, a hunt
	GivenUp float64 // share
}

// Rows sums up outcomes by policy, in the order of Policies.
func Rows(all []Outcome) []Row {
	var out []Row
	for _, p := range Policies {
		r := Row{Policy: p.Name}
		var minutes []float64
		for _, o := range all {
			if o.Policy != p.Name {
				continue
			}
			r.N++
			minutes = append(minutes, o.Minutes)
			r.Mean += o.Minutes
			r.Wrong += float64(o.Wrong)
			if o.Right {
				r.Right++
			}
			if o.GivenUp {
				r.GivenUp++
			}
		}
		n := float64(max(1, r.N))
		slices.Sort(minutes)
		if len(minutes) > 0 {
			r.Ninth = minutes[len(minutes)*9/10]
		}
		r.Mean, r.Wrong, r.Right, r.GivenUp = r.Mean/n, r.Wrong/n, r.Right/n, r.GivenUp/n
		out = append(out, r)
	}
	return out
}

// Of are the outcomes of one circuit.
func Of(all []Outcome, circuit string) []Outcome {
	var out []Outcome
	for _, o := range all {
		if o.Circuit == circuit {
			out = append(out, o)
		}
	}
	return out
}
