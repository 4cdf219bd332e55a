package study

import (
	"fmt"
	"io"
	"math"
	"sort"

	"idlehiss/core/judge"
)

// upper is the exact (Clopper–Pearson) upper 95 % bound of a share k of n.
func upper(k, n int) float64 {
	if k >= n {
		return 1
	}
	// The binomial tail P(X ≤ k) falls with p; find where it is 2.5 %.
	low, high := float64(k)/float64(n), 1.0
	for range 60 {
		p := (low + high) / 2
		tail := 0.0
		for i := 0; i <= k; i++ {
			a, _ := math.Lgamma(float64(n + 1))
			b, _ := math.Lgamma(float64(i + 1))
			c, _ := math.Lgamma(float64(n - i + 1))
			tail += math.Exp(a - b - c + float64(i)*math.Log(p) + float64(n-i)*math.Log1p(-p))
		}
		if tail > 0.025 {
			low = p
		} else {
			high = p
		}
	}
	return high
}

// Print tells the results in plain text, for whoever works on the rule.
func Print(w io.Writer, all []Result) {
	fmt.Fprintf(w, "%-6s %5s %7s %7s %7s %7s %9s %9s\n", "ratio", "n", "wrong", "upper", "called", "in 2×", "median s", "ideal s")
	for _, band := range Bands {
		n, wrong, called, twice := 0, 0, 0, 0
		var when, ideal []float64
		for i := range all {
			r := &all[i]
			if r.Ratio != band {
				continue
			}
			n++
			wrong += b2i(r.Wrong())
			called += b2i(r.Called != judge.NotYet)
			twice += b2i(r.Called != judge.NotYet && !r.Wrong() && r.AtS <= 2*r.IdealS)
			when = append(when, map[bool]float64{true: r.AtS, false: math.Inf(1)}[r.Called != judge.NotYet])
			ideal = append(ideal, r.IdealS)
		}
		sort.Float64s(when)
		sort.Float64s(ideal)
		fmt.Fprintf(w, "%-6g %5d %6.1f%% %6.1f%% %6.1f%% %6.1f%% %9.0f %9.0f\n", band, n, pc(wrong, n), 100*upper(wrong, n), pc(called, n), pc(twice, n), when[n/2], ideal[n/2])
	}
	groups := func(title string, of func(*Result) string, keep func(*Result) bool) {
		type sums struct {
			n, covered, narrow, wrong, far, twice int
			err, width, full, abs, absFull        float64
			meds                                  []float64
		}
		by := map[string]*sums{}
		var names []string
		for i := range all {
			r := &all[i]
			if !keep(r) {
				continue
			}
			k := of(r)
			s := by[k]
			if s == nil {
				s = &sums{}
				by[k] = s
				names = append(names, k)
			}
			s.n++
			s.covered += b2i(r.Rate.Low <= r.Ratio && r.Ratio <= r.Rate.High)
			s.wrong += b2i(r.Wrong())
			z := (r.Rate.Value - r.Ratio) / r.BoundSD
			s.err += math.Min(z*z, 400)
			zf := (r.Rate.Value - r.Ratio) / r.FullSD
			s.full += math.Min(zf*zf, 400)
			s.abs += (r.Rate.Value - r.Ratio) * (r.Rate.Value - r.Ratio)
			s.absFull += r.FullSD * r.FullSD
			s.meds = append(s.meds, math.Abs(zf)/0.6745)
			s.width += (r.Rate.High - r.Rate.Low) / r.BoundSD / 3.92
			if r.Ratio <= 0.5 || r.Ratio >= 2 {
				s.far++
				s.twice += b2i(r.Called != judge.NotYet && r.AtS <= 2*r.IdealS)
			}
		}
		sort.Strings(names)
		fmt.Fprintf(w, "\n%-28s %5s %8s %8s %8s %8s %8s %9s %7s %7s\n", title, "n", "covered", "err/full", "median", "abs", "error/σ", "width/σ", "wrong", "in 2×")
		for _, k := range names {
			s := by[k]
			sort.Float64s(s.meds)
			fmt.Fprintf(w, "%-28s %5d %7.1f%% %8.2f %8.2f %8.2f %8.2f %9.2f %6.1f%% %6.1f%%\n", k, s.n, pc(s.covered, s.n), math.Sqrt(s.full/float64(s.n)), s.meds[len(s.meds)/2], math.Sqrt(s.abs/s.absFull), math.Sqrt(s.err/float64(s.n)), s.width/float64(s.n), pc(s.wrong, s.n), pc(s.twice, s.far))
		}
	}
	fmt.Fprintf(w, "\n%-16s", "truth, gap > 4")
	for _, sh := range append(Shapes[:], judge.ShapeRising, judge.ShapeStep, judge.ShapeTemperature) {
		fmt.Fprintf(w, "%14s", sh)
	}
	right, told := 0, 0
	for _, c := range []Class{Still, Settling, Leak, SettlingLeak} {
		by := map[judge.Shape]int{}
		n := 0
		for i := range all {
			if r := &all[i]; r.Class == c && r.Gap > 4 {
				by[r.Shape]++
				n++
				told++
				right += b2i(r.Right())
			}
		}
		fmt.Fprintf(w, "\n%-16s", c)
		for _, sh := range append(Shapes[:], judge.ShapeRising, judge.ShapeStep, judge.ShapeTemperature) {
			fmt.Fprintf(w, "%13.1f%%", pc(by[sh], n))
		}
		fmt.Fprintf(w, " n=%d", n)
	}
	fmt.Fprintf(w, "\nright %.1f%% of %d\n", pc(right, told), told)
	every := func(*Result) bool { return true }
	groups("class", func(r *Result) string { return string(r.Class) }, every)
	groups("gauge", func(r *Result) string { return fmt.Sprintf("%s sharp=%v", r.Kind, r.Sharp) }, every)
	groups("creep", func(r *Result) string { return fmt.Sprintf("%d times log=%v", r.Creeps, r.Log) }, every)
	groups("warm", func(r *Result) string { return fmt.Sprintf("warm=%v", r.Warm) }, every)
}

func pc(k, n int) float64 { return 100 * float64(k) / float64(max(n, 1)) }
