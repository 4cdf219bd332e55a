package study

import (
	"maps"
	"math"
	"math/bits"
	"slices"
)

// Least is what no way of choosing tests can go below in the mean over one leak drawn by the file's odds, and over two,
// minutes. One: the best of all orders, worked out backwards over every set of seals that may leak. It is for somebody who knows that
// exactly one leaks, never mishears, mends on suspicion wherever that pays, and learns from a wrong mend that the seals
// which no test tells from it are sound too. Two: the same for somebody who is told where one of the two is, which is mended
// before he begins. Knowing it, he can work out what it would have hidden from him, so that nobody who has to find both needs
// less. Nobody has all of that: they are bounds and no aims.
func (h Housing) Least() (one, two float64) {
	whole := h.least("")
	one = whole.from(whole.all())
	sum, in := 0.0, map[int]int{}
	for _, id := range h.plans[Planned].Seals {
		sum += h.odds[id]
		in[h.group[id]]++
	}
	for _, told := range h.plans[Planned].Seals {
		g := h.group[told]
		without := whole.all()
		if in[g] == 1 {
			without.may &^= 1 << g
			two += h.odds[told] / sum * whole.from(without)
			continue
		}
		l := h.least(told)
		l.known = maps.Clone(whole.known) // what is known of the other groups holds
		maps.DeleteFunc(l.known, func(at position, _ float64) bool { return at.may>>g&1 == 1 })
		two += h.odds[told] / sum * l.from(without)
	}
	return one, two
}

// least is what Least goes through, where one seal is known to be sound.
func (h Housing) least(sound string) least {
	p := h.plans[Planned]
	var seals [][]float64 // odds of each group's
	sum := 0.0
	for _, id := range p.Seals {
		if id == sound {
			continue
		}
		for len(seals) <= h.group[id] {
			seals = append(seals, nil)
		}
		seals[h.group[id]] = append(seals[h.group[id]], h.odds[id])
		sum += h.odds[id]
	}
	l := least{known: map[position]float64{}}
	for _, odds := range seals {
		share := 0.0
		for _, x := range odds {
			share += x / sum
		}
		l.odds, l.acts = append(l.odds, share), append(l.acts, actsMinutes(odds))
	}
	enter := func(from int) (row []float64) {
		for i := range p.Tests {
			minutes, _ := p.Tests[i].After(h.c, nil)
			if from >= 0 {
				minutes, _ = p.Tests[i].After(h.c, &p.Tests[from])
			}
			row = append(row, minutes)
		}
		return row
	}
	for i := range p.Tests {
		at := map[string]uint64{}
		for _, id := range p.Seals {
			at[p.Tests[i].Out[id]] |= 1 << h.group[id]
		}
		var split []uint64
		for _, place := range slices.Sorted(maps.Keys(at)) {
			split = append(split, at[place])
		}
		back, _ := p.Tests[i].Back(h.c)
		l.splits, l.enter, l.back = append(l.splits, split), append(l.enter, enter(i)), append(l.back, back)
	}
	l.enter, l.back = append(l.enter, enter(-1)), append(l.back, 0)
	return l
}

// position is which groups may leak yet, a bit for each, and the test done last; as many as there are tests: none yet.
type position struct {
	may  uint64
	last int
}

type least struct {
	odds   []float64   // of each group, of sum 1
	acts   []float64   // what tells its seals apart, minutes
	splits [][]uint64  // of each test, the groups that show the same
	enter  [][]float64 // from test to test, minutes
	back   []float64
	known  map[position]float64
}

// all is where every group may leak that can.
func (l *least) all() position {
	at := position{0, len(l.splits)}
	for g, x := range l.odds {
		if x > 0 {
			at.may |= 1 << g
		}
	}
	return at
}

func (l *least) share(may uint64) (w float64) {
	for ; may != 0; may &= may - 1 {
		w += l.odds[bits.TrailingZeros64(may)]
	}
	return w
}

// from is what is to be expected until the leak is mended and everything put back.
func (l *least) from(at position) float64 {
	if m, known := l.known[at]; known {
		return m
	}
	best, all := math.Inf(1), l.share(at.may)
	for may := at.may; may != 0; may &= may - 1 {
		g := bits.TrailingZeros64(may)
		right := l.odds[g] / all
		m := right * (l.acts[g] + l.back[at.last])
		if other := at.may &^ (1 << g); other != 0 {
			m += (1 - right) * (wrongMendMinutes + l.from(position{other, at.last}))
		}
		best = min(best, m)
	}
	for t, split := range l.splits {
		if slices.ContainsFunc(split, func(x uint64) bool { return x&at.may == at.may }) {
			continue // it tells nothing
		}
		m := l.enter[at.last][t]
		for _, x := range split {
			if x &= at.may; x != 0 && m < best {
				m += l.share(x) / all * l.from(position{x, t})
			}
		}
		best = min(best, m)
	}
	l.known[at] = best
	return best
}

// actsMinutes is what is to be expected in a group whose seals are tried one after the other, the likeliest first.
func actsMinutes(odds []float64) float64 {
	odds = slices.Sorted(slices.Values(odds))
	slices.Reverse(odds)
	sum, m := 0.0, 0.0
	for i, x := range odds {
		sum += x
		m += float64(i) * actMinutes * x
	}
	return m / max(sum, math.SmallestNonzeroFloat64)
}
