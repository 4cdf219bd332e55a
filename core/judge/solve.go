package judge

import "math"

// maxColumns is the columns in the largest node: constant, two times with derivatives,
// what is unseen of creep, steps and what comes back after them, leak.
const maxColumns = 6 + len(Unseen) + mostSteps + len(afterStepS)

// small is a dense symmetric system of at most maxColumns unknowns, kept on the
// stack: it is solved some hundred times for one answer.
type small struct {
	n    int
	a    [maxColumns][maxColumns]float64 // lower triangle; after factor its Cholesky factor
	b, x [maxColumns]float64
}

// factor replaces a by its Cholesky factor and gives the determinant; ok is
// false when a is not positive definite.
func (s *small) factor() (det float64, ok bool) {
	det = 1
	for i := range s.n {
		for j := range i + 1 {
			v := s.a[i][j]
			for k := range j {
				v -= s.a[i][k] * s.a[j][k]
			}
			if i == j {
				if !(v > 0) {
					return 0, false
				}
				s.a[i][i] = math.Sqrt(v)
				det *= v
			} else {
				s.a[i][j] = v / s.a[j][j]
			}
		}
	}
	return det, true
}

// solve fills x with a⁻¹·b.
func (s *small) solve() {
	for i := range s.n {
		v := s.b[i]
		for k := range i {
			v -= s.a[i][k] * s.x[k]
		}
		s.x[i] = v / s.a[i][i]
	}
	for i := s.n - 1; i >= 0; i-- {
		v := s.x[i]
		for k := i + 1; k < s.n; k++ {
			v -= s.a[k][i] * s.x[k]
		}
		s.x[i] = v / s.a[i][i]
	}
}

// inverse fills inv with a⁻¹, from the factor.
func (s *small) inverse(inv *[maxColumns][maxColumns]float64) {
	var l [maxColumns][maxColumns]float64 // the factor's own inverse
	for j := range s.n {
		l[j][j] = 1 / s.a[j][j]
		for i := j + 1; i < s.n; i++ {
			v := 0.0
			for k := j; k < i; k++ {
				v -= s.a[i][k] * l[k][j]
			}
			l[i][j] = v / s.a[i][i]
		}
	}
	for i := range s.n {
		for j := range i + 1 {
			v := 0.0
			for k := i; k < s.n; k++ {
				v += l[k][i] * l[k][j]
			}
			inv[i][j], inv[j][i] = v, v
		}
	}
}

// normalCDF is Φ.
func normalCDF(z float64) float64 { return 0.5 * math.Erfc(-z/math.Sqrt2) }
