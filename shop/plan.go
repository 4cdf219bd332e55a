package shop

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math"
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
	Step          string `json:"step,omitempty" doc:"of the circuit; absent: its first hold"`
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
		if !sn.Circuit.Marked() {
			return refuse("text", "%s is limited by no mark: its steps say how far", sn.Circuit.Title)
		}
		return s.addMark(tx, st, "mark-"+st.ID, jobID, &sn.Circuit, in.Text, in.Reading)
	})
}

// DecodeMark reads a mark without keeping it.
func (s *Shop) DecodeMark(text, circuitID string) (MarkView, error) {
	c, err := s.circuitNamed(circuitID)
	if err != nil {
		return MarkView{}, err
	}
	if !c.Marked() {
		return MarkView{}, refuse("text", "%s is limited by no mark: its steps say how far", c.Title)
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
		step, ok := sn.Circuit.Test(in.Step)
		if !ok {
			return refuse("step", "%s has no step %q", sn.Circuit.Title, in.Step)
		}
		p, err := s.plan(ctx, sn, step, facts, &in)
		if err != nil {
			return err
		}
		if p == nil {
			return conflict("the mark on the %s comes first", sn.Circuit.Mark.On)
		}
		source := "mark"
		switch {
		case p.Target.School == "typed":
			source = "typed"
		case len(step.Targets) > 0:
			source = "school"
		}
		of := of(&sn.Circuit, step)
		used := errors.Join(tx.SetSetting("last gauge", p.Gauge.ID), tx.SetSetting("last pump", p.Pump.ID))
		if len(sn.Circuit.Tests()) > 1 {
			says := fmt.Sprintf("%s: %s %s Read on %s.", step.Title, lower(p.Target.Says), p.Allowance.Says, p.Gauge.Name)
			return errors.Join(used, fact(tx, st, "target-"+st.ID, jobID, "target"+of, stageOf(&sn.Circuit, step), source, says, in))
		}
		return errors.Join(used,
			fact(tx, st, "target-"+st.ID, jobID, "target"+of, stageOf(&sn.Circuit, step), source, p.Target.Says, in),
			fact(tx, st, "gauge-"+st.ID, jobID, "gauge"+of, stageOf(&sn.Circuit, step), "typed", p.readOn(), p.Gauge),
			fact(tx, st, "allowance-"+st.ID, jobID, "allowance"+of, stageOf(&sn.Circuit, step), "typed", p.Allowance.Says, p.Wanted))
	})
}

// of sets a fact's subject apart where it is of another step than the first hold.
func of(c *circuit.Circuit, s circuit.Step) string {
	if first, _ := c.Test(""); first.ID == s.ID {
		return ""
	}
	return "/" + s.ID
}

// stageOf is the stage at which a step's plan is made.
func stageOf(c *circuit.Circuit, s circuit.Step) string {
	if len(c.Tests()) == 1 {
		return "limit"
	}
	return "step-" + s.ID
}

