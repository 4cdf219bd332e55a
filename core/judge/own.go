package judge

import "math"

// OwnLoss is what a proven rig loses, kPa/min, with its standard error: what the
// proof measured together with what is believed of losses before any is measured
// (the same prior as for a hold). A rig never gains, and a short proof that saw
// nothing leaves less doubt than its flat interval says.
func OwnLoss(proof Report) (mean, se float64, ok bool) {
	r := proof.RateKPaPerMin
	if r == nil || proof.LimitKPaPerMin <= 0 {
		return 0, 0, false
	}
	const (
		finest   = 1e-9 // kPa/min: keeps a proof without any doubt apart from a division by zero
		ownReach = 6.0  // standard errors up to which is summed
		steps    = 2000 // of the sum
	)
	up, down := math.Max((r.High-r.Value)/z95, finest), math.Max((r.Value-r.Low)/z95, finest)
	most := math.Max(r.High, 0) + ownReach*up
	prior := ratePrior(&Question{LimitPaPerS: proof.LimitKPaPerMin})
	sum, m1, m2 := 0.0, 0.0, 0.0
	for i := range steps {
		// Finer towards nothing, where the prior is steep.
		a, b := float64(i)/steps, float64(i+1)/steps
		x, width := most*(a+b)*(a+b)/4, most*(b*b-a*a)
		sd := up
		if x < r.Value {
			sd = down
		}
		z := (x - r.Value) / sd
		density := 0.0
		for _, s := range prior {
			if !s.rises {
				density += s.weight / s.sd * math.Exp(-x*x/(2*s.sd*s.sd))
			}
		}
		w := density * math.Exp(-z*z/2) * width
		sum += w
		m1 += w * x
		m2 += w * x * x
	}
	if !(sum > 0) {
		return math.Max(0, r.Value), up, true
	}
	mean = m1 / sum
	return mean, math.Sqrt(math.Max(m2/sum-mean*mean, 0)), true
}

// OnSystem scales a loss measured dead-headed on the rig's own volume (m³, with
// its standard error) to a system with so much air, with its doubt (PHYSICS §6);
// nothing can be taken off where either volume is not known.
func OnSystem(loss, se, rigM3, rigSE, gasM3, gasSE float64) (onSystem, doubt float64) {
	if rigM3 <= 0 || gasM3 <= 0 {
		return 0, 0
	}
	ratio := rigM3 / gasM3
	return loss * ratio, math.Hypot(se*ratio, loss*ratio*math.Hypot(rigSE/rigM3, gasSE/gasM3))
}
