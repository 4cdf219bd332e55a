package circuit

import (
	"slices"

	"idlehiss/core/quantity"
)

// Repair is one rung of the ladder of repairs, the smallest first.
type Repair struct {
	ID    string     `yaml:"id" json:"id"`
	Title string     `yaml:"title" json:"title"`
	Note  string     `yaml:"note" json:"note,omitempty"`   // what to mind
	Scope string     `yaml:"scope" json:"scope"`           // one of Scopes
	Takes quantity.S `yaml:"takes" json:"takes,omitempty"` // work, without waiting for parts; 0: not known
	For   []string   `yaml:"for" json:"for,omitempty"`     // kinds of part; none: any
}

// Says is a repair with the time it takes.
func (r Repair) Says() string {
	if r.Takes == 0 {
		return r.Title
	}
	return r.Title + ", " + quantity.Duration(float64(r.Takes))
}

// Scopes are how much a repair takes in: what is there put right, a kit of all the
// rubber in it, or a whole part.
var Scopes = []string{"mend", "kit", "whole"}

// RepairSchool is where on the ladder a shop begins.
type RepairSchool struct {
	ID     string `yaml:"id" json:"id"`
	Title  string `yaml:"title" json:"title"`
	Why    string `yaml:"why" json:"why"`
	First  string `yaml:"first" json:"first"` // the scope that is proposed first
	Source string `yaml:"source" json:"source"`
}

// Ladder are the repairs of a part of some kind, in the order in which a school
// proposes them: its own scope first, then as they stand.
func (s RepairSchool) Ladder(all []Repair, kind string) []Repair {
	var first, then []Repair
	for _, r := range all {
		switch {
		case len(r.For) > 0 && !slices.Contains(r.For, kind):
		case r.Scope == s.First:
			first = append(first, r)
		default:
			then = append(then, r)
		}
	}
	return append(first, then...)
}