// aims tells whether a step is done at some pressure.
func aims(c *circuit.Circuit, s circuit.Step) bool {
	return s.Kind == circuit.Hold || len(s.Targets) > 0 || s.Kind == circuit.Floor && c.Marked()
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

// markOf is the mark as it was decoded; nil while it is not known, or where the
// circuit has none.
func markOf(sn snapshot, facts []logbook.Fact) (m *quantity.Mark, chosen int, err error) {
	f, ok := standing(facts, "mark")
	if !ok || !sn.Circuit.Marked() {
		return nil, 0, nil
	}
	var kept markFact
	if err := json.Unmarshal(f.Value, &kept); err != nil {
		return nil, 0, err
	}
	got, err := quantity.DecodeMark(kept.Text, sn.Circuit.Plausible())
	if err != nil {
		return nil, 0, err
	}
	return &got, min(kept.Reading, len(got.Readings)-1), nil
}

// planOf is the plan as it stands: what was chosen, or the defaults. Nil while
// the mark is not known.
func (s *Shop) planOf(ctx context.Context, j logbook.Job, sn snapshot, step circuit.Step) (*PlanView, error) {
	facts, err := s.book.Facts(ctx, j.ID)
	if err != nil {
		return nil, err
	}
	return s.plan(ctx, sn, step, facts, nil)
}

// byDefault is what a step is planned by until something else is chosen.
func byDefault(step circuit.Step, schools []judge.School) *Plan {
	in := &Plan{Step: step.ID, School: "exactly", Allowance: step.Allow}
	if len(step.Targets) > 0 {
		in.School = step.Targets[0].ID
	}
	switch {
	case step.Allow == "":
		in.Allowance = "house"
	case step.Allow != "house" && !slices.ContainsFunc(schools, func(h judge.School) bool { return h.ID == step.Allow }):
		in.Allowance, in.AllowanceText = "typed", step.Allow
	}
	return in
}

// plan works a step's plan out. in overrules what the facts say.
func (s *Shop) plan(ctx context.Context, sn snapshot, step circuit.Step, facts []logbook.Fact, in *Plan) (*PlanView, error) {
	m, chosen, err := markOf(sn, facts)
	if err != nil || m == nil && sn.Circuit.Marked() {
		return nil, err
	}
	var r *quantity.Reading
	if m != nil {
		r = &m.Readings[chosen]
	}
	if in == nil {
		in = byDefault(step, sn.Hold)
		if f, ok := standing(facts, "target"+of(&sn.Circuit, step)); ok {
			if err := json.Unmarshal(f.Value, in); err != nil {
				return nil, err
			}
		}
	}
	kit, err := s.pickGauge(ctx, in, about(step, r))
	if err != nil {
		return nil, err
	}
	pump, err := s.pickPump(ctx, in.Pump, sn.Circuit.Room(step), about(step, r))
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
	parts := runsheet.StepLimits(&sn.Circuit, step)
	rated := func(of string, pa float64) {
		if pa > 0 && !step.Draws() {
			parts = append(parts, runsheet.Limit{Of: of, Pa: pa, CeilingPa: pa, Source: "kit"})
		}
	}
	rated("gauge", g.RatingPa)
	if far != nil {
		rated("far gauge", far.RatingPa)
	}
	on, _, err := s.onRig(ctx, facts)
	if err != nil {
		return nil, err
	}
	for _, l := range ratings(on) {
		rated(l.Of, l.Pa)
	}
	limits := parts
	if r != nil && len(step.Targets) == 0 {
		limits = append([]runsheet.Limit{runsheet.MarkLimit(*r, sn.Circuit.Mark.On)}, parts...)
	}
	target, schools, err := s.aim(sn, step, in, r, parts, limits, g)
	if err != nil {
		return nil, err
	}
	_, unit := g.Ring()
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
	allow = bySheet(allow, wanted, step)
	div := g.DivisionPa()
	// Whether the gauge can see the allowance: the house's is looked at with the
	// air such a loop usually traps; "nothing" is by its nature what it can see.
	asked, over := allow.PaPerS, allow.HoldS
	if wanted.From == "house" {
		if target.Pa > 0 {
			h := runsheet.House(sn.Circuit.Room(step), target.Pa, s.ambient)
			asked, over = h.PaPerS, h.HoldS
		}
	} else if i := slices.IndexFunc(sn.Hold, func(h judge.School) bool { return h.ID == wanted.From && h.AllowedPa == 0 }); i >= 0 {
		asked = 0
	}
	// The mark's own limit gives way to the parts' under the margin school.
	view := PlanView{Step: step.ID, Draws: step.Draws(), Limits: limits, Weakest: target.Weakest, Target: target, Shown: Show(target.Pa, div, unit),
		Schools: schools, Gauge: g, Fit: g.Fit(target.Pa, asked, over), Allowance: allow, Holding: sn.Hold, Wanted: wanted, Typed: in.Typed, Reason: in.Reason, Pump: pump, kit: kit, farKit: far}
	if m != nil {
		v := markView(*m)
		view.Mark, view.Chosen = &v, chosen
	}
	if far != nil {
		view.Far = &far.Gauge
	}
	return &view, nil
}

// aim finds the target, and the schools it may be taken from.
func (s *Shop) aim(sn snapshot, step circuit.Step, in *Plan, mark *quantity.Reading, parts, limits []runsheet.Limit, g runsheet.Gauge) (t runsheet.Target, schools []runsheet.TargetSchool, err error) {
	if schools = runsheet.StepSchools(step); len(schools) == 0 {
		schools = runsheet.Offered(sn.Target, *mark, parts)
	}
	_, unit := g.Ring()
	if in.School == "typed" {
		v, err := quantity.Parse(in.Typed, quantity.Pressure, unit, s.ambient)
		if err != nil {
			return t, nil, refuse("typed", "%v", err)
		}
		if len(limits) == 0 {
			return t, nil, refuse("typed", "no pressure limit of %s is known: choose one of its targets", lower(step.Title))
		}
		if t, err = runsheet.Typed(v.Mid(), limits, strings.TrimSpace(in.Reason)); err != nil {
			return t, nil, refuse("typed", "%v", err)
		}
		return t, schools, nil
	}
	for _, x := range step.Targets {
		if x.ID != in.School {
			continue
		}
		if t, err = runsheet.AimStep(x, mark, limits, g); err != nil {
			err = refuse("school", "%v", err)
		}
		return t, schools, err
	}
	i := slices.IndexFunc(sn.Target, func(t runsheet.TargetSchool) bool { return t.ID == in.School })
	if i < 0 || len(step.Targets) > 0 {
		return t, nil, refuse("school", "there is no school of target %q for %s", in.School, lower(step.Title))
	}
	if t, err = runsheet.Aim(sn.Target[i], *mark, sn.Circuit.Mark.On, parts, g); err != nil {
		return t, nil, refuse("school", "%v", err)
	}
	return t, schools, nil
}

// about is roughly the pressure of a step, for the choice of gauge and pump; 0 where
// nothing tells it yet.
func about(step circuit.Step, mark *quantity.Reading) float64 {
	if len(step.Targets) > 0 && step.Targets[0].OverMark == 0 {
		return float64(step.Targets[0].At)
	}
	if mark == nil {
		return 0
	}
	if len(step.Targets) > 0 {
		return mark.HighPa + float64(step.Targets[0].OverMark)
	}
	return mark.LowPa
}

// A pump wants so many strokes to get there: fewer tell nothing of the air, more
// tire. Between the two bounds the one last used stays.
const (
	fewStrokes  = 4.0
	goodStrokes = 20.0
	manyStrokes = 120.0
)

// pickPump finds the pump asked for, else the one last used where it suits a room
// (m³) and a pressure, else the one that suits best.
func (s *Shop) pickPump(ctx context.Context, id string, room, atPa float64) (Pump, error) {
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
	strokes := func(p Pump) float64 { return room * math.Abs(atPa) / s.ambient / p.StrokeM3 }
	if i := slices.IndexFunc(all, func(p Pump) bool { return p.ID == last }); i >= 0 {
		if n := strokes(all[i]); n == 0 || n > fewStrokes && n < manyStrokes {
			return all[i], nil
		}
	}
	best := all[0] // the last one in use cannot be retired
	if strokes(best) == 0 {
		return best, nil
	}
	for _, p := range all {
		if math.Abs(math.Log(strokes(p)/goodStrokes)) < math.Abs(math.Log(strokes(best)/goodStrokes)) {
			best = p
		}
	}
	return best, nil
}

// pickGauge finds the gauge asked for, else the one last used, else the first: of
// those that can be read at the pressure of the step, where it is told.
func (s *Shop) pickGauge(ctx context.Context, in *Plan, atPa float64) (KitGauge, error) {
	if in.Gauge != "" {
		g, err := s.gauge(ctx, in.Gauge)
		if err == nil && in.Ring < len(g.Rings) {
			g.Read = in.Ring
		}
		return g, err
	}
	last, err := s.book.Setting(ctx, "last gauge")
	if err != nil {
		return KitGauge{}, err
	}
	all, err := s.Gauges(ctx)
	if err != nil {
		return KitGauge{}, err
	}
	slices.SortStableFunc(all, func(a, b KitGauge) int {
		rank := func(g KitGauge) int {
			switch {
			case g.ID == last:
				return 0
			case g.StandIn != nil:
				return 2 // nobody measures with it by chance
			}
			return 1
		}
		return rank(a) - rank(b)
	})
	for _, g := range all {
		for i := range g.Rings {
			face := g
			if i > 0 || atPa != 0 && !readable(face.Gauge, atPa) {
				face.Read = i
			}
			if atPa == 0 || readable(face.Gauge, atPa) {
				return face, nil
			}
		}
	}
	return all[0], nil // the last one in use cannot be retired; the plan says that it does not fit
}

// bySheet says of an allowance that stands on the sheet that nobody typed it.
func bySheet(a runsheet.Allowance, w wantedAllowance, step circuit.Step) runsheet.Allowance {
	if w.From == "typed" && w.Text == step.Allow {
		a.Says = strings.Replace(a.Says, "As typed", "By the sheet", 1)
	}
	return a
}

// readable tells whether a pressure stands well on the ring that is read.
func readable(g runsheet.Gauge, pa float64) bool {
	r, u := g.Ring()
	low, high := u.SI(r.From), u.SI(r.To)
	return pa <= high && pa >= low && math.Abs(pa) >= 5*u.SI(r.Division) && (g.RatingPa == 0 || pa <= g.RatingPa)
}

// readOn says which gauges are read.
func (p *PlanView) readOn() string {
	out := fmt.Sprintf("Read on %s, the %s ring. %s", p.Gauge.Name, p.Gauge.Rings[p.Gauge.Read].Unit, strings.Join(p.Fit.Says, " "))
	if p.Far != nil {
		out += fmt.Sprintf(" At the other end: %s.", p.Far.Name)
	}
	return out
}
