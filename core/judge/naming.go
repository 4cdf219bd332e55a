package judge

import (
	"math"
	"sort"

	"idlehiss/core/trace"
)

// Which shape a trace has is told apart from how fast it loses: the best curve of
// each shape, less a price for what it has more.

// dearer is how many parameters a leak counts for.
const dearer = 1.25

// score enters a node into the four shapes: log-likelihood less a price for each
// parameter (near AIC), the settling and the leak each with the sign it must have.
func (f *fitted) score(c *component) {
	settles := 0
	price := f.dear(c.node.params)
	if c.settle > 0 {
		if c.mean[1] < 0 {
			return
		}
		settles = 1
		if f.ownChill(c) {
			settles = 0
		}
	}
	enter := func(shape int, fits, price float64) {
		f.scores[shape] = math.Max(f.scores[shape], fits-price)
		f.bare[shape] = math.Max(f.bare[shape], fits)
	}
	if c.settle == 0 || settles == 1 {
		enter(settles, c.fitsStill(), price)
	}
	if c.mean[c.leak] > 0 {
		enter(2+settles, c.fits, f.dear(c.node.params+dearer))
	}
}

// paramPrice is the log-likelihood that one more parameter must bring.
const paramPrice = 1.2

// dear is the price of so many parameters beside a level: Akaike's, a little
// more, and corrected for few readings.
func (f *fitted) dear(params float64) float64 {
	k := params + 1
	return paramPrice*params + k*(k+1)/math.Max(1, f.n-k-1)
}

// ownChill tells a settling that a leak makes itself: gas that expands quickly
// cools, and falls up to γ−1 times faster until the walls have warmed it.
func (f *fitted) ownChill(c *component) bool {
	if c.node.settle[0] >= colExpD {
		return false
	}
	rate, _ := c.rate()
	total := 0.0
	for i := range c.node.settle {
		total += math.Abs(c.mean[1+i])
	}
	tau := taus[c.node.settle[0]-colExp]
	return total < littleChill*f.scale && total < chillOfLeak*rate*tau && len(c.node.settle) == 1
}

const (
	littleChill = 0.005 // of the pressure: the most that is taken for such cooling
	chillOfLeak = 0.5   // of what leaks meanwhile: γ−1 of air is 0.4, and some for the error
)

// Fits gives the log-likelihood (but for a constant) of the best still, settling,
// leaking, and settling and leaking curve for readings with a known error (Pa):
// for those who study how far shapes lie apart.
func Fits(readings []trace.Reading, q Question, errorPa float64) [4]float64 {
	q.Gauge = Gauge{DivisionPa: errorPa / Gauge{DivisionPa: 1}.readSigma()}
	r := running{gauge: q.Gauge}
	for _, x := range readings {
		x.How = trace.Read
		r.add(x)
	}
	v, ok := r.decide(&q)
	if !ok {
		return [4]float64{}
	}
	return v.f.bare
}

// name picks the shape with the larger share and its runner-up.
func (f *fitted) name(rep *Report) {
	shapes := [4]Shape{ShapeTight, ShapeSettling, ShapeLeak, ShapeSettlingLeak}
	order := []int{0, 1, 2, 3}
	sort.SliceStable(order, func(i, j int) bool { return f.scores[order[i]] > f.scores[order[j]] })
	total := 0.0
	for _, s := range f.scores {
		total += math.Exp(s - f.scores[order[0]])
	}
	rep.Shape, rep.ShapeShare = shapes[order[0]], 1/total
	rep.RunnerUp, rep.RunnerUpShare = shapes[order[1]], math.Exp(f.scores[order[1]]-f.scores[order[0]])/total
}

// nameLeak names what is called leaking after the likelier of the shapes that lose: a call and the
// shape beside it never disagree.
func (r *Report) nameLeak(f *fitted) {
	r.Shape, r.RunnerUp = ShapeLeak, ShapeSettlingLeak
	behind := f.scores[3] - f.scores[2]
	if math.IsNaN(behind) { // neither fits with the sign that it must have
		behind = math.Inf(-1)
	}
	if behind > 0 {
		r.Shape, r.RunnerUp = r.RunnerUp, r.Shape
	}
	r.ShapeShare = 1 / (1 + math.Exp(-math.Abs(behind)))
	r.RunnerUpShare = 1 - r.ShapeShare
}
