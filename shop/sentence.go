package shop

import (
	"fmt"
	"math"

	"idlehiss/core/judge"
	"idlehiss/core/quantity"
	"idlehiss/core/runsheet"
	"idlehiss/logbook"
)

// forkLooks is how many moments ahead the fork is drawn at.
const forkLooks = 14

// fork is the fork ahead of now: as far as the call is expected, or half as long
// again as it has been held.
func (l *live) fork() []ForkAt {
	if l.judge == nil || l.report == nil || l.report.Fork == nil || l.hold.State != "holding" {
		return nil
	}
	held := l.report.HeldS
	reach := math.Max(45, held/2)
	if m := l.report.MoreS; m != nil && *m > 0 {
		reach = math.Max(reach, math.Min(*m*1.3, 2*held+60))
	}
	ahead := make([]float64, forkLooks)
	for i := range ahead {
		x := float64(i+1) / forkLooks
		ahead[i] = reach * x * x
	}
	var out []ForkAt
	for _, p := range l.judge.Fork(ahead) {
		if f := forkAt(p); f.AbovePa != nil || f.BelowPa != nil {
			out = append(out, f)
		}
	}
	return out
}

// sentence is the one line of plain words under a hold.
func (l *live) sentence(r *judge.Report, fork []ForkAt) string {
	switch {
	case l.over():
		return fmt.Sprintf("Over the limit of %s. Bleed back now (V).", l.unit.Show(l.rig.Limit.Pa, l.rig.Gauge.DivisionPa()))
	case l.hold.State == "pumping":
		return l.pumping()
	case r == nil && l.unjudged != "":
		return "This hold cannot be judged: " + l.unjudged + ". Its readings are kept."
	case r == nil:
		return ""
	}
	switch r.Call {
	case judge.Tight:
		if r.Shape == judge.ShapeSettlingLeak || r.Shape == judge.ShapeLeak {
			return "Tight enough: losing, but less than what is allowed."
		}
		return "Tight." + oddsOf(r, " Settling, not leaking")
	case judge.Leaking:
		s := "Leaking."
		if r.LossMLPerH != nil {
			s += fmt.Sprintf(" %s mL an hour, hot.", quantity.Significant(r.LossMLPerH.Value, 2))
		} else if r.RateKPaPerMin != nil {
			s += fmt.Sprintf(" %s kPa a minute.", quantity.Significant(r.RateKPaPerMin.Value, 2))
		}
		return s
	case judge.NeverReached:
		return "Never got there: adapter not seated, a gross leak, or an opening forgotten."
	}
	if r.Shape == judge.ShapeRising {
		return "Rising: heat or gas coming in. A rise can hide a leak."
	}
	lead := "Too early to say."
	switch r.Shape {
	case judge.ShapeSettling:
		lead = "Settling; too early to say."
	case judge.ShapeSettlingLeak, judge.ShapeLeak:
		lead = "Losing; not sure yet whether too much."
	}
	if r.AtLimit {
		return "At the limit: neither side can honestly be called."
	}
	if r.MoreS == nil || *r.MoreS <= 0 {
		return lead
	}
	// Of the fork's two sides the one that the needle is heading for: it must lie
	// below where the needle stands, since it will not climb back.
	want, digit := r.Fork.AtS+*r.MoreS, l.rig.Gauge.ForJudge().StepPa()
	now, _ := l.last()
	leaks := r.RateKPaPerMin != nil && r.RateKPaPerMin.Value > r.LimitKPaPerMin
	for _, f := range fork {
		at := quantity.Clock(l.sinceShut(f.AtS))
		switch {
		case f.AtS < want-1:
		case !leaks && f.AbovePa != nil && l.sign()*(*f.AbovePa-now) < 0:
			return fmt.Sprintf("%s If it is still %s %s at %s it is tight.", lead, l.side(true), l.unit.Show(*f.AbovePa, digit), at)
		case leaks && f.BelowPa != nil && l.sign()*(*f.BelowPa-now) < 0:
			return fmt.Sprintf("%s If it is %s %s at %s it is leaking.", lead, l.side(false), l.unit.Show(*f.BelowPa, digit), at)
		}
	}
	return fmt.Sprintf("%s About %s more should tell.", lead, quantity.Clock(*r.MoreS))
}

// side is the word for away from ambient, or towards it.
func (l *live) side(away bool) string {
	switch {
	case l.draws() && away:
		return "deeper than"
	case l.draws():
		return "less deep than"
	case away:
		return "above"
	}
	return "below"
}

func oddsOf(r *judge.Report, words string) string {
	if r.Shape != judge.ShapeSettling || r.RunnerUpShare <= 0 {
		return ""
	}
	odds := r.ShapeShare / r.RunnerUpShare
	if odds > 99 {
		return words + " (more than 99 to 1)."
	}
	return fmt.Sprintf("%s (%s to 1).", words, quantity.Significant(odds, 1))
}

