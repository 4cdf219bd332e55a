package passages

import (
	"cmp"
	"fmt"
	"math"
	"math/bits"
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
	look := lookahead{p: p, done: done, shows: make([][]byte, len(p.Tests)), told: map[looked]float64{}}
	for _, id := range ids {
		look.share = append(look.share, out.Odds[id])
	}
	if sound {
		look.share = append(look.share, none/total)
	}
	all := uint64(1)<<len(look.share) - 1
	for i, t := range p.Tests {
		look.shows[i] = make([]byte, len(look.share))
		places := []string{""}
		for k, id := range ids {
			at := slices.Index(places, t.Out[id])
			if at < 0 {
				at, places = len(places), append(places, t.Out[id])
			}
			look.shows[i][k] = byte(at)
		}
		if !done[i] && len(look.split(i, all)) < 2 {
			out.Excused[i] = p.excusedBy(t, results, left)
		}
	}
	from := len(p.Tests)
	if n := len(results); n > 0 {
		from = results[n-1].Test
	}
	_, out.Test = look.minutes(all, from, lookAhead)
	return out
}

// lookAhead is how many tests are thought through; what follows them is taken from how much is still open.
const (
	lookAhead     = 2
	minutesPerBit = 5.0 // what it takes to halve what is open: about one test with its set-up
)

// lookahead finds the test after which least is to be expected until nothing more can be told apart, everything put
// back. The last of what may be is that nothing leaks, where that may be.
type lookahead struct {
	p     Plan
	share []float64    // of each that may be
	shows [][]byte     // of each test, by what may be
	done  map[int]bool // with two leaks one that was done could split what is left, and would show the same again
	told  map[looked]float64
}

type looked struct {
	open uint64
	at   int
	deep int
}

// split is what may be by what a test would show.
func (l *lookahead) split(test int, open uint64) []uint64 {
	var by [64]uint64
	for k := range l.share {
		if open>>k&1 == 1 {
			by[l.shows[test][k]&63] |= 1 << k
		}
	}
	var out []uint64
	for _, b := range by {
		if b != 0 {
			out = append(out, b)
		}
	}
	return out
}

func (l *lookahead) enter(at, test int) float64 {
	if at == len(l.p.Tests) {
		return l.p.home.minutes(l.p.Tests[test].setup)
	}
	return l.p.Tests[at].setup.minutes(l.p.Tests[test].setup)
}

// minutes is what is to be expected from a test on, and the best one to go on with; -1 where none tells more.
func (l *lookahead) minutes(open uint64, at, deep int) (float64, int) {
	back := 0.0
	if at < len(l.p.Tests) {
		back = l.p.Tests[at].setup.minutes(l.p.home)
	}
	if bits.OnesCount64(open) < 2 {
		return back, -1
	}
	sum := 0.0
	for k, x := range l.share {
		if open>>k&1 == 1 {
			sum += x
		}
	}
	if deep == 0 {
		halvings := 0.0
		for k, x := range l.share {
			if open>>k&1 == 1 && x > 0 {
				halvings -= x / sum * math.Log2(x/sum)
			}
		}
		return back + halvings*minutesPerBit, -1
	}
	// Of tests that would tell the same the nearest is enough.
	type way struct {
		test int
		cost float64
		into []uint64
	}
	ways := map[string]way{}
	var order []string
	for i, t := range l.p.Tests {
		into := l.split(i, open)
		if l.done[i] || len(into) < 2 {
			continue
		}
		key, cost := fmt.Sprint(into), l.enter(at, i)+t.Minutes()
		if was, known := ways[key]; !known {
			ways[key], order = way{i, cost, into}, append(order, key)
		} else if cost < was.cost {
			ways[key] = way{i, cost, into}
		}
	}
	best, which := math.Inf(1), -1
	for _, key := range order {
		w := ways[key]
		cost := w.cost
		for _, b := range w.into {
			p := 0.0
			for k, x := range l.share {
				if b>>k&1 == 1 {
					p += x
				}
			}
			k := looked{b, w.test, deep - 1}
			next, known := l.told[k]
			if !known {
				next, _ = l.minutes(b, w.test, deep-1)
				l.told[k] = next
			}
			cost += p / sum * next
		}
		if cost < best {
			best, which = cost, w.test
		}
	}
	if which < 0 {
		return back, -1
	}
	return best, which
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

func sumOf(ids []string, odds map[string]float64) float64 {
	sum := 0.0
	for _, id := range ids {
		sum += math.Max(odds[id], 1e-6)
	}
	return sum
}
