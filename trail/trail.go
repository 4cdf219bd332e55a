// Package trail reads what a job has taken down (holds, acts, looks, places where it came out,
// repairs) as evidence of where it leaks, and asks core/hunt what that makes of every suspect and
// what comes next. It owns nothing and writes nothing.
package trail

import (
	"math"
	"slices"
	"strings"

	"idlehiss/core/circuit"
	"idlehiss/core/hunt"
	"idlehiss/core/judge"
	"idlehiss/core/physics"
	"idlehiss/core/terms"
	"idlehiss/core/trace"
	"idlehiss/logbook"
)

// unknownAir is how far a flow may be off that is worked out from a circuit's usual air, as a share.
const unknownAir = 0.6

// read turns a log into a hunt. methods and repairs are the library's.
func (l *Log) read(methods []hunt.Method, repairs []circuit.Repair) *reading {
	r := &reading{log: l}
	r.Circuit, r.Methods, r.Repairs, r.AmbientPa = l.Circuit, methods, repairs, physics.StandardPa
	r.Looked, r.Seen, r.Done = map[string][]string{}, map[string]bool{}, map[string]bool{}
	r.Tools, r.Off, r.Loud = set(l.Ground.Tools), set(l.Ground.Open), l.Ground.Noisy
	r.Suspects = hunt.Suspects(l.Circuit, l.Joints, l.Signs, l.Hunch)
	if n := len(l.Repairs); n > 0 {
		r.since = l.Repairs[n-1].At
	}
	r.place()
	r.priors()
	r.holds()
	r.said()
	r.looks()
	r.answers()
	r.passed()
	return r
}

func set(ids []string) map[string]bool {
	out := map[string]bool{}
	for _, id := range ids {
		out[id] = true
	}
	return out
}

// place is the step in which it is hunted: that of the last hold that leaks, else the first.
func (r *reading) place() {
	r.Step, _ = r.Circuit.Test("")
	r.AtPa = usualPa
	for _, h := range r.log.Holds {
		if h.Report.Call == judge.Leaking && !h.At.Before(r.since) && !r.livedWith(h) {
			r.Step, r.AtPa = h.Step, h.Report.TestPressureKPa*1e3
			if h.Report.ActS != nil {
				r.WatchS = *h.Report.ActS
			}
		}
	}
}

// usualPa is the pressure at which it is looked at before any hold.
const usualPa = 100e3

// mendedStill is the share of its odds that a mended part keeps: one mend in ten does not take.
const mendedStill = 0.1

func (r *reading) priors() {
	told := hunt.Told{Hunch: -1, RigProven: r.log.Proven}
	for i, s := range r.Suspects {
		if slices.Contains(r.log.Ground.WorkedOn, s.ID) {
			told.WorkedOn = append(told.WorkedOn, i)
		}
	}
	r.Shares = told.Shares(r.Suspects)
	sum := 0.0
	for i, s := range r.Suspects {
		mended := slices.ContainsFunc(r.log.Repairs, func(x Repair) bool { return x.Part == s.ID })
		if mended || slices.ContainsFunc(r.log.Looks, func(o logbook.Observation) bool { return o.Seen && o.Part == s.ID && r.explained(s, o) }) {
			r.Shares[i] *= mendedStill
		}
		sum += r.Shares[i]
	}
	for i := range r.Shares {
		r.Shares[i] /= sum
	}
}

// explained reports whether what was seen at a suspect is a leak of the rig that is accepted.
func (r *reading) explained(s hunt.Suspect, o logbook.Observation) bool {
	return s.OfRig && slices.ContainsFunc(r.log.Lived, func(x Lived) bool { return !o.At.After(x.At) })
}

