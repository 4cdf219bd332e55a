package hunt

import (
	"fmt"
	"math"
	"slices"
)

// pairs weighs every two leaks at once, adds them to the sizes, and gives their sum. Guesses that all
// that was found leaves alike are weighed once for all of them.
func (w *weighing) pairs(b *Belief) (total float64) {
	scale := 0.0
	for i, a := range w.guesses {
		for _, c := range w.guesses[i+1:] {
			if a.part != c.part {
				scale += a.share * c.share
			}
		}
	}
	w.sort()
	groups := w.groups()
	sizes := make([][Cells]float64, len(w.guesses))
	for x, one := range groups {
		for y, other := range groups[x:] {
			i, k := one[0], other[len(other)-1]
			if y == 0 && len(one) < 2 {
				continue
			}
			si, sk, sum := w.pair(i, k, scale)
			if sum == 0 {
				continue
			}
			// Each of one group beside each of the other, but no part beside itself.
			for _, g := range one {
				beside := w.besides(g, other)
				for c := range si {
					sizes[g][c] += beside * si[c]
				}
				if y > 0 {
					total += beside * sum
				} else {
					total += beside * sum / 2
				}
			}
			if y == 0 {
				continue
			}
			for _, g := range other {
				beside := w.besides(g, one)
				for c := range sk {
					sizes[g][c] += beside * sk[c]
				}
			}
		}
	}
	for g := range sizes {
		for c, v := range sizes[g] {
			b.Sizes[w.guesses[g].part][c] += v
		}
	}
	return total
}

// besides is how many of a group are at another part than a guess.
func (w *weighing) besides(guess int, group []int) float64 {
	n := 0
	for _, g := range group {
		if w.guesses[g].part != w.guesses[guess].part {
			n++
		}
	}
	return float64(n)
}

// groups are the guesses that weigh alike in everything: as likely beforehand, alike in all that was
// found, and looked at by nobody.
func (w *weighing) groups() [][]int {
	type key struct {
		share float64
		wet   bool
		kind  int
		plain string
		own   int // of one that was looked at: itself
	}
	at := map[key]int{}
	var out [][]int
	for i, g := range w.guesses {
		k := key{share: g.share, wet: g.wet, kind: w.kinds[i], own: -1}
		for _, e := range w.plain {
			kind, _ := e.alike(g.part)
			k.plain += fmt.Sprint(kind)
		}
		for x := range w.looks {
			if w.looks[x].misses[i] != nil {
				k.own = i
			}
		}
		n, ok := at[k]
		if !ok {
			n = len(out)
			at[k], out = n, append(out, nil)
		}
		out[n] = append(out[n], i)
	}
	return out
}

// pair weighs two guesses at once: by the sizes of either, and in all.
func (w *weighing) pair(i, k int, scale float64) (si, sk [Cells]float64, sum float64) {
	gi, gk := w.guesses[i], w.guesses[k]
	prior := twoLeaks * gi.share * gk.share / math.Max(scale, 1e-300) / float64(len(fine)*len(fine))
	if prior < tooRare {
		return si, sk, 0
	}
	leaks := []Leak{w.leak(i, 0), w.leak(k, 0)}
	for _, e := range w.plain {
		prior *= e.Weight(leaks)
	}
	var seen []*looked
	for x := range w.looks {
		switch l := &w.looks[x]; {
		case !l.Saw:
		case l.misses[i] == nil && l.misses[k] == nil:
			prior *= l.False
		default:
			seen = append(seen, l)
		}
	}
	ui, uk := &w.unseen[i], &w.unseen[k]
	for _, c := range w.table(i, k) {
		v := prior * c.worth * ui[c.a] * uk[c.b]
		for _, l := range seen {
			v *= l.says((1 - l.False) * l.miss(i, int(c.a)) * l.miss(k, int(c.b)))
		}
		si[gi.cell(int(c.a))] += v
		sk[gk.cell(int(c.b))] += v
		sum += v
	}
	return si, sk, sum
}

// sort finds the suspects that weigh alike, and multiplies the looks that showed nothing.
func (w *weighing) sort() {
	w.tables = map[[2]int][]both{}
	var known [][][2]float64
	for _, g := range w.guesses {
		var is [][2]float64
		for _, e := range w.sized {
			kind, _ := e.alike(g.part)
			is = append(is, kind)
		}
		at := slices.IndexFunc(known, func(x [][2]float64) bool { return slices.Equal(x, is) })
		if at < 0 {
			at, known = len(known), append(known, is)
		}
		w.kinds = append(w.kinds, at)
	}
	// What no suspect could have shown goes by half into either leak.
	rest := 1.0
	w.unseen = make([][len(fine)]float64, len(w.guesses))
	for _, l := range w.looks {
		if !l.Saw {
			rest *= 1 - l.False
		}
	}
	for i := range w.unseen {
		for s := range fine {
			v := math.Sqrt(rest)
			for x := range w.looks {
				if !w.looks[x].Saw {
					v *= w.looks[x].miss(i, s)
				}
			}
			w.unseen[i][s] = v
		}
	}
}

// table is how leaks at two suspects weigh in all that is sized: only sizes that the holds leave.
func (w *weighing) table(i, k int) []both {
	key := [2]int{w.kinds[i], w.kinds[k]}
	if t, ok := w.tables[key]; ok {
		return t
	}
	t := []both{}
	leaks := make([]Leak, 2)
	pi, pk := w.guesses[i].part, w.guesses[k].part
	for a, fa := range fine {
		low, high := 0.0, math.Inf(1)
		for _, x := range w.windows {
			low, high = x.beside(pi, pk, fa, low, high)
		}
		for b, fb := range fine {
			if fb < low || fb > high {
				continue
			}
			leaks[0], leaks[1] = w.leak(i, a), w.leak(k, b)
			worth := 1.0
			for _, e := range w.sized {
				worth *= e.Weight(leaks)
			}
			if worth > 0 {
				t = append(t, both{int16(a), int16(b), worth})
			}
		}
	}
	w.tables[key] = t
	return t
}
