package hunt

import (
	"cmp"
	"slices"

	"idlehiss/core/circuit"
)

// RigItself is among the suspects of every circuit: half of the parts called bad are a
// dry ring of the tester.
var RigItself = circuit.Part{ID: "rig", Title: "The rig itself", Kind: "rig", Look: "Adapter and its ring, hose, valve and gauge: soap them in place."}

// How often the rig leaks beside all the parts together. Shop practice.
const (
	rigShare     = 0.25
	closureShare = rigShare / 4 // each thing that was shut for the test
)

// Joint is a piece of the rig as a suspect of its own. One that leaked in so many jobs before is that much likelier.
func Joint(id, name string, leakedIn int) circuit.Part {
	return circuit.Part{ID: "kit-" + id, Title: "Joint of " + name, Kind: "rig", Look: "Its ring and its seat. Soap it in place.", Odds: 1 + float64(leakedIn)}
}

// Suspect is a part that may leak, with its share of the odds.
type Suspect struct {
	circuit.Part
	OfRig bool // of the rig or of what was shut for the test: no fault of what is tested
	Share float64
}

// Suspects are the parts that bound what is tested, what was shut for the test, and the
// rig with its joints, the likeliest first.
func Suspects(c *circuit.Circuit, joints []circuit.Part, seen map[string]bool, hunch string) []Suspect {
	parts := Bounding(c)
	own := len(parts)
	total := 0.0
	for _, p := range parts {
		total += p.Odds
	}
	for _, step := range c.Tests() {
		if !step.Kind.Pressurises() {
			continue
		}
		for _, cl := range c.Pressed(step).Closures {
			if !cl.Already && !slices.ContainsFunc(parts, func(x circuit.Part) bool { return x.ID == cl.Part.ID }) {
				p := cl.Part
				p.Odds, p.Look = total*closureShare, "Shut for the test: "+p.Close+"."
				parts = append(parts, p)
			}
		}
	}
	rig := append([]circuit.Part{RigItself}, joints...)
	for _, p := range rig {
		p.Odds = max(p.Odds, 1) * total * rigShare / float64(len(rig))
		parts = append(parts, p)
	}
	shares := Priors(parts, Tells(c, seen), hunch)
	out := make([]Suspect, len(parts))
	for i, p := range parts {
		out[i] = Suspect{Part: p, OfRig: i >= own || p.Rig, Share: shares[i]}
	}
	slices.SortStableFunc(out, func(a, b Suspect) int { return cmp.Compare(b.Share, a.Share) })
	return out
}

// Bounding are the parts that some step of a circuit tries, each once.
func Bounding(c *circuit.Circuit) []circuit.Part {
	var parts []circuit.Part
	for _, step := range c.Tests() {
		for _, p := range c.Pressed(step).Suspects {
			if !slices.ContainsFunc(parts, func(x circuit.Part) bool { return x.ID == p.ID }) {
				parts = append(parts, p)
			}
		}
	}
	return parts
}
