// Package circuit describes what is put under pressure as a graph: chambers that
// hold pressure, parts between them and the outside, ports where a rig fits.
// Limits, run sheet, suspects and the simulated stand-in follow from it.
package circuit

import (
	"fmt"
	"strings"

	"idlehiss/core/quantity"
)

// Outside is the chamber that needs no declaration: the shop's air.
const Outside = "outside"

// Circuit is one versioned description. Times, volumes and pressures are SI.
type Circuit struct {
	ID         string      `yaml:"id" json:"id"`
	Version    int         `yaml:"version" json:"version"`
	Title      string      `yaml:"title" json:"title"`
	Family     string      `yaml:"family" json:"family"`
	Summary    string      `yaml:"summary" json:"summary"`
	Liquid     string      `yaml:"liquid" json:"liquid"` // what the loop carries at work
	Mark       Mark        `yaml:"mark" json:"mark"`
	Chambers   []Chamber   `yaml:"chambers" json:"chambers"`
	Ports      []Port      `yaml:"ports" json:"ports,omitempty"`
	Parts      []Part      `yaml:"parts" json:"parts"`
	Complaints []string    `yaml:"complaints" json:"complaints,omitempty"`
	Stages     []StageText `yaml:"stages" json:"stages,omitempty"`
	NotTested  []string    `yaml:"not_tested" json:"not_tested,omitempty"`
	Standing   string      `yaml:"standing" json:"standing"`
	Source     string      `yaml:"source" json:"source"`
}

// Mark says which printed figure limits the circuit.
type Mark struct {
	On      string      `yaml:"on" json:"on"` // "cap"
	Accept  [2]Pressure `yaml:"accept" json:"accept"`
	Certain [2]Pressure `yaml:"certain" json:"certain"`
}

// Pressure is written with its unit in files.
type Pressure = quantity.Pa

// Chamber is a space that holds pressure.
type Chamber struct {
	ID         string      `yaml:"id" json:"id"`
	Title      string      `yaml:"title" json:"title"`
	Holds      string      `yaml:"holds" json:"holds"` // liquid | gas
	Open       bool        `yaml:"open" json:"open"`   // stands at ambient whatever is done
	Volume     quantity.M3 `yaml:"volume" json:"volume"`
	TrappedAir quantity.M3 `yaml:"trapped_air" json:"trapped_air"`
	Gives      []Give      `yaml:"gives" json:"gives,omitempty"`
	PumpHeat   Heat        `yaml:"pump_heat" json:"pump_heat"`
	At         [2]float64  `yaml:"at" json:"at"` // place on the drawing, per cent
}

// Give is how much a chamber widens under pressure, and how slowly: what makes
// a trace settle. A time of nothing is plain elasticity.
type Give struct {
	Volume quantity.M3 `yaml:"volume" json:"volume"`
	At     Pressure    `yaml:"at" json:"at"`
	Over   quantity.S  `yaml:"over" json:"over"`
}

// Heat is what share of the heat of its compression pumped air brings in (the pump
// and its hose keep the rest), and how fast it cools at the walls.
type Heat struct {
	Share float64    `yaml:"share" json:"share"`
	Over  quantity.S `yaml:"over" json:"over"`
}

// Port is where a rig can be fitted.
type Port struct {
	ID       string   `yaml:"id" json:"id"`
	Chamber  string   `yaml:"chamber" json:"chamber"`
	Title    string   `yaml:"title" json:"title"`
	Fittings []string `yaml:"fittings" json:"fittings,omitempty"`
}

// Part stands between two chambers, or a chamber and the outside: each is a suspect.
type Part struct {
	ID      string     `yaml:"id" json:"id"`
	Title   string     `yaml:"title" json:"title"`
	Between [2]string  `yaml:"between" json:"between"`
	Kind    string     `yaml:"kind" json:"kind"`
	Odds    float64    `yaml:"odds" json:"odds"`
	Reach   quantity.S `yaml:"reach" json:"reach"`
	Behind  string     `yaml:"behind" json:"behind"`
	Look    string     `yaml:"look" json:"look"` // where and for what
	Signs   []string   `yaml:"signs" json:"signs,omitempty"`
	Limit   Pressure   `yaml:"limit" json:"limit"`
	Removed bool       `yaml:"removed" json:"removed"` // off while the rig is on: not tested
}

// StageText is what a circuit says at one stage of the order of work.
type StageText struct {
	Stage    string `yaml:"stage" json:"stage"`
	Text     string `yaml:"text" json:"text"`
	Cautions []Item `yaml:"cautions" json:"cautions,omitempty"`
	Ticks    []Item `yaml:"ticks" json:"ticks,omitempty"`
}

