package shop

import (
	"cmp"
	"slices"

	"idlehiss/core/circuit"
	"idlehiss/core/hunt"
	"idlehiss/logbook"
)

// rigItself stands among the suspects of every circuit: half the bad parts are a
// dry ring. rigShare is how often it is the culprit beside all the parts together.
var rigItself = circuit.Part{ID: "rig", Title: "The rig itself", Kind: "rig", Look: "Adapter and its ring, hose, valve and gauge: soap them where they sit."}

const rigShare = 0.25

// joint is a piece of the rig as a suspect of its own.
func (p piece) joint() circuit.Part {
	return circuit.Part{ID: "kit-" + p.id, Title: "Joint of " + p.Name, Kind: "rig", Look: "Its ring and its seat; soap it where it sits."}
}

// rigSeen names where the rig itself was seen to leak: that can be lived with, by
// name, and is no fault of the part.
func rigSeen(c *circuit.Circuit, on []piece, looks []logbook.Observation) []string {
	out := []string{}
	for _, o := range looks {
		if !o.Seen || o.Class == "meant" {
			continue
		}
		name := ""
		if o.Part == rigItself.ID {
			name = rigItself.Title
		}
		for _, p := range on {
			if o.Part == p.joint().ID {
				name = p.joint().Title
			}
		}
		for _, p := range c.Parts {
			if p.ID == o.Part && (p.Opening || p.Rig) {
				name = p.Title
			}
		}
		if name != "" && !slices.Contains(out, name) {
			out = append(out, name)
		}
	}
	return out
}

// suspects are the parts that bound what is tested and the rig itself, the likeliest
// first by their odds and by what was seen before any tool.
func suspects(sn snapshot, on []piece, looks []logbook.Observation) []SuspectView {
	c := &sn.Circuit
	parts := bounding(c)
	// The rig is always a suspect, with what was closed for the test.
	total := 0.0
	for _, p := range parts {
		total += p.Odds
	}
	for _, step := range c.Tests() {
		for _, cl := range c.Pressed(step).Closures {
			if !cl.Already && !slices.ContainsFunc(parts, func(x circuit.Part) bool { return x.ID == cl.Part.ID }) {
				p := cl.Part
				p.Odds, p.Look = total*rigShare/4, "The rig's own: "+p.Close+"."
				parts = append(parts, p)
			}
		}
	}
	own := []circuit.Part{rigItself}
	for _, p := range on {
		own = append(own, p.joint())
	}
	for _, p := range own {
		p.Odds = total * rigShare / float64(len(own))
		parts = append(parts, p)
	}
	shares := hunt.Priors(parts, signsSeen(sn.facts), hunchOf(sn.facts))
	out := []SuspectView{}
	for i, p := range parts {
		v := SuspectView{ID: p.ID, Title: p.Title, Look: p.Look, Share: shares[i], Signs: append([]string{}, p.Signs...), Seen: []ObservationView{}}
		for _, o := range looks {
			if o.Part == p.ID {
				v.Seen = append(v.Seen, ObservationView{At: o.At, By: o.By, Method: o.Method, Seen: o.Seen, Class: o.Class, Note: o.Note})
			}
		}
		out = append(out, v)
	}
	slices.SortStableFunc(out, func(a, b SuspectView) int { return cmp.Compare(b.Share, a.Share) })
	return out
}

// bounding are the parts that some step of a circuit tries, each once.
func bounding(c *circuit.Circuit) []circuit.Part {
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
