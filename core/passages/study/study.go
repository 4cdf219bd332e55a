// Package study plays the search for leaking seals in a housing: by the plan, by the tests of the file in their
// order, and one seal at a time.
package study

import (
	"cmp"
	"maps"
	"math/rand/v2"
	"slices"

	"idlehiss/core/circuit"
	"idlehiss/core/passages"
)

// Way is how the next test is chosen.
type Way int

// The ways. Each draws the same conclusions from what it saw.
const (
	Planned  Way = iota // the tests of the plan, each time the one that splits best
	AsFiled             // the file's own tests, in their order, until a seal is named
	Sheet               // every one of them, in their order, and then a seal is named
	Excusing            // the same, those that would show nothing new left out
	OneByOne            // for the likeliest seal that was not tried the test that is nearest
	Ways
)

// What a wrong mend costs, minutes, with the hold after it: of a seal that a test would have told apart, and of one
// that only an act tells apart (it is done in place of the mend).
const (
	wrongMendMinutes = 40
	actMinutes       = 3
)

// Played is what it took until every leak was mended.
type Played struct {
	Minutes float64
	Plugs   int // bores and openings plugged, unplugged, or changed over to
	Tests   int
	Wrong   int // seals mended for nothing
	Meant   int // escapes that are meant, mended: none may be
}

// Leak is one seal and how loud it is: tenfold for every half.
type Leak struct {
	Seal string
	Loud float64 // 0 to 1
}

// besideLouder is how much less loud a leak may be to be noticed at its own place beside another: a fifth.
const besideLouder = 0.35

// Housing is a circuit with its tests, worked out once.
type Housing struct {
	c     *circuit.Circuit
	plans [Ways]passages.Plan
	odds  map[string]float64
	group map[string]int // seals that no test can tell apart have the same
}

// Of prepares a housing; ok is false where the file has no tests of its own to compare with.
func Of(c *circuit.Circuit) (h Housing, ok bool) {
	h = Housing{c: c, odds: map[string]float64{}, group: map[string]int{}}
	all := passages.Tests(c)
	plan := passages.Of(c)
	for i, g := range plan.Apart {
		for _, id := range g {
			h.group[id] = i
		}
	}
	for _, x := range c.Parts {
		h.odds[x.ID] = x.Odds
	}
	var tests []passages.Test
	for _, s := range c.Steps {
		if i := slices.IndexFunc(all, func(t passages.Test) bool { return t.Own == s.ID }); i >= 0 {
			tests = append(tests, all[i])
		}
	}
	own := passages.Fixed(c, tests)
	own.Seals = plan.Seals
	h.plans = [Ways]passages.Plan{passages.Fixed(c, all), own, own, own, passages.Fixed(c, all)}
	return h, len(own.Tests) > 1 && len(plan.Tests) > 1
}

// Draw takes so many leaking seals by the file's odds.
func (h Housing) Draw(r *rand.Rand, leaks int) []Leak {
	var out []Leak
	for len(out) < min(leaks, len(h.plans[Planned].Seals)) {
		sum := 0.0
		for _, id := range h.plans[Planned].Seals {
			sum += h.odds[id]
		}
		at := r.Float64() * sum
		for _, id := range h.plans[Planned].Seals {
			if at -= h.odds[id]; at < 0 {
				if !slices.ContainsFunc(out, func(l Leak) bool { return l.Seal == id }) {
					out = append(out, Leak{id, r.Float64()})
				}
				break
			}
		}
	}
	return out
}

