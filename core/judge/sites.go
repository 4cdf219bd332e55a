package judge

import (
	"math"
	"sort"
)

// site is what the readings of one bin say as a Gaussian: a weight (1/Pa²) and a
// value (Pa). For a needle, or a digital gauge whose last digit flickers, it is
// the bin's own mean. For one that shows the same figure for long it comes from
// the interval likelihood: each figure says that the pressure lay within half a
// digit, and says so once, however often it is shown.
type site struct{ w, y float64 }

// dithered is the noise, in last digits, above which a figure's mean is as good
// as its likelihood: what rounding then adds to the error is below a hundredth.
const dithered = 0.45

// digitNoise gives the noise of a digital gauge in last digits from the variance
// of what it shows (in squares of the last digit), averaged over where between
// two figures the pressure lies: V(σ) = E[Var(round(u+σz))]. A pressure that has
// passed few figures has tried few such places: a seldom flicker may then be
// little noise near an edge or more of it farther off, and the larger is taken.
func digitNoise(variance, passed float64) float64 {
	least := math.Max(leastNoise, stuckNoise*math.Min(1, passedEnough/math.Max(passed, passedLeast)))
	last := len(digitVariance) - 1
	if variance >= digitVariance[last] {
		return math.Sqrt(variance - oneIn)
	}
	i := sort.SearchFloat64s(digitVariance[:], variance)
	if i == 0 {
		return least
	}
	part := (variance - digitVariance[i-1]) / (digitVariance[i] - digitVariance[i-1])
	return math.Max(least, (float64(i-1)+part)*noiseGrid)
}

const (
	leastNoise   = 0.06 // keeps the edges of a figure soft
	stuckNoise   = 0.25 // last digits: taken for a gauge that shows one figure for long,
	passedEnough = 1.5  // until the pressure has passed so many figures
	passedLeast  = 0.1
	noiseGrid    = 0.05 // last digits, between the noises that are tabulated
	figureSweeps = 2    // of expectation propagation
	doubtNoise   = 1.2  // times the noise found: it is only an estimate
)

// digitVariance is V at multiples of noiseGrid, by summing over phases.
var digitVariance = func() (v [13]float64) {
	const phases = 64
	for i := range v {
		sigma := float64(i) * noiseGrid
		for p := range phases {
			u := (float64(p)+0.5)/phases - 0.5
			mean, square := 0.0, 0.0
			for k := -4; k <= 4; k++ {
				w := inside(float64(k)-0.5, float64(k)+0.5, u, sigma)
				mean += w * float64(k)
				square += w * float64(k*k)
			}
			v[i] += (square - mean*mean) / phases
		}
	}
	return v
}()

func inside(low, high, u, sigma float64) float64 {
	if sigma == 0 {
		if u >= low && u < high {
			return 1
		}
		return 0
	}
	return normalCDF((high-u)/sigma) - normalCDF((low-u)/sigma)
}

// readFigures brings the sites up to date by expectation propagation against one
// fitted curve: bins in order, each against what all others say. It starts from
// nothing, so that the answer does not depend on who looked before.
func (r *running) readFigures(ref *component, d *design, sigma float64, sweeps int) []site {
	sites := make([]site, len(r.bins))
	m := ref.n
	rows := make([][maxColumns]float64, len(r.bins))
	for b := range rows {
		ref.row(&d.rows[b], r.bins[b].meanT, &rows[b])
	}
	for range sweeps {
		// What all sites together say, around the reference's own columns.
		var s small
		s.n = m
		for i := range m {
			s.a[i][i] = 1 / (ref.sd[i] * ref.sd[i])
			s.b[i] = ref.centre[i] * s.a[i][i]
		}
		for b := range rows {
			w := sites[b].w
			if w <= 0 {
				continue
			}
			for i := range m {
				wx := w * rows[b][i]
				for j := range i + 1 {
					s.a[i][j] += wx * rows[b][j]
				}
				s.b[i] += wx * sites[b].y
			}
		}
		if _, ok := s.factor(); !ok {
			break
		}
		s.solve()
		var cov [maxColumns][maxColumns]float64
		s.inverse(&cov)
		mean := s.x
		for b := range rows {
			row := &rows[b]
			var cx [maxColumns]float64
			at, variance := 0.0, 0.0
			for i := range m {
				for j := range m {
					cx[i] += cov[i][j] * row[j]
				}
				at += mean[i] * row[i]
			}
			for i := range m {
				variance += row[i] * cx[i]
			}
			old := sites[b]
			rest := 1/variance - old.w // the cavity: what all others say of this bin
			if !(rest > 0) {
				continue
			}
			cavity := (at/variance - old.w*old.y) / rest
			slope := r.slope(ref, rows, b)
			now := r.bins[b].site(cavity, 1/rest, sigma, r.gauge.DigitalPa, slope)
			dw := now.w - old.w
			sites[b] = now
			// One more observation of weight dw, or one fewer.
			gain := 1 / (1 + dw*variance)
			if !(gain > 0) {
				continue
			}
			shift := now.w*now.y - old.w*old.y - dw*at
			for i := range m {
				mean[i] += cx[i] * shift * gain
			}
			for i := range m {
				for j := range m {
					cov[i][j] -= dw * gain * cx[i] * cx[j]
				}
			}
		}
	}
	return sites
}

