package record

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"slices"
	"time"

	"idlehiss/core/circuit"
	"idlehiss/core/judge"
	"idlehiss/core/quantity"
	"idlehiss/core/steps"
	"idlehiss/core/terms"
	"idlehiss/desk"
	"idlehiss/jobs"
	"idlehiss/kit"
	"idlehiss/logbook"
	"idlehiss/snapshot"
	"idlehiss/trail"
)

// MachineView is what is known of a machine over its jobs.
type MachineView struct {
	Name    string        `json:"name"`
	Parties trail.Parties `json:"parties"`
	Visits  []Visit       `json:"visits"` // latest first
	Marks   []Known       `json:"marks"`
	Fitted  []Known       `json:"fitted"`
	Losses  []LossAt      `json:"losses"`  // of called holds, first to last
	Charges []ChargeView  `json:"charges"` // of gas, by step
	Earlier bool          `json:"earlier"` // there are jobs before these
	TopUps  TopUpsView    `json:"top_ups"`
	Set     SetView       `json:"set"`
	Due     []DueAt       `json:"due"` // what is to be looked at again, soonest first
}

// DueAt is a look that waits, of one of the machine's jobs.
type DueAt struct {
	trail.Reminder
	JobID string `json:"job_id"`
}

// Visit is one job of a machine.
type Visit struct {
	BookRow
	Circuit   string `json:"circuit"`
	CircuitID string `json:"circuit_id"`
	Latest    bool   `json:"latest"` // of its circuit: what is tested again
	Things    bool   `json:"things"` // it goes round several by name
}

// Known is something that stands on one of its sheets.
type Known struct {
	JobID   string       `json:"job_id"`
	At      time.Time    `json:"at"`
	Circuit string       `json:"circuit"`
	Says    string       `json:"says"`
	Source  terms.Source `json:"source"`
}

// LossAt is what a hold lost, kPa/min.
type LossAt struct {
	JobID  string     `json:"job_id"`
	At     time.Time  `json:"at"`
	Series string     `json:"series"` // circuit and step: holds that are like each other
	Title  string     `json:"title"`
	Value  float64    `json:"value"`
	Low    float64    `json:"low"`
	High   float64    `json:"high"`
	Ring   terms.Ring `json:"ring"`
}

// ChargeView is a gas charge over the services.
type ChargeView struct {
	Title string     `json:"title"`
	Reads []ChargeAt `json:"reads"` // first to last
	Says  string     `json:"says"`
}

// ChargeAt is what was found at one service, bar at 20 °C.
type ChargeAt struct {
	JobID string    `json:"job_id"`
	At    time.Time `json:"at"`
	Bar   float64   `json:"bar"`
}

// mostVisits is as many jobs of a machine as its page shows.
const mostVisits = 60

// Machine is the page of a machine.
func (r *Room) Machine(ctx context.Context, name string) (MachineView, error) {
	v := MachineView{Name: name, Visits: []Visit{}, Marks: []Known{}, Fitted: []Known{}, Losses: []LossAt{}, Charges: []ChargeView{}, Due: []DueAt{}}
	book := r.desk.Book
	m, err := r.machine(ctx, name)
	if err != nil {
		return v, err
	}
	all, err := book.JobsOf(ctx, m.ID, mostVisits+1)
	if err != nil {
		return v, err
	}
	v.Name, v.Earlier = m.Name, len(all) > mostVisits
	by, ids, had := map[string]visited{}, []string{}, map[string]bool{}
	for _, j := range all[:min(len(all), mostVisits)] {
		basis, err := snapshot.Of(ctx, book, j, nil)
		if err != nil {
			return v, err
		}
		c := &basis.Snapshot.Circuit
		by[j.ID], ids = visited{j, c, basis.Things}, append(ids, j.ID)
		v.Visits = append(v.Visits, Visit{BookRow: bookRow(j), Circuit: c.Title, CircuitID: c.ID, Latest: !had[c.ID], Things: c.Things != ""})
		had[c.ID] = true
	}
	facts := func(about terms.Subject) logbook.Facts {
		some, e := book.FactsOn(ctx, about, ids...)
		err = errors.Join(err, e)
		latestFirst(some)
		return some
	}
	v.Parties = trail.PartiesIn(facts(terms.AboutParties))
	marks, fitted, found := facts(terms.AboutMark), facts(terms.AboutFitted), facts(terms.AboutFound)
	if err != nil {
		return v, err
	}
	shelf, err := r.kit.Shelf(ctx)
	if err != nil {
		return v, err
	}
	v.Marks = latestOf(marks, by, func(f logbook.Fact) string { return f.Sentence })
	v.Fitted = latestOf(fitted, by, func(f logbook.Fact) string {
		var kept trail.Fitted
		if json.Unmarshal(f.Value, &kept) != nil {
			return "" // of an earlier version
		}
		return kit.Called(shelf.Picked(kept.Pieces), kept.Text)
	})
	v.Charges = r.charges(found, by)
	v.TopUps = topUps(facts(terms.AboutAdded))
	for _, f := range facts(terms.AboutReminder) {
		if by[f.JobID].State == terms.Open && f.SupersededBy == "" {
			for _, x := range trail.Reminders(logbook.Facts{f}, r.desk.Clock.Now()) {
				v.Due = append(v.Due, DueAt{x, f.JobID})
			}
		}
	}
	slices.SortFunc(v.Due, func(a, b DueAt) int { return a.DueAt.Compare(b.DueAt) })
	if err != nil {
		return v, err
	}
	if v.Losses, err = r.losses(ctx, ids, by); err != nil {
		return v, err
	}
	var visits []visited
	for _, id := range ids {
		visits = append(visits, by[id])
	}
	v.Set, err = r.set(ctx, m, visits)
	return v, err
}

