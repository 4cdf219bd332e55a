package shop

import (
	"context"
	"errors"
	"fmt"
	"math"
	"strings"

	"idlehiss/core/judge"
	"idlehiss/core/quantity"
	"idlehiss/core/slate"
	"idlehiss/logbook"
)

// Slate lists the calculators.
func (s *Shop) Slate() []slate.Calculator { return slate.All() }

// Calculate answers for what was typed, by field; a bare number takes the field's unit.
func (s *Shop) Calculate(name string, typed map[string]string) (slate.Answer, error) {
	c, err := slate.Named(name)
	if err != nil {
		return slate.Answer{}, &Refusal{Says: err.Error(), Kind: Missing}
	}
	a, err := c.Work(typed, true)
	var f slate.FieldError
	switch {
	case errors.As(err, &f):
		return a, refuse(f.Field, "%v", err)
	case err != nil:
		return a, refuse("", "%v", err)
	}
	return a, nil
}

// TakeAir is trapped air that was not told by the strokes.
type TakeAir struct {
	Write
	M3   float64 `json:"m3" exclusiveMinimum:"0" maximum:"10"`
	SE   float64 `json:"se_m3" minimum:"0"`
	Says string  `json:"says" maxLength:"200" doc:"how it was found"`
}

// givenAir is what the fact "air" keeps.
type givenAir struct {
	M3 float64 `json:"m3"`
	SE float64 `json:"se_m3"`
}

// Air takes down trapped air that was worked out beside the job: it stands in
// where the strokes do not tell it, also for a hold that is running.
func (s *Shop) Air(ctx context.Context, jobID string, in TakeAir) (JobView, error) {
	if math.IsNaN(in.M3) || in.SE > in.M3 {
		return JobView{}, refuse("se_m3", "the doubt cannot be larger than the air itself")
	}
	given := givenAir{in.M3, in.SE}
	v, err := change(ctx, s, jobID, in.Write, in, func(tx *logbook.Tx, st logbook.Stamp, j logbook.Job, sn snapshot) error {
		return fact(tx, st, "air-"+st.ID, jobID, "air", "pressurise", "slate",
			fmt.Sprintf("About %s L of air is squeezed. %s", quantity.Significant(in.M3*1e3, 2), strings.TrimSpace(in.Says)), given)
	})
	if err != nil {
		return v, err
	}
	s.mu.Lock()
	for _, l := range s.live {
		if l.hold.JobID != jobID || l.hold.Purpose == "rig proof" {
			continue
		}
		if err := s.giveAir(ctx, l, given); err != nil {
			s.mu.Unlock()
			return v, err
		}
	}
	s.mu.Unlock()
	return s.Job(ctx, jobID)
}

func (s *Shop) giveAir(ctx context.Context, l *live, given givenAir) error {
	l.rig.Given = &given
	if l.hold.State == "holding" {
		l.settle()
	}
	if err := l.saveRig(ctx, s.book); err != nil {
		return err
	}
	if err := l.rebuild(); err != nil {
		return err
	}
	// A call that was made stands; beside it the same is said with its size.
	if n := len(l.calls); n > 0 && l.report != nil && l.report.Firm {
		if err := s.keep(ctx, l); err != nil {
			return err
		}
	}
	s.showWhole(l)
	return nil
}

// ToppedUp is what the machine is reported to lose.
type ToppedUp struct {
	Write
	Added  string  `json:"added" maxLength:"30" doc:"a volume, such as 0.5 L"`
	Within string  `json:"within" maxLength:"30" doc:"a time, such as 14 d"`
	Hours  float64 `json:"hours" exclusiveMinimum:"0" maximum:"24" doc:"a day under pressure"`
}

// toppedUp is what the fact "topped up" keeps.
type toppedUp struct {
	M3PerS float64 `json:"m3_per_s"` // while under pressure
}

// TopUps takes down how much is topped up, so that a leak can be held against it.
func (s *Shop) TopUps(ctx context.Context, jobID string, in ToppedUp) (JobView, error) {
	added, err := quantity.Parse(in.Added, quantity.Volume, quantity.MustNamed("L", quantity.Volume), 0)
	if err != nil {
		return JobView{}, refuse("added", "%v", err)
	}
	within, err := quantity.Parse(in.Within, quantity.Time, quantity.MustNamed("d", quantity.Time), 0)
	if err != nil || within.Low <= 0 {
		return JobView{}, refuse("within", "%q is no time: such as 14 d is wanted", in.Within)
	}
	rate := added.Mid() / (within.Mid() * in.Hours / 24)
	return change(ctx, s, jobID, in.Write, in, func(tx *logbook.Tx, st logbook.Stamp, j logbook.Job, sn snapshot) error {
		return fact(tx, st, "topped-up-"+st.ID, jobID, "topped up", "first-look", "said",
			fmt.Sprintf("Topped up by %s within %s, %s hours a day: %s mL an hour.", unitsWritten(added), unitsWritten(within), quantity.Significant(in.Hours, 2), quantity.Significant(rate*3600e6, 2)), toppedUp{rate})
	})
}

