package shop

import (
	"cmp"
	"context"
	"fmt"
	"io"
	"math"
	"slices"
	"strings"
	"time"

	"idlehiss/core/judge"
	"idlehiss/core/quantity"
	"idlehiss/core/steps"
	"idlehiss/core/terms"
	"idlehiss/desk"
	"idlehiss/holds"
	"idlehiss/jobs"
	"idlehiss/sheets"
	"idlehiss/trail"
)

// PaperWanted is how a job's paper is wanted, on the page and on the command line.
type PaperWanted struct {
	Slip bool   `help:"Of the paper only what the customer needs."`
	Unit string `help:"Pressures on the paper in this unit, such as psi; absent: as they were read." placeholder:"UNIT"`
	Size string `help:"Size of the paper: A4 or letter; absent: the printer's." placeholder:"SIZE"`
}

// paperSizes are those a paper can be made for, as styles name them.
var paperSizes = []string{"", "A4", "letter"}

// Paper writes a job's sheet as a page that prints.
func (s *Shop) Paper(ctx context.Context, w io.Writer, jobID string, want PaperWanted) error {
	if !slices.Contains(paperSizes, want.Size) {
		return desk.Refuse("size", "there is no paper %q here: choose A4 or letter", want.Size)
	}
	var unit *quantity.Unit
	if want.Unit != "" {
		u, err := quantity.Named(want.Unit, quantity.Pressure)
		if err != nil {
			return desk.Refuse("unit", "%v", err)
		}
		unit = &u
	}
	j, err := s.Jobs.JobIn(ctx, jobID, unit)
	if err != nil {
		return err
	}
	head, err := s.Head(ctx)
	if err != nil {
		return err
	}
	p := sheets.Sheet{Slip: want.Slip, Size: want.Size, Head: sheets.Head{Name: cmp.Or(head.Name, "Idle Hiss"), Lines: head.Lines, Standing: head.Standing, Always: j.Standing},
		Number: numberOf(j), Rows: rowsOf(j), Machine: j.Machine, Ring: string(j.Ring), Verdict: j.Folded, Simulated: j.Simulated, NotTested: j.NotTested}
	if len(j.Call.Seen) > 0 && j.Call.Beyond != "" { // what is not tested past it stands with the rest of that
		p.Verdict = "Leaking, seen: " + quantity.Lower(strings.Join(j.Call.Seen, ", ")) + "."
		p.NotTested = append([]string{j.Call.Beyond}, p.NotTested...)
	}
	whole := map[string]holds.HoldView{}
	for _, h := range j.Holds {
		full, err := s.Holds.Hold(ctx, h.ID)
		if err != nil { // its own line says why it cannot be drawn
			full = h
		}
		whole[h.ID] = inUnit(full, unit)
	}
	for _, st := range j.Steps {
		if st.Plan != nil && st.Plan.Target.Over {
			p.Overrides = append(p.Overrides, st.Plan.Target.Says)
		}
	}
	if len(j.Steps) > 1 {
		var open []string
		for _, st := range j.Steps {
			test := paperStep(st)
			if p.Rest.Steps = append(p.Rest.Steps, test); st.Outcome.Verdict == steps.Unknown && len(test.Read) == 0 {
				open = append(open, quantity.Lower(st.Title))
				continue
			}
			p.Tests = append(p.Tests, test)
		}
		if len(open) > 0 {
			p.NotTested = append([]string{"Not done: " + strings.Join(open, "; ") + "."}, p.NotTested...)
		}
	}
	if p.Mend = mendOf(j, whole); p.Mend != nil {
		before := whole[j.Mend.Proof.Before].Report
		if p.Verdict = p.Mend.Says; p.Mend.Proved && before != nil && steps.RingOf(before) == terms.RingCut {
			p.Verdict = "It leaked, was mended, and is tight in the same test."
		}
	}
	if last := lastTest(j.Holds); last != nil {
		h := whole[last.ID]
		p.Did = didOf(j, h)
		if len(j.Steps) == 1 {
			p.Figures = figures(h, j.Escape)
		}
		if len(j.Steps) == 1 && (p.Mend == nil || p.Mend.Chart == "") {
			p.Chart = chartOf(h).SVG()
		}
	}
	if err := s.found(ctx, j, &p); err != nil {
		return err
	}
	if p.Mend == nil && p.Part != "" && j.State != terms.Open {
		p.Next = append(p.Next, "Mend "+quantity.Lower(p.Part)+", then hold it again in the same way.")
	}
	for _, r := range j.Reminders {
		p.Next = append(p.Next, fmt.Sprintf("Look again on %s: %s.", day(r.DueAt), strings.TrimSuffix(r.Text, ".")))
	}
	if want.Slip {
		if p.Did = p.Did[:min(len(p.Did), mostDidOnSlip)]; len(j.Steps) > 1 {
			p.Did = didEach(j, whole)
		}
	} else if err := s.rest(ctx, j, whole, &p.Rest); err != nil {
		return err
	}
	return sheets.Write(w, p)
}

