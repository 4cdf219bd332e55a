package hunt

import (
	"slices"

	"idlehiss/core/circuit"
)

// Tried is a hold of a step that says nothing yet: which of the suspects it tries, and how many
// times a leak of each passes there, under what changed.
func (s Scene) Tried(step circuit.Step, under ...circuit.Change) Held {
	if step.Draws() && !s.Step.Draws() {
		under = append(slices.Clone(under), circuit.WhenVacuum)
	} else if !step.Draws() && s.Step.Draws() {
		under = append(slices.Clone(under), circuit.WhenPressure)
	}
	in := s.Circuit.Pressed(step)
	out := Held{Factor: make([]float64, len(s.Suspects))}
	tried := map[string]bool{RigItself.ID: true}
	for _, p := range in.Suspects {
		tried[p.ID] = true
	}
	for _, x := range in.Closures {
		tried[x.Part.ID] = true
	}
	for i, p := range s.Suspects {
		if tried[p.ID] {
			out.Factor[i] = 1
			for _, c := range under {
				if times, ok := p.Changes[c]; ok {
					out.Factor[i] *= times
				}
			}
		}
	}
	return out
}

// Look is a look at a suspect by a method.
func (s Scene) Look(part int, m Method, saw bool) Looked {
	out := Looked{Part: part, Saw: saw, False: stainTells, Chance: func(l Leak) float64 { return s.Chance(m, l.Flow, l.Wet) }}
	if m.LeastGas > 0 {
		out.False = frothTells
	}
	for i, p := range s.Suspects {
		if slices.Contains(s.Suspects[part].Below, p.ID) {
			out.Runs = append(out.Runs, i)
		}
	}
	return out
}

// What a step that is fed or pressed, and not held, is worth: it is judged by a flow or by where a needle stays, so
// that a small leak is within what is right. Shop practice.
const (
	stepShows = 0.85 // a leak of what was tried makes it wrong
	stepWrong = 0.15 // and something else does
	stepHides = 0.4  // what was tried leaks, and it was right all the same
)

// Stepped is what such a step says of what it tried; ok: steps of its kind do.
func (s Scene) Stepped(step circuit.Step, right bool) (out Acted, ok bool) {
	if step.Kind != circuit.Feed && step.Kind != circuit.Presses {
		return out, false
	}
	tried, not := make([]bool, len(s.Suspects)), make([]bool, len(s.Suspects))
	for i, times := range s.Tried(step).Factor {
		tried[i], not[i] = times > 0, times == 0
	}
	if right {
		return Acted{Points: not, Others: tried, Right: 1 - stepWrong, Wrong: stepHides}, true
	}
	return Acted{Points: tried, Others: not, Right: stepShows, Wrong: stepWrong}, true
}

// RanDown is what speaks for the suspects whose liquid runs down to a part; none: the file knows of none.
func (s Scene) RanDown(part int) (out CameOut, ok bool) {
	out.There = s.among(s.Suspects[part].Below)
	return out, slices.Contains(out.There, true)
}

// False alarms (docs/PHYSICS.md, Where to look): an old stain is taken for a leak, and
// froth seldom is.
const (
	stainTells = 0.1
	frothTells = 0.01
)

// Comes marks the suspects whose leak comes out at a place in a step: the part itself; of a
// chamber, every seal between what is pressed and it; of an opening, those of the chamber that
// it opens. ok: there is such a place.
func (s Scene) Comes(step circuit.Step, at string) (there []bool, ok bool) {
	in := s.Circuit.Pressed(step).Chambers
	into := map[string]bool{}
	if _, is := s.Circuit.Chamber(at); is {
		into[at], ok = true, true
	}
	for _, p := range s.Circuit.Parts {
		if p.ID == at {
			ok = true
			for _, ch := range p.Between {
				into[ch] = into[ch] || ch != circuit.Outside && !slices.Contains(in, ch)
			}
		}
	}
	for _, p := range s.Circuit.Ports {
		if p.ID == at {
			into[p.Chamber], ok = !slices.Contains(in, p.Chamber), true
		}
	}
	there = make([]bool, len(s.Suspects))
	for i, p := range s.Suspects {
		a, b := p.Between[0], p.Between[1]
		there[i] = p.ID == at || slices.Contains(in, a) && into[b] || slices.Contains(in, b) && into[a]
	}
	return there, ok
}

// Did is an act that tries some suspects: the loss changed with it, or all of it stayed.
func Did(tries []bool, changed bool) Acted {
	rest := make([]bool, len(tries))
	for i, yes := range tries {
		rest[i] = !yes
	}
	if changed {
		return Acted{Points: tries, Others: rest}
	}
	return Acted{Points: rest, Others: tries, All: true}
}
