package judge

import (
	"math"
	"testing"

	"gonum.org/v1/gonum/mat"
	"gonum.org/v1/gonum/optimize"
)

// generalFit fits one model, a level, one settling and a steady loss, to readings by least squares as a general package
// does it: the sum of squares and its gradient over all readings, minimised by BFGS. It gives the loss, Pa/s.
func generalFit(t, pa []float64) (lossPaPerS float64, err error) {
	span, first := t[len(t)-1], pa[0]
	// Parameters of order one: level and height (kPa), time of settling and loss in parts of the span.
	model := func(x []float64) (level, height, rate, slope float64) {
		return 1e3 * x[0], 1e3 * x[1], math.Exp(x[2]) / span, 1e3 * x[3] / span
	}
	n := float64(len(t))
	problem := optimize.Problem{
		Func: func(x []float64) (sum float64) {
			level, height, rate, slope := model(x)
			for i, at := range t {
				d := pa[i] - first - level - height*math.Exp(-rate*at) - slope*at
				sum += d * d
			}
			return sum / n
		},
		Grad: func(g, x []float64) {
			level, height, rate, slope := model(x)
			clear(g)
			for i, at := range t {
				e := math.Exp(-rate * at)
				d := -2 * (pa[i] - first - level - height*e - slope*at) / n
				g[0] += d * 1e3
				g[1] += d * 1e3 * e
				g[2] -= d * height * e * rate * at
				g[3] += d * 1e3 * at / span
			}
		},
	}
	got, err := optimize.Minimize(problem, []float64{-1, 1, math.Log(span / startS), -1}, &optimize.Settings{Converger: &optimize.FunctionConverge{Relative: 1e-9, Iterations: 3}}, &optimize.BFGS{})
	if got == nil { // at the last digit its search along a line may fail, which is as far as it gets
		return 0, err
	}
	_, _, _, slope := model(got.X)
	return -slope, nil
}

// startS is the settling time from which both fits begin, s: near the one that was put in, as somebody would guess.
const startS = 30

// gaussNewton fits the same model by the method that suits it best: the normal equations of a step, solved, some ten
// times over all readings.
func gaussNewton(t, pa []float64) (lossPaPerS float64) {
	first := pa[0]
	x := []float64{-1e3, 1e3, 1 / startS, 0} // Pa, Pa, 1/s, Pa/s
	for range 30 {
		var a [16]float64
		var b [4]float64
		for i, at := range t {
			e := math.Exp(-x[2] * at)
			row := [4]float64{1, e, -x[1] * at * e, at}
			d := pa[i] - first - x[0] - x[1]*e - x[3]*at
			for k := range 4 {
				b[k] += row[k] * d
				for l := range 4 {
					a[4*k+l] += row[k] * row[l]
				}
			}
		}
		var step mat.VecDense
		if step.SolveVec(mat.NewDense(4, 4, a[:]), mat.NewVecDense(4, b[:])) != nil {
			break
		}
		for k := range 4 {
			x[k] += step.AtVec(k)
		}
		if math.Abs(step.AtVec(2)) < 1e-6*math.Abs(x[2]) {
			break
		}
	}
	return -x[3]
}

// The judge against a fit of one model to the same million numbers in memory; both find the loss that was put in.
func BenchmarkJudgeAgainstAFit1000000(b *testing.B) {
	tr := finer(held(110, 0.02, 4, 20, 10_000), 100)
	var t, pa []float64
	for _, r := range tr.Readings {
		t, pa = append(t, r.AtS), append(pa, r.GaugePa)
	}
	q := Question{AmbientPa: 101325, LimitPaPerS: 1000. / 60, Gauge: Gauge{DigitalPa: 100}}
	const kPaPerMin = 60. / 1e3
	var judged, fitted, newton float64
	b.Run("judge", func(b *testing.B) {
		for b.Loop() {
			rep, err := Judge(tr, q, nil, false)
			if err != nil || rep.RateKPaPerMin == nil {
				b.Fatal(err, rep.Why)
			}
			judged = rep.RateKPaPerMin.Value
		}
	})
	b.Run("general fit", func(b *testing.B) {
		for b.Loop() {
			loss, err := generalFit(t, pa)
			if err != nil {
				b.Fatal(err)
			}
			fitted = loss * kPaPerMin
		}
	})
	b.Run("Gauss-Newton", func(b *testing.B) {
		for b.Loop() {
			newton = gaussNewton(t, pa) * kPaPerMin
		}
	})
	for who, loss := range map[string]float64{"the judge": judged, "the fit": fitted, "Gauss-Newton": newton} {
		if loss != 0 && math.Abs(loss-judged) > 0.05*math.Abs(judged)+0.002 {
			b.Errorf("%s finds %.4f kPa/min, the judge %.4f", who, loss, judged)
		}
	}
}
