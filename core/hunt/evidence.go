package hunt

import "math"

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

// fits compares a flow with the one held.
func (h Held) fits(sum float64) float64 {
	spread := func(flow float64) float64 { return math.Hypot(h.SE, flowDoubt*flow) }
	z := (sum - h.Flow) / spread(sum)
	at := math.Exp(-z*z/2) * math.Min(1, spread(h.Flow)/spread(sum))
	return (1-holdWrong)*at + holdWrong*anyFlow*math.Min(1, spread(h.Flow)/math.Max(h.Flow, spread(h.Flow)))
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
	return edge(h.Flow, 0), edge(h.Flow, 10*math.Max(largest, h.Flow))
}

// Looked is a look at one place.
type Looked struct {
	Part   int
	Saw    bool
	Chance func(part int, flow float64) float64 // that the method shows a leak of that part
	False  float64                              // that it shows one where none is
	Runs   []int                                // suspects above it, whose liquid runs down to it
}

// Weight is the chance of seeing it, or of not seeing it.
func (o Looked) Weight(leaks []Leak) float64 {
	miss := 1 - o.False
	for _, l := range leaks {
		if l.Part == o.Part {
			miss *= 1 - o.Chance(l.Part, l.Flow)
		}
		for _, above := range o.Runs {
			if l.Part == above {
				miss *= 1 - ranDown*o.Chance(l.Part, l.Flow)
			}
		}
	}
	if o.Saw {
		return 1 - miss
	}
	return miss
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

// Acted is the answer to an act: which suspects that answer points to, and which another answer
// of the same act would have.
type Acted struct {
	Points, Others []bool
	All            bool // it stopped: everything that leaks must be among them
}

// Weight is how well these leaks explain the answer.
func (o Acted) Weight(leaks []Leak) float64 {
	one := func(l Leak) float64 {
		switch {
		case l.Part == Elsewhere:
			return elsewhereSo
		case o.Points[l.Part]:
			return pointed
		case o.Others[l.Part]:
			return otherwise
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

// Phase is whether it dripped or hissed.
type Phase struct {
	Dripped bool
	Liquid  []float64 // by suspect: the chance that what leaves it is liquid
}

// Weight is the mean chance of that.
func (o Phase) Weight(leaks []Leak) float64 {
	sum := 0.0
	for _, l := range leaks {
		p := 0.5
		if l.Part != Elsewhere {
			p = 0.05 + 0.9*o.Liquid[l.Part] // a place beside the line may be mistaken
		}
		if !o.Dripped {
			p = 1 - p
		}
		sum += p
	}
	return sum / float64(max(1, len(leaks)))
}

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
