package judge

import "math"

// site is what the readings of one bin say as a Gaussian: a weight (1/Pa²) and a
// value (Pa). For a needle, or a digital gauge whose last digit flickers, it is
// the bin's own mean. For one that shows the same figure for long it comes from
// the interval likelihood: each figure says that the pressure lay within half a
// digit, and says so once, however often it is shown.
type site struct{ w, y float64 }

// dithered is the noise, in last digits, above which a figure's mean is as good
// as its likelihood: what rounding then adds to the error is below a hundredth.
const dithered = 0.45

const figureSweeps = 2 // of expectation propagation

// noises are the noises, in last digits, that a quiet gauge is tried for: the least keeps the
// edges of a figure soft.
var noises = [...]float64{0.06, 0.08, 0.11, 0.15, 0.2, 0.27, 0.36, 0.5}

// quiet is the noise, in last digits, under which what was shown in the full bins is likeliest,
// whatever a free curve's amplitudes: a wrong one bends the curve between the moments at which
// figures change. It is estimated again with every bin, so that it does not depend on when the hold was looked at.
func (r *running) quiet(d *design) float64 {
	full := len(r.bins) - 1
	if full == r.quietBins {
		return r.quietIs
	}
	scale := math.Abs(r.startPa)
	free := component{node: &plain, n: 1, law: colLaminar}
	free.sd[0] = levelShare * scale
	for _, col := range freely {
		free.cols[free.n], free.sd[free.n] = col, settleShare*scale
		free.n++
	}
	for k := range d.steps {
		free.cols[free.n], free.sd[free.n] = colStep+k, scale
		free.n++
	}
	free.leak = free.n
	free.cols[free.n], free.sd[free.n] = free.law, scale/math.Max(1, r.bins[max(0, full-1)].meanT)
	free.n++
	var likely [len(noises)]float64
	best := 0
	for i, sigma := range noises {
		if _, likely[i] = r.readFigures(&free, d, r.bins[:full], sigma*r.gauge.DigitalPa, 1); likely[i] > likely[best] {
			best = i
		}
	}
	r.quietIs, r.quietBins = noises[best], full
	if best > 0 && best < len(noises)-1 { // between two of them: where a parabola through the three is highest
		a, b, c := math.Log(noises[best-1]), math.Log(noises[best]), math.Log(noises[best+1])
		p, q := (likely[best]-likely[best-1])/(b-a), (likely[best+1]-likely[best])/(c-b)
		if p > q {
			r.quietIs = math.Exp((p*(b+c)/2 - q*(a+b)/2) / (p - q))
		}
	}
	return r.quietIs
}

// freely is a curve that bends as it must: times of about 3, 13 and 50 s.
var freely = [...]int{colExp + 1, colExp + 4, colExp + 7, colExp + 10, colExp + 13}

var plain node // whose columns are taken as they lie

// readFigures brings the sites up to date by expectation propagation against one
// fitted curve: bins in order, each against what all others say. It starts from
// nothing, so that the answer does not depend on who looked before. likely is the
// logarithm of the probability of what was shown, each bin given those before it.
func (r *running) readFigures(ref *component, d *design, bins []bin, sigma float64, sweeps int) (sites []site, likely float64) {
	sites = make([]site, len(bins))
	m := ref.n
	rows := make([][maxColumns]float64, len(bins))
	for b := range rows {
		ref.row(&d.rows[b], bins[b].meanT, &rows[b])
	}
	for sweep := range sweeps {
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
			falls := slope(ref, bins, rows, b)
			now, l := bins[b].site(cavity, 1/rest, sigma, r.gauge.DigitalPa, falls)
			if sweep == 0 {
				likely += l
			}
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
	return sites, likely
}

// slope is a curve's own slope about a bin, Pa/s.
func slope(c *component, bins []bin, rows [][maxColumns]float64, b int) float64 {
	lo, hi := max(0, b-1), min(len(rows)-1, b+1)
	dt := bins[hi].meanT - bins[lo].meanT
	if dt <= 0 {
		return 0
	}
	return (c.dot(&rows[hi]) - c.dot(&rows[lo])) / dt
}

// How far the moments of a site are summed, in standard deviations.
const (
	cavityReach = 5.0 // of what the others say
	edgeReach   = 3.0 // of the gauge's noise beyond the edge of a figure
	slides      = 0.3 // sigma
	withinReach = 4.0 // so far inside both edges a figure tells nothing
	leastLikely = 1e-12
	uneven      = 0.02 // last digits: no gauge counts them more evenly
	leastSite   = 1e-9 // of the weight of all others: less is no observation
)

// site matches the moments of the bin's likelihood times the cavity (mean and
// variance in Pa and Pa²); sigma and digit in Pa, slope in Pa/s. likely is the logarithm of what
// they leave.
func (b *bin) site(cavity, variance, sigma, digit, slope float64) (s site, likely float64) {
	if len(b.figures) > mostFigures {
		return site{float64(b.n) / (sigma*sigma + digit*digit*oneIn), b.meanY}, 0
	}
	low, high := math.Inf(1), math.Inf(-1)
	for _, f := range b.figures {
		low, high = math.Min(low, f.mid(digit)), math.Max(high, f.mid(digit))
	}
	reach := math.Abs(slope) * (b.wt/b.w - b.from + 1)
	sd := math.Sqrt(variance)
	from := math.Max(cavity-cavityReach*sd, low-digit/2-edgeReach*sigma-reach)
	to := math.Min(cavity+cavityReach*sd, high+digit/2+edgeReach*sigma+reach)
	if to <= from { // the others lie far off: believe the figures
		z := ((low+high)/2 - cavity) / sd
		return site{1 / (sigma*sigma + digit*digit*oneIn), (low + high) / 2}, -z * z / 2
	}
	if len(b.figures) == 1 && from > low-digit/2+withinReach*sigma+reach && to < low+digit/2-withinReach*sigma-reach {
		return site{}, 0 // what is known already lies within the figure
	}
	const points = 16
	var logs, at [points]float64
	top := math.Inf(-1)
	for i := range points {
		u := from + (to-from)*(float64(i)+0.5)/points
		z := (u - cavity) / sd
		l := -z * z / 2
		for _, f := range b.figures {
			mid := f.mid(digit)
			mean := f.sumT / float64(f.n)
			shown := func(t float64) float64 {
				v := u + slope*(t-b.meanT)
				return math.Log(roughCDF((mid+digit/2-v)/sigma) - roughCDF((mid-digit/2-v)/sigma) + leastLikely)
			}
			if f.n < 3 || math.Abs(slope)*(f.last-f.first) < slides*sigma {
				l += float64(f.n) * shown(mean)
			} else {
				l += shown(f.first) + shown(f.last) + float64(f.n-2)*shown(mean)
			}
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
	likely = top + math.Log(sum*grid/sd/math.Sqrt(2*math.Pi))
	v := math.Max(m2/sum-m1*m1, grid*grid*oneIn)
	w := 1/v - 1/variance
	if w <= leastSite/variance {
		return site{}, likely
	}
	y := (m1/v - cavity/variance) / w
	return site{1 / (1/w + uneven*uneven*digit*digit), y}, likely
}

// mid is the middle of what a figure says, Pa, the temperature taken out.
func (f *figure) mid(digit float64) float64 {
	return float64(f.digits)*digit + f.sumOff/float64(f.n)
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
