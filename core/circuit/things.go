package circuit

import (
	"fmt"
	"strconv"
	"strings"

	"idlehiss/core/quantity"
)

// CutBetween is what parts a circuit of things in a row: the near ones stay on the gauge.
type CutBetween struct {
	Title   string     `yaml:"title" json:"title"` // what is shut, such as "the end cocks"
	Takes   quantity.S `yaml:"takes" json:"takes"`
	Mind    string     `yaml:"mind" json:"mind,omitempty"`
	Far     []string   `yaml:"far" json:"far,omitempty"`         // parts behind the last thing
	Instead string     `yaml:"instead" json:"instead,omitempty"` // the act that it takes the place of, where the things have names
}

// fewestThings is how many make a row that can be parted.
const fewestThings = 2

// ByThings is the circuit with every part that each thing has, once for each of them by name, and with
// the acts that part the row between two of them. A part's id goes on with its place in the row:
// distributors@3.
func (c Circuit) ByThings(names []string) Circuit {
	if len(names) < fewestThings || c.Things == "" {
		return c
	}
	of := map[string][]string{}
	var parts []Part
	for _, p := range c.Parts {
		if p.Each == "" {
			parts = append(parts, p)
			continue
		}
		for k, name := range names {
			one := p
			one.ID, one.Title, one.Odds = ThingPart(p.ID, k+1), p.Each+", "+c.thing(name), p.Odds/float64(len(names))
			of[p.ID] = append(of[p.ID], one.ID)
			parts = append(parts, one)
		}
	}
	each := func(ids []string) []string {
		var out []string
		for _, id := range ids {
			if all, ok := of[id]; ok {
				out = append(out, all...)
			} else {
				out = append(out, id)
			}
		}
		return out
	}
	for i := range parts {
		parts[i].Below = each(parts[i].Below)
	}
	c.Parts = parts
	c.Steps = append([]Step{}, c.Steps...)
	for i := range c.Steps {
		c.Steps[i].Open, c.Steps[i].Shut = each(c.Steps[i].Open), each(c.Steps[i].Shut)
	}
	c.Imitators = append([]Imitator{}, c.Imitators...)
	for i := range c.Imitators {
		c.Imitators[i].Parts = each(c.Imitators[i].Parts)
	}
	var acts []Act
	for _, a := range c.Acts {
		if c.Cut != nil && a.ID == c.Cut.Instead {
			continue
		}
		a.Hands, a.Shuts, a.Cuts, a.Leaves = each(a.Hands), each(a.Shuts), each(a.Cuts), each(a.Leaves)
		a.Answers = append([]Answer{}, a.Answers...)
		for i := range a.Answers {
			a.Answers[i].Points = each(a.Answers[i].Points)
		}
		acts = append(acts, a)
	}
	if c.Cut != nil {
		acts = append(acts, c.cuts(names, of)...)
	}
	c.Acts = acts
	return c
}

// thing is one by name, with what it is where the name is a number.
func (c *Circuit) thing(name string) string {
	if _, err := strconv.Atoi(name); err == nil {
		return c.Things + " " + name
	}
	return name
}

// ThingPart is the id of a part of the n-th thing, from one.
func ThingPart(id string, n int) string { return fmt.Sprintf("%s@%d", id, n) }

// OfThing takes such an id apart; n is 0 for a part that is no thing's.
func OfThing(id string) (part string, n int) {
	part, at, ok := strings.Cut(id, "@")
	if n, err := strconv.Atoi(at); ok && err == nil {
		return part, n
	}
	return id, 0
}

// cuts are the acts that part the row behind each thing but the last.
func (c *Circuit) cuts(names []string, of map[string][]string) []Act {
	var out []Act
	for k := 1; k < len(names); k++ {
		a := Act{ID: ThingPart("cut", k), Title: fmt.Sprintf("Shut %s between %s and %s", c.Cut.Title, c.thing(names[k-1]), c.thing(names[k])), Does: ShutOff, Takes: c.Cut.Takes, Mind: c.Cut.Mind,
			Air: float64(len(names)-k) / float64(len(names)), Cuts: append([]string{}, c.Cut.Far...), Answers: []Answer{
				{Seen: Stops, Says: fmt.Sprintf("It stops: the leak is at %s or behind.", c.thing(names[k]))},
				{Seen: Same, Says: fmt.Sprintf("It goes on, or faster: the leak is at %s or before.", c.thing(names[k-1]))}}}
		for _, all := range of {
			a.Cuts = append(a.Cuts, all[k:]...)
		}
		out = append(out, a)
	}
	return out
}
