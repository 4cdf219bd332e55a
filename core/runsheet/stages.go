package runsheet

import (
	"slices"

	"idlehiss/core/circuit"
	"idlehiss/core/terms"
)

// Stage is one step of the order of work.
type Stage struct {
	ID       terms.Stage    `json:"id"`
	Title    string         `json:"title"`
	Text     string         `json:"text"`
	Cautions []circuit.Item `json:"cautions"`
	Ticks    []circuit.Item `json:"ticks"`
	Step     string         `json:"step"` // the circuit's step that is done here, if one is
	Kind     circuit.Kind   `json:"kind"` // and its kind
	State    []string       `json:"state"`
}

// order is the order of work of every circuit; ids are part of circuit files.
// Between the rig's proof and the call stand the circuit's own steps.
var order = []struct {
	id    terms.Stage
	title string
}{
	{terms.FirstLook, "First look"},
	{terms.MakeSafe, "Make safe"},
	{terms.KnowLimit, "Know the limit"},
	{terms.RigUp, "Rig up"},
	{terms.ProveRig, "Prove the rig"},
	{terms.Pressurise, "Pressurise"},
	{terms.HoldStage, "Settle and hold"},
	{terms.CallStage, "Call it"},
	{terms.HuntStage, "Hunt"},
	{terms.PutRight, "Bleed down, put right"},
	{terms.WriteDown, "Write it down"},
}

// LookedRound is ticked as the first look is left, whether anything was seen or not.
var LookedRound = circuit.Item{ID: "looked-round", Text: "Looked round before any tool"}

// Bladder is a piece of the rig with an air channel of its own: it is inflated inside
// a neck.
type Bladder struct{ ID, Name string }

// Up is ticked once it is inflated: nothing is pumped into the circuit before.
func (b Bladder) Up() circuit.Item {
	return circuit.Item{ID: "up-" + b.ID, Count: true, Text: b.Name + " inflated first, through its own channel, to its own zone of the dial. Do not count those strokes"}
}

// Down is ticked once it is deflated: after the pressure, before anything comes out.
func (b Bladder) Down() circuit.Item {
	return circuit.Item{ID: "down-" + b.ID, Must: true, Text: b.Name + " deflated, after the pressure is off and before it is pulled out"}
}

// Stages is the order of work with the circuit's own words. A circuit of one hold
// has it in two stages, pumping and holding; one of several steps has a stage for
// each, and none for what no step needs. Bladders of the rig have their own order:
// up first, down last.
func Stages(c *circuit.Circuit, bladders ...Bladder) []Stage {
	steps := c.Tests()
	single := len(steps) == 1 && steps[0].Kind == circuit.Hold
	pumps, aims := false, false
	for _, s := range steps {
		pumps = pumps || s.Kind == circuit.Hold
		aims = aims || s.Kind == circuit.Hold || len(s.Targets) > 0 || c.Marked()
	}
	shut := toShut(c, steps)
	out := make([]Stage, 0, len(order)+len(steps))
	add := func(id terms.Stage, title string) {
		t := c.Stage(id)
		ticks := slices.Clone(t.Ticks)
		for i := range ticks {
			ticks[i].Count = false // only what the graph shuts is a closure, counted in and out
		}
		switch id {
		case terms.FirstLook:
			ticks = append(ticks, LookedRound)
		case terms.MakeSafe:
			ticks = safeTicks(c)
		}
		if id == terms.PutRight {
			var down []circuit.Item
			for _, b := range bladders {
				down = append(down, b.Down())
			}
			ticks = append(down, ticks...)
		}
		for _, cl := range shut {
			switch id {
			case terms.RigUp:
				ticks = append(ticks, circuit.Item{ID: "shut-" + cl.ID, Text: cl.Title + ": " + cl.Close, Count: true})
			case terms.PutRight:
				ticks = append(ticks, circuit.Item{ID: "out-" + cl.ID, Text: cl.Title + " open again (was: " + cl.Close + ")", Must: true})
			}
		}
		if id == terms.RigUp {
			for _, b := range bladders {
				ticks = append(ticks, b.Up())
			}
		}
		out = append(out, stage(Stage{ID: id, Title: title, Text: t.Text, Cautions: t.Cautions, Ticks: ticks}))
	}
	for _, o := range order {
		switch {
		case o.id == terms.KnowLimit && !aims, o.id == terms.ProveRig && !pumps, o.id == terms.HuntStage && len(c.Parts) == 0:
		case (o.id == terms.Pressurise || o.id == terms.HoldStage) && !single:
			if o.id == terms.HoldStage {
				continue
			}
			// What is true of all of them comes before the first.
			shared := c.Stage(terms.Pressurise)
			renip := false // closing one place opens another: again at every pressure step
			for i, s := range steps {
				ticks := s.Ticks
				if renip && s.Kind == circuit.Hold {
					ticks = append(slices.Clone(ticks), circuit.Item{ID: "nip-" + s.ID, Text: "Let down to zero, every bolt nipped from the middle outwards, then raised again"})
				}
				if s.Eye != "" {
					ticks = append(slices.Clone(ticks), circuit.Item{ID: "eye-" + s.ID, Text: EyeSays(s.Eye)})
				}
				renip = renip || s.Bolts != nil && s.Bolts.Renip
				st := Stage{ID: terms.StepStage(s.ID), Title: s.Title, Text: s.Text, Step: s.ID, Kind: s.Kind, State: c.StateOf(s), Cautions: s.Cautions, Ticks: ticks}
				if i == 0 {
					st.Cautions = append(append([]circuit.Item{}, shared.Cautions...), st.Cautions...)
				}
				out = append(out, stage(st))
			}
		case o.id == terms.Pressurise || o.id == terms.HoldStage:
			add(o.id, o.title)
			last := &out[len(out)-1]
			last.Step, last.Kind = steps[0].ID, circuit.Hold
			if last.Text == "" {
				last.Text = steps[0].Text
			}
			if e := steps[0].Eye; e != "" && o.id == terms.HoldStage {
				last.Ticks = append(last.Ticks, circuit.Item{ID: "eye-" + steps[0].ID, Text: EyeSays(e)})
			}
			if o.id == terms.Pressurise {
				last.Cautions, last.Ticks = append(last.Cautions, steps[0].Cautions...), append(last.Ticks, steps[0].Ticks...)
			}
		default:
			add(o.id, o.title)
		}
	}
	return out
}

