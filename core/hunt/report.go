package hunt

import (
	"cmp"
	"math"
	"slices"

	"idlehiss/core/circuit"
)

// Hunt is a scene with all that was found in it.
type Hunt struct {
	Scene
	Shares []float64 // prior odds of the suspects
	Found  []Evidence
	Looked map[string][]string // methods, by suspect
	Seen   map[string]bool     // suspects at which a fault was seen
	Done   map[string]bool     // acts, steps and conditions, by id
	Flow   *FlowRange
}

// FlowRange is a flow with its 95 % interval, cm³/min.
type FlowRange struct {
	Value float64 `json:"value"`
	Low   float64 `json:"low"`
	High  float64 `json:"high"`
}

// Report is the document that hunt --json prints and a sheet shows. Its field names are a
// contract (docs/CLI.md).
type Report struct {
	Version         int         `json:"version"`
	Circuit         string      `json:"circuit"`
	Flow            *FlowRange  `json:"flow_cm3_per_min"`
	Suspects        []Weighed   `json:"suspects"`
	Rig             float64     `json:"rig"`
	TwoLeaks        float64     `json:"two_leaks"`
	Elsewhere       float64     `json:"elsewhere"`
	Next            *Proposal   `json:"next"` // null: it is named and sure enough, or nothing is offered
	Then            []Proposal  `json:"then"`
	Struck          []StruckOut `json:"struck"`
	ExpectedMinutes *float64    `json:"expected_minutes"` // null: nothing that is offered would show it
	Named           *NamedPart  `json:"named"`
}

// Weighed is a suspect.
type Weighed struct {
	Part   string   `json:"part"`
	Title  string   `json:"title"`
	Odds   float64  `json:"odds"`
	Looked []string `json:"looked"`
}

// Proposal is a check as it is proposed.
type Proposal struct {
	Kind           CheckKind `json:"kind" enum:"look,act,isolate,condition,mend,confirm"`
	Part           *string   `json:"part"`
	Method         *string   `json:"method"`
	Act            *string   `json:"act"`
	Step           *string   `json:"step"` // that is held; of isolate only
	Condition      *string   `json:"condition"`
	Opens          *string   `json:"opens"`
	Tries          []string  `json:"tries"`
	Minutes        float64   `json:"minutes"`
	HandsOnMinutes float64   `json:"hands_on_minutes"`
	IfThere        float64   `json:"if_there"`
	Chance         float64   `json:"chance"`
	Says           string    `json:"says"`
	Why            string    `json:"why"`
}

// StruckOut is a method that is not offered.
type StruckOut struct {
	Method string `json:"method"`
	Why    string `json:"why"`
}

// NamedPart is where it leaks, seen or at 19 to 1.
type NamedPart struct {
	Part    string   `json:"part"`
	Odds    float64  `json:"odds"`
	Seen    bool     `json:"seen"`
	Repairs []string `json:"repairs"` // the smallest honest one first
}

// ToMend reports whether a part is mended next: it was seen, and no other place is nearly as likely. One more look may
// be worth its minutes all the same.
func (n *NamedPart) ToMend() bool { return n != nil && n.Seen && n.Odds >= leastSeen }

// MostChecks are proposed after the next.
const MostChecks = 10

// version is of the report's form.
const version = 1