// slope is a curve's own slope about a bin, Pa/s.
func (r *running) slope(c *component, rows [][maxColumns]float64, b int) float64 {
	lo, hi := max(0, b-1), min(len(rows)-1, b+1)
	dt := r.bins[hi].meanT - r.bins[lo].meanT
	if dt <= 0 {
		return 0
	}
	return (c.dot(&rows[hi]) - c.dot(&rows[lo])) / dt
}

// How far the moments of a site are summed, in standard deviations.
const (
	cavityReach = 5.0 // of what the others say
	edgeReach   = 3.0 // of the gauge's noise beyond the edge of a figure
	withinReach = 4.0 // so far inside both edges a figure tells nothing
	leastLikely = 1e-12
	leastSite   = 1e-9 // of the weight of all others: less is no observation
)

// site matches the moments of the bin's likelihood times the cavity (mean and
// variance in Pa and Pa²); sigma and digit in Pa, slope in Pa/s.
func (b *bin) site(cavity, variance, sigma, digit, slope float64) site {
	if len(b.figures) > mostFigures {
		return site{float64(b.n) / (sigma*sigma + digit*digit*oneIn), b.meanY}
	}
	low, high := math.Inf(1), math.Inf(-1)
	for _, f := range b.figures {
		low = math.Min(low, float64(f.digits)*digit)
		high = math.Max(high, float64(f.digits)*digit)
	}
	reach := math.Abs(slope) * (b.wt/b.w - b.from + 1)
	sd := math.Sqrt(variance)
	from := math.Max(cavity-cavityReach*sd, low-digit/2-edgeReach*sigma-reach)
	to := math.Min(cavity+cavityReach*sd, high+digit/2+edgeReach*sigma+reach)
	if to <= from { // the others lie far off: believe the figures
		return site{1 / (sigma*sigma + digit*digit*oneIn), (low + high) / 2}
	}
	if len(b.figures) == 1 && from > low-digit/2+withinReach*sigma+reach && to < low+digit/2-withinReach*sigma-reach {
		return site{} // what is known already lies within the figure
	}
	const points = 16
	var logs, at [points]float64
	top := math.Inf(-1)
	for i := range points {
		u := from + (to-from)*(float64(i)+0.5)/points
		z := (u - cavity) / sd
		l := -z * z / 2
		for _, f := range b.figures {
			v := u + slope*(f.sumT/float64(f.n)-b.meanT)
			mid := float64(f.digits) * digit
			l += float64(f.n) * math.Log(roughCDF((mid+digit/2-v)/sigma)-roughCDF((mid-digit/2-v)/sigma)+leastLikely)
		}
		at[i], logs[i] = u, l
		top = math.Max(top, l)
	}
	sum, m1, m2 := 0.0, 0.0, 0.0
	for i := range points {
		w := math.Exp(logs[i] - top)
		sum += w
		m1 += w * at[i]
		m2 += w * at[i] * at[i]
	}
	m1 /= sum
	grid := (to - from) / points
	v := math.Max(m2/sum-m1*m1, grid*grid*oneIn)
	w := 1/v - 1/variance
	if w <= leastSite/variance {
		return site{}
	}
	return site{w, (m1/v - cavity/variance) / w}
}

// roughCDF is Φ by interpolation, good to 1e-5: it is asked some ten thousand
// times for one answer.
func roughCDF(z float64) float64 {
	x := (z + roughReach) * roughPer
	if !(x > 0) {
		return 0
	}
	if x >= float64(len(roughTable)-1) { // infinite ones too
		return 1
	}
	i := int(x)
	return roughTable[i] + (x-float64(i))*(roughTable[i+1]-roughTable[i])
}

const (
	roughReach = 6
	roughPer   = 128
)

var roughTable = func() (t [2*roughReach*roughPer + 1]float64) {
	for i := range t {
		t[i] = normalCDF(float64(i)/roughPer - roughReach)
	}
	return t
}()
