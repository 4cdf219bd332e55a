package passages

import (
	"cmp"
	"container/heap"
	"math"
	"slices"

	"idlehiss/core/circuit"
)

// Plan is a set of tests in their order.
type Plan struct {
	Seals   []string   // what is tried by some test, in the circuit's order
	Untried []string   // what no test reaches
	Tests   []Test     // in order
	Minutes float64    // everything put back as it was found included
	Least   float64    // no order of any tests that tell as much takes less, minutes
	home    setup      // as it was found
	now     *setup     // as it stands; nil: as after the last result
	Apart   [][]string // seals that these tests tell from all others; those that no test can split stand together
}

// How hard the best order is looked for: so many partial orders are followed for the best, then for one that is at
// most so many times dearer. The last ends soon on any housing.
var searches = []struct {
	weight float64
	most   int
}{{1, 8_000}, {1.1, 8_000}, {1.25, 30_000}, {4, math.MaxInt}}

// MostSeals is how many seals are planned for: of more no tests are given. What is told apart is kept in so many bits.
const MostSeals = 63

// Of plans the tests of a circuit: all that can be told apart is, at the least cost that is found.
func Of(c *circuit.Circuit) Plan { return planned(c, Tests(c)) }

// Fixed is a plan of tests that are given, as a file or a manual has them.
func Fixed(c *circuit.Circuit, tests []Test) Plan {
	return Plan{Seals: seals(c, tests), Tests: tests, home: found(c)}
}

func planned(c *circuit.Circuit, tests []Test) Plan {
	p := Fixed(c, nil)
	p.Seals = seals(c, tests)
	for _, x := range c.Parts {
		if x.Odds > 0 && !x.Removed && x.Meant == 0 && !slices.Contains(p.Seals, x.ID) {
			p.Untried = append(p.Untried, x.ID)
		}
	}
	if len(p.Seals) > MostSeals {
		return p
	}
	s := newSearch(c, tests, p.Seals)
	for _, how := range searches {
		order, minutes, least, ok := s.run(how.weight, how.most)
		p.Least = math.Max(p.Least, least)
		if ok {
			p.Minutes = minutes
			for _, i := range order {
				p.Tests = append(p.Tests, s.tests[i])
			}
			break
		}
	}
	for _, g := range groups(s.finest, len(p.Seals)) {
		var ids []string
		for _, i := range g {
			ids = append(ids, p.Seals[i])
		}
		p.Apart = append(p.Apart, ids)
	}
	return p
}

// parts is how far seals are told apart: for each the block that it is in, numbered as they come. The last is
// that none of them leaks.
type parts string

// refined are blocks split by what a test shows.
func (p parts) refined(shows []byte) parts {
	out := make([]byte, len(p))
	var seen [1 << 12]byte // by block and what is shown; 0: not come to yet
	n := byte(0)
	for i := range out {
		k := (int(p[i])<<6 | int(shows[i])) & (len(seen) - 1)
		if seen[k] == 0 {
			n++
			seen[k] = n
		}
		out[i] = seen[k] - 1
	}
	return parts(out)
}

func (p parts) blocks() int {
	most := byte(0)
	for i := range len(p) {
		most = max(most, p[i])
	}
	return int(most) + 1
}

// groups are the first n in their blocks.
func groups(p parts, n int) [][]int {
	out := make([][]int, p.blocks())
	for i := range n {
		out[p[i]] = append(out[p[i]], i)
	}
	return slices.DeleteFunc(out, func(g []int) bool { return len(g) == 0 })
}

// search looks for the cheapest order: a shortest path over set-up and what is told apart so far.
type search struct {
	tests   []Test
	shows   [][]byte    // of each test, what each seal's leak shows; 0: nothing
	cost    [][]float64 // from test to test, changes only; the last row: from as it was found
	back    []float64   // from each test to as it was found
	minutes []float64   // of each test itself
	start   parts
	finest  parts
	pairs   []pair
	holds   map[parts]int     // how many more tests are needed at least
	next    map[parts][]parts // what each test would tell besides
}

// pair is two seals, or a seal and nothing, that some tests show at different places.
type pair struct {
	a, b  int
	by    []uint64  // those tests, a bit each
	by1   []int     // and by their numbers
	round []float64 // from each test and from as it was found: by the nearest of those tests to as it was found
}

func newSearch(c *circuit.Circuit, tests []Test, seals []string) *search {
	s := &search{start: parts(make([]byte, len(seals)+1)), holds: map[parts]int{}, next: map[parts][]parts{}}
	s.finest = s.start
	for _, t := range tests {
		shows, places := make([]byte, len(seals)+1), []string{}
		for i, id := range seals {
			if at := t.Out[id]; at != "" {
				k := slices.Index(places, at)
				if k < 0 {
					k, places = len(places), append(places, at)
				}
				shows[i] = byte(k + 1)
			}
		}
		s.tests, s.shows = append(s.tests, t), append(s.shows, shows)
		s.finest = s.finest.refined(shows)
	}
	s.leave()
	as := found(c)
	for _, t := range s.tests {
		row := make([]float64, len(s.tests))
		for k, u := range s.tests {
			row[k] = t.setup.minutes(u.setup)
		}
		s.cost = append(s.cost, row)
		s.back = append(s.back, t.setup.minutes(as))
		s.minutes = append(s.minutes, t.Minutes())
	}
	s.cost = append(s.cost, slices.Clone(s.back)) // the way there is as long as the way back
	s.pair()
	return s
}

