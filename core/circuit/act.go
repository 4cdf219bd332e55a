package circuit

import (
	"slices"

	"idlehiss/core/quantity"
)

// Act is one thing done to a part under pressure while the gauge is watched: it splits the
// suspects without taking anything apart.
type Act struct {
	ID      string     `yaml:"id" json:"id"`
	Title   string     `yaml:"title" json:"title"`
	Does    Deed       `yaml:"does" json:"does"`
	Step    string     `yaml:"step" json:"step,omitempty"`     // during which step; empty: any that reaches its parts
	Hands   []string   `yaml:"hands" json:"hands,omitempty"`   // parts that are touched
	Shuts   []string   `yaml:"shuts" json:"shuts,omitempty"`   // parts that let through and no longer do: what that cuts off follows from the graph
	Cuts    []string   `yaml:"cuts" json:"cuts,omitempty"`     // parts cut off from the gauge inside one chamber, which the graph cannot know
	Leaves  []string   `yaml:"leaves" json:"leaves,omitempty"` // or the parts that stay on the gauge, where those are fewer
	Air     float64    `yaml:"air" json:"air,omitempty"`       // share of the gas that is cut off with them, 0 to 1
	Answers []Answer   `yaml:"answers" json:"answers"`
	Takes   quantity.S `yaml:"takes" json:"takes"`               // hands on, the watching not counted
	Reached quantity.S `yaml:"reached" json:"reached,omitempty"` // and where something must come off first
	Needs   string     `yaml:"needs" json:"needs,omitempty"`     // tools
	Mind    string     `yaml:"mind" json:"mind,omitempty"`       // what it may hurt
	With    []string   `yaml:"with" json:"with,omitempty"`
	Without []string   `yaml:"without" json:"without,omitempty"`
}

// Deed is what is done.
type Deed string

// The deeds.
const (
	Clamp   Deed = "clamp"   // a hose squeezed shut
	ShutOff Deed = "shut"    // a valve, cock or lever worked
	PlugUp  Deed = "plug"    // a bung or cap put on
	Press   Deed = "press"   // a part pushed by hand
	MoveIt  Deed = "move"    // bent, rocked, turned
	Nip     Deed = "nip"     // let to zero, tightened, raised again
	WetIt   Deed = "wet"     // a drop of oil, grease or water on the place
	InGlass Deed = "bubbler" // a hose end in a glass of water
	HeatIt  Deed = "heat"    // warmed or cooled
	DrawOff Deed = "draw"    // liquid drawn off or filled up
	RunIt   Deed = "run"     // engine, motor or pump turned
	Swap    Deed = "swap"    // a part known to be good in its place, or two exchanged
	Listen  Deed = "listen"  // by ear or lamp at one place while another hand works
)

// Deeds are all of them.
var Deeds = []Deed{Clamp, ShutOff, PlugUp, Press, MoveIt, Nip, WetIt, InGlass, HeatIt, DrawOff, RunIt, Swap, Listen}

// Answer is what may be noticed, and which parts it points to.
type Answer struct {
	Seen   Noticed  `yaml:"seen" json:"seen"`
	Points []string `yaml:"points" json:"points,omitempty"` // parts, or the rig; none: it only rules out
	Says   string   `yaml:"says" json:"says"`
}

// Noticed is an answer of the gauge or of the eye.
type Noticed string

// What may be noticed.
const (
	Stops     Noticed = "stops"
	Slower    Noticed = "slower"
	Same      Noticed = "same"
	Faster    Noticed = "faster"
	Jumps     Noticed = "step"    // the needle jumps and then goes on
	ItBubbles Noticed = "bubbles" // or drips, at the place that is watched
	StaysDry  Noticed = "dry"     // nothing there
)

// Noticeds are all of them.
var Noticeds = []Noticed{Stops, Slower, Same, Faster, Jumps, ItBubbles, StaysDry}

// OfTheRig is the id under which answers and acts name the rig itself.
const OfTheRig = "rig"

// Imitator is something that looks like something else: a sign that has a harmless cause, or
// two parts that wet or sound alike.
type Imitator struct {
	ID    string   `yaml:"id" json:"id"`
	Sign  string   `yaml:"sign" json:"sign,omitempty"`   // the sign that it imitates
	Parts []string `yaml:"parts" json:"parts,omitempty"` // the parts that are taken for each other, or for which it is taken
	Says  string   `yaml:"says" json:"says"`             // what it is, and how it is known
}

// CutOff are the parts that an act takes away from the gauge in a step: what follows from the
// graph where it shuts something, else what the file says.
func (c *Circuit) CutOff(a Act, s Step) []string {
	if len(a.Leaves) > 0 {
		var out []string
		if !slices.ContainsFunc(c.Pressed(s).Suspects, func(p Part) bool { return slices.Contains(a.Leaves, p.ID) }) {
			return nil
		}
		for _, p := range c.Pressed(s).Suspects {
			if !slices.Contains(a.Leaves, p.ID) {
				out = append(out, p.ID)
			}
		}
		return out
	}
	if len(a.Shuts) == 0 {
		return a.Cuts
	}
	after := s
	after.Shut = append(slices.Clone(s.Shut), a.Shuts...)
	after.Open = slices.DeleteFunc(slices.Clone(s.Open), func(id string) bool { return slices.Contains(a.Shuts, id) })
	left := c.Pressed(after)
	var out []string
	for _, p := range c.Pressed(s).Suspects {
		if !slices.ContainsFunc(left.Suspects, func(x Part) bool { return x.ID == p.ID }) {
			out = append(out, p.ID)
		}
	}
	return out
}

// Points are the parts that an answer points to in a step. Where the file names none, a fall
// that stops points to what was cut off, and one that stays the same to what was left and to
// the rig.
func (c *Circuit) Points(a Act, x Answer, s Step) []string {
	return PointsOf(x, c.CutOff(a, s), c.Pressed(s).Suspects)
}

// PointsOf is the same where it is known what is cut off, of which suspects.
func PointsOf(x Answer, cut []string, suspects []Part) []string {
	switch {
	case len(x.Points) > 0 || len(cut) == 0:
		return x.Points
	case x.Seen == Stops:
		return cut
	case x.Seen != Same:
		return nil
	}
	gone := map[string]bool{}
	for _, id := range cut {
		gone[id] = true
	}
	out := []string{}
	for _, p := range suspects {
		if !gone[p.ID] {
			out = append(out, p.ID)
		}
	}
	return append(out, OfTheRig)
}

// ActsOf are the acts that may be done in a step: those of it, and those that touch or speak of
// a part that it tries.
func (c *Circuit) ActsOf(s Step) []Act {
	in := c.Pressed(s)
	tried := func(id string) bool {
		return slices.ContainsFunc(in.Suspects, func(p Part) bool { return p.ID == id }) || slices.ContainsFunc(in.Closures, func(x Closure) bool { return x.Part.ID == id })
	}
	var out []Act
	for _, a := range c.Acts {
		if a.Step != "" && a.Step != s.ID {
			continue
		}
		speaks, cut := a.Step == s.ID, c.CutOff(a, s)
		for _, x := range a.Answers {
			speaks = speaks || slices.ContainsFunc(PointsOf(x, cut, in.Suspects), tried)
		}
		if speaks {
			out = append(out, a)
		}
	}
	return out
}
