package holds

import (
	"math"

	"idlehiss/core/runsheet"
	"idlehiss/core/steps"
	"idlehiss/core/terms"
	"idlehiss/core/trace"
)

// inFullS is how often (s of the wall) what is made of a hold is sent with its
// readings: a person does not read faster, and it is most of the message.
const inFullS = 0.5

// screenPoints is as many points as a screen can draw.
const screenPoints = 600

// view is a hold as a page shows it.
func (p *picture) view(want part, nowS float64) HoldView {
	d := p.digest()
	v := p.frame(d, nowS)
	v.Whole, v.Brief, v.Summary = want.whole, want.brief, want.summary
	said := p.said()
	if !want.brief {
		v.Report = said
		for _, c := range p.calls {
			v.Calls = append(v.Calls, CallView{At: c.at, AtS: p.axis(c.at), Call: c.call, Ring: steps.RingOf(&c.report)})
		}
	}
	v.Ring = steps.RingOf(said)
	if !want.brief || v.OverLimit || p.hold.State == terms.Pumping {
		v.Sentence = p.sentence(said, p.fork)
	}
	if p.report != nil && p.report.MoreS != nil && p.hold.State == terms.Holding && len(p.calls) == 0 {
		v.CallAtS = new(p.judgedS + *p.report.MoreS)
	}
	v.ReadNext = p.readNext()
	if want.summary {
		return v
	}
	if !want.brief {
		v.Fork = append(v.Fork, p.fork...)
	}
	if n := len(p.trail); n > 0 && !want.whole {
		v.Trail = p.trail[n-1:]
	} else if n > 0 {
		v.Trail = p.trail
	}
	for _, e := range p.events {
		v.Events = append(v.Events, EventView{p.axis(e.At), e.Kind})
	}
	for _, g := range p.gaps {
		v.Gaps = append(v.Gaps, GapView{p.axis(g.From), p.axis(g.To), g.Why})
	}
	v.Points = p.points(Near, want.whole, want.near)
	if v.Far != nil {
		v.Far.Points = p.points(Far, want.whole, want.far)
	}
	return v
}

// readNext is when a person reads the gauge next; nil where it reads itself, and while nothing is held.
func (p *picture) readNext() *runsheet.NextReading {
	if near := p.rig.near(); near.ByItself() || p.hold.State != terms.Holding || p.hold.IsolatedAt == nil {
		return nil
	}
	l := runsheet.Looking{ShutS: p.axis(*p.hold.IsolatedAt), Called: len(p.calls) > 0, Proof: p.proof(), LeftRun: p.hold.LaidBy}
	for _, r := range p.near() {
		if r.AtS >= l.ShutS && r.Stands() {
			l.ReadS = append(l.ReadS, r.AtS)
		}
	}
	if p.report != nil {
		l.MoreS = p.report.MoreS
	}
	return runsheet.ReadNext(l)
}

// frame is what a page shows of a hold without its trace.
func (p *picture) frame(d digest, nowS float64) HoldView {
	h, g := &p.hold, &p.rig.Gauge
	digit, div := g.ForJudge().StepPa(), g.DivisionPa()
	v := HoldView{ID: h.ID, JobID: h.JobID, Machine: p.machine, Purpose: h.Purpose, Test: p.step.ID, Draws: p.rig.draws(), Stage: p.stage(), Condition: h.Condition, Under: p.under(),
		State: h.State, Simulated: h.Simulated, LaidBy: h.LaidBy, StartedAt: h.At, Gauge: *g, Unit: p.unit.Symbol, UnitPa: p.unit.Factor, Target: p.rig.Target,
		TargetText: runsheet.Show(p.rig.Target.Pa, div, p.unit), Limit: runsheet.Show(p.rig.Limit.Pa, div, p.unit), Allowance: p.rig.Allowance, Unjudged: p.unjudged, Air: p.air, LastSeq: d.LastSeq, NowS: nowS,
		Strokes: d.Strokes, Step: g.FinestStep(), ByItself: p.rig.near().ByItself(), Faults: append([]FaultView{}, p.faults...), Fork: []steps.ForkAt{}, Trail: []steps.ForkAt{}, Points: []Point{}, Events: []EventView{}, Gaps: []GapView{}, Calls: []CallView{}}
	v.Marks = g.NextMarks(d.Near, h.State, p.rig.Target.Pa, p.rig.ceiling())
	if h.IsolatedAt != nil {
		v.IsolatedS = new(p.axis(*h.IsolatedAt))
	}
	if h.EndedAt != nil {
		v.EndedS = new(p.axis(*h.EndedAt))
		v.NowS = *v.EndedS
	}
	if d.Near.Seen {
		v.Value = new(runsheet.Show(d.Near.Pa, digit, p.unit))
	}
	if d.HighestPa > 0 {
		v.Highest = new(runsheet.Show(d.HighestPa*p.rig.sign(), digit, p.unit))
	}
	if d.FirstHeardPa != nil {
		v.FirstHeard = new(runsheet.Show(*d.FirstHeardPa, digit, p.unit))
	}
	if n := len(p.warmth); n > 0 {
		v.Celsius = new(p.warmth[n-1].Value)
	}
	v.Unread, v.TapDue, v.TapUntilS = p.warmthUnread(), p.tapDue && h.State == terms.Holding, p.tapUntilS
	v.OverLimit = p.over()
	v.AtTarget = h.State == terms.Pumping && runsheet.AtTarget(d.Near, p.rig.Target.Pa, div)
	v.Alarm = p.alarm()
	v.AlarmText = p.alarmText(v.Alarm)
	if p.rig.Far != nil {
		v.Far = p.farView(d)
	}
	return v
}

func (p *picture) farView(d digest) *FarView {
	g := p.rig.Far.Gauge
	_, u := g.Ring()
	digit := g.ForJudge().StepPa()
	v := &FarView{Gauge: g, Unit: u.Symbol, UnitPa: u.Factor, ByItself: p.rig.Far.ByItself(), Step: g.FinestStep(), Marks: g.NextMarks(d.Far, p.hold.State, p.rig.Target.Pa, p.rig.ceiling()), Points: []Point{}}
	if d.Far.Seen {
		v.Value = new(runsheet.Show(d.Far.Pa, digit, u))
		v.Says = runsheet.FarSays(d.Near, d.Far, math.Max(digit, p.rig.Gauge.ForJudge().StepPa()), u)
	}
	return v
}

// points are a gauge's readings from one on, thinned for the screen.
func (rec *record) points(s Side, whole bool, from int) []Point {
	fresh := rec.side(s).all
	if !whole {
		fresh = fresh[min(from, len(fresh)):]
	}
	out := []Point{}
	for _, r := range trace.ThinNoted(fresh, screenPoints) {
		x := Point{AtS: r.AtS, Pa: r.GaugePa, Seq: int(r.Seq), How: r.How(), Struck: rec.whys.Of(&r)}
		if r.Is&trace.Held != 0 && x.Struck == "" {
			x.Struck = notBelieved
		}
		out = append(out, x)
	}
	return out
}
