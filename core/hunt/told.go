package hunt

import "slices"

// What a person says weighs so much. Shop practice; capped, so that nothing that was said alone
// names a part.
const (
	workedTells = 2.0  // a part that was worked on last
	hunchMost   = 0.5  // of the odds that a hunch may claim
	provenTells = 0.05 // of the rig's odds, once it was proven alone
)

// Told is what is said before anything is tried, beside the signs.
type Told struct {
	WorkedOn  []int // suspects
	Hunch     int   // a suspect; -1: none
	Weight    float64
	RigProven bool
}

// Shares are the odds of the suspects with that, summing to one.
func (t Told) Shares(suspects []Suspect) []float64 {
	out := make([]float64, len(suspects))
	sum := 0.0
	for i, s := range suspects {
		out[i] = s.Share
		if slices.Contains(t.WorkedOn, i) {
			out[i] *= workedTells
		}
		if t.RigProven && s.ID == RigItself.ID {
			out[i] *= provenTells
		}
		sum += out[i]
	}
	claim := 0.0
	if t.Hunch >= 0 {
		claim = min(t.Weight, hunchMost)
	}
	for i := range out {
		if sum > 0 {
			out[i] *= (1 - claim) / sum
		}
		if i == t.Hunch {
			out[i] += claim
		}
	}
	return out
}
