package judge

import "math"

// scaled is one part of the prior over the steady rate: half a normal about 0.
type scaled struct {
	weight, sd float64 // Pa/s
	rises      bool    // gas coming in
}

type priorRate []scaled

// ratePrior states what is believed of a steady loss before a hold: anything
// from nothing to far beyond the allowance, on a logarithmic scale; rarely a rise.
func ratePrior(q *Question) priorRate {
	prior := make(priorRate, len(rateBeliefs))
	for i, b := range rateBeliefs {
		prior[i] = scaled{b.weight, b.allowances * q.limit(), b.rises}
	}
	return prior
}

// rateBeliefs are the parts of that prior: the weight of each, and its standard deviation in
// allowances. A quarter loses next to nothing, a tenth bursts, one in twenty rises.
var rateBeliefs = [...]struct {
	weight, allowances float64
	rises              bool
}{
	{0.25, 0.12, false}, {0.2, 0.5, false}, {0.2, 1.5, false}, {0.2, 5, false}, {0.1, 25, false},
	{0.03, 1.5, true}, {0.02, 10, true},
}

// gauss is one part of a mixture that stands for a rate.
type gauss struct{ w, mean, sd float64 }

// backwards is the weight of a settling that runs upwards without an overshoot
// to explain it: air does not un-cool.
const backwards = 0.1

const (
	surelyRight  = 0.999 // probability of the right sign from which the wrong one is left out
	leansLittle  = 0.05  // squared correlation of rate and amplitude up to which they are taken apart
	leastRest    = 1e-4  // of the variance: what is left where both are one
	maxRateParts = 10
)

// rateParts gives the rate of a component as parts, between which amplitudes of the
// wrong sign count less where the rate leans on the slowest settling.
func (c *component) rateParts(out []gauss) []gauss {
	r, v := c.rate()
	if c.slow == 0 {
		return append(out, gauss{1, r, math.Sqrt(v)})
	}
	a, va, cov := c.mean[c.slow], c.cov[c.slow][c.slow], c.cov[c.slow][c.leak]
	right := normalCDF(a / math.Sqrt(va))
	if right > surelyRight || cov*cov < leansLittle*va*v {
		return append(out, gauss{right + backwards*(1-right), r, math.Sqrt(v)})
	}
	rest := math.Sqrt(math.Max(v-cov*cov/va, leastRest*v))
	const n, reach = maxRateParts, 3.0 // standard deviations of the amplitude
	for k := range n {
		z := -reach + 2*reach*(float64(k)+0.5)/n
		w := math.Exp(-z*z/2) * 2 * reach / n / math.Sqrt(2*math.Pi)
		amp := a + z*math.Sqrt(va)
		if amp < 0 {
			w *= backwards
		}
		out = append(out, gauss{w, r + cov/va*(amp-a), rest})
	}
	return out
}

// meet multiplies a Gaussian likelihood of the rate with a part of the prior:
// the evidence, and the mean and standard deviation of the normal whose right
// side (left, for a rise) is the posterior.
func (s scaled) meet(g gauss) (evidence, mean, sd float64) {
	v := g.sd*g.sd + s.sd*s.sd
	mean = g.mean * s.sd * s.sd / v
	sd = g.sd * s.sd / math.Sqrt(v)
	z := mean / sd
	if s.rises {
		z = -z
	}
	return s.weight * g.w * math.Exp(-g.mean*g.mean/(2*v)) / math.Sqrt(v) * normalCDF(z), mean, sd
}

// evidence is what the rate's prior adds to a component's own, natural logarithm.
func (p priorRate) evidence(c *component) float64 {
	var room [maxRateParts]gauss
	sum := nothing
	for _, g := range c.rateParts(room[:0]) {
		for _, s := range p {
			e, _, _ := s.meet(g)
			sum += e
		}
	}
	return math.Log(sum)
}

// rates is the mixture over the steady rate, its own prior left flat: what the
// interval is read from. extraVar is doubt that no reading can lessen.
func (f *fitted) rates(extraVar float64) []gauss {
	out := make([]gauss, 0, 2*len(f.parts))
	var room [maxRateParts]gauss
	for i := range f.parts {
		parts := f.parts[i].rateParts(room[:0])
		sum := 0.0
		for _, g := range parts {
			sum += g.w
		}
		for _, g := range parts {
			out = append(out, gauss{f.parts[i].weight * g.w / sum, g.mean, math.Sqrt(g.sd*g.sd + extraVar)})
		}
	}
	return out
}

// beyond is the probability, prior and all, that the rate exceeds x. shift is
// taken off every rate first (the rig's own), extraVar added to its variance.
func (f *fitted) beyond(p priorRate, x, shift, extraVar float64) float64 {
	over, all := 0.0, 0.0
	var room [maxRateParts]gauss
	for i := range f.parts {
		c := &f.parts[i]
		parts := c.rateParts(room[:0])
		// The weight already holds the prior's evidence: it is shared out by it.
		o, a := 0.0, nothing
		for _, g := range parts {
			g.mean -= shift
			g.sd = math.Sqrt(g.sd*g.sd + extraVar)
			for _, s := range p {
				e, m, sd := s.meet(g)
				a += e
				if s.rises {
					continue
				}
				o += e * normalCDF((m-x)/sd) / math.Max(normalCDF(m/sd), nothing)
			}
		}
		over += c.weight * o / a
		all += c.weight
	}
	return math.Min(1, over/all)
}

// below is the probability that the rate is less than x.
func below(mix []gauss, x float64) float64 {
	p := 0.0
	for _, g := range mix {
		p += g.w * roughCDF((x-g.mean)/g.sd)
	}
	return p
}

const (
	allOf    = 8.0 // standard deviations beyond which nothing is looked for
	halvings = 26  // to a 2⁻²⁶ of that
)

// quantile is the rate below which the share p lies.
func quantile(mix []gauss, p float64) float64 {
	low, high := math.Inf(1), math.Inf(-1)
	for _, g := range mix {
		low, high = math.Min(low, g.mean-allOf*g.sd), math.Max(high, g.mean+allOf*g.sd)
	}
	for range halvings {
		mid := (low + high) / 2
		if below(mix, mid) < p {
			low = mid
		} else {
			high = mid
		}
	}
	return (low + high) / 2
}