// Play goes on until every leak is mended. In each test the loudest leak that it tries is noticed, and at their own
// places those that are nearly as loud; ears miss a place that often, of 1.
func (h Housing) Play(r *rand.Rand, way Way, leaks []Leak, ears float64) (out Played) {
	leaks = slices.Clone(leaks)
	p := h.plans[way]
	var results []passages.Result
	var last *passages.Test
	tried := map[string]bool{} // mended
	odds := maps.Clone(h.odds)
	for len(leaks) > 0 {
		n := p.Next(results, odds)
		if i := h.next(way, n, results, last); i >= 0 {
			minutes, changes := p.Tests[i].After(h.c, last)
			out.count(minutes, changes)
			out.Tests++
			last = &p.Tests[i]
			places := slices.DeleteFunc(noticed(last, leaks), func(string) bool { return ears > 0 && r.Float64() < ears })
			results = append(results, passages.Result{Test: i, Places: places})
			continue
		}
		left := slices.DeleteFunc(slices.Clone(n.Left), func(id string) bool { return tried[id] })
		if len(left) == 0 {
			left = slices.DeleteFunc(slices.Clone(p.Seals), func(id string) bool { return tried[id] })
			slices.SortStableFunc(left, func(a, b string) int { return cmp.Compare(n.Odds[b], n.Odds[a]) })
		}
		seal := left[0]
		i := slices.IndexFunc(leaks, func(l Leak) bool { return l.Seal == seal })
		tried[seal] = true
		odds[seal] = 1e-6
		if i < 0 {
			if slices.ContainsFunc(leaks, func(l Leak) bool { return h.group[l.Seal] == h.group[seal] }) {
				out.Minutes += actMinutes
			} else {
				out.Minutes += wrongMendMinutes
				out.Wrong++
			}
			continue
		}
		if slices.ContainsFunc(h.c.Parts, func(x circuit.Part) bool { return x.ID == seal && x.Meant > 0 }) {
			out.Meant++
		}
		leaks = slices.Delete(leaks, i, i+1)
		// What held, held; where air came out is looked at again.
		results = slices.DeleteFunc(results, func(r passages.Result) bool { return len(r.Places) > 0 })
	}
	if last != nil {
		out.count(last.Back(h.c))
	}
	return out
}

// noticed are the places at which a test shows leaks.
func noticed(t *passages.Test, leaks []Leak) []string {
	var places []string
	loudest := 0.0
	for _, l := range leaks {
		if t.Out[l.Seal] != "" {
			loudest = max(loudest, l.Loud)
		}
	}
	for _, l := range leaks {
		at := t.Out[l.Seal]
		if at != "" && l.Loud >= loudest-besideLouder && !slices.Contains(places, at) {
			places = append(places, at)
		}
	}
	if len(places) > 1 { // what falls unseen is not noticed beside what is heard
		places = slices.DeleteFunc(places, func(at string) bool { return at == passages.Unseen })
	}
	return places
}

func (p *Played) count(minutes float64, changes []passages.Change) {
	p.Minutes += minutes
	for _, x := range changes {
		if x.Does == passages.Plug || x.Does == passages.Unplug || x.Does == passages.Feed {
			p.Plugs++
		}
	}
}

// next is the test that a way does now, -1: none.
func (h Housing) next(way Way, n passages.Next, results []passages.Result, last *passages.Test) int {
	if way == Planned || n.Test < 0 && way != Sheet {
		return n.Test
	}
	p := h.plans[way]
	done := func(i int) bool {
		return slices.ContainsFunc(results, func(r passages.Result) bool { return r.Test == i })
	}
	if way != OneByOne {
		for i := range p.Tests {
			if _, excused := n.Excused[i]; !done(i) && (way != Excusing || !excused) {
				return i
			}
		}
		return -1
	}
	for _, id := range n.Left {
		if slices.ContainsFunc(results, func(r passages.Result) bool { return p.Tests[r.Test].Out[id] != "" }) {
			continue
		}
		best, least := -1, 0.0
		for i, t := range p.Tests {
			if t.Out[id] == "" || done(i) {
				continue
			}
			if minutes, _ := t.After(h.c, last); best < 0 || minutes < least {
				best, least = i, minutes
			}
		}
		if best >= 0 {
			return best
		}
	}
	return n.Test
}