// pair lists what must be told apart, what fewest tests can tell first.
func (s *search) pair() {
	for a := range len(s.start) {
		for b := a + 1; b < len(s.start); b++ {
			if s.finest[a] == s.finest[b] {
				continue
			}
			p := pair{a: a, b: b, by: make([]uint64, len(s.tests)/64+1)}
			for i, shows := range s.shows {
				if shows[a] != shows[b] {
					p.by[i/64] |= 1 << (i % 64)
					p.by1 = append(p.by1, i)
				}
			}
			for at := range s.cost {
				least := math.Inf(1)
				for _, i := range p.by1 {
					least = math.Min(least, s.cost[at][i]+s.back[i])
				}
				p.round = append(p.round, least)
			}
			s.pairs = append(s.pairs, p)
		}
	}
	slices.SortStableFunc(s.pairs, func(a, b pair) int { return cmp.Compare(len(a.by1), len(b.by1)) })
}

// leave drops tests that show no more than another with the same set-up or with one that lies on the way to theirs
// from everywhere, which only the same does: their outcome is coarser and their set-up equal.
func (s *search) leave() {
	var tests []Test
	var shows [][]byte
	for i := range s.tests {
		p := s.start.refined(s.shows[i])
		coarser := func(k int) bool {
			q := s.start.refined(s.shows[k])
			if q.refined(s.shows[i]).blocks() != q.blocks() || s.tests[i].setup.minutes(s.tests[k].setup) != 0 {
				return false
			}
			return q.blocks() > p.blocks() || k < i
		}
		drop := false
		for k := range s.tests {
			drop = drop || k != i && coarser(k)
		}
		if !drop {
			tests, shows = append(tests, s.tests[i]), append(shows, s.shows[i])
		}
	}
	s.tests, s.shows = tests, shows
}

// node is a partial order: the test that was last, and what is told apart.
type node struct {
	at   int // len(tests): as it was found
	told parts
	cost float64 // so far
	f    float64 // and the least that may follow, weighted
	from *node
}

type frontier []*node

func (q frontier) Len() int           { return len(q) }
func (q frontier) Less(i, k int) bool { return q[i].f < q[k].f }
func (q frontier) Swap(i, k int)      { q[i], q[k] = q[k], q[i] }
func (q *frontier) Push(x any)        { *q = append(*q, x.(*node)) }
func (q *frontier) Pop() any {
	last := len(*q) - 1
	n := (*q)[last]
	*q = (*q)[:last]
	return n
}

// run follows partial orders, the most promising first; with weight 1 what it finds is the best. It gives up after
// so many; least is what every order takes at least, as far as that was shown.
func (s *search) run(weight float64, most int) (order []int, minutes, least float64, ok bool) {
	type key struct {
		at   int
		told parts
	}
	best := map[key]float64{}
	q := &frontier{{at: len(s.tests), told: s.start, f: weight * s.ahead(len(s.tests), s.start)}}
	for n := 0; q.Len() > 0; n++ {
		if n >= most {
			least = math.Inf(1)
			for _, x := range *q {
				least = math.Min(least, x.cost+(x.f-x.cost)/weight)
			}
			return nil, 0, least, false
		}
		x := heap.Pop(q).(*node)
		if x.cost > best[key{x.at, x.told}] {
			continue // come to by a shorter way meanwhile
		}
		if x.told == s.finest {
			for y := x; y.from != nil; y = y.from {
				order = append(order, y.at)
			}
			slices.Reverse(order)
			if len(order) > 0 {
				minutes = x.cost + s.back[x.at]
			}
			return order, minutes, minutes / weight, true
		}
		for i, told := range s.after(x.told) {
			if told == "" {
				continue
			}
			cost := x.cost + s.cost[x.at][i] + s.minutes[i]
			k := key{i, told}
			if was, seen := best[k]; seen && was <= cost {
				continue
			}
			best[k] = cost
			heap.Push(q, &node{i, told, cost, cost + weight*s.ahead(i, told), x})
		}
	}
	return nil, 0, 0, false
}

// after is what each test would tell besides what is told apart already; empty: nothing.
func (s *search) after(told parts) []parts {
	next, known := s.next[told]
	if !known {
		next = make([]parts, len(s.tests))
		for i := range s.tests {
			if p := told.refined(s.shows[i]); p.blocks() > told.blocks() {
				next[i] = p
			}
		}
		s.next[told] = next
	}
	return next
}

// ahead is what is still to be paid at least: the way back by the farthest of the tests that must come, and a hold for
// each of some pairs that no one test tells apart together.
func (s *search) ahead(at int, told parts) float64 {
	if told == s.finest {
		if at == len(s.tests) {
			return 0
		}
		return s.back[at]
	}
	round := 0.0
	for i := range s.pairs {
		if p := &s.pairs[i]; told[p.a] == told[p.b] {
			round = math.Max(round, p.round[at])
		}
	}
	holds, known := s.holds[told]
	if !known {
		used := make([]uint64, len(s.tests)/64+1)
	pairs:
		for i := range s.pairs {
			p := &s.pairs[i]
			if told[p.a] != told[p.b] {
				continue
			}
			for k, bits := range p.by {
				if bits&used[k] != 0 {
					continue pairs
				}
			}
			for k, bits := range p.by {
				used[k] |= bits
			}
			holds++
		}
		s.holds[told] = holds
	}
	return round + float64(holds)*HoldMinutes
}
