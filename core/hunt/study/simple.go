package study

import (
	"math"
	"slices"

	"idlehiss/core/hunt"
)

// seen is what a simple policy keeps of its looks.
type seen struct {
	belief hunt.Belief
	left   [][hunt.Cells]float64 // of the odds, after the misses
	looked []int                 // how often each part was
	out    []bool                // mended for nothing
	order  []int                 // of the circuit's file, the rig last
	chance [][hunt.Cells]float64 // of each method
}

func newSeen(h *hunting) *seen {
	n := len(h.Scene.Suspects)
	s := &seen{looked: make([]int, n), out: make([]bool, n)}
	s.belief = hunt.Believe(hunt.Told{Hunch: -1}.Shares(h.Scene.Suspects), h.Scene.Liquid(), []hunt.Evidence{h.held(h.Scene.Step)})
	s.left = slices.Clone(s.belief.Sizes)
	for _, m := range h.Scene.Methods {
		s.chance = append(s.chance, h.Scene.Chances(m))
	}
	for _, p := range h.Scene.Circuit.Parts {
		if i := slices.IndexFunc(h.Scene.Suspects, func(x hunt.Suspect) bool { return x.ID == p.ID }); i >= 0 {
			s.order = append(s.order, i)
		}
	}
	for i := range h.Scene.Suspects {
		if !slices.Contains(s.order, i) {
			s.order = append(s.order, i)
		}
	}
	return s
}

// shows is the chance of a look at a part showing its leak, if it is there, of the size that the hold says.
func (s *seen) shows(part, method int) float64 {
	sum, all := 0.0, 0.0
	for k, p := range s.belief.Sizes[part] {
		sum += p * s.chance[method][k]
		all += p
	}
	return sum / math.Max(all, 1e-300)
}

// method is the cheapest by which a leak of this size would rather be seen than not at a part, else
// the surest; -1: none may be used there.
func (s *seen) method(h *hunting, part int, soap bool) int {
	best, least, most := -1, math.Inf(1), 0.0
	for i, m := range h.Scene.Methods {
		if !h.Scene.Offers(part, m) {
			continue
		}
		d := s.shows(part, i)
		costs, waits := h.price(part, m)
		if soap && m.LeastGas > 0 && m.Waits == m.Takes && d > 0.3 { // soap, where it shows anything
			return i
		}
		switch {
		case d >= 0.5 && costs+waits/8 < least:
			best, least = i, costs+waits/8
		case math.IsInf(least, 1) && d > most:
			best, most = i, d
		}
	}
	return best
}

// round takes the parts one after the other, round and round.
func (s *seen) round(h *hunting, soap bool) (int, int) {
	return s.next(h, s.order, soap)
}

func (s *seen) next(h *hunting, order []int, soap bool) (part, method int) {
	part = -1
	for _, i := range order {
		if s.out[i] || s.belief.Odds[i] <= 0 || part >= 0 && s.looked[i] >= s.looked[part] {
			continue
		}
		if m := s.method(h, i, soap); m >= 0 {
			part, method = i, m
		}
	}
	return part, method
}

// byOdds takes the likeliest first.
func (s *seen) byOdds(h *hunting) (int, int) {
	order := slices.Clone(s.order)
	slices.SortStableFunc(order, func(a, b int) int {
		switch {
		case s.belief.Odds[a] > s.belief.Odds[b]:
			return -1
		case s.belief.Odds[a] < s.belief.Odds[b]:
			return 1
		}
		return 0
	})
	return s.next(h, order, false)
}

// byRate takes the look with the largest chance a minute, each miss weighing against its part.
func (s *seen) byRate(h *hunting) (part, method int) {
	part = -1
	best := 0.0
	for i := range h.Scene.Suspects {
		if s.out[i] {
			continue
		}
		for k, m := range h.Scene.Methods {
			if !h.Scene.Offers(i, m) {
				continue
			}
			costs, _ := h.price(i, m)
			sum := 0.0
			for size, p := range s.left[i] {
				sum += p * s.chance[k][size]
			}
			if r := sum / costs; r > best {
				part, method, best = i, k, r
			}
		}
	}
	return part, method
}

// rounds is a policy of looks alone: what is seen is named.
func rounds(choose func(*hunting, *seen) (part, method int)) func(*Case) Outcome {
	return func(c *Case) Outcome {
		h := play(c)
		out := Outcome{Circuit: c.Scene.Circuit.ID}
		s := newSeen(h)
		first := true
		for h.spent < mostMin {
			part, method := choose(h, s)
			if part < 0 {
				break
			}
			m := h.Scene.Methods[method]
			s.looked[part]++
			if !h.look(part, m) {
				for k := range s.left[part] {
					s.left[part][k] *= 1 - s.chance[method][k]
				}
				continue
			}
			if first {
				out.Right, first = h.Leaks(part), false
			}
			if h.Leaks(part) {
				out.Minutes = h.spent
				return out
			}
			h.spent += wrongMin
			out.Wrong++
			s.out[part] = true
		}
		out.Minutes, out.GivenUp = math.Max(h.spent, mostMin), true
		return out
	}
}
