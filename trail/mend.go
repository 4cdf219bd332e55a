package trail

import (
	"slices"
	"strings"

	"idlehiss/core/circuit"
	"idlehiss/core/quantity"
)

// MendPart is a part with the repairs that suit it, in the order they are proposed.
type MendPart struct {
	ID     string           `json:"id"`
	Title  string           `json:"title"`
	Seen   bool             `json:"seen"`
	Kind   string           `json:"kind"`
	Ladder []circuit.Repair `json:"ladder"` // in a view: of the first part of a kind; the others have the same
}

// Once leaves the ladder to the first part of each kind: a train has sixty parts and ten kinds.
func Once(parts []MendPart) []MendPart {
	had := map[string]bool{}
	for i := range parts {
		if had[parts[i].Kind] {
			parts[i].Ladder = []circuit.Repair{}
		}
		had[parts[i].Kind] = true
	}
	return parts
}

// Mendable are the parts of a circuit that may be mended by a school: those seen leaking first, then
// the likeliest.
func Mendable(ranked []SuspectView, c *circuit.Circuit, school circuit.RepairSchool, all []circuit.Repair) []MendPart {
	out := []MendPart{}
	slices.SortStableFunc(ranked, func(a, b SuspectView) int {
		switch {
		case a.Faulty && !b.Faulty:
			return -1
		case b.Faulty && !a.Faulty:
			return 1
		}
		return 0
	})
	for _, p := range ranked {
		if p.NoPart {
			continue
		}
		i := slices.IndexFunc(c.Parts, func(x circuit.Part) bool { return x.ID == p.ID })
		if l := school.Ladder(all, c.Parts[i].Kind); len(l) > 0 {
			for k := range l { // a part's own ladder needs no kinds, and says what it takes
				if l[k].For = nil; l[k].Takes > 0 {
					l[k].Note = strings.TrimSpace(quantity.Capital(quantity.Duration(float64(l[k].Takes))) + ". " + l[k].Note)
				}
			}
			out = append(out, MendPart{p.ID, p.Title, p.Faulty, c.Parts[i].Kind, l})
		}
	}
	return out
}
