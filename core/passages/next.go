package passages

import (
	"cmp"
	"math"
	"slices"
)

// Result is what a test showed.
type Result struct {
	Test   int      // of the plan's
	Places []string // where air came out, as in Test.Out; none: it held
	Ways   []string // seals on the ways to those of the places at which no single leak should come out
	Fell   bool     // the needle fell, and where it came out was not looked for: the test may be done still
}

// Next is what to do after some results.
type Next struct {
	Test    int                // of the plan's; -1: none is wanted any more
	Named   [][]string         // the seals that leak at 19 to 1, or the likeliest where no test tells more; those that none can tell apart stand together
	Sound   bool               // likewise: none of them leaks
	Left    []string           // seals that may leak yet, likeliest first
	Excused map[int]int        // tests that would show nothing new, each with the result (by its place in the list) that made it so
	Odds    map[string]float64 // that a seal leaks, of 1
}

// What is believed before any test, and of ears. PHYSICS §13: two leaks at once are one in ten of the single ones.
const (
	soundBefore = 0.05  // nothing leaks: a housing comes to the bench with a complaint
	twoBefore   = 0.1   // two leak
	hidden      = 0.1   // a place is not noticed beside a louder one
	slip        = 0.003 // air is noticed where none comes out, or a place alone is missed
	strayed     = 0.1   // a seal's leak comes out farther on than it should, or through a second one
	namedAt     = 0.95  // 19 to 1
	leftAt      = 0.05  // a seal that is so much less likely than the likeliest is not spoken of
	singleAt    = 0.01  // nor does a test for its sake tell anything
)

// How the next test is chosen.
const (
	minutesPerBit = 5.0 // what it takes to halve what is open: about one test with its set-up
	thought       = 8   // so many of the best tests are thought through with the one after
	faint         = 1e-5
	rare          = 0.02 // what comes to less is not thought through
)

// Next is the test after which least is to be expected until a seal is named, given what was seen. odds are before
// any test, not necessarily of sum 1. One seal leaks, or two, or none.
func (p Plan) Next(results []Result, odds map[string]float64) Next {
	b := p.believe(odds)
	out := Next{Test: -1, Excused: map[int]int{}, Odds: map[string]float64{}}
	excused := func(n int) { // by the first n results
		for i := range p.Tests {
			_, known := out.Excused[i]
			if !known && !slices.ContainsFunc(results, func(r Result) bool { return r.Test == i && !r.Fell }) && !b.splits(i) {
				out.Excused[i] = max(0, n-1)
			}
		}
	}
	for n, r := range results {
		b.see(r)
		excused(n + 1)
	}
	done, from := map[int]bool{}, -1
	for _, r := range results {
		if !r.Fell {
			done[r.Test], from = true, r.Test
		}
	}
	m, none := b.marginal(b.weight)
	likeliest := 0
	for k, ids := range b.classes {
		for _, id := range ids {
			out.Odds[id] = m[k] * b.within[id]
		}
		if m[k] > m[likeliest] {
			likeliest = k
		}
	}
	for k, ids := range b.classes {
		if m[k] >= leftAt*m[likeliest] && m[k] >= singleAt {
			out.Left = append(out.Left, ids...)
		}
	}
	sort := func(ids []string) {
		slices.SortStableFunc(ids, func(a, b string) int { return cmp.Compare(out.Odds[b], out.Odds[a]) })
	}
	sort(out.Left)
	if len(m) == 0 {
		return out
	}
	if len(results) == 0 || none < namedAt && m[likeliest] < namedAt {
		if p.now != nil {
			from = -1
		}
		out.Test = b.best(done, from)
	}
	switch {
	case out.Test >= 0:
	case none > m[likeliest]:
		out.Sound = true
	case len(results) > 0:
		out.Left = nil // another leak shows in the hold after the mend
		for k, ids := range b.classes {
			if k == likeliest || m[k] > 0.5 {
				out.Named, out.Left = append(out.Named, ids), append(out.Left, ids...)
			}
		}
		sort(out.Left)
	}
	return out
}

// some are sets that may be, with their weights; of any sum.
type some struct {
	sets   []int
	weight []float64
	sum    float64
}

