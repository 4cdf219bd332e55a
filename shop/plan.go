package shop

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"idlehiss/core/circuit"
	"idlehiss/core/judge"
	"idlehiss/core/quantity"
	"idlehiss/core/runsheet"
	"idlehiss/logbook"
)

// EnterMark is the mark as it stands on the part.
type EnterMark struct {
	Write
	Text    string `json:"text" maxLength:"40"`
	Reading int    `json:"reading" minimum:"0" doc:"which of the decoded readings is meant; 0 the likeliest"`
}

// Plan is how far to pump, by which school, on which gauge, and what may be lost.
type Plan struct {
	Write
	School        string `json:"school" doc:"a school of target, or typed"`
	Typed         string `json:"typed,omitempty" maxLength:"40" doc:"a pressure, where the school is typed"`
	Reason        string `json:"reason,omitempty" maxLength:"300" doc:"why a typed target may lie above the weakest limit"`
	Gauge         string `json:"gauge"`
	Pump          string `json:"pump,omitempty" doc:"absent: the one last used"`
	Far           string `json:"far,omitempty" doc:"a second gauge at the other end"`
	Ring          int    `json:"ring" minimum:"0" maximum:"2" doc:"which ring of figures is read"`
	Allowance     string `json:"allowance" doc:"house, typed, or the id of a hold school"`
	AllowanceText string `json:"allowance_text,omitempty" maxLength:"60" doc:"such as 10 kPa in 2 min"`
}

// markFact is what the fact "mark" keeps.
type markFact struct {
	Text    string `json:"text"`
	Reading int    `json:"reading"`
}

func (s *Shop) addMark(tx *logbook.Tx, st logbook.Stamp, id, jobID string, c *circuit.Circuit, text string, reading int) error {
	m, err := quantity.DecodeMark(text, c.Plausible())
	if err != nil {
		return refuse("text", "%v", err)
	}
	if reading >= len(m.Readings) {
		return refuse("reading", "%q has %d readings; number %d is not one of them", text, len(m.Readings), reading+1)
	}
	r := m.Readings[reading]
	said := quantity.Significant(r.HighPa/1e3, 3) + " kPa"
	if m.Band() {
		said = quantity.Significant(r.LowPa/1e3, 3) + " to " + said
	}
	sentence := fmt.Sprintf("The %s says %s, read in %s: %s.", c.Mark.On, m.Text, r.Unit.Symbol, said)
	if !m.Bare {
		sentence = fmt.Sprintf("The %s says %s: %s.", c.Mark.On, m.Text, said)
	}
	return fact(tx, st, id, jobID, "mark", "limit", "mark", sentence, markFact{m.Text, reading})
}

// Mark takes down the mark as it stands on the part.
func (s *Shop) Mark(ctx context.Context, jobID string, in EnterMark) (JobView, error) {
	return change(ctx, s, jobID, in.Write, in, func(tx *logbook.Tx, st logbook.Stamp, j logbook.Job, sn snapshot) error {
		return s.addMark(tx, st, "mark-"+st.ID, jobID, &sn.Circuit, in.Text, in.Reading)
	})
}

// DecodeMark reads a mark without keeping it.
func (s *Shop) DecodeMark(text, circuitID string) (MarkView, error) {
	c := s.circuit[0]
	for _, x := range s.circuit {
		if x.ID == circuitID {
			c = x
		}
	}
	m, err := quantity.DecodeMark(text, c.Plausible())
	if err != nil {
		return MarkView{}, refuse("text", "%v", err)
	}
	return markView(m), nil
}

func markView(m quantity.Mark) MarkView {
	v := MarkView{Text: m.Text, Doubt: m.Doubt, Readings: []MarkReading{}}
	for _, r := range m.Readings {
		eq := map[string]string{}
		for _, name := range []string{"bar", "psi", "kPa", "kgf/cm²"} {
			u := quantity.MustNamed(name, quantity.Pressure)
			digits := map[string]float64{"bar": 0.01, "psi": 0.1, "kPa": 1, "kgf/cm²": 0.01}[name]
			text := u.Show(r.HighPa, u.SI(digits))
			if r.LowPa != r.HighPa {
				text = u.Figure(r.LowPa, u.SI(digits)) + " to " + text
			}
			eq[name] = text
		}
		v.Readings = append(v.Readings, MarkReading{Unit: r.Unit.Symbol, LowPa: r.LowPa, HighPa: r.HighPa, HalfDigitPa: r.HalfDigitPa, Doubt: r.Doubt, Equivalents: eq})
	}
	return v
}

