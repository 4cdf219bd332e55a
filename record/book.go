package record

import (
	"cmp"
	"context"
	"encoding/csv"
	"io"
	"slices"
	"strconv"
	"time"

	"idlehiss/core/asked"
	"idlehiss/core/circuit"
	"idlehiss/core/judge"
	"idlehiss/core/quantity"
	"idlehiss/core/steps"
	"idlehiss/core/terms"
	"idlehiss/core/trace"
	"idlehiss/desk"
	"idlehiss/kit"
	"idlehiss/logbook"
)

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
	Hands     string         `json:"hands"` // whose it is to do
	Mend      terms.Proof    `json:"mend"`  // whether its repair was proved; empty: nothing was mended
	Simulated bool           `json:"simulated"`
}

// RowsAtOnce is how many rows a search gives at once; mostNames how many names are proposed.
const (
	RowsAtOnce = 50
	mostNames  = 8
)

// BookAsked is what is asked of the book: plain words, which may mean filters, and filters that were chosen.
type BookAsked struct {
	Q      string       `query:"q" maxLength:"200" doc:"plain words: some of them mean filters, unless they stand in double quotes"`
	Only   []asked.Only `query:"only" maxItems:"4" enum:"open,unproved,due,kit out" doc:"filters, separated by commas"`
	Hands  string       `query:"hands" maxLength:"60" doc:"in whose hands: a first name"`
	Family string       `query:"family" maxLength:"40" doc:"of the circuit"`
	Next   string       `query:"next" maxLength:"20" doc:"what the answer before this one gave as next"`
}

// BookView is some of the jobs that were found, latest first.
type BookView struct {
	Rows     []BookRow     `json:"rows"`
	Next     string        `json:"next" doc:"asks for those that follow; empty: these were the last"`
	Kit      []kit.DueView `json:"kit"` // that is lent out or borrowed, where that was asked
	Meant    BookMeant     `json:"meant"`
	People   []string      `json:"people"` // whose jobs there are
	Families []Family      `json:"families"`
}

// BookMeant is what is asked, as it was understood.
type BookMeant struct {
	Words  string       `json:"words"`
	Only   []asked.Only `json:"only"`
	Hands  string       `json:"hands"`
	Family string       `json:"family"`
}

// Family is a kind of circuit and what it is called.
type Family struct {
	ID    string `json:"id"`
	Title string `json:"title"`
}

// mostOpen is as many open jobs as stand before all others.
const mostOpen = 200

// meant reads what is asked: what was chosen counts before what was typed.
func (r *Room) meant(in BookAsked, people []string) BookMeant {
	a := r.words.Parse(in.Q, people)
	m := BookMeant{Words: a.Words, Only: append([]asked.Only{}, in.Only...), Hands: cmp.Or(in.Hands, a.Hands), Family: cmp.Or(in.Family, a.Family)}
	for _, o := range a.Only {
		if !slices.Contains(m.Only, o) {
			m.Only = append(m.Only, o)
		}
	}
	return m
}

// wanted is that as the book is asked it.
func (m BookMeant) wanted() logbook.Wanted {
	has := func(o asked.Only) bool { return slices.Contains(m.Only, o) }
	return logbook.Wanted{Words: m.Words, Open: has(asked.Open), Unproved: has(asked.Unproved), Due: has(asked.Due), Hands: m.Hands, Family: m.Family}
}

// Book lists jobs that are asked for, latest first: the first of them, or those that follow. Where nothing is asked the open
// ones come first. Where the kit that is out is asked for there are no jobs.
func (r *Room) Book(ctx context.Context, in BookAsked) (BookView, error) {
	v, before := BookView{Rows: []BookRow{}, Kit: []kit.DueView{}, Families: []Family{}}, int64(logbook.Newest)
	var err error
	if in.Next != "" {
		if before, err = strconv.ParseInt(in.Next, 10, 64); err != nil {
			return v, desk.Refuse("next", "send what the answer before this one gave as next, or leave it out")
		}
	}
	if v.People, err = r.desk.Book.People(ctx); err != nil {
		return v, err
	}
	for _, f := range circuit.Families {
		if of := r.words.Families[f]; len(of) > 0 {
			v.Families = append(v.Families, Family{f, of[0]})
		}
	}
	v.Meant = r.meant(in, v.People)
	if slices.Contains(v.Meant.Only, asked.KitOut) {
		v.Kit, err = r.kit.Out(ctx)
		return v, err
	}
	want, open := v.Meant.wanted(), map[string]bool{}
	if want == (logbook.Wanted{}) {
		some, err := r.desk.Book.Search(ctx, logbook.Wanted{Open: true}, logbook.Newest, mostOpen)
		if err != nil {
			return v, err
		}
		for _, j := range some {
			if open[j.ID] = true; in.Next == "" {
				v.Rows = append(v.Rows, bookRow(j))
			}
		}
	}
	full, more := len(v.Rows)+RowsAtOnce, true
	for more && len(v.Rows) < full {
		found, err := r.desk.Book.Search(ctx, want, before, RowsAtOnce+1)
		if err != nil {
			return v, err
		}
		more = len(found) > RowsAtOnce
		for _, j := range found[:min(RowsAtOnce, len(found))] {
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
func (r *Room) BookCSV(ctx context.Context, w io.Writer, in BookAsked) error {
	out := csv.NewWriter(w)
	row := []string{"date", "machine", "customer", "complaint", "state", "in the hands of", "call", "loss [mL/h]", "found", "mended", "simulated"}
	if err := out.Write(row); err != nil {
		return err
	}
	for in.Next = ""; ; {
		v, err := r.Book(ctx, in)
		if err != nil {
			return err
		}
		for _, row := range v.Rows {
			loss := ""
			if row.LossMLH != nil {
				loss = quantity.Significant(*row.LossMLH, 3)
			}
			if err := out.Write([]string{row.At.Local().Format("2006-01-02 15:04"), trace.Cell(row.Machine), trace.Cell(row.Owner), trace.Cell(row.Complaint), string(row.State), trace.Cell(row.Hands), row.Call, loss, trace.Cell(row.Found), string(row.Mend), strconv.FormatBool(row.Simulated)}); err != nil {
				return err
			}
		}
		if in.Next = v.Next; in.Next == "" {
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
	return BookRow{ID: j.ID, At: j.At, Machine: j.Machine, Complaint: j.Complaint, State: j.State, Call: j.Call, Ring: ring, LossMLH: j.LossMLH, Found: j.Found, Owner: j.Owner, Hands: j.Hands, Mend: j.Mend, Simulated: j.Simulated}
}

// Machines lists names to choose from.
func (r *Room) Machines(ctx context.Context, like string) ([]string, error) {
	found, err := r.desk.Book.Machines(ctx, like, mostNames)
	out := []string{}
	for _, m := range found {
		out = append(out, m.Name)
	}
	return out, err
}