// mostDidOnSlip is how much of how it was tested a customer is told: to which pressure, and for how long.
const mostDidOnSlip = 2

func day(t time.Time) string { return t.Local().Format("2 January 2006, 15:04") }

// numberOf is a short number for people: the end of the job's id.
func numberOf(j jobs.JobView) string {
	const letters = 6
	return "no. " + strings.ToUpper(j.ID[max(0, len(j.ID)-letters):])
}

// rowsOf are what stands at the head of a sheet, without what nobody entered.
func rowsOf(j jobs.JobView) []sheets.Row {
	when := day(j.At)
	if end := j.EndedAt; end != nil {
		until := day(*end)
		if today := j.At.Local().Format("2 January 2006, "); strings.HasPrefix(until, today) {
			until = strings.TrimPrefix(until, today)
		}
		when += " to " + until
	}
	x := j.Parties
	all := []sheets.Row{{Label: "Customer", Text: strings.Trim(x.Owner+", "+x.Contact, ", ")}, {Label: "Machine", Text: j.Machine}, {Label: "Plate, serial no.", Text: x.Plate}, {Label: "Meter", Text: x.Meter},
		{Label: "Complaint", Text: j.Complaint}, {Label: "Tested", Text: j.Circuit}, {Label: "When", Text: fmt.Sprintf("%s, %s", when, j.State)}, {Label: "By", Text: j.By}}
	return slices.DeleteFunc(all, func(r sheets.Row) bool { return r.Text == "" })
}

// lastTest is the last hold that is no proof of the rig; nil where nothing was held.
func lastTest(all []holds.HoldView) *holds.HoldView {
	for i := range slices.Backward(all) {
		if all[i].Purpose != terms.RigProof {
			return &all[i]
		}
	}
	return nil
}

// found adds where it leaked, with the photo of that part, or else the first.
func (s *Shop) found(ctx context.Context, j jobs.JobView, p *sheets.Sheet) error {
	p.Part = cmp.Or(j.Found, strings.Join(j.Call.Seen, ", "))
	for _, x := range j.Suspects {
		for _, o := range x.Seen {
			if o.Seen && o.Class == terms.Fault && o.Note != "" {
				p.Seen = append(p.Seen, o.Note)
			}
		}
	}
	at := slices.IndexFunc(j.Photos, func(x trail.PhotoView) bool {
		return slices.ContainsFunc(j.Suspects, func(part trail.SuspectView) bool { return part.ID == x.Part && part.Faulty })
	})
	if at = max(at, 0); at >= len(j.Photos) || p.Part == "" {
		return nil
	}
	raw, err := s.Jobs.PhotoOf(ctx, j.Photos[at].ID)
	p.Photo = &sheets.Photo{Says: j.Photos[at].Says, JPEG: raw}
	return err
}

// mendOf is what was put right, with both holds on one chart where there are two.
func mendOf(j jobs.JobView, whole map[string]holds.HoldView) *sheets.Mend {
	x := j.Mend.Proof
	if x.State == terms.NotMended {
		return nil
	}
	m := &sheets.Mend{Done: j.Mend.Done, Proved: x.State == terms.Proved, Says: x.Says, Lost: x.Lost, Loses: x.Loses, Sure: x.Sure, Unlike: x.Unlike}
	if x.Before != "" && x.After != "" {
		m.Chart = sheets.Fall(chartOf(whole[x.Before]), chartOf(whole[x.After]))
	}
	return m
}

// rest is what follows the first page.
func (s *Shop) rest(ctx context.Context, j jobs.JobView, whole map[string]holds.HoldView, out *sheets.Rest) error {
	if len(j.Steps) > 1 {
		out.Schools, out.Untested = schoolsOf(j), j.Call.Untested
	}
	for _, f := range j.Facts {
		if f.Subject != terms.AboutTick && f.Subject != terms.AboutLook {
			out.Facts = append(out.Facts, sheets.Fact{Sentence: f.Sentence, Source: string(f.Source), Superseded: f.Superseded})
		}
	}
	if j.Explains != "" {
		out.Facts = append(out.Facts, sheets.Fact{Sentence: j.Explains, Source: string(terms.FromFit)})
	}
	for _, st := range j.Stages {
		for _, t := range st.Ticks {
			out.Ticks = append(out.Ticks, sheets.Tick{Text: t.Text, On: t.Ticked})
		}
		for _, c := range st.Cautions {
			out.Cautions = append(out.Cautions, c.Text)
		}
	}
	for _, x := range j.Suspects {
		for _, o := range x.Seen {
			out.Looks = append(out.Looks, sheets.Look{Part: x.Title, Seen: o.Says, By: o.By})
		}
	}
	for _, x := range j.Photos {
		raw, err := s.Jobs.PhotoOf(ctx, x.ID)
		if err != nil {
			return err
		}
		out.Photos = append(out.Photos, sheets.Photo{Says: x.Says, JPEG: raw})
	}
	for _, h := range j.Holds {
		hold := paperHold(whole[h.ID])
		if len(j.Steps) > 1 {
			if i := slices.IndexFunc(j.Steps, func(st jobs.StepView) bool { return st.ID == h.Test }); i >= 0 && h.Purpose != terms.RigProof {
				hold.Title = j.Steps[i].Title + ", " + quantity.Lower(hold.Title)
			}
		}
		out.Holds = append(out.Holds, hold)
	}
	if !j.Bores {
		return nil
	}
	v, err := s.Jobs.Passages(ctx, j.ID)
	if err == nil {
		out.Bores = paperBores(v)
	}
	return err
}

