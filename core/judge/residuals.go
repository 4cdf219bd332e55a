package judge

import "math"

// FitPoint is the best curve at a moment of the hold, and by how much the
// readings about it missed it. Gauge pressures, kPa.
type FitPoint struct {
	AtS   float64 `json:"t"`
	KPa   float64 `json:"kpa"`
	Miss  float64 `json:"miss_kpa"`  // readings less curve, away from ambient
	Sigma float64 `json:"sigma_kpa"` // what their error alone explains
}

// Residuals gives the best curve and what it leaves, one point for each bin of
// readings; nothing where nothing could be fitted.
func (l *Live) Residuals() []FitPoint {
	r := &l.run
	v, ok := r.decide(&l.q)
	if !ok {
		return nil
	}
	out := make([]FitPoint, 0, len(r.bins))
	for i := range r.bins {
		b := &r.bins[i]
		curve := v.f.best.fitted(v.f, i)
		// The temperature was taken out of both alike.
		out = append(out, FitPoint{AtS: r.t0 + b.meanT, KPa: kpa(r.sign * (r.y0 + curve)), Miss: kpa(b.meanY - curve), Sigma: kpa(math.Sqrt(v.f.noise / b.w))})
	}
	return out
}