// by are sets that may be by what a test shows.
func (b *belief) by(test int, s some) []some {
	var out []some
	var at [256]int // where an outcome stands, plus one
	for i, h := range s.sets {
		o := b.outcome[test][h] & 255
		if at[o] == 0 {
			out = append(out, some{})
			at[o] = len(out)
		}
		x := &out[at[o]-1]
		x.sets, x.weight, x.sum = append(x.sets, h), append(x.weight, s.weight[i]), x.sum+s.weight[i]
	}
	return out
}

// open is what is to be expected after the last test that is thought of, without the way back, minutes: nothing where a
// seal is named or none leaks.
func (b *belief) open(s some) float64 {
	m := make([]float64, len(b.classes)+1)
	all := 0.0
	for i, h := range s.sets {
		w := s.weight[i]
		l := b.leaks[h]
		if l[0] < 0 {
			m[len(m)-1] += w
			all += w
			continue
		}
		m[l[0]] += w
		all += w
		if l[1] >= 0 {
			m[l[1]] += w
			all += w
		}
	}
	bits := 0.0
	for _, w := range m {
		if w >= namedAt*s.sum {
			return 0
		}
		if w > 0 {
			bits -= w / all * math.Log2(w/all)
		}
	}
	return bits * minutesPerBit
}

// best is the test to do now; -1: none tells anything.
func (b *belief) best(done map[int]bool, from int) int {
	var s some
	for h, w := range b.weight {
		if w > faint {
			s.sets, s.weight, s.sum = append(s.sets, h), append(s.weight, w), s.sum+w
		}
	}
	type way struct {
		test int
		cost float64
	}
	var ways []way
	for i := range b.p.Tests {
		if done[i] || !b.splits(i) {
			continue
		}
		cost := b.enter(from, i)
		for _, x := range b.by(i, s) {
			cost += x.sum / s.sum * (b.open(x) + b.back(i))
		}
		ways = append(ways, way{i, cost})
	}
	if len(ways) == 0 {
		return -1
	}
	slices.SortStableFunc(ways, func(a, b way) int { return cmp.Compare(a.cost, b.cost) })
	for k := range ways[:min(thought, len(ways))] {
		w := &ways[k]
		w.cost = b.enter(from, w.test)
		done[w.test] = true
		for _, x := range b.by(w.test, s) {
			w.cost += x.sum / s.sum * b.rest(x, w.test, x.sum/s.sum, done)
		}
		delete(done, w.test)
	}
	ways = ways[:min(thought, len(ways))]
	return slices.MinFunc(ways, func(a, b way) int { return cmp.Compare(a.cost, b.cost) }).test
}

// rest is what is to be expected after a test until a seal is named and everything is put back, where each test after it
// is the best one by what stays open after it alone. share is how likely it comes to this.
func (b *belief) rest(s some, at int, share float64, done map[int]bool) float64 {
	open := b.open(s)
	stop := open + b.back(at)
	if open == 0 || share < rare {
		return stop
	}
	best, least := -1, math.Inf(1)
	var after []some
	for i := range b.p.Tests {
		if done[i] {
			continue
		}
		into := b.by(i, s)
		if len(into) < 2 {
			continue
		}
		cost := b.enter(at, i) + b.back(i)
		for _, x := range into {
			cost += x.sum / s.sum * b.open(x)
		}
		if cost < least {
			best, least, after = i, cost, into
		}
	}
	if best < 0 {
		return stop
	}
	done[best] = true
	cost := b.enter(at, best)
	for _, x := range after {
		cost += x.sum / s.sum * b.rest(x, best, share*x.sum/s.sum, done)
	}
	delete(done, best)
	return cost
}

// enter is what a test takes after another, or as the first; back what it takes to put everything back.
func (b *belief) enter(from, test int) float64 {
	before := b.p.home
	switch {
	case b.p.now != nil && from < 0:
		before = *b.p.now
	case from >= 0:
		before = b.p.Tests[from].setup
	}
	return before.minutes(b.p.Tests[test].setup) + b.p.Tests[test].Minutes()
}

func (b *belief) back(test int) float64 { return b.p.Tests[test].setup.minutes(b.p.home) }