// holds are what was held: all that was tight, and what leaked since the last repair.
func (r *reading) holds() {
	for _, h := range r.log.Holds {
		rep := h.Report
		r.Done[h.Step.ID] = true
		if h.Condition.Warmth == terms.Hot {
			r.Done[string(circuit.WhenHot)] = true
		}
		if r.livedWith(h) {
			continue
		}
		old := h.At.Before(r.since)
		if flow, se, ok := flowOf(rep, r.Circuit); ok && (!old || rep.Call == judge.Tight) {
			held := r.Tried(h.Step, changes(h.Condition)...)
			held.Flow, held.SE, held.Leaking = math.Max(0, flow)/60e6, se/60e6, rep.Call == judge.Leaking
			r.found(held, heldSays(h))
			if held.Leaking || r.Flow == nil {
				r.Flow = &hunt.FlowRange{Value: math.Max(0, flow), Low: math.Max(0, flow-1.96*se), High: flow + 1.96*se}
			}
		}
		if !old {
			r.shape(rep)
			r.acts(h)
		}
	}
	if r.log.Escape != terms.NotNoticed {
		r.found(hunt.Phase{Dripped: r.log.Escape == terms.Dripped}, r.log.Escape.Says())
	}
}

// said is what steps said that are no holds: all that was right, and what was not since the last repair.
func (r *reading) said() {
	for _, x := range r.log.Said {
		if e, ok := r.Stepped(x.Step, x.Right); ok && (x.Right || !x.At.Before(r.since)) {
			r.Done[x.Step.ID] = true
			r.found(e, saidSays(x))
		}
	}
}

// shape is what the shape of a fall says.
func (r *reading) shape(rep *judge.Report) {
	if rep.Shape == judge.ShapeFloor {
		r.found(r.Floors(), "It fell to a pressure and stayed there: something shuts again.")
	}
	if slices.ContainsFunc(rep.Steps, func(x judge.StepReport) bool { return x.Event == trace.Moved && x.KPa < 0 }) {
		r.found(r.MovedAndJumped(), "A sudden loss when something was moved.")
	}
}

// changes are what a condition does to a leak.
func changes(c terms.Condition) (out []circuit.Change) {
	if c.Warmth == terms.Hot {
		out = append(out, circuit.WhenHot)
	}
	if c.Engine {
		out = append(out, circuit.WhenEngine)
	}
	return out
}

// flowOf is the standard flow of a hold, cm³/min, with its standard error. Without the trapped air it is
// worked out from what such a circuit usually holds.
func flowOf(rep *judge.Report, c *circuit.Circuit) (flow, se float64, ok bool) {
	if rep.Shape == judge.ShapeRising || rep.Shape == judge.ShapeTemperature {
		return 0, 0, false
	}
	if f := rep.FlowCm3PerMin; f != nil {
		return f.Value, math.Max((f.High-f.Low)/3.92, leastSE), true
	}
	rate, air := rep.RateKPaPerMin, float64(c.Tested().TrappedAir)
	if air == 0 {
		air = float64(c.Tested().Volume)
	}
	if rate == nil || air <= 0 {
		return 0, 0, false
	}
	per := air * 1e6 * 1e3 / physics.StandardPa // cm³ of standard gas for each kPa
	flow = rate.Value * per
	return flow, math.Max(math.Hypot((rate.High-rate.Low)/3.92*per, unknownAir*flow), leastSE), true
}

// leastSE is the least standard error of a flow, cm³/min.
const leastSE = 1e-3

