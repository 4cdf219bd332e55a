package shop

import (
	"context"
	"encoding/csv"
	"io"
	"strconv"
	"strings"
	"time"

	"idlehiss/catalogue"
	"idlehiss/core/judge"
	"idlehiss/core/quantity"
	"idlehiss/core/steps"
	"idlehiss/core/terms"
	"idlehiss/core/trace"
	"idlehiss/desk"
	"idlehiss/door"
	"idlehiss/holds"
	"idlehiss/jobs"
	"idlehiss/kit"
	"idlehiss/logbook"
)

// BenchView is what is under pressure now and what wants hands next.
type BenchView struct {
	Holds    []holds.HoldView       `json:"holds"`
	Next     []jobs.NextThing       `json:"next"`
	Kit      []kit.DueView          `json:"kit"` // what is due of it
	Circuits []catalogue.CircuitRow `json:"circuits"`
	Demo     bool                   `json:"demo"`
	Wrong    *door.WrongView        `json:"wrong_pins"` // lately
	Listed   int                    `json:"listed"`     // number of the last event that it has
}

// Bench is what is under pressure now and what wants hands next. Its holds are
// summaries: a page asks for the trace of each by itself.
func (s *Shop) Bench(ctx context.Context) (BenchView, error) {
	_, listed := s.bus.at() // before anything is read
	v := BenchView{Demo: s.demo, Listed: listed, Holds: s.Holds.RunningSummaries()}
	var err error
	if v.Circuits, err = s.Catalogue.Rows(); err != nil {
		return v, err
	}
	if v.Next, err = s.Jobs.Next(ctx, v.Holds); err != nil {
		return v, err
	}
	if v.Kit, err = s.Kit.Due(ctx); err != nil {
		return v, err
	}
	v.Wrong, err = s.Door.Wrong(ctx)
	return v, err
}

// BookRow is a job as the book lists it.
type BookRow struct {
	ID        string         `json:"id"`
	At        time.Time      `json:"at"`
	Machine   string         `json:"machine"`
	Complaint string         `json:"complaint"`
	State     terms.JobState `json:"state"`
	Call      string         `json:"call"`
	Ring      terms.Ring     `json:"ring"`
	LossMLH   *float64       `json:"loss_ml_per_h"`
	Found     string         `json:"found"`
	Owner     string         `json:"owner"`
	Mend      terms.Proof    `json:"mend"` // whether its repair was proved; empty: nothing was mended
	Simulated bool           `json:"simulated"`
}

// How many rows a search gives at once, and how many names are proposed.
const (
	rowsAtOnce = 50
	mostNames  = 8
)

// BookView is some of the jobs that were found, latest first.
type BookView struct {
	Rows []BookRow `json:"rows"`
	Next string    `json:"next" doc:"asks for those that follow; empty: these were the last"`
}

// mostOpen is as many open jobs as stand before all others.
const mostOpen = 200

// Book lists jobs found by plain words, latest first: the first of them, or those that follow. Without words the open ones
// come first.
func (s *Shop) Book(ctx context.Context, words, next string) (BookView, error) {
	v, before := BookView{Rows: []BookRow{}}, int64(logbook.Newest)
	if next != "" {
		var err error
		if before, err = strconv.ParseInt(next, 10, 64); err != nil {
			return v, desk.Refuse("next", "send what the answer before this one gave as next, or leave it out")
		}
	}
	open := map[string]bool{}
	if strings.TrimSpace(words) == "" {
		some, err := s.desk.Book.Search(ctx, logbook.Wanted{Open: true}, logbook.Newest, mostOpen)
		if err != nil {
			return v, err
		}
		for _, j := range some {
			if open[j.ID] = true; next == "" {
				v.Rows = append(v.Rows, bookRow(j))
			}
		}
	}
	full, more := len(v.Rows)+rowsAtOnce, true
	for more && len(v.Rows) < full {
		found, err := s.desk.Book.Search(ctx, logbook.Wanted{Words: words}, before, rowsAtOnce+1)
		if err != nil {
			return v, err
		}
		more = len(found) > rowsAtOnce
		for _, j := range found[:min(rowsAtOnce, len(found))] {
			if more = more || len(v.Rows) == full; len(v.Rows) == full {
				break
			}
			if before = j.Place; !open[j.ID] {
				v.Rows = append(v.Rows, bookRow(j))
			}
		}
	}
	if more {
		v.Next = strconv.FormatInt(before, 10)
	}
	return v, nil
}

// BookCSV writes all jobs that are found as a table, as Book has them. A cell that a table program would take for a
// formula is written as text.
func (s *Shop) BookCSV(ctx context.Context, w io.Writer, words string) error {
	out := csv.NewWriter(w)
	row := []string{"date", "machine", "customer", "complaint", "state", "call", "loss [mL/h]", "found", "mended", "simulated"}
	if err := out.Write(row); err != nil {
		return err
	}
	for next := ""; ; {
		v, err := s.Book(ctx, words, next)
		if err != nil {
			return err
		}
		for _, r := range v.Rows {
			loss := ""
			if r.LossMLH != nil {
				loss = quantity.Significant(*r.LossMLH, 3)
			}
			if err := out.Write([]string{r.At.Local().Format("2006-01-02 15:04"), trace.Cell(r.Machine), trace.Cell(r.Owner), trace.Cell(r.Complaint), string(r.State), r.Call, loss, trace.Cell(r.Found), string(r.Mend), strconv.FormatBool(r.Simulated)}); err != nil {
				return err
			}
		}
		if next = v.Next; next == "" {
			break
		}
	}
	out.Flush()
	return out.Error()
}

// ringInBook draws what the book keeps of a job.
var ringInBook = map[string]terms.Ring{
	string(judge.Tight): terms.RingWhole, string(judge.Leaking): terms.RingCut, string(judge.NeverReached): terms.RingCut,
	steps.InBookRight: terms.RingWhole, steps.InBookNotRight: terms.RingCut,
}

func bookRow(j logbook.Job) BookRow {
	ring, ok := ringInBook[j.Call]
	if !ok {
		ring = terms.RingDotted
	}
	return BookRow{ID: j.ID, At: j.At, Machine: j.Machine, Complaint: j.Complaint, State: j.State, Call: j.Call, Ring: ring, LossMLH: j.LossMLH, Found: j.Found, Owner: j.Owner, Mend: j.Mend, Simulated: j.Simulated}
}

// Machines lists names to choose from.
func (s *Shop) Machines(ctx context.Context, like string) ([]string, error) {
	found, err := s.desk.Book.Machines(ctx, like, mostNames)
	out := []string{}
	for _, m := range found {
		out = append(out, m.Name)
	}
	return out, err
}
