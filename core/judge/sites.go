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
	least := math.Max(leastNoise, stuckNoise*math.Min(1, 1.5/math.Max(passed, 0.1)))
	last := len(digitVariance) - 1
	if variance >= digitVariance[last] {
		return math.Sqrt(variance - 1./12)
	}
	i := sort.SearchFloat64s(digitVariance[:], variance)
	if i == 0 {
		return least
	}
	part := (variance - digitVariance[i-1]) / (digitVariance[i] - digitVariance[i-1])
	return math.Max(least, (float64(i-1)+part)*0.05)
}

const (
	leastNoise = 0.06 // keeps the edges of a figure soft
	stuckNoise = 0.25
	doubtNoise = 1.2 // times the noise found: it is only an estimate
)

// digitVariance is V at multiples of 0.05 of a digit, by summing over phases.
var digitVariance = func() (v [13]float64) {
	const phases = 64
	for i := range v {
		sigma := float64(i) * 0.05
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

// site matches the moments of the bin's likelihood times the cavity (mean and
// variance in Pa and Pa²); sigma and digit in Pa, slope in Pa/s.
func (b *bin) site(cavity, variance, sigma, digit, slope float64) site {
	if len(b.figures) > mostFigures {
		return site{float64(b.n) / (sigma*sigma + digit*digit/12), b.meanY}
	}
	low, high := math.Inf(1), math.Inf(-1)
	for _, f := range b.figures {
		low = math.Min(low, float64(f.digits)*digit)
		high = math.Max(high, float64(f.digits)*digit)
	}
	reach := math.Abs(slope) * (b.wt/b.w - b.from + 1)
	sd := math.Sqrt(variance)
	from := math.Max(cavity-5*sd, low-digit/2-3*sigma-reach)
	to := math.Min(cavity+5*sd, high+digit/2+3*sigma+reach)
	if to <= from { // the others lie far off: believe the figures
		return site{1 / (sigma*sigma + digit*digit/12), (low + high) / 2}
	}
	if len(b.figures) == 1 && from > low-digit/2+4*sigma+reach && to < low+digit/2-4*sigma-reach {
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
			l += float64(f.n) * math.Log(roughCDF((mid+digit/2-v)/sigma)-roughCDF((mid-digit/2-v)/sigma)+1e-12)
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
	v := math.Max(m2/sum-m1*m1, grid*grid/12)
	w := 1/v - 1/variance
	if w <= 1e-9/variance {
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
