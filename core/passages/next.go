package passages

import (
	"cmp"
	"math"
	"slices"
)

// Result is what a test showed.
type Result struct {
	Test  int    // of the plan's
	Where string // as in Test.Out; empty: it held
}

// Next is what to do after some results.
type Next struct {
	Test    int                // of the plan's, -1: none is wanted any more
	Left    []string           // seals that may still be the one that leaks, likeliest first; none: all hold
	Excused map[int]int        // tests that would show nothing new, each with the result (by its place in the list) that made it so
	Odds    map[string]float64 // of each seal that is left
}

// soundBefore is how likely it was before any test that nothing leaks: a housing comes to the bench with a complaint.
const soundBefore = 0.05

// Next is the test that splits what is left best for its minutes, given what was seen. odds are before any test, not
// necessarily of sum 1. One seal is taken to leak, or none; where nothing fits, two do, and what is left is every
// seal that some result points to.
func (p Plan) Next(results []Result, odds map[string]float64) Next {
	out := Next{Test: -1, Excused: map[int]int{}, Odds: map[string]float64{}}
	fits := func(id string, upTo int) bool {
		for _, r := range results[:upTo] {
			if p.Tests[r.Test].Out[id] != r.Where {
				return false
			}
		}
		return true
	}
	left := func(upTo int) (ids []string, sound bool) {
		sound = true
		for _, r := range results[:upTo] {
			sound = sound && r.Where == ""
		}
		for _, id := range p.Seals {
			if fits(id, upTo) {
				ids = append(ids, id)
			}
		}
		return ids, sound
	}
	ids, sound := left(len(results))
	if len(ids) == 0 && !sound { // no single seal explains it
		for _, id := range p.Seals {
			if slices.ContainsFunc(results, func(r Result) bool { return r.Where != "" && p.Tests[r.Test].Out[id] == r.Where }) {
				ids = append(ids, id)
			}
		}
	}
	total := 0.0
	for _, id := range ids {
		out.Odds[id] = math.Max(odds[id], 1e-6)
		total += out.Odds[id]
	}
	none := 0.0
	if sound {
		none = soundBefore * sumOf(p.Seals, odds)
		total += none
	}
	for id := range out.Odds {
		out.Odds[id] /= total
	}
	slices.SortStableFunc(ids, func(a, b string) int { return cmp.Compare(out.Odds[b], out.Odds[a]) })
	out.Left = ids
	done := map[int]bool{}
	for _, r := range results {
		done[r.Test] = true
	}
	best := 0.0
	for i, t := range p.Tests {
		if done[i] {
			continue
		}
		// What it would show, and how likely each is.
		shows := map[string]float64{}
		if sound {
			shows[""] = none / total
		}
		for _, id := range ids {
			shows[t.Out[id]] += out.Odds[id]
		}
		if len(shows) < 2 {
			out.Excused[i] = p.excusedBy(t, results, left)
			continue
		}
		minutes := t.Minutes()
		if n := len(results); n > 0 {
			minutes += p.Tests[results[n-1].Test].setup.minutes(t.setup)
		}
		if worth := entropy(shows) / minutes; worth > best {
			best, out.Test = worth, i
		}
	}
	return out
}

// excusedBy is the first result after which a test would have shown nothing new.
func (p Plan) excusedBy(t Test, results []Result, left func(int) ([]string, bool)) int {
	for n := range results {
		ids, sound := left(n + 1)
		shows := map[string]bool{}
		if sound {
			shows[""] = true
		}
		for _, id := range ids {
			shows[t.Out[id]] = true
		}
		if len(shows) < 2 {
			return n
		}
	}
	return len(results) - 1
}

func entropy(shares map[string]float64) float64 {
	sum := 0.0
	for _, x := range shares {
		if x > 0 {
			sum -= x * math.Log2(x)
		}
	}
	return sum
}

func sumOf(ids []string, odds map[string]float64) float64 {
	sum := 0.0
	for _, id := range ids {
		sum += math.Max(odds[id], 1e-6)
	}
	return sum
}