// Report is what is known now and what comes next.
func (h *Hunt) Report() Report {
	b := Believe(h.Shares, h.Liquid(), h.Found)
	out := Report{Version: version, Circuit: h.Circuit.ID, Flow: h.Flow, Suspects: []Weighed{}, TwoLeaks: b.Two, Elsewhere: b.Elsewhere, Then: []Proposal{}, Struck: []StruckOut{}}
	order := make([]int, len(h.Suspects))
	for i := range order {
		order[i] = i
	}
	slices.SortStableFunc(order, func(i, k int) int { return cmp.Compare(b.Odds[k], b.Odds[i]) })
	for _, i := range order {
		s := h.Suspects[i]
		if s.OfRig {
			out.Rig += b.Odds[i]
		}
		out.Suspects = append(out.Suspects, Weighed{s.ID, s.Title, b.Odds[i], append([]string{}, h.Looked[s.ID]...)})
	}
	plan := h.Next(b, h.Done, MostChecks+1)
	for _, s := range plan.Struck {
		out.Struck = append(out.Struck, StruckOut{s.Method.ID, s.says()})
	}
	named, ok := h.Names(b)
	if ok {
		s := h.Suspects[named]
		out.Named = &NamedPart{s.ID, b.Odds[named], h.Seen[s.ID], h.ladder(s)}
		checks, _, _, _ := h.Checks(b)
		c, can := Confirm(checks, named)
		if h.Seen[s.ID] && (b.Odds[named] >= toName || can && Enough(b.Odds[named], c.Minutes(), h.Wrong(named))) {
			return out // the mend and its retest come next
		}
		if can {
			plan.Checks = append([]Check{c}, slices.DeleteFunc(plan.Checks, func(x Check) bool { return x.Part == c.Part && x.Method.ID == c.Method.ID })...)
		}
	}
	for _, c := range plan.Checks[:min(len(plan.Checks), MostChecks+1)] {
		out.Then = append(out.Then, h.proposal(c))
	}
	if len(out.Then) > 0 {
		out.Next, out.Then = &out.Then[0], out.Then[1:]
	}
	if !math.IsInf(plan.Minutes, 1) {
		out.ExpectedMinutes = &plan.Minutes
	}
	return out
}

// Odds are those of a suspect, by its id; none: it is no suspect.
func (r Report) Odds(part string) float64 {
	for _, s := range r.Suspects {
		if s.Part == part {
			return s.Odds
		}
	}
	return math.NaN()
}

// Names is the part that is named: at 19 to 1, or seen and likelier than any other.
func (h *Hunt) Names(b Belief) (part int, ok bool) {
	if i, ok := b.Named(); ok {
		return i, true
	}
	for i, p := range b.Odds {
		if p > b.Odds[part] {
			part = i
		}
	}
	return part, h.Seen[h.Suspects[part].ID]
}

// repairs are those of a part, the smallest honest one first.
func (h *Hunt) repairs(s Suspect) []circuit.Repair {
	all := h.Circuit.Repairs
	if len(all) == 0 {
		all = h.Scene.Repairs
	}
	return (circuit.RepairSchool{First: circuit.Scopes[0]}).Ladder(all, s.Kind)
}

// ladder are they in words.
func (h *Hunt) ladder(s Suspect) []string {
	out := []string{}
	for _, r := range h.repairs(s) {
		out = append(out, r.Says())
	}
	return out
}

// Wrong is what it costs, minutes, to renew a part for nothing.
func (h *Hunt) Wrong(part int) float64 {
	for _, r := range slices.Backward(h.repairs(h.Suspects[part])) {
		if r.Takes > 0 {
			return float64(r.Takes) / 60
		}
	}
	return wrongCostsMin
}

// proposal words a check.
func (h *Hunt) proposal(c Check) Proposal {
	out := Proposal{Kind: c.Kind, Tries: []string{}, Minutes: c.Minutes(), HandsOnMinutes: c.HandsS / 60, IfThere: c.IfThere, Chance: c.Chance}
	for _, i := range c.Tries {
		out.Tries = append(out.Tries, h.Suspects[i].ID)
	}
	if c.Cover != nil {
		out.Opens = &c.Cover.ID
		out.Minutes += float64(c.Cover.Off) / 60
		out.HandsOnMinutes += float64(c.Cover.Off) / 60
	}
	switch {
	case c.Act != nil:
		out.Act = &c.Act.ID
	case c.Step != nil:
		out.Step = &c.Step.ID
	case c.Change != "":
		out.Condition = (*string)(&c.Change)
	default:
		out.Part, out.Method = &h.Suspects[c.Part].ID, &c.Method.ID
	}
	out.Says, out.Why = h.says(c), h.why(c)
	return out
}