func unitsWritten(v quantity.Value) string {
	return quantity.Significant(v.Unit.Of(v.Mid()), 3) + " " + v.Unit.Symbol
}

// explains holds the leak of a report against what is topped up.
func explains(rep *judge.Report, reportedM3PerS float64) string {
	if rep == nil || rep.LossMLPerH == nil || rep.Call == judge.NotYet || reportedM3PerS <= 0 {
		return ""
	}
	reported := reportedM3PerS * 3600e6
	dry := judge.ExplainsLoss(rep.LossMLPerH.Value / reported)
	if rep.WeepMLPerH == nil {
		return dry
	}
	// Below the liquid line the same fall is far more liquid.
	if wet := judge.ExplainsLoss(rep.WeepMLPerH.Value / reported); rep.LossMLPerH.Value/reported < 0.3 && rep.WeepMLPerH.Value/reported >= 0.3 {
		return "Above the liquid line it is too small to be the cause. From below it: " + strings.ToLower(wet[:1]) + wet[1:]
	}
	return dry
}

// HoldPlan is how long a hold will need, with this gauge and with a finer one.
type HoldPlan struct {
	Says  string      `json:"says"`
	With  judge.Times `json:"with"`
	Finer string      `json:"finer"` // empty where this gauge is fine enough
}

// PlanHold tells before a hold how long it will need.
func (s *Shop) PlanHold(ctx context.Context, jobID string) (HoldPlan, error) {
	v, err := s.Job(ctx, jobID)
	if err != nil {
		return HoldPlan{}, err
	}
	if v.Plan == nil {
		return HoldPlan{}, conflict("the limit comes first: how long to hold depends on it")
	}
	p := v.Plan
	j, err := s.book.Job(ctx, jobID)
	if err != nil {
		return HoldPlan{}, err
	}
	sn, err := snapshotOf(j)
	if err != nil {
		return HoldPlan{}, err
	}
	air := float64(sn.Circuit.Tested().TrappedAir)
	about := "such a loop's usual " + quantity.Significant(air*1e3, 2) + " L of air"
	for _, h := range v.Holds {
		if h.Purpose != "rig proof" && h.Air != nil {
			air, about = h.Air.Litres*1e-3, "the "+quantity.Significant(h.Air.Litres, 2)+" L of air that the strokes told"
		}
	}
	allow := allowanceFor(p.Wanted, p.Gauge, sn.Hold, air, p.Target.Pa, s.ambient)
	at := p.Target.Pa
	q := judge.Question{AmbientPa: s.ambient, AtPa: &at, LimitPaPerS: allow.PaPerS, Gauge: p.Gauge.ForJudge()}
	plan, err := s.times(q)
	if err != nil {
		return HoldPlan{}, err
	}
	out := HoldPlan{With: plan, Says: fmt.Sprintf("With this gauge and %s: %s", about, lower(plan.Says()))}
	if fine := finer(p.Gauge.ForJudge(), at); fine.DigitalPa > 0 {
		q.Gauge = fine
		better, err := s.times(q)
		if err != nil {
			return HoldPlan{}, err
		}
		if better.TightS != nil && (plan.TightS == nil || *better.TightS < *plan.TightS*0.75) {
			out.Finer = fmt.Sprintf("A digital gauge that shows %s kPa: %s", quantity.Significant(fine.DigitalPa/1e3, 1), lower(better.Says()))
		}
	}
	return out, nil
}

// times remembers what was planned: it takes about a second to play.
func (s *Shop) times(q judge.Question) (judge.Times, error) {
	key := fmt.Sprint(q.AmbientPa, *q.AtPa, q.LimitPaPerS, q.Gauge)
	if t, ok := s.planned.Load(key); ok {
		return t.(judge.Times), nil
	}
	t, err := judge.PlanHold(q)
	if err != nil {
		return t, refuse("", "%v", err)
	}
	s.planned.Store(key, t)
	return t, nil
}

func lower(s string) string { return strings.ToLower(s[:1]) + s[1:] }

// finer is a digital gauge of a thousandth of the target; nothing where the
// gauge is about as fine.
func finer(g judge.Gauge, atPa float64) judge.Gauge {
	digit := math.Pow(10, math.Floor(math.Log10(math.Abs(atPa)/1000)+0.5))
	if g.DigitalPa > 0 && g.DigitalPa < 2*digit {
		return judge.Gauge{}
	}
	return judge.Gauge{DigitalPa: digit}
}