// figures are the sizes of a leak, in the unit of its hold.
func figures(h holds.HoldView, how terms.Escape) []sheets.Figure {
	var out []sheets.Figure
	r := h.Report
	if r == nil {
		return out
	}
	_, u := h.Gauge.Ring()
	if h.Unit != u.Symbol {
		u = quantity.MustNamed(h.Unit, quantity.Pressure)
	}
	const sure = ", 95 in 100"
	if i := r.RateKPaPerMin; i != nil {
		const paPerS = 1e3 / 60
		if i.Low <= 0 {
			out = append(out, sheets.Figure{Label: "Loss", Value: "under " + u.Rate(math.Max(i.High, 0)*paPerS, 2), Range: "97 in 100"})
		} else {
			value, between, _ := strings.Cut(u.RateBetween(i.Value*paPerS, i.Low*paPerS, i.High*paPerS, 2), " (")
			out = append(out, sheets.Figure{Label: "Loss", Value: value, Range: strings.TrimSuffix(between, ")") + sure})
		}
	}
	add := func(label, unit string, i *judge.Interval) {
		switch f := func(v float64) string { return quantity.Significant(v, 2) }; {
		case i == nil:
		case i.Low <= 0: // nothing is surely lost
			out = append(out, sheets.Figure{Label: label, Value: "under " + f(math.Max(i.High, 0)) + " " + unit, Range: "97 in 100"})
		default:
			out = append(out, sheets.Figure{Label: label, Value: f(i.Value) + " " + unit, Range: f(i.Low) + " to " + f(i.High) + sure})
		}
	}
	if how != terms.Dripped {
		add("As hot coolant, if it hisses", "mL an hour", r.LossMLPerH)
	}
	if how != terms.Hissed {
		add("As hot coolant, if it drips", "mL an hour", r.WeepMLPerH)
	}
	add("Equivalent hole", "µm", r.HoleUm)
	return out
}

// inUnit is a hold in the unit in which a customer reads; nil: as it was read.
func inUnit(h holds.HoldView, u *quantity.Unit) holds.HoldView {
	if u == nil || u.Symbol == h.Unit {
		return h
	}
	if h.Report != nil {
		r := *h.Report
		r.Reasons = slices.Clone(r.Reasons)
		r.Word(*u)
		if says := steps.HoldSays(&r, *u); says != "" && h.Sentence != "" {
			h.Sentence = says
		}
		h.Report = &r
	}
	h.Unit, h.UnitPa = u.Symbol, u.Factor
	h.TargetText = shownIn(h.Target.Pa, *u)
	return h
}

// chartOf is a hold's trace as it is drawn.
func chartOf(h holds.HoldView) sheets.Chart {
	c := sheets.Chart{ShutS: h.IsolatedS, TargetPa: h.Target.Pa}
	c.Unit, _ = quantity.Named(h.Unit, quantity.Pressure) // of a gauge's ring, which was read when it was added
	for _, p := range h.Points {
		if p.Struck == "" && (h.EndedS == nil || p.AtS <= *h.EndedS) {
			c.T, c.Pa = append(c.T, p.AtS), append(c.Pa, p.Pa)
		}
	}
	for _, g := range h.Gaps {
		c.Gaps = append(c.Gaps, [2]float64{g.FromS, g.ToS})
	}
	return c
}

func paperHold(h holds.HoldView) sheets.Hold {
	out := sheets.Hold{Title: quantity.Capital(string(h.Purpose)), Sentence: h.Sentence, Chart: chartOf(h).SVG(),
		How: fmt.Sprintf("%s, target %s (%s). Allowed: %s", h.Gauge.Name, h.TargetText.Says(), h.TargetText.Other, h.Allowance.Says)}
	if h.Under != "" {
		out.Title += ", " + h.Under
	}
	if h.Unjudged != "" {
		out.Sentence = "Cannot be judged: " + h.Unjudged
	}
	if h.Report == nil {
		return out
	}
	out.Why = slices.Clone(h.Report.Why)
	if h.Purpose == terms.RigProof {
		out.Why = out.Why[:min(1, len(out.Why))]
		return out
	}
	if h.Report.Next != "" {
		out.Why = append(out.Why, h.Report.Next)
	}
	for _, s := range h.Report.Schools {
		if s.Verdict != judge.TooShort { // of those that hold longer there is nothing to say
			out.Schools = append(out.Schools, fmt.Sprintf("%s: %s (%s)", s.Title, s.Verdict, s.Saw))
		}
	}
	return out
}
