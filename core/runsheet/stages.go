package runsheet

import "idlehiss/core/circuit"

// Stage is one step of the order of work.
type Stage struct {
	ID       string         `json:"id"`
	Title    string         `json:"title"`
	Text     string         `json:"text"`
	Cautions []circuit.Item `json:"cautions"`
	Ticks    []circuit.Item `json:"ticks"`
}

// order is the order of work of every circuit; ids are part of circuit files.
var order = []struct{ id, title string }{
	{"first-look", "First look"},
	{"make-safe", "Make safe"},
	{"limit", "Know the limit"},
	{"rig", "Rig up"},
	{"prove", "Prove the rig"},
	{"pressurise", "Pressurise"},
	{"hold", "Settle and hold"},
	{"call", "Call it"},
	{"hunt", "Hunt"},
	{"put-right", "Bleed down, put right"},
	{"write-down", "Write it down"},
}

// Stages is the order of work with the circuit's own words.
func Stages(c *circuit.Circuit) []Stage {
	out := make([]Stage, 0, len(order))
	for _, o := range order {
		t := c.Stage(o.id)
		s := Stage{ID: o.id, Title: o.title, Text: t.Text, Cautions: t.Cautions, Ticks: t.Ticks}
		if s.Cautions == nil {
			s.Cautions = []circuit.Item{}
		}
		if s.Ticks == nil {
			s.Ticks = []circuit.Item{}
		}
		out = append(out, s)
	}
	return out
}

// Outstanding lists what must be ticked before a job may be closed and is not.
func Outstanding(c *circuit.Circuit, ticked map[string]bool) []circuit.Item {
	var out []circuit.Item
	for _, s := range c.Stages {
		for _, t := range s.Ticks {
			if t.Must && !ticked[t.ID] {
				out = append(out, t)
			}
		}
	}
	return out
}