func (l *live) pumping() string {
	u, div := l.unit, l.rig.Gauge.DivisionPa()
	target := u.Show(l.rig.Target.Pa, div)
	verb := "Pump"
	if l.draws() {
		verb = "Draw down"
	}
	pa, ok := l.last()
	out, want := l.sign()*pa, l.sign()*l.rig.Target.Pa
	switch {
	case !ok || out < 500:
		return verb + " to " + target + ", slow and even."
	// A hundredth short is there: it creeps on while it is being looked at.
	case out >= want-math.Max(div*0.75, 0.01*want):
		return "There. Shut the supply (I)."
	case out > 0.85*want:
		return "Nearly there: " + target + "."
	}
	return verb + " on to " + target + "."
}

// ceiling is the pressure never to be passed, as a distance from ambient: the weakest
// limit, or the target that was set beyond it with a reason.
func (l *live) ceiling() float64 {
	return math.Max(math.Abs(l.rig.Limit.CeilingPa), math.Abs(l.rig.Target.Pa)) * (1 + 1e-9)
}

func (l *live) last() (pa float64, ok bool) { return standingLast(l, l.readings) }

// standingLast is the latest of one gauge's readings that is believed.
func standingLast(l *live, rs []logbook.Reading) (pa float64, ok bool) {
	for i := len(rs) - 1; i >= 0; i-- {
		if rs[i].Struck == "" && !l.withheld(rs[i]) {
			return l.traced(rs[i]).GaugePa, true
		}
	}
	return 0, false
}

// sinceShut turns the hold's axis into the time since the supply was shut, which
// is what people count.
func (l *live) sinceShut(s float64) float64 {
	if l.hold.IsolatedAt == nil {
		return s
	}
	return s - l.axis(*l.hold.IsolatedAt)
}

// marks are the gauge's printed marks and half-ways next to the needle.
func (l *live) marks() []NextMark {
	pa, seen := l.last()
	return marksOf(l.rig.Gauge, pa, seen, l.hold.State, l.rig.Target.Pa)
}

// marksOf are those of a gauge whose needle stands at pa, where that was seen.
func marksOf(g runsheet.Gauge, pa float64, seen bool, state string, targetPa float64) []NextMark {
	if g.Kind != "needle" || state == "ended" {
		return nil
	}
	ring, u := g.Ring()
	if targetPa < 0 {
		return mirrored(g, pa, seen, state, targetPa)
	}
	pumping := state == "pumping"
	if !seen && !pumping {
		pa = targetPa
	}
	half := ring.Division / 2
	at := (u.Of(pa) - ring.From) / half
	mark := func(n int, up bool) NextMark {
		v := ring.From + float64(n)*half
		m := NextMark{Pa: u.SI(v), Value: math.Round(v*1e6) / 1e6, Half: n%2 != 0, Up: up}
		digit := ring.Division
		if m.Half {
			digit = half
		}
		m.Text = u.Figure(m.Pa, u.SI(digit))
		return m
	}
	above := int(math.Floor(at+1e-6)) + 1
	if pumping {
		// The needle climbs by strokes: the figures on the face are what it can be
		// caught at.
		figures := ring.Numbered
		if figures <= 0 {
			figures = 5 * ring.Division
		}
		every := int(math.Round(figures / half))
		next := (above + every - 1) / every * every
		likely := mark(next, true)
		likely.Likely = true
		if printed := above + above%2; printed < next {
			return []NextMark{mark(printed, true), likely, mark(next+every, true)}
		}
		return []NextMark{likely, mark(next+every, true)}
	}
	// Falling is what a hold does; a printed mark is crossed more surely than a
	// half-way, so the likely next is the nearest printed one below.
	out := []NextMark{mark(above, true)}
	below := int(math.Ceil(at-1e-6)) - 1
	for n := below; n > below-3 && n >= 0; n-- {
		out = append(out, mark(n, false))
	}
	for i := range out {
		if !out[i].Up && !out[i].Half {
			out[i].Likely = true
			break
		}
	}
	return out
}

// mirrored are the marks under vacuum: the same face seen upside down.
func mirrored(g runsheet.Gauge, pa float64, seen bool, state string, targetPa float64) []NextMark {
	ring, u := g.Ring()
	down := g
	ring.From, ring.To = -ring.To, -ring.From
	down.Rings, down.Read = []runsheet.Ring{ring}, 0
	out := marksOf(down, -pa, seen, state, -targetPa)
	for i := range out {
		m := &out[i]
		m.Pa, m.Value, m.Up = -m.Pa, -m.Value, !m.Up
		digit := ring.Division
		if m.Half {
			digit /= 2
		}
		m.Text = u.Figure(m.Pa, u.SI(digit))
	}
	return out
}
