package judge

import (
	"math"
	"sort"
)

// settleTimes is how many settling times are shown as the settling phase.
const settleTimes = 2.0

// likelyFit is the weight from which a fit counts for the spread of settling times.
const likelyFit = 0.01

// settleTime is the time in which the settling part falls to 1/e, with the
// spread between the likely fits.
func (f *fitted) settleTime() *Interval {
	type weighed struct{ t, w float64 }
	var all []weighed
	add := func(c *component, w float64) {
		if c.settle > 0 && c.cols[1] < colExpD {
			all = append(all, weighed{c.fallToE(), w})
		}
	}
	for i := range f.parts {
		if f.parts[i].weight >= likelyFit {
			add(&f.parts[i], f.parts[i].weight)
		}
	}
	if len(all) == 0 {
		return nil
	}
	sort.Slice(all, func(i, j int) bool { return all[i].t < all[j].t })
	total := 0.0
	for _, a := range all {
		total += a.w
	}
	at := func(p float64) float64 {
		sum := 0.0
		for _, a := range all {
			if sum += a.w; sum >= p*total {
				return a.t
			}
		}
		return all[len(all)-1].t
	}
	mid := at(0.5)
	// A grid node stands for the times of its cell.
	edge := math.Exp(halfStep)
	return &Interval{mid, math.Min(at(low95), mid/edge), math.Max(at(high95), mid*edge)}
}

// fallToE finds where the component's settling part has fallen to 1/e.
func (c *component) fallToE() float64 {
	part := func(t float64) float64 {
		v := 0.0
		for i := 1; i <= c.settle; i++ {
			if c.cols[i] >= colCreep {
				continue
			}
			k := (c.cols[i] - colExp) % tauCount
			tau := taus[k]
			for j, col := range c.node.settle {
				if col == colExp+k && c.tau[j] > 0 {
					tau = c.tau[j]
				}
			}
			e := math.Exp(-t / tau)
			if c.cols[i] >= colExpD {
				e *= t / tau
			}
			v += c.mean[i] * e
		}
		return v
	}
	start := part(0)
	low, high := tauLeast/8, 4*tauMost
	if start == 0 || part(high)/start > 1/math.E {
		return high
	}
	for range 20 { // to a thousandth and better
		mid := math.Sqrt(low * high)
		if part(mid)/start > 1/math.E {
			low = mid
		} else {
			high = mid
		}
	}
	return high
}

// settlingAt is the loss, Pa/s, that settling alone is expected to make at a
// later moment.
func (f *fitted) settlingAt(t float64) float64 {
	var row [columnsN]float64
	settleSlopes(t, &row)
	loss := 0.0
	for i := range f.parts {
		var x [maxColumns]float64
		f.parts[i].slopes(&row, t, &x)
		loss -= f.parts[i].weight * f.parts[i].dot(&x)
	}
	return loss
}