// acts are what the gauge said of each act during a hold.
func (r *reading) acts(h Held) {
	for _, a := range h.Report.Acts {
		id := strings.TrimPrefix(a.Event, trace.ActPrefix)
		r.Done[id] = r.Done[id] || a.Over || a.Verdict != judge.ActNotYet
		if _, answered := r.log.Answers[id]; answered || !r.Done[id] || a.Before.Value <= 0 {
			continue
		}
		i := slices.IndexFunc(r.Circuit.Acts, func(x circuit.Act) bool { return x.ID == id })
		if i < 0 {
			if tries := r.marked(id); slices.Contains(tries, true) && a.Verdict != judge.ActNotYet {
				r.found(hunt.Did(tries, a.Verdict != judge.ActSame), actSays(r.title(id), a.Says))
			}
			continue
		}
		act := r.Circuit.Acts[i]
		if cut := r.Circuit.CutOff(act, h.Step); len(cut) > 0 && (a.Verdict != judge.ActFaster || act.Air > 0) {
			share := math.Max(0, a.After.Value) / a.Before.Value
			se := math.Hypot(a.After.High-a.After.Low, share*(a.Before.High-a.Before.Low)) / 3.92 / a.Before.Value
			r.found(hunt.Slowed{Cut: r.marked(cut...), Share: share, SE: se, Air: act.Air}, actSays(act.Title, a.Says))
			continue
		}
		for _, x := range act.Answers {
			if answers[a.Verdict][x.Seen] {
				r.found(r.Split(act, x), actSays(act.Title, a.Says))
				break
			}
		}
	}
}

// answers are those of an act that a gauge's verdict stands for.
var answers = map[judge.ActVerdict]map[circuit.Noticed]bool{
	judge.ActSlower: {circuit.Stops: true, circuit.Slower: true},
	judge.ActSame:   {circuit.Same: true},
	judge.ActFaster: {circuit.Faster: true, circuit.Jumps: true},
}

// mostSame is how often the same look with the same answer counts.
const mostSame = 3

// looks are those at each part by each method. What was seen before a mend is explained by it;
// where nothing was seen, nothing leaks still.
func (r *reading) looks() {
	r.Spent = map[string]bool{}
	times := map[string]int{}
	for i, o := range r.log.Looks {
		// Another answer of the same look corrects those before it. The same again counts again, but not for ever:
		// who overlooks a place thrice overlooks it the fourth time too.
		later := slices.ContainsFunc(r.log.Looks[i+1:], func(x logbook.Observation) bool {
			return x.Part == o.Part && x.Method == o.Method && x.Seen != o.Seen
		})
		part := slices.IndexFunc(r.Suspects, func(s hunt.Suspect) bool { return s.ID == o.Part })
		method := slices.IndexFunc(r.Methods, func(m hunt.Method) bool { return m.ID == o.Method })
		if later || part < 0 || method < 0 || o.Seen && r.explained(r.Suspects[part], o) || o.Seen && (o.Class == terms.Meant || o.At.Before(r.since)) {
			continue
		}
		if o.At.Before(r.since) && slices.ContainsFunc(r.log.Repairs, func(x Repair) bool { return x.Part == o.Part }) {
			continue
		}
		key := o.Part + "/" + o.Method
		if times[key]++; times[key] > mostSame {
			continue
		}
		r.Spent[key] = times[key] == mostSame
		here := o.Seen && o.Class != terms.FromAbove
		r.found(r.Look(part, r.Methods[method], here), lookSays(r.Suspects[part].Title, r.Methods[method], here))
		if above, ok := r.RanDown(part); ok && o.Seen && !here {
			r.found(above, ranDownSays(r.Suspects[part].Title))
		}
		if times[key] == 1 {
			r.Looked[o.Part] = append(r.Looked[o.Part], o.Method)
		}
		r.Seen[o.Part] = r.Seen[o.Part] || o.Seen && o.Class.Faulty()
	}
	for _, p := range r.log.CameOut {
		step := r.Step
		if s, ok := r.Circuit.Test(p.Step); ok && p.Step != "" {
			step = s
		}
		if there, ok := r.Comes(step, p.Place); ok {
			title, _ := PlaceTitle(r.Circuit, p.Place)
			r.found(hunt.CameOut{There: there}, cameSays(title))
		}
	}
}

// answers are what a person noticed of an act.
func (r *reading) answers() {
	for _, act := range r.Circuit.Acts {
		seen, ok := r.log.Answers[act.ID]
		if !ok {
			continue
		}
		for _, x := range act.Answers {
			if x.Seen == seen {
				r.Done[act.ID] = true
				r.found(r.Split(act, x), actSays(act.Title, x.Says))
			}
		}
	}
}