// SetPlan chooses target, gauge and allowance. It is refused whole when the
// target would pass the weakest limit.
func (s *Shop) SetPlan(ctx context.Context, jobID string, in Plan) (JobView, error) {
	facts, err := s.book.Facts(ctx, jobID)
	if err != nil {
		return JobView{}, err
	}
	return change(ctx, s, jobID, in.Write, in, func(tx *logbook.Tx, st logbook.Stamp, j logbook.Job, sn snapshot) error {
		p, err := s.plan(ctx, sn, facts, &in)
		if err != nil {
			return err
		}
		if p == nil {
			return conflict("the mark on the %s comes first", sn.Circuit.Mark.On)
		}
		source := "mark"
		if p.Target.School == "typed" {
			source = "typed"
		}
		return errors.Join(
			tx.SetSetting("last gauge", p.Gauge.ID),
			tx.SetSetting("last pump", p.Pump.ID),
			fact(tx, st, "target-"+st.ID, jobID, "target", "limit", source, p.Target.Says, in),
			fact(tx, st, "gauge-"+st.ID, jobID, "gauge", "limit", "typed", p.readOn(), p.Gauge),
			fact(tx, st, "allowance-"+st.ID, jobID, "allowance", "limit", "typed", p.Allowance.Says, p.Wanted))
	})
}

// standing is the fact that holds on a subject now.
func standing(facts []logbook.Fact, subject string) (logbook.Fact, bool) {
	for _, f := range facts {
		if f.Subject == subject && f.SupersededBy == "" {
			return f, true
		}
	}
	return logbook.Fact{}, false
}

// planOf is the plan as it stands: what was chosen, or the defaults. Nil while
// the mark is not known.
func (s *Shop) planOf(ctx context.Context, j logbook.Job, sn snapshot) (*PlanView, error) {
	facts, err := s.book.Facts(ctx, j.ID)
	if err != nil {
		return nil, err
	}
	return s.plan(ctx, sn, facts, nil)
}

// plan works the plan out. in overrules what the facts say.
func (s *Shop) plan(ctx context.Context, sn snapshot, facts []logbook.Fact, in *Plan) (*PlanView, error) {
	mf, ok := standing(facts, "mark")
	if !ok {
		return nil, nil
	}
	var kept markFact
	if err := json.Unmarshal(mf.Value, &kept); err != nil {
		return nil, err
	}
	m, err := quantity.DecodeMark(kept.Text, sn.Circuit.Plausible())
	if err != nil {
		return nil, err
	}
	r := m.Readings[min(kept.Reading, len(m.Readings)-1)]
	if in == nil {
		in = &Plan{School: "exactly", Allowance: "house"}
		if f, ok := standing(facts, "target"); ok {
			if err := json.Unmarshal(f.Value, in); err != nil {
				return nil, err
			}
		}
	}
	kit, err := s.pickGauge(ctx, in)
	if err != nil {
		return nil, err
	}
	pump, err := s.pickPump(ctx, in.Pump)
	if err != nil {
		return nil, err
	}
	g := kit.Gauge
	var far *KitGauge
	if in.Far != "" {
		x, err := s.gauge(ctx, in.Far)
		switch {
		case err != nil:
			return nil, refuse("far", "%v", err)
		case x.ID == g.ID:
			return nil, refuse("far", "the gauge at the other end is another one than %s", g.Name)
		}
		far = &x
	}
	step, _ := sn.Circuit.Test("")
	parts := runsheet.StepLimits(&sn.Circuit, step)
	if g.RatingPa > 0 {
		parts = append(parts, runsheet.Limit{Of: "gauge", Pa: g.RatingPa, CeilingPa: g.RatingPa, Source: "kit"})
	}
	if far != nil && far.RatingPa > 0 {
		parts = append(parts, runsheet.Limit{Of: "far gauge", Pa: far.RatingPa, CeilingPa: far.RatingPa, Source: "kit"})
	}
	limits := append([]runsheet.Limit{runsheet.MarkLimit(r, sn.Circuit.Mark.On)}, parts...)
	var target runsheet.Target
	_, unit := g.Ring()
	if in.School == "typed" {
		v, err := quantity.Parse(in.Typed, quantity.Pressure, unit, s.ambient)
		if err != nil {
			return nil, refuse("typed", "%v", err)
		}
		if target, err = runsheet.Typed(v.Mid(), limits, strings.TrimSpace(in.Reason)); err != nil {
			return nil, refuse("typed", "%v", err)
		}
	} else {
		i := slices.IndexFunc(sn.Target, func(t runsheet.TargetSchool) bool { return t.ID == in.School })
		if i < 0 {
			return nil, refuse("school", "there is no school of target %q", in.School)
		}
		if target, err = runsheet.Aim(sn.Target[i], r, sn.Circuit.Mark.On, parts, g); err != nil {
			return nil, refuse("school", "%v", err)
		}
	}
	wanted := wantedAllowance{in.Allowance, in.AllowanceText}
	if wanted.From == "" {
		wanted.From = "house"
	}
	if wanted.From == "typed" {
		if _, err := runsheet.TypedAllowance(wanted.Text, g, s.ambient); err != nil {
			return nil, refuse("allowance_text", "%v", err)
		}
	}
	allow := allowanceFor(wanted, g, sn.Hold, 0, target.Pa, s.ambient)
	div := g.DivisionPa()
	// Whether the gauge can see the allowance: the house's is looked at with the
	// air such a loop usually traps; "nothing" is by its nature what it can see.
	asked, over := allow.PaPerS, allow.HoldS
	if wanted.From == "house" {
		h := runsheet.House(float64(sn.Circuit.Tested().TrappedAir), target.Pa, s.ambient)
		asked, over = h.PaPerS, h.HoldS
	} else if i := slices.IndexFunc(sn.Hold, func(h judge.School) bool { return h.ID == wanted.From && h.AllowedPa == 0 }); i >= 0 {
		asked = 0
	}
	// The mark's own limit gives way to the parts' under the margin school.
	view := PlanView{Mark: markView(m), Chosen: kept.Reading, Limits: limits, Weakest: target.Weakest, Target: target, Shown: Show(target.Pa, div, unit),
		Schools: runsheet.Offered(sn.Target, r, parts), Gauge: g, Fit: g.Fit(target.Pa, asked, over), Allowance: allow, Holding: sn.Hold, Wanted: wanted, Pump: pump, kit: kit, farKit: far}
	if far != nil {
		view.Far = &far.Gauge
	}
	return &view, nil
}

