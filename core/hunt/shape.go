package hunt

import (
	"slices"

	"idlehiss/core/circuit"
)

// Shaped is a shape of the fall that some kinds of part give and others do not.
type Shaped struct{ Times []float64 } // by suspect: how many times likelier its leak gives it

// Weight is the mean over the leaks: either may give it.
func (o Shaped) Weight(leaks []Leak) float64 {
	sum := 0.0
	for _, l := range leaks {
		if l.Part == Elsewhere {
			sum++
		} else {
			sum += o.Times[l.Part]
		}
	}
	return sum / float64(max(1, len(leaks)))
}

func (o Shaped) alike(part int) ([2]float64, bool) { return [2]float64{o.Times[part]}, false }

// How many times likelier the kinds give a shape, and how many times the others. Shop practice.
const (
	closesAgain = 4.0 // it falls to a pressure and stays there: something shuts
	staysOpen   = 0.4
	movedTells  = 3.0 // it fell, or changed, at an instant when something was moved
	movedNot    = 0.6
)

// seats are the kinds that shut again as the pressure falls: reliefs, caps, valves and lips.
var seats = []string{"relief", "cap", "valve", "needle", "seal", "reed"}

// Floors is a fall that stops at a pressure.
func (s Scene) Floors() Shaped {
	return s.shaped(func(p Suspect) bool { return p.Lifts > 0 || slices.Contains(seats, p.Kind) }, closesAgain, staysOpen)
}

// MovedAndJumped is a sudden loss when something was moved.
func (s Scene) MovedAndJumped() Shaped {
	return s.shaped(func(p Suspect) bool { return p.Changes[circuit.WhenMoved] >= growsBy }, movedTells, movedNot)
}

func (s Scene) shaped(gives func(Suspect) bool, times, others float64) Shaped {
	out := Shaped{Times: make([]float64, len(s.Suspects))}
	for i, p := range s.Suspects {
		if out.Times[i] = others; gives(p) {
			out.Times[i] = times
		}
	}
	return out
}
