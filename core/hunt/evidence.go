package hunt

import (
	"math"
	"slices"
)

// What evidence is worth. Shop practice, but for what a study will set (docs/PHYSICS.md).
const (
	flowDoubt = 0.15 // of a flow: passages change a little from one hold to the next
	holdWrong = 0.02 // of holds say something quite different
	ranDown   = 0.5  // of the chance to see a leak itself, where its liquid runs down to the place looked at
	cameThere = 0.9  // a leak comes out where the graph says
	cameNot   = 0.04 // and is noticed where it does not
	mends     = 0.9  // of repairs take their leak away

	pointed     = 0.85 // an act gives the answer that points to where it leaks
	otherwise   = 0.08 // and one that points elsewhere
	elsewhereSo = 0.3  // either, where it leaks at none of them
)

// anyFlow is how dense a hold that is wrong lies over all sizes, beside the peak of one that is
// right.
var anyFlow = math.Sqrt(2*math.Pi) / math.Log(largest/smallest)

// Held is what a hold said of the flow: tight ones tell as much as leaking ones.
type Held struct {
	Factor  []float64 // by suspect: how many times its leak passes in this hold; 0: it is not tried
	Flow    float64   // m³/s, standard
	SE      float64   // of the flow
	Leaking bool
}

// Weight compares the flow that these leaks would give.
func (h Held) Weight(leaks []Leak) float64 {
	sum := 0.0
	for _, l := range leaks {
		switch {
		case l.Part != Elsewhere:
			sum += h.Factor[l.Part] * l.Flow
		case h.Leaking:
			sum += l.Flow
		}
	}
	return h.fits(sum)
}

func (h Held) alike(part int) ([2]float64, bool) { return [2]float64{h.Factor[part]}, true }

// flow is the one held, as far as the grid goes.
func (h Held) flow() float64 { return math.Min(h.Flow, largest) }

// fits compares a flow with the one held.
func (h Held) fits(sum float64) float64 {
	flow := h.flow()
	se := h.SE * flow / math.Max(h.Flow, flow)
	if h.Flow == 0 {
		se = h.SE
	}
	spread := func(flow float64) float64 { return math.Hypot(se, flowDoubt*flow) }
	z := (sum - flow) / spread(sum)
	at := math.Exp(-z*z/2) * math.Min(1, spread(flow)/spread(sum))
	return (1-holdWrong)*at + holdWrong*anyFlow*math.Min(1, spread(flow)/math.Max(flow, spread(flow)))
}

// window is the range of flows that fit at least so well.
func (h Held) window(least float64) (low, high float64) {
	edge := func(in, out float64) float64 {
		if h.fits(out) >= least {
			return out
		}
		for range 60 {
			if mid := (in + out) / 2; h.fits(mid) >= least {
				in = mid
			} else {
				out = mid
			}
		}
		return out
	}
	return edge(h.flow(), 0), edge(h.flow(), 10*largest)
}

// Looked is a look at one place.
type Looked struct {
	Part   int
	Saw    bool
	Chance func(Leak) float64 // that the method shows it
	False  float64            // that it shows one where none is
	Runs   []int              // suspects above it, whose liquid runs down to it
}

// shows is the share of the chance at which a leak of a part shows at the place looked at.
func (o Looked) shows(part int) float64 {
	switch {
	case part == o.Part:
		return 1
	case slices.Contains(o.Runs, part):
		return ranDown
	}
	return 0
}

// Weight is the chance of seeing it, or of not seeing it.
func (o Looked) Weight(leaks []Leak) float64 {
	miss := 1 - o.False
	for _, l := range leaks {
		if share := o.shows(l.Part); share > 0 {
			miss *= 1 - share*o.Chance(l)
		}
	}
	return o.says(miss)
}

func (o Looked) alike(part int) ([2]float64, bool) {
	return [2]float64{o.shows(part), float64(part)}, true
}

// CameOut is a place where it was seen to come out: the suspects whose leak would.
type CameOut struct{ There []bool }

// Weight is how well a leak of these explains it.
func (o CameOut) Weight(leaks []Leak) float64 {
	for _, l := range leaks {
		if l.Part != Elsewhere && o.There[l.Part] {
			return cameThere
		}
	}
	return cameNot
}

func (o CameOut) alike(part int) ([2]float64, bool) { return flagged(o.There[part], false), false }

// Nowhere is a test in which nothing came out anywhere and the needle stood: the suspects that it tried.
type Nowhere struct{ There []bool }