// Item is one line to be ticked or heeded.
type Item struct {
	ID    string `yaml:"id" json:"id"`
	Text  string `yaml:"text" json:"text"`
	Must  bool   `yaml:"must" json:"must"`   // the job cannot close without it
	Count bool   `yaml:"count" json:"count"` // a closure: counted in and out
}

// Chamber finds a chamber by its id.
func (c *Circuit) Chamber(id string) (Chamber, bool) {
	for _, ch := range c.Chambers {
		if ch.ID == id {
			return ch, true
		}
	}
	return Chamber{}, false
}

// Stage gives the circuit's own words for a stage.
func (c *Circuit) Stage(id string) StageText {
	for _, s := range c.Stages {
		if s.Stage == id {
			return s
		}
	}
	return StageText{Stage: id}
}

// Suspects are the parts on the edge of a chamber that are in place during the test.
func (c *Circuit) Suspects(chamber string) []Part {
	var out []Part
	for _, p := range c.Parts {
		if !p.Removed && (p.Between[0] == chamber || p.Between[1] == chamber) {
			out = append(out, p)
		}
	}
	return out
}

// WeakestPart is the lowest pressure limit among the parts of a chamber; ok is
// false where none is known.
func (c *Circuit) WeakestPart(chamber string) (part Part, ok bool) {
	for _, p := range c.Suspects(chamber) {
		if p.Limit > 0 && (!ok || p.Limit < part.Limit) {
			part, ok = p, true
		}
	}
	return part, ok
}

// Tested is the chamber that the first port leads into.
func (c *Circuit) Tested() Chamber {
	ch, _ := c.Chamber(c.Ports[0].Chamber)
	return ch
}

// Faults lists everything that is wrong with the description, in plain words.
func (c *Circuit) Faults() []string {
	var out []string
	say := func(format string, a ...any) { out = append(out, fmt.Sprintf(format, a...)) }
	ids := map[string]string{Outside: "the outside"}
	declare := func(kind, id string) {
		if id == "" {
			say("a %s has no id", kind)
			return
		}
		if was, ok := ids[id]; ok {
			say("the id %q is used for %s and for a %s; every id once", id, was, kind)
		}
		ids[id] = "a " + kind
	}
	for _, ch := range c.Chambers {
		declare("chamber", ch.ID)
		if ch.Holds != "liquid" && ch.Holds != "gas" {
			say("chamber %q holds %q; liquid or gas is meant", ch.ID, ch.Holds)
		}
		if ch.TrappedAir > ch.Volume && ch.Volume > 0 {
			say("chamber %q traps more air than it has room for", ch.ID)
		}
		for _, g := range ch.Gives {
			if g.Volume <= 0 || g.At <= 0 {
				say("chamber %q: what it gives needs a volume and the pressure at which it gives it", ch.ID)
			}
		}
	}
	chamber := func(id string) bool { _, ok := c.Chamber(id); return ok || id == Outside }
	for _, p := range c.Ports {
		declare("port", p.ID)
		if _, ok := c.Chamber(p.Chamber); !ok {
			say("port %q opens into %q, which is no chamber here", p.ID, p.Chamber)
		}
	}
	if len(c.Ports) == 0 {
		say("no port: there is nowhere to fit a rig")
	}
	for _, p := range c.Parts {
		declare("part", p.ID)
		for _, side := range p.Between {
			if !chamber(side) {
				say("part %q stands on %q, which is no chamber here (%s, or %q)", p.ID, side, strings.Join(c.chamberIDs(), ", "), Outside)
			}
		}
		if p.Between[0] == p.Between[1] {
			say("part %q has the same space on both sides", p.ID)
		}
		if p.Odds <= 0 && !p.Removed {
			say("part %q has no odds; write how often it is the culprit beside the others, above 0", p.ID)
		}
	}
	if c.Mark.Accept[0] >= c.Mark.Accept[1] || c.Mark.Certain[0] < c.Mark.Accept[0] || c.Mark.Certain[1] > c.Mark.Accept[1] {
		say("the mark's certain range must lie within the accepted one, and both must run upwards")
	}
	return out
}

func (c *Circuit) chamberIDs() []string {
	var out []string
	for _, ch := range c.Chambers {
		out = append(out, ch.ID)
	}
	return out
}

// Plausible is the range of marks for the decoder.
func (c *Circuit) Plausible() quantity.Plausible {
	return quantity.Plausible{What: c.Mark.On,
		LowPa: float64(c.Mark.Accept[0]), HighPa: float64(c.Mark.Accept[1]),
		SureLow: float64(c.Mark.Certain[0]), SureHighPa: float64(c.Mark.Certain[1])}
}
