package hunt

import (
	"cmp"
	"math"
	"slices"

	"idlehiss/core/circuit"
)

// Split are the suspects to which an answer of an act points in a step, and those to which its
// other answers do.
func (s Scene) Split(a circuit.Act, x circuit.Answer) Acted {
	for i, e := range s.split(a, s.Circuit.CutOff(a, s.Step), s.Circuit.Pressed(s.Step).Suspects) {
		if a.Answers[i].Seen == x.Seen {
			return e
		}
	}
	return Did(make([]bool, len(s.Suspects)), false)
}

// split are all the answers of an act that cuts so much off.
func (s Scene) split(a circuit.Act, cut []string, tried []circuit.Part) []Acted {
	points := make([][]bool, len(a.Answers))
	for i, x := range a.Answers {
		points[i] = s.among(circuit.PointsOf(x, cut, tried))
	}
	out := make([]Acted, len(a.Answers))
	for i, x := range a.Answers {
		out[i] = Acted{Points: points[i], Others: make([]bool, len(s.Suspects)), All: x.Seen == circuit.Stops}
		for k, other := range a.Answers {
			if other.Seen == x.Seen {
				continue
			}
			for n, yes := range points[k] {
				out[i].Others[n] = out[i].Others[n] || yes && !points[i][n]
			}
		}
	}
	return out
}

// among marks those of the suspects that are named; the rig's joints go by the rig.
func (s Scene) among(ids []string) []bool {
	named := map[string]bool{}
	for _, id := range ids {
		named[id] = true
	}
	out := make([]bool, len(s.Suspects))
	for i, p := range s.Suspects {
		out[i] = named[p.ID] || p.OfRig && named[circuit.OfTheRig]
	}
	return out
}

// splits are all the checks that speak for many suspects at once.
func (s Scene) splits(b Belief, done map[string]bool) []Check {
	var out []Check
	tried := s.Circuit.Pressed(s.Step).Suspects
	for _, a := range s.Circuit.ActsOf(s.Step) {
		if !done[a.ID] {
			out = append(out, s.acted(a, tried))
		}
	}
	for _, step := range s.Circuit.Tests() {
		if step.Kind == circuit.Hold && step.ID != s.Step.ID && !done[step.ID] && !slices.ContainsFunc(step.After, func(id string) bool { return !done[id] && id != s.Step.ID }) {
			out = append(out, s.isolated(step))
		}
	}
	for _, c := range conditions {
		if !done[string(c.change)] {
			out = append(out, s.changed(c))
		}
	}
	if len(out) > mostSplits { // the nearer to half, the more is told
		off := func(c Check) (odds float64) {
			for _, i := range c.Tries {
				odds += b.Odds[i]
			}
			return math.Abs(odds - 0.5)
		}
		slices.SortStableFunc(out, func(x, y Check) int { return cmp.Compare(off(x), off(y)) })
		out = out[:mostSplits]
	}
	for i := range out {
		x := &out[i]
		x.IfThere = pointed
		if len(x.Answers) > 0 {
			x.IfThere, _ = x.Answers[0].rates()
		}
		for _, k := range x.Tries {
			x.Chance += b.Odds[k] * x.IfThere
		}
		x.Chance = math.Min(x.Chance, 1)
	}
	return out
}

// mostSplits are weighed: a long row can be parted at many places.
const mostSplits = 12

// acted is an act of the circuit's file.
func (s Scene) acted(a circuit.Act, tried []circuit.Part) Check {
	out := Check{Kind: AnAct, Part: -1, Act: &a, HandsS: float64(a.Takes + a.Reached), WaitS: s.watchS()}
	if a.Does == circuit.Nip {
		out.Kind = AMend
	}
	cut := s.Circuit.CutOff(a, s.Step)
	tries := cut
	if len(tries) == 0 {
		tries = circuit.PointsOf(a.Answers[0], cut, tried)
	}
	out.Tries = marked(s.among(tries))
	for _, e := range s.split(a, cut, tried) {
		if slices.Contains(e.Points, true) || slices.Contains(e.Others, true) {
			out.Answers = append(out.Answers, e) // else it tells none of them apart
		}
	}
	return out
}

// isolated is a hold of another step: whether it leaks there as it does here.
func (s Scene) isolated(step circuit.Step) Check {
	tried := make([]bool, len(s.Suspects))
	for i, f := range s.Tried(step).Factor {
		tried[i] = f > 0
	}
	changes := len(s.Circuit.Changes(s.Step, step))
	return Check{Kind: AnIsolate, Part: -1, Step: &step, Tries: marked(tried), HandsS: raiseS + changeS*float64(changes), WaitS: holdS, Answers: []Acted{Did(tried, true), Did(tried, false)}}
}

// What it takes to hold again, s. Shop practice.
const (
	raiseS  = 60.0  // to pump up and shut off
	changeS = 60.0  // for each thing that is plugged, opened or set
	holdS   = 180.0 // until it is called
)

// condition is one under which the same hold is looked at again.
type condition struct {
	change circuit.Change
	handsS float64
	eachS  float64 // for each part whose leak grows
	waitS  float64
	shows  float64 // how often a leak that grows is seen to
	fools  float64 // and one that does not
}

// conditions are all of them. Shop practice.
var conditions = []condition{
	{circuit.WhenMoved, 0, 30, 0, 0.5, 0.1},
	{circuit.WhenHot, 180, 0, 1500, 0.7, 0.2},
}

// changed is the same hold with something moved, or hot.
func (s Scene) changed(c condition) Check {
	grows := make([]bool, len(s.Suspects))
	for i, p := range s.Suspects {
		grows[i] = p.Changes[c.change] >= growsBy
	}
	tries := marked(grows)
	hands := c.handsS
	for _, i := range tries {
		if c.eachS > 0 {
			hands += c.eachS + float64(s.Suspects[i].Reach)
		}
	}
	more, same := Did(grows, true), Did(grows, false)
	more.Right, more.Wrong, same.Right, same.Wrong = c.shows, c.fools, 1-c.fools, 1-c.shows
	return Check{Kind: ACondition, Part: -1, Change: c.change, Tries: tries, HandsS: hands, WaitS: c.waitS + s.watchS(), Answers: []Acted{more, same}}
}

// growsBy is how many times a leak must grow for a change of the slope to be seen.
const growsBy = 1.5

func marked(yes []bool) (out []int) {
	for i, y := range yes {
		if y {
			out = append(out, i)
		}
	}
	return out
}

func (s Scene) watchS() float64 {
	if s.WatchS > 0 {
		return s.WatchS
	}
	return usualWatchS
}

// after is the minutes of a check and of the walk that is left after each of its answers;
// infinite where it tells nothing apart.
func (s Scene) after(b Belief, x Check, looks []Lookable, of [][]int, covers []float64) float64 {
	total, mean := 0.0, 0.0
	answers := 0
	weights := make([]float64, len(b.Sizes))
	var left [][Cells]float64
	for _, e := range x.Answers {
		mass := 0.0
		for i := range weights {
			weights[i] = e.Weight([]Leak{{Part: i}})
			mass += b.Odds[i] * weights[i]
		}
		if mass <= 0 {
			continue
		}
		left = append(left[:0], b.Sizes...)
		for i := range left {
			for k := range left[i] {
				left[i][k] *= weights[i]
			}
		}
		_, m := walkTo(ahead, left, looks, of, covers, 0)
		answers++
		total += mass
		mean += mass * m
	}
	if answers < 2 || total <= 0 || len(x.Tries) == 0 {
		return math.Inf(1)
	}
	return x.Minutes() + mean/total
}