// pickPump finds the pump asked for, else the one last used, else the first.
func (s *Shop) pickPump(ctx context.Context, id string) (Pump, error) {
	if id != "" {
		all, err := kitOf[Pump](ctx, s, "pump", true)
		if err != nil {
			return Pump{}, err
		}
		for _, p := range all {
			if p.ID == id {
				return p, nil
			}
		}
		return Pump{}, refuse("pump", "there is no pump %q in the kit", id)
	}
	last, err := s.book.Setting(ctx, "last pump")
	if err != nil {
		return Pump{}, err
	}
	all, err := s.Pumps(ctx)
	if err != nil {
		return Pump{}, err
	}
	if i := slices.IndexFunc(all, func(p Pump) bool { return p.ID == last }); i >= 0 {
		return all[i], nil
	}
	return all[0], nil // the last one in use cannot be retired
}

// pickGauge finds the gauge asked for, else the one last used, else the first.
func (s *Shop) pickGauge(ctx context.Context, in *Plan) (KitGauge, error) {
	id := in.Gauge
	if id == "" {
		var err error
		if id, err = s.book.Setting(ctx, "last gauge"); err != nil {
			return KitGauge{}, err
		}
	}
	all, err := s.Gauges(ctx)
	if err != nil {
		return KitGauge{}, err
	}
	inUse := slices.ContainsFunc(all, func(g KitGauge) bool { return g.ID == id })
	if id == "" || in.Gauge == "" && !inUse {
		return all[0], nil // the last one in use cannot be retired
	}
	g, err := s.gauge(ctx, id)
	if err != nil {
		return g, err
	}
	if in.Gauge != "" && in.Ring < len(g.Rings) {
		g.Read = in.Ring
	}
	return g, nil
}

// readOn says which gauges are read.
func (p *PlanView) readOn() string {
	out := fmt.Sprintf("Read on %s, the %s ring. %s", p.Gauge.Name, p.Gauge.Rings[p.Gauge.Read].Unit, strings.Join(p.Fit.Says, " "))
	if p.Far != nil {
		out += fmt.Sprintf(" At the other end: %s.", p.Far.Name)
	}
	return out
}
