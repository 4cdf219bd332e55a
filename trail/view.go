package trail

import (
	"cmp"
	"math"
	"slices"
	"time"

	"idlehiss/catalogue"
	"idlehiss/core/circuit"
	"idlehiss/core/hunt"
	"idlehiss/core/judge"
	"idlehiss/core/terms"
)

// HuntView is the hunt as a sheet shows it.
type HuntView struct {
	Flow            *hunt.FlowRange  `json:"flow_cm3_per_min"`
	Next            *hunt.Proposal   `json:"next"`
	Then            []hunt.Proposal  `json:"then"`
	Struck          []hunt.StruckOut `json:"struck"`
	Named           *hunt.NamedPart  `json:"named"`
	Mend            bool             `json:"mend"` // what is named is mended next
	Two             float64          `json:"two_leaks"`
	Elsewhere       float64          `json:"elsewhere"`
	ExpectedMinutes *float64         `json:"expected_minutes"`
	Second          bool             `json:"second"` // something was mended, and it still leaks
	Retest          bool             `json:"retest"` // something was mended, and it was not held again yet
	Ground          Ground           `json:"ground"`
	Covers          []circuit.Cover  `json:"covers"`
	Methods         []HuntMethod     `json:"methods"`
	Acts            []HuntAct        `json:"acts"` // that may be done in this step
	Chambers        []HuntChamber    `json:"chambers"`
	Places          []HuntPlace      `json:"places"` // where it may come out that are no suspects
}

// HuntMethod is a way to look.
type HuntMethod struct {
	ID    string `json:"id"`
	Title string `json:"title"`
	Tool  bool   `json:"tool"` // not every shop has it

	WaitMinutes float64 `json:"wait_minutes"` // until it shows
}

// HuntAct is an act with what may be noticed.
type HuntAct struct {
	ID      string       `json:"id"`
	Title   string       `json:"title"`
	Done    bool         `json:"done"`
	Needs   string       `json:"needs"`
	Mind    string       `json:"mind"`
	Answers []HuntAnswer `json:"answers"`
}

// HuntAnswer is what may be noticed of an act.
type HuntAnswer struct {
	Seen circuit.Noticed `json:"seen"`
	Says string          `json:"says"`
}

// HuntChamber is a space as it is drawn.
type HuntChamber struct {
	ID      string          `json:"id"`
	Title   string          `json:"title"`
	Holds   circuit.Content `json:"holds"`
	Pressed bool            `json:"pressed"` // in the step in which it is hunted
}

// HuntPlace is a chamber or a port.
type HuntPlace struct {
	ID    string `json:"id"`
	Title string `json:"title"`
	Seen  bool   `json:"seen"` // it came out there
}

// SuspectView is a part with what was seen at it.
type SuspectView struct {
	ID      string            `json:"id"`
	Title   string            `json:"title"`
	Look    string            `json:"look"`
	Share   float64           `json:"share"`   // the odds that it leaks
	Between [2]string         `json:"between"` // chambers
	N       int               `json:"n"`       // its place in the circuit's file; -1: it is none of its parts
	Signs   []string          `json:"signs"`   // titles of those that point to it
	Seen    []ObservationView `json:"seen"`    // latest last
	OfRig   bool              `json:"of_rig"`  // of the rig, or shut for the test
	Faulty  bool              `json:"faulty"`  // a leak was seen there
	Looked  bool              `json:"looked"`  // and nothing was seen
	NoPart  bool              `json:"no_part"` // it is none of the circuit's parts: it is not mended here
	Cover   string            `json:"cover"`   // what hides it, and its price; empty: nothing
	Within  string            `json:"within"`  // where to look behind it
}

// ObservationView is one look.
type ObservationView struct {
	At     time.Time   `json:"at"`
	By     string      `json:"by"`
	Method string      `json:"method"`
	Seen   bool        `json:"seen"`
	Class  terms.Class `json:"class"`
	Note   string      `json:"note"`
	Says   string      `json:"says"` // what was seen, in words
}

// shownChecks are shown after the next.
const shownChecks = 4

