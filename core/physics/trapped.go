package physics

import (
	"fmt"
	"math"

	"gonum.org/v1/gonum/mat"
)

// StrokePoint is the gauge pressure seen after a number of pump strokes.
type StrokePoint struct {
	Stroke  float64 // 0 is before the first
	GaugePa float64
}

// TrappedAir is the effective volume of gas a pump is squeezing, V_eff: the air
// itself and what hoses and rubber give way. It is what turns a fall into a flow.
type TrappedAir struct {
	M3              float64 // mean over the climb
	SE              float64 // m³, standard error of the fit; widened when the points bend
	SlopePaPerPoint float64 // Pa per stroke
	Used            int     // points in the fit
	Bent            bool    // the points lie on a curve, not on a line
	BendT           float64 // t value of the curve's quadratic term; NaN when it cannot be told
	LowM3, HighM3   float64 // 95 %; when bent it spans both explanations
}

// TrappedAirFromStrokes works out V_eff = p_a·V_s·Δn/ΔP by least squares over
// the points from index skip on (isothermal, ideal gas; PHYSICS §2). A bend is
// told when the quadratic term has |t| > 3 and the slope changes by more than 5 %.
func TrappedAirFromStrokes(points []StrokePoint, skip int, strokeM3, ambientPa float64) (TrappedAir, error) {
	if strokeM3 <= 0 || ambientPa <= 0 {
		return TrappedAir{}, fmt.Errorf("the pump's stroke (%g m³) and the ambient pressure (%g Pa) must be above zero", strokeM3, ambientPa)
	}
	if skip < 0 || len(points)-skip < 3 {
		return TrappedAir{}, fmt.Errorf("%d strokes with a reading after the first %d; at least 3 are needed to see the air", max(0, len(points)-skip), skip)
	}
	pts := points[skip:]
	line, lineSE, err := polyfit(pts, 1)
	if err != nil {
		return TrappedAir{}, err
	}
	slope := line[1]
	if slope <= 0 {
		return TrappedAir{}, fmt.Errorf("the pressure does not climb with the strokes; look at the adapter, the pump valve and for an open port")
	}
	squeezed := ambientPa * strokeM3
	air := TrappedAir{M3: squeezed / slope, SlopePaPerPoint: slope, Used: len(pts), BendT: math.NaN()}
	air.SE = air.M3 * lineSE[1] / slope
	steep, flat := slope, slope
	if len(pts) >= 5 {
		if quad, se, err := polyfit(pts, 2); err == nil && se[2] > 0 {
			air.BendT = quad[2] / se[2]
			half := (pts[len(pts)-1].Stroke - pts[0].Stroke) / 2
			air.Bent = math.Abs(air.BendT) > 3 && math.Abs(4*quad[2]*half) > 0.05*slope
			// Nothing leaks before the first stroke, so that is where a leak's
			// explanation is read; a soft hose's is read at the top. Each with its doubt.
			at := func(x float64) (slope, doubt float64) {
				return quad[1] + 2*quad[2]*x, 1.96 * math.Hypot(se[1], 2*x*se[2])
			}
			first, d0 := at(-half - pts[0].Stroke)
			last, d1 := at(half)
			steep, flat = math.Max(first+d0, last+d1), math.Min(first-d0, last-d1)
		}
	}
	air.LowM3, air.HighM3 = air.M3-1.96*air.SE, air.M3+1.96*air.SE
	if air.Bent && flat > 0 {
		air.LowM3 = math.Min(air.LowM3, squeezed/steep)
		air.HighM3 = math.Max(air.HighM3, squeezed/flat)
		air.SE = math.Max(air.SE, (air.HighM3-air.LowM3)/4)
	}
	return air, nil
}