// latestOf is the latest of each circuit of facts that come latest first, where there is something to say.
func latestOf(facts logbook.Facts, by map[string]visited, says func(logbook.Fact) string) []Known {
	out, had := []Known{}, map[string]bool{}
	for _, f := range facts {
		c := by[f.JobID].circuit
		if text := says(f); f.SupersededBy == "" && !had[c.ID] && text != "" {
			had[c.ID] = true
			out = append(out, Known{f.JobID, f.At, c.Title, text, f.Source})
		}
	}
	return out
}

// losses are what the machine's called holds lost, in order of time. No trace is read for it.
func (r *Room) losses(ctx context.Context, ids []string, by map[string]visited) ([]LossAt, error) {
	out := []LossAt{}
	rows, err := r.desk.Book.HoldsOf(ctx, ids...)
	if err != nil {
		return out, err
	}
	var held []string
	for _, h := range rows {
		if h.Purpose != terms.RigProof {
			held = append(held, h.ID)
		}
	}
	calls, err := r.desk.Book.LastCalls(ctx, held...)
	if err != nil {
		return out, err
	}
	last := logbook.ByHold(calls)
	for _, h := range rows {
		var rig struct{ Step string }
		var r judge.Report
		if len(last[h.ID]) == 0 || json.Unmarshal(h.Rig, &rig) != nil || json.Unmarshal(last[h.ID][0].Report, &r) != nil || r.RateKPaPerMin == nil {
			continue // nothing of it can be drawn
		}
		c := by[h.JobID].circuit
		step, _ := c.Test(rig.Step)
		title := c.Title
		if len(c.Tests()) > 1 {
			title = step.Title
		}
		i := r.RateKPaPerMin
		out = append(out, LossAt{h.JobID, h.At, c.ID + " " + step.ID, title, i.Value, i.Low, i.High, steps.RingOf(&r)})
	}
	slices.SortStableFunc(out, func(a, b LossAt) int { return a.At.Compare(b.At) })
	return out, nil
}

const secondsADay = 24 * 60 * 60

// charges are the gas charges that were found, with what they lose. found comes latest first.
func (r *Room) charges(found logbook.Facts, by map[string]visited) []ChargeView {
	out, reads, at := []ChargeView{}, map[string][]steps.ChargeRead{}, map[string]int{}
	for _, f := range slices.Backward(found) {
		c := by[f.JobID].circuit
		step, ok := c.Test(f.About)
		var e steps.Entry
		if f.SupersededBy != "" || !ok || step.Kind != circuit.Charge || json.Unmarshal(f.Value, &e) != nil {
			continue
		}
		r, ok := steps.ReadCharge(step, c, e, r.desk.AmbientPa, float64(f.At.Unix())/secondsADay)
		if !ok {
			continue
		}
		key := c.ID + " " + step.ID
		if _, had := at[key]; !had {
			at[key] = len(out)
			out = append(out, ChargeView{Title: step.Title, Reads: []ChargeAt{}})
		}
		reads[key] = append(reads[key], r)
		v := &out[at[key]]
		v.Reads = append(v.Reads, ChargeAt{f.JobID, f.At, math.Round(r.FoundPa/1e3) / 100})
		v.Says = chargeSays(reads[key])
	}
	return out
}