// View is what a sheet shows of a log: the hunt, and the suspects with the likeliest first.
func (l *Log) View(lib Library) (HuntView, []SuspectView) {
	r := l.read(lib.Methods, lib.Repairs)
	rep := r.Report()
	v := HuntView{Flow: rep.Flow, Next: rep.Next, Then: rep.Then[:min(len(rep.Then), shownChecks)], Struck: rep.Struck, Named: rep.Named, Mend: rep.Named.ToMend(), Two: rep.TwoLeaks, Elsewhere: rep.Elsewhere,
		ExpectedMinutes: rep.ExpectedMinutes, Ground: l.Ground, Covers: append([]circuit.Cover{}, l.Circuit.Covers...), Methods: []HuntMethod{}, Acts: []HuntAct{}, Chambers: []HuntChamber{}, Places: []HuntPlace{}}
	for _, m := range lib.Methods {
		if m.Counts == 0 {
			v.Methods = append(v.Methods, HuntMethod{m.ID, m.Title, m.Tool, float64(m.Waits) / 60})
		}
	}
	for _, a := range l.Circuit.ActsOf(r.Step) {
		x := HuntAct{a.ID, a.Title, r.Done[a.ID], a.Needs, a.Mind, []HuntAnswer{}}
		for _, y := range a.Answers {
			x.Answers = append(x.Answers, HuntAnswer{y.Seen, y.Says})
		}
		v.Acts = append(v.Acts, x)
	}
	in := l.Circuit.Pressed(r.Step).Chambers
	for _, ch := range l.Circuit.Chambers {
		v.Chambers = append(v.Chambers, HuntChamber{ch.ID, ch.Title, ch.Holds, slices.Contains(in, ch.ID)})
		if there, ok := r.Comes(r.Step, ch.ID); ok && slices.Contains(there, true) {
			seen := slices.ContainsFunc(l.CameOut, func(x CameOut) bool { return x.Place == ch.ID })
			v.Places = append(v.Places, HuntPlace{ch.ID, ch.Title, seen})
		}
	}
	held := slices.ContainsFunc(l.Holds, func(h Held) bool { return !h.At.Before(r.since) })
	leaks := slices.ContainsFunc(l.Holds, func(h Held) bool { return !h.At.Before(r.since) && h.Report.Call == judge.Leaking })
	v.Second, v.Retest = len(l.Repairs) > 0 && leaks, len(l.Repairs) > 0 && !held
	return v, r.suspects(&rep)
}

// suspects are the parts that may leak, the likeliest first.
func (r *reading) suspects(rep *hunt.Report) []SuspectView {
	c := r.Circuit
	out := []SuspectView{}
	for _, s := range r.Suspects {
		v := SuspectView{ID: s.ID, Title: s.Title, Look: s.Part.Look, Share: rep.Odds(s.ID), Between: s.Between, OfRig: s.OfRig, Signs: []string{}, Seen: []ObservationView{}, Cover: catalogue.Behind(c, s.Part), Within: s.Within}
		v.N = slices.IndexFunc(c.Parts, func(p circuit.Part) bool { return p.ID == s.ID })
		v.NoPart = !slices.ContainsFunc(c.Parts, func(p circuit.Part) bool { return p.ID == s.ID && !p.Opening })
		for _, id := range s.Signs {
			v.Signs = append(v.Signs, c.SignTitle(id))
		}
		for _, o := range r.log.Looks {
			if o.Part == s.ID {
				v.Seen = append(v.Seen, ObservationView{At: o.At, By: o.By, Method: o.Method, Seen: o.Seen, Class: o.Class, Note: o.Note, Says: hunt.Observed(o.Seen, o.Class, o.Note)})
				v.Faulty = v.Faulty || o.Seen && o.Class.Faulty()
			}
		}
		v.Looked = len(v.Seen) > 0 && !v.Faulty
		out = append(out, v)
	}
	slices.SortStableFunc(out, func(a, b SuspectView) int { return cmp.Compare(b.Share, a.Share) })
	return out
}

// HuntReason is one piece of evidence about a suspect.
type HuntReason struct {
	Says  string  `json:"says"`
	Times float64 `json:"times"` // by how much it multiplies the odds of this suspect
}

// Why says which evidence raised a suspect and which lowered it, the strongest first; none: it is no
// suspect.
func (l *Log) Why(lib Library, part string) []HuntReason {
	r := l.read(lib.Methods, lib.Repairs)
	out := []HuntReason{}
	i := slices.IndexFunc(r.Suspects, func(s hunt.Suspect) bool { return s.ID == part })
	if i < 0 {
		return out
	}
	against := func(b hunt.Belief) float64 { return b.Odds[i] / math.Max(1-b.Odds[i], leastOdds) }
	all := math.Max(against(hunt.Believe(r.Shares, r.Liquid(), r.Found)), leastOdds)
	for k, note := range r.notes { // what was found twice is weighed as one
		if slices.Index(r.notes, note) < k {
			continue
		}
		var without []hunt.Evidence
		for n, e := range r.Found {
			if r.notes[n] != note {
				without = append(without, e)
			}
		}
		out = append(out, HuntReason{note, all / math.Max(against(hunt.Believe(r.Shares, r.Liquid(), without)), leastOdds)})
	}
	slices.SortStableFunc(out, func(a, b HuntReason) int {
		return cmp.Compare(math.Abs(math.Log(b.Times)), math.Abs(math.Log(a.Times)))
	})
	return out
}

// leastOdds keeps ratios finite.
const leastOdds = 1e-9
