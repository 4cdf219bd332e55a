package judge

import "math"

// A loss of some readings' errors at an instant is too small for any single reading to show,
// and where only crossings are noted there is no reading to jump. Looking back it is found by
// what the best smooth curve leaves on either side.

const (
	lookedBins  = 4    // on either side of a moment
	leastAside  = 2    // of them
	leapErrors  = 4.5  // standard errors of what is left on either side, apart
	leapGain    = 10.0 // log-likelihood by which a curve with the loss must fit better
	leapOfSlope = 0.5  // of what the curve loses meanwhile: more is sudden
)

// lookBack adds a sudden loss where it lets the curve fit far better.
func (f *fitted) lookBack(prior priorRate, r *running) {
	s, ok := f.leap()
	if !ok || len(f.d.steps) >= mostSteps {
		return
	}
	smooth, best := f.d, f.best
	d := *f.d
	d.steps = append(append([]sudden{}, f.d.steps...), s)
	d.rows = append([][columnsN]float64{}, f.d.rows...)
	d.gram = gram{}
	for i := range d.rows {
		d.step(&d.rows[i], r.bins[i].meanT, r.bins[i].meanT)
	}
	sites := f.digits
	if sites == nil {
		sites = make([]site, len(r.bins))
		for i := range sites {
			sites[i] = site{r.bins[i].w, r.bins[i].meanY}
		}
	}
	d.reweigh(sites)
	f.d = &d
	if f.gather(prior, &r.aside) && f.best.fits-best.fits >= leapGain*f.noise {
		r.room, r.aside = r.aside, r.room
		return
	}
	f.d, f.best = smooth, best
}

// leap is the moment at which what the best curve leaves changes most, if it does so beyond
// doubt and faster than the curve falls.
func (f *fitted) leap() (at sudden, ok bool) {
	n := len(f.bins)
	left := make([]float64, n)
	weight := make([]float64, n)
	for i := range n {
		w, y := f.seen(i)
		left[i], weight[i] = y-f.best.fitted(f, i), w/f.noise
	}
	mean := func(from, to int) (m, w float64) {
		for i := from; i < to; i++ {
			m += weight[i] * left[i]
			w += weight[i]
		}
		return m / math.Max(w, nothing), w
	}
	most := leapErrors
	for k := leastAside; k <= n-leastAside; k++ {
		before, wb := mean(max(0, k-lookedBins), k)
		after, wa := mean(k, min(n, k+lookedBins))
		if wa <= 0 || wb <= 0 {
			continue
		}
		fell := before - after
		slope := math.Abs(f.best.fitted(f, k)-f.best.fitted(f, k-1)) + math.Sqrt(1/weight[k]+1/weight[k-1])
		if z := fell / math.Sqrt(1/wa+1/wb); z > most && fell > leapOfSlope*slope {
			most, ok = z, true
			at = sudden{atS: (f.bins[k-1].meanT + f.bins[k].meanT) / 2, fellPa: fell}
		}
	}
	return at, ok
}