// TrappedAirFromDraws works out the volume from the gauge pressures after strokes
// of a vacuum pump, which each take p·V_s away: ln p falls by ln(1 + V_s/V) a
// stroke (absolute, isothermal; PHYSICS §2). Slow walls and a leak bend that line;
// the interval then spans what its two ends would say.
func TrappedAirFromDraws(points []StrokePoint, skip int, strokeM3, ambientPa float64) (TrappedAir, error) {
	if strokeM3 <= 0 || ambientPa <= 0 {
		return TrappedAir{}, fmt.Errorf("the pump's stroke (%g m³) and the ambient pressure (%g Pa) must be above zero", strokeM3, ambientPa)
	}
	if skip < 0 || len(points)-skip < 3 {
		return TrappedAir{}, fmt.Errorf("%d strokes with a reading after the first %d; at least 3 are needed to see the air", max(0, len(points)-skip), skip)
	}
	logs := make([]StrokePoint, 0, len(points)-skip)
	for _, p := range points[skip:] {
		abs := p.GaugePa + ambientPa
		if abs <= 0 {
			return TrappedAir{}, fmt.Errorf("%.3g kPa gauge is below an absolute vacuum", p.GaugePa/1e3)
		}
		logs = append(logs, StrokePoint{p.Stroke, math.Log(abs)})
	}
	line, se, err := polyfit(logs, 1)
	if err != nil {
		return TrappedAir{}, err
	}
	if line[1] >= 0 {
		return TrappedAir{}, fmt.Errorf("the strokes do not deepen the vacuum; look at the adapter, the pump valve and for an open port")
	}
	volume := func(fall float64) float64 { return strokeM3 / math.Expm1(fall) }
	air := TrappedAir{M3: volume(-line[1]), Used: len(logs), BendT: math.NaN()}
	air.SlopePaPerPoint = line[1] * (points[len(points)-1].GaugePa + ambientPa)
	air.SE = air.M3 * se[1] / -line[1]
	air.LowM3, air.HighM3 = air.M3-1.96*air.SE, air.M3+1.96*air.SE
	if len(logs) >= 5 {
		if quad, qse, err := polyfit(logs, 2); err == nil && qse[2] > 0 {
			air.BendT = quad[2] / qse[2]
			half := (logs[len(logs)-1].Stroke - logs[0].Stroke) / 2
			air.Bent = math.Abs(air.BendT) > 3 && math.Abs(4*quad[2]*half) > 0.05*-line[1]
			if first, last := -(quad[1] - 2*quad[2]*half), -(quad[1] + 2*quad[2]*half); air.Bent && first > 0 && last > 0 {
				air.LowM3, air.HighM3 = math.Min(air.LowM3, volume(math.Max(first, last))), math.Max(air.HighM3, volume(math.Min(first, last)))
				air.SE = math.Max(air.SE, (air.HighM3-air.LowM3)/4)
			}
		}
	}
	return air, nil
}

// polyfit fits gauge pressure by a polynomial in strokes about their middle and
// returns coefficients (Pa, Pa/stroke, …) with standard errors.
func polyfit(pts []StrokePoint, degree int) (coef, se []float64, err error) {
	n, k := len(pts), degree+1
	mid := (pts[0].Stroke + pts[n-1].Stroke) / 2
	x := mat.NewDense(n, k, nil)
	y := mat.NewVecDense(n, nil)
	for i, p := range pts {
		for j, v := 0, 1.0; j < k; j, v = j+1, v*(p.Stroke-mid) {
			x.Set(i, j, v)
		}
		y.SetVec(i, p.GaugePa)
	}
	var qr mat.QR
	qr.Factorize(x)
	var c mat.VecDense
	if err := qr.SolveVecTo(&c, false, y); err != nil {
		return nil, nil, fmt.Errorf("the strokes do not span enough to fit: %w", err)
	}
	var fit mat.VecDense
	fit.MulVec(x, &c)
	fit.SubVec(y, &fit)
	rss := mat.Dot(&fit, &fit)
	var normal, inverse mat.Dense
	normal.Mul(x.T(), x)
	if err := inverse.Inverse(&normal); err != nil {
		return nil, nil, fmt.Errorf("the strokes do not span enough to fit: %w", err)
	}
	coef, se = make([]float64, k), make([]float64, k)
	for j := range k {
		coef[j] = c.AtVec(j)
		if n > k {
			se[j] = math.Sqrt(rss / float64(n-k) * inverse.At(j, j))
		}
	}
	return coef, se, nil
}

// TrappedAirFromVessel is the volume (m³) that a vessel standing at ambient took
// the pressure of, once connected: P₁V = P₂(V + V₂), gauge.
func TrappedAirFromVessel(before, after, vesselM3 float64) (float64, error) {
	if !(before > after && after > 0) || vesselM3 <= 0 {
		return 0, fmt.Errorf("connecting an empty vessel lowers the pressure, but not to nothing: the first pressure must be the higher and the second above zero")
	}
	return vesselM3 * after / (before - after), nil
}

// TrappedAirFromLeak is the volume (m³) from two rates of fall (Pa/s), without
// and with a calibrated leak of known standard flow (m³/s).
func TrappedAirFromLeak(without, with, flow float64) (float64, error) {
	if !(with > without) || flow <= 0 {
		return 0, fmt.Errorf("with the known leak fitted it must fall faster than without")
	}
	return flow * StandardPa / (with - without), nil
}

// TrappedAirFromDrawn is the volume (m³) before an amount of liquid was drawn
// off, from the climb of pressure a stroke before and after, and the pump's
// stroke volume (m³) with it.
func TrappedAirFromDrawn(drawnM3, climbBefore, climbAfter, ambientPa float64) (volume, stroke float64, err error) {
	if !(climbBefore > climbAfter && climbAfter > 0) || drawnM3 <= 0 {
		return 0, 0, fmt.Errorf("with liquid drawn off there is more air, so each stroke must raise the pressure less than before")
	}
	volume = drawnM3 / (climbBefore/climbAfter - 1)
	return volume, volume * climbBefore / ambientPa, nil
}
