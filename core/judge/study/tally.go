package study

import (
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

// Band is what came of the holds of one true rate.
type Band struct {
	Ratio         float64
	N             int
	Wrong, Called int
	Twice         int // called rightly within twice the ideal observer's time
	MedianS       float64
	IdealMedianS  float64
}

// WrongUpper is the upper 95 % bound of the share of wrong calls.
func (b Band) WrongUpper() float64 { return upper(b.Wrong, b.N) }

// Far tells a band in which a call is wanted soon.
func (b Band) Far() bool { return b.Ratio <= 0.5 || b.Ratio >= 2 }

// ByBand sums the results by true rate.
func ByBand(all []Result) (out []Band) {
	for _, ratio := range Bands {
		b := Band{Ratio: ratio}
		var when, ideal []float64
		for i := range all {
			r := &all[i]
			if r.Ratio != ratio {
				continue
			}
			b.N++
			b.Wrong += b2i(r.Wrong())
			b.Twice += b2i(r.Soon())
			at := math.Inf(1)
			if r.Called != judge.NotYet {
				b.Called++
				at = r.AtS
			}
			when, ideal = append(when, at), append(ideal, r.IdealS)
		}
		b.MedianS, b.IdealMedianS = median(when), median(ideal)
		out = append(out, b)
	}
	return out
}

// Soon tells a right call within twice the time of the ideal observer.
func (r *Result) Soon() bool {
	return r.Called != judge.NotYet && !r.Wrong() && r.AtS <= 2*r.IdealS
}

func median(x []float64) float64 {
	if len(x) == 0 {
		return math.NaN()
	}
	sort.Float64s(x)
	return x[len(x)/2]
}

// Group is what a whole hold, looked at once, told.
type Group struct {
	Name    string
	N       int
	Wrong   int     // called on the wrong side
	Open    int     // not called
	Ideal   float64 // the share that an ideal observer leaves open
	Told    int     // of which a rate is known; what follows is of these
	Covered int     // within the 95 % interval
	Error   float64 // root mean square of (told − true) / full bound
	ErrorMd float64 // the same by the median: robust, 1 for a normal error
	ErrorTF float64 // root mean square over the bound of the true form
	Near    float64 // root mean square of the same over the bound and 2 % of the rate or the allowance together, none above 5
	Width   float64 // median of the interval's half-width / (1.96 full bounds)
}

// By sums the results that a key gives a name.
func By(all []Result, key func(*Result) string) []Group {
	members := map[string][]*Result{}
	for i := range all {
		if k := key(&all[i]); k != "" {
			members[k] = append(members[k], &all[i])
		}
	}
	var out []Group
	for name, of := range members {
		g := Group{Name: name, N: len(of)}
		var errors, widths []float64
		for _, r := range of {
			g.Wrong += b2i(r.WrongFull())
			g.Open += b2i(r.Full == judge.NotYet)
			g.Ideal += r.IdealOpen / float64(len(of))
			if r.Rate == (judge.Interval{}) {
				continue // no rate was found
			}
			g.Told++
			g.Covered += b2i(r.Rate.Low <= r.Ratio && r.Ratio <= r.Rate.High)
			miss := (r.Rate.Value - r.Ratio) / r.FullSD
			form := (r.Rate.Value - r.Ratio) / r.BoundSD
			g.Error += miss * miss
			g.ErrorTF += form * form
			near := math.Min(mostNear, math.Abs(r.Rate.Value-r.Ratio)/(r.BoundSD+nearShare*math.Max(1, r.Ratio)))
			g.Near += near * near
			errors = append(errors, math.Abs(miss)/0.6745)
			widths = append(widths, (r.Rate.High-r.Rate.Low)/r.FullSD/3.92)
		}
		g.Error, g.ErrorTF = math.Sqrt(g.Error/float64(g.Told)), math.Sqrt(g.ErrorTF/float64(g.Told))
		g.Near = math.Sqrt(g.Near / float64(g.Told))
		g.ErrorMd, g.Width = median(errors), median(widths)
		out = append(out, g)
	}
	sort.Slice(out, func(i, j int) bool { return out[i].Name < out[j].Name })
	return out
}

const (
	mostNear  = 5.0  // bounds: an error beyond tells no more
	nearShare = 0.02 // of the rate or the allowance: nobody is helped by less
)

// Promises is what became of the times that were promised at half the hold.
type Promises struct {
	Made, Kept int
	Silent     int // open there, and no time was promised
}

// Promised counts them.
func Promised(all []Result) (p Promises) {
	for i := range all {
		r := &all[i]
		p.Silent += b2i(r.Silent)
		if r.Promise != nil {
			p.Made++
			p.Kept += b2i(r.Kept)
		}
	}
	return p
}

// Hard is how often a kind of hold that imitates a leak is called wrongly.
type Hard struct {
	Name     string
	N, Wrong int
}

// SlowCreeps counts the holds of at most half the allowance that creep at slow
// times only, by gauge.
func SlowCreeps(all []Result) []Hard {
	var out []Hard
	for _, kind := range Kinds {
		h := Hard{Name: string(kind)}
		for i := range all {
			if r := &all[i]; r.Kind == kind && r.Ratio <= 0.5 && r.Slow {
				h.N++
				h.Wrong += b2i(r.Wrong())
			}
		}
		out = append(out, h)
	}
	return out
}

// InFamily tells a hold whose truth the fit can take on exactly: up to two times
// of settling, or a logarithm with one.
func (r *Result) InFamily() bool { return r.Creeps <= 2 }

// ToldApart is the least expected log-likelihood gap from which a shape must be right.
const ToldApart = 4

// Confusion counts, for one true shape where the gap exceeds ToldApart, what it
// was called.
type Confusion struct {
	Truth judge.Shape
	N     int
	Right int
	Named map[judge.Shape]int
}

// Confused counts them all.
func Confused(all []Result) (out []Confusion) {
	for _, c := range append(Shapes[:], judge.ShapeStep) {
		row := Confusion{Truth: c, Named: map[judge.Shape]int{}}
		for i := range all {
			if r := &all[i]; r.Truth == c && r.Gap > ToldApart {
				row.Named[r.Shape]++
				row.N++
				row.Right += b2i(r.Right())
			}
		}
		if row.N > 0 {
			out = append(out, row)
		}
	}
	return out
}

// School is how a stopwatch hold did with one kind of gauge, beside the judge.
type School struct {
	Kind        Kind
	Minutes     float64 // 0: the judge
	MissedLeaks float64 // share of true rates from 1.25 up that passed
	FalseAlarms float64 // share of true rates up to 0.8 that did not
	Undecided   float64 // share called neither
	MedianS     float64 // until the answer
}

// Beside compares the judge with every stopwatch, gauge by gauge.
func Beside(all []Result) (out []School) {
	for _, kind := range Kinds {
		for k := -1; k < len(SchoolMinutes); k++ {
			s := School{Kind: kind}
			if k >= 0 {
				s.Minutes, s.MedianS = SchoolMinutes[k], 60*SchoolMinutes[k]
			}
			leaks, tights := 0, 0
			var when []float64
			for i := range all {
				r := &all[i]
				if r.Kind != kind {
					continue
				}
				passed := k >= 0 && r.Schools[k] || k < 0 && r.Called == judge.Tight
				failed := k >= 0 && !r.Schools[k] || k < 0 && r.Called == judge.Leaking
				if r.Ratio > 1 {
					leaks++
					s.MissedLeaks += float64(b2i(passed))
				} else {
					tights++
					s.FalseAlarms += float64(b2i(failed))
				}
				s.Undecided += float64(b2i(!passed && !failed))
				at := r.AtS
				if r.Called == judge.NotYet {
					at = math.Inf(1)
				}
				when = append(when, at)
			}
			s.Undecided /= float64(max(1, leaks+tights))
			s.MissedLeaks /= float64(max(1, leaks))
			s.FalseAlarms /= float64(max(1, tights))
			if k < 0 {
				s.MedianS = median(when)
			}
			out = append(out, s)
		}
	}
	return out
}

// Wrong is the mean of the two shares of wrong answers.
func (s School) Wrong() float64 { return (s.MissedLeaks + s.FalseAlarms) / 2 }

func pc(k, n int) float64 { return 100 * float64(k) / float64(max(n, 1)) }
