package trail

import (
	"encoding/json"
	"slices"
	"strings"

	"idlehiss/core/circuit"
	"idlehiss/core/quantity"
	"idlehiss/core/terms"
	"idlehiss/desk"
	"idlehiss/logbook"
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

// CauseChoice is what may have made a part fail, as a button says it.
type CauseChoice struct {
	ID    terms.Cause `json:"id"`
	Title string      `json:"title"`
}

// Causes are those to choose from, the commonest first. Shop practice.
func Causes() []CauseChoice {
	return []CauseChoice{
		{terms.Aged, "Age"}, {terms.Rubbed, "Rubbed on something"}, {terms.OverSqueezed, "Tightened too far"}, {terms.Heated, "Heat"},
		{terms.WrongPart, "Wrong part, or fitted wrongly"}, {terms.Knocked, "A knock"}, {terms.Frozen, "Frost"}, {terms.CauseUnknown, "Not found"},
	}
}

// CauseOf is a cause as a sentence.
func CauseOf(c terms.Cause) (string, error) {
	for _, x := range Causes() {
		if x.ID == c {
			return "Cause: " + quantity.Lower(x.Title) + ".", nil
		}
	}
	return "", desk.Refuse("cause", "choose one of the causes, or \"Not found\"")
}

// CauseSays is what made a part fail, and whether it was asked.
func CauseSays(facts logbook.Facts, part string) (says string, asked bool) {
	f, ok := facts.Standing(terms.AboutCause, part)
	var c terms.Cause
	if !ok || json.Unmarshal(f.Value, &c) != nil {
		return "", false
	}
	says, _ = CauseOf(c) // of a later version: its sentence stands on the sheet
	return says, true
}