// chargeSays is what a gas charge lost over its services, and in which month it will be too low.
func chargeSays(reads []steps.ChargeRead) string {
	t, ok := steps.TrendOf(reads)
	bar := func(pa float64) string { return quantity.Significant(pa/1e5, 2) }
	month := func(day float64) string { return time.Unix(int64(day*secondsADay), 0).Local().Format("January 2006") }
	switch {
	case !ok:
		return "One reading since it was charged: the next shows what it loses."
	case t.Low <= 0:
		return fmt.Sprintf("No sure loss over %d readings: under %s bar a month at 20 °C.", t.Reads, bar(math.Max(t.High, 0)))
	case t.TooLowDay == nil:
		return fmt.Sprintf("It loses %s bar a month at 20 °C (%s to %s) and is too low now.", bar(t.PaPerMonth), bar(t.Low), bar(t.High))
	}
	return fmt.Sprintf("It loses %s bar a month at 20 °C (%s to %s). At that rate it is too low in %s (%s to %s).", bar(t.PaPerMonth), bar(t.Low), bar(t.High), month(*t.TooLowDay), month(*t.Earliest), month(*t.Latest))
}

// Again begins a job like another on the same machine, with everything that is known: circuit and options, mark, schools,
// what fitted, and the plan of each step where its kit is still there.
func (r *Room) Again(ctx context.Context, jobID string, w desk.Write) (desk.Receipt, error) {
	book := r.desk.Book
	j, err := book.Job(ctx, jobID)
	if err != nil {
		return desk.Receipt{}, desk.Sought(err)
	}
	facts, err := book.Facts(ctx, jobID)
	if err != nil {
		return desk.Receipt{}, err
	}
	basis, err := snapshot.Of(ctx, book, j, facts)
	if err != nil {
		return desk.Receipt{}, err
	}
	in := jobs.StartJob{Write: w, Machine: j.Machine, Circuit: basis.Circuit.ID, Options: basis.Fitted, Things: basis.Things}
	if f, ok := facts.Standing(terms.AboutMark, ""); ok {
		var kept struct{ Text string }
		if json.Unmarshal(f.Value, &kept) == nil {
			in.Mark = kept.Text
		}
	}
	begun, err := r.jobs.Begin(ctx, in)
	if err != nil {
		return begun, err
	}
	n := 0
	next := func() desk.Write { n++; x := w; x.ID = fmt.Sprintf("again-%d-%s", n, begun.Of); return x }
	// What is not to be had any more, or is no longer allowed, is chosen on the sheet.
	for _, f := range facts.On(terms.AboutSchool) {
		var school string
		if json.Unmarshal(f.Value, &school) == nil {
			_, err = r.jobs.ChooseSchool(ctx, begun.Of, jobs.ChooseSchool{Write: next(), Matter: f.About, School: school})
		}
		if err = unlessRefused(err); err != nil {
			return begun, err
		}
	}
	if f, ok := facts.Standing(terms.AboutFitted, ""); ok {
		var kept trail.Fitted
		if json.Unmarshal(f.Value, &kept) == nil && (len(kept.Pieces) > 0 || kept.Text != "" || kept.Neck != "") {
			_, err = r.jobs.RigFitted(ctx, begun.Of, jobs.RigFitted{Write: next(), Pieces: kept.Pieces, Text: kept.Text, Neck: kept.Neck})
		}
		if err = unlessRefused(err); err != nil {
			return begun, err
		}
	}
	for _, f := range facts.On(terms.AboutTarget) {
		var p jobs.Plan
		if json.Unmarshal(f.Value, &p) == nil && p.Reason == "" { // beyond a limit it is decided each time
			p.Write, p.Step = next(), f.About
			_, err = r.jobs.SetPlan(ctx, begun.Of, p)
		}
		if err = unlessRefused(err); err != nil {
			return begun, err
		}
	}
	return begun, nil
}

// unlessRefused is an error that is no refusal.
func unlessRefused(err error) error {
	var r *desk.Refusal
	if errors.As(err, &r) {
		return nil
	}
	return err
}