// toShut are the openings that some step needs closed and nothing closes yet: they
// are counted in when the rig goes on, and out again at the end.
func toShut(c *circuit.Circuit, steps []circuit.Step) []circuit.Part {
	var out []circuit.Part
	for _, s := range steps {
		if !s.Kind.Pressurises() {
			continue
		}
		for _, cl := range c.Pressed(s).Closures {
			if !cl.Already && !slices.ContainsFunc(out, func(p circuit.Part) bool { return p.ID == cl.Part.ID }) {
				out = append(out, cl.Part)
			}
		}
	}
	return out
}

// stage puts empty lists in place of none.
func stage(s Stage) Stage {
	if s.Cautions == nil {
		s.Cautions = []circuit.Item{}
	}
	if s.Ticks == nil {
		s.Ticks = []circuit.Item{}
	}
	if s.State == nil {
		s.State = []string{}
	}
	return s
}

// Outstanding lists what must be ticked before a job may be closed and is not.
func Outstanding(c *circuit.Circuit, ticked map[string]bool, bladders ...Bladder) []circuit.Item {
	var out []circuit.Item
	for _, s := range Stages(c, bladders...) {
		for _, t := range s.Ticks {
			if t.Must && !ticked[t.ID] {
				out = append(out, t)
			}
		}
	}
	return out
}

// safeTicks are the ticks of making safe. Where a circuit's figures are examples, the manual
// comes first.
func safeTicks(c *circuit.Circuit) []circuit.Item {
	ticks := slices.Clone(c.Stage(terms.MakeSafe).Ticks)
	if slices.ContainsFunc(c.Tests(), func(s circuit.Step) bool {
		return s.Asked || slices.ContainsFunc(s.Targets, func(t circuit.Target) bool { return t.Asked })
	}) {
		ticks = append(ticks, circuit.Item{ID: "manual", Must: true, Text: "Manual at hand. Every pressure, time and loss on this sheet is an example: type the manual's own, or put them into your own copy of the circuit file"})
	}
	return ticks
}

// Unsafe lists what must be so before anything is done, and is not ticked: the musts
// of making safe.
func Unsafe(c *circuit.Circuit, ticked map[string]bool) []circuit.Item {
	var out []circuit.Item
	for _, t := range safeTicks(c) {
		if t.Must && !ticked[t.ID] {
			out = append(out, t)
		}
	}
	return out
}

// StageKey is the key that jumps to a stage: 1 to 9, 0, and then a dash.
func StageKey(i int) string {
	const keys = "1234567890-"
	if i >= len(keys) {
		return ""
	}
	return keys[i : i+1]
}
