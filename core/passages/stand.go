package passages

import (
	"slices"
	"strings"

	"idlehiss/core/circuit"
)

// Stand is how everything stands on the bench now, as far as it was changed.
type Stand struct {
	Feed   string            `json:"feed,omitempty"`   // the port that the rig is in
	Plugs  []string          `json:"plugs,omitempty"`  // openings and ports that are shut by hand, in order
	Worked map[string]string `json:"worked,omitempty"` // of valves held by hand: open or shut
	Levers map[string]string `json:"levers,omitempty"` // of positions that were moved: the state
}

// With is how it stands after a change. It is a copy.
func (s Stand) With(x Change) Stand {
	out := Stand{Feed: s.Feed, Plugs: slices.DeleteFunc(slices.Clone(s.Plugs), func(id string) bool { return id == x.At }), Worked: map[string]string{}, Levers: map[string]string{}}
	for id, to := range s.Worked {
		out.Worked[id] = to
	}
	for id, to := range s.Levers {
		out.Levers[id] = to
	}
	switch x.Does {
	case LetGo:
		delete(out.Worked, x.At)
	case Unplug:
	case Plug:
		out.Plugs = append(out.Plugs, x.At)
		slices.Sort(out.Plugs)
	case Move:
		out.Levers[x.At] = x.To
	case Work:
		out.Worked[x.At] = x.To
	case Feed:
		out.Feed = x.At
	case Unfeed:
		out.Feed = ""
	}
	return out
}

// setup is a stand as tests have it; what the circuit does not have is left out.
func (s Stand) setup(c *circuit.Circuit) setup {
	out := found(c)
	for i, p := range c.Positions {
		if to := s.Levers[p.ID]; slices.ContainsFunc(p.States, func(x circuit.PositionState) bool { return x.ID == to }) {
			out.levers[i] = to
		}
	}
	out.feed, out.plugs = s.Feed, slices.Clone(s.Plugs)
	for id, to := range s.Worked {
		out.worked = append(out.worked, id+" "+to)
	}
	slices.Sort(out.worked)
	return out
}

// Stand is how everything stands in a test.
func (t Test) Stand(c *circuit.Circuit) Stand {
	s := Stand{Feed: t.setup.feed, Plugs: slices.Clone(t.setup.plugs), Worked: map[string]string{}, Levers: map[string]string{}}
	for i, p := range c.Positions {
		s.Levers[p.ID] = t.setup.levers[i]
	}
	for _, w := range t.setup.worked {
		i := strings.LastIndexByte(w, ' ')
		s.Worked[w[:i]] = w[i+1:]
	}
	return s
}

// To are the changes from how it stands to a test, in order, and the minutes that they and the test take.
func (s Stand) To(c *circuit.Circuit, t Test) (changes []Change, minutes float64) {
	now := s.setup(c)
	return now.changes(c, t.setup), now.minutes(t.setup) + t.Minutes()
}

// Back are the changes from how it stands to as it was found.
func (s Stand) Back(c *circuit.Circuit) []Change { return s.setup(c).changes(c, found(c)) }

// From is a plan whose next test is chosen from how everything stands now.
func (p Plan) From(c *circuit.Circuit, s Stand) Plan {
	now := s.setup(c)
	p.now = &now
	return p
}

// ID names a test within its circuit: its bore, its levers and what is worked, in the circuit's own ids.
func (t Test) ID() string {
	return strings.Join(slices.Concat([]string{t.setup.feed}, t.setup.levers, t.setup.worked), "/")
}

// Exits are the openings and ports by which air gets out of a chamber in a test, by title.
func (t Test) Exits(c *circuit.Circuit, chamber string) (titles []string) {
	for _, p := range c.Parts {
		if (p.Between[0] == chamber || p.Between[1] == chamber) && p.Opening && toAir(p) && (p.LeftOpen != "" || slices.Contains(t.Step.Open, p.ID)) {
			titles = append(titles, p.Title)
		}
	}
	for _, p := range c.Ports {
		if p.Chamber == chamber && p.ID != t.Step.Port && p.ClosedBy == "" && p.Mouth == "" && (p.Close != "" || p.LeftOpen != "") {
			titles = append(titles, p.Title)
		}
	}
	return titles
}

// Wanted reports whether a circuit is tested passage by passage: a housing, a block, a head or a carburettor with more
// than one bore, or with levers.
func Wanted(c *circuit.Circuit) bool {
	return slices.Contains([]string{"housing", "hydraulic", "block", "head", "carburettor"}, c.Family) && (len(c.Ports) > 1 || len(c.Positions) > 0)
}
