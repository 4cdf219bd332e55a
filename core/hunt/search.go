package hunt

import "math"

// Lookable is one check of one suspect: what it costs and how surely it shows a leak of each size.
type Lookable struct {
	Part    int                // among the suspects
	Minutes float64            // hands on and waiting
	Chance  [GridSizes]float64 // of seeing a leak of each size of the grid
	Cover   int                // that must be off first; -1: none
}

// remainder is what may be left of the odds when a walk is no longer followed: its minutes
// weigh less than the sixth digit.
const remainder = 1e-12

// Walk follows looks in the order of the largest chance a minute, each miss weighing against its
// part (Blackwell; Stone, Theory of Optimal Search, 1975). shares are the odds of part and size.
// covers is the price of each cover, minutes, paid once; it is not changed. It gives the first
// looks in their order, at most keep of them, and the minutes expected until the leak is seen,
// as a mean over what the looks can see.
func Walk(shares [][GridSizes]float64, looks []Lookable, covers []float64, keep int) (order []int, minutes float64) {
	left := make([][GridSizes]float64, len(shares))
	copy(left, shares)
	price := append([]float64{}, covers...)
	mass := 0.0
	for i := range left {
		for _, v := range left[i] {
			mass += v
		}
	}
	whole, seen := mass, 0.0
	cost := func(k int) float64 {
		c := looks[k].Minutes
		if looks[k].Cover >= 0 {
			c += price[looks[k].Cover]
		}
		return c
	}
	gain := make([]float64, len(looks))
	worth := func(k int) float64 {
		sum := 0.0
		for s, p := range left[looks[k].Part] {
			sum += p * looks[k].Chance[s]
		}
		return sum
	}
	for k := range looks {
		gain[k] = worth(k)
	}
	spent := 0.0
	for range mostLooks {
		best, rate := -1, 0.0
		for k := range looks {
			if r := gain[k] / cost(k); r > rate*(1+1e-12) {
				best, rate = k, r
			}
		}
		if best < 0 || gain[best] < remainder*whole {
			break
		}
		spent += cost(best)
		if c := looks[best].Cover; c >= 0 {
			price[c] = 0
		}
		minutes += spent * gain[best]
		seen += gain[best]
		if len(order) < keep {
			order = append(order, best)
		}
		part := looks[best].Part
		for s := range left[part] {
			left[part][s] *= 1 - looks[best].Chance[s]
		}
		for k := range looks {
			if looks[k].Part == part {
				gain[k] = worth(k)
			}
		}
		if whole-seen < remainder*whole {
			break
		}
	}
	if seen == 0 {
		return order, math.Inf(1)
	}
	return order, minutes / seen
}

// mostLooks is how many looks a walk follows.
const mostLooks = 4000