// Weight is how well leaks of these explain it.
func (o Nowhere) Weight(leaks []Leak) float64 {
	for _, l := range leaks {
		if l.Part != Elsewhere && o.There[l.Part] {
			return cameNot
		}
	}
	return cameThere
}

func (o Nowhere) alike(part int) ([2]float64, bool) { return flagged(o.There[part], false), false }

// flagged are two yes or no as a kind.
func flagged(a, b bool) (out [2]float64) {
	if a {
		out[0] = 1
	}
	if b {
		out[1] = 1
	}
	return out
}

// Acted is the answer to an act: which suspects that answer points to, and which another answer
// of the same act would have.
type Acted struct {
	Points, Others []bool
	All            bool // it stopped: everything that leaks must be among them

	Right, Wrong float64 // how often this answer is given where it points, and where others do; 0: as usual
}

// rates are how often.
func (o Acted) rates() (right, wrong float64) {
	if o.Right > 0 {
		return o.Right, o.Wrong
	}
	return pointed, otherwise
}

// Weight is how well these leaks explain the answer.
func (o Acted) Weight(leaks []Leak) float64 {
	right, wrong := o.rates()
	one := func(l Leak) float64 {
		switch {
		case l.Part == Elsewhere:
			return elsewhereSo
		case o.Points[l.Part]:
			return right
		case o.Others[l.Part]:
			return wrong
		}
		return 0.5
	}
	w := 0.0
	for i, l := range leaks {
		switch v := one(l); {
		case i == 0 || !o.All && v > w || o.All && v < w:
			w = v
		}
	}
	return w
}

func (o Acted) alike(part int) ([2]float64, bool) {
	return flagged(o.Points[part], o.Others[part]), false
}

// Slowed is what the gauge said of an act that cut parts off: the loss after it as a share of the
// loss before.
type Slowed struct {
	Cut   []bool
	Share float64
	SE    float64 // of the share
	Air   float64 // share of the gas that was cut off with them, 0 to 1
}

// What is known of acts beside their gauge. Shop practice.
const (
	partShut = 0.15 // of a share: a clamp seldom shuts wholly
	airDoubt = 0.3  // of what cutting off gas adds to a share: its share of the gas is known roughly
	actWrong = 0.05 // of acts are done at the wrong place
	anyShare = 0.5  // how dense such a one lies over the shares
)

// Weight compares the share that these leaks would leave.
func (o Slowed) Weight(leaks []Leak) float64 {
	before, after := 0.0, 0.0
	for _, l := range leaks {
		if l.Part == Elsewhere {
			return anyShare // it may be on either side
		}
		before += l.Flow
		if !o.Cut[l.Part] {
			after += l.Flow
		}
	}
	left := after / before / (1 - o.Air)
	spread := math.Hypot(o.SE, partShut+airDoubt*(left-after/before))
	z := (o.Share - left) / spread
	return (1-actWrong)*math.Exp(-z*z/2)/spread/math.Sqrt(2*math.Pi) + actWrong*anyShare
}

func (o Slowed) alike(part int) ([2]float64, bool) { return flagged(o.Cut[part], false), true }

// Phase is whether it dripped or hissed.
type Phase struct{ Dripped bool }

// misheard is how often a drip is taken for a hiss, or a hiss for a drip. Shop practice.
const misheard = 0.05

// Weight is the mean chance of that.
func (o Phase) Weight(leaks []Leak) float64 {
	sum := 0.0
	for _, l := range leaks {
		switch {
		case l.Part == Elsewhere:
			sum += 0.5
		case l.Wet == o.Dripped:
			sum += 1 - misheard
		default:
			sum += misheard
		}
	}
	return sum / float64(max(1, len(leaks)))
}

func (o Phase) alike(int) ([2]float64, bool) { return [2]float64{}, false }

// Mended is a repair and the hold after it: the repair takes its leak away, as a rule.
type Mended struct {
	Part  int
	After Held
}

// Weight looks at the hold after with that leak gone, and with it there.
func (o Mended) Weight(leaks []Leak) float64 {
	left := make([]Leak, 0, 2)
	for _, l := range leaks {
		if l.Part != o.Part {
			left = append(left, l)
		}
	}
	if len(left) == len(leaks) {
		return o.After.Weight(leaks)
	}
	return mends*o.After.Weight(left) + (1-mends)*o.After.Weight(leaks)
}

func (o Mended) alike(part int) ([2]float64, bool) {
	return [2]float64{o.After.Factor[part], flagged(part == o.Part, false)[0]}, true
}
