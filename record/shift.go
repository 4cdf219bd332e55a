package record

import (
	"context"
	"encoding/json"
	"time"

	"idlehiss/core/terms"
	"idlehiss/desk"
	"idlehiss/jobs"
	"idlehiss/kit"
	"idlehiss/logbook"
)

// ShiftNote is what one shift leaves for the next.
type ShiftNote struct {
	Text string    `json:"text"` // empty: nothing
	By   string    `json:"by"`
	At   time.Time `json:"at"`
}

// NewShiftNote is that, as it is typed; an empty one takes it away.
type NewShiftNote struct {
	desk.Write
	Text string `json:"text" maxLength:"500"`
}

// HandoverView is the end of a shift: what is under pressure, what waits, what was promised.
type HandoverView struct {
	Note      ShiftNote        `json:"note"`
	Under     []UnderView      `json:"under"`     // pressure
	Waits     []WaitView       `json:"waits"`     // open jobs with what comes next, the rest of them
	Promised  []jobs.NextThing `json:"promised"`  // looks that are due some time
	Questions []AskedOf        `json:"questions"` // that nobody answered yet
	Unproved  []BookRow        `json:"unproved"`  // mended, and not proved
	Kit       []kit.DueView    `json:"kit"`
	People    []string         `json:"people"`
}

// UnderView is a hold in progress.
type UnderView struct {
	JobID   string      `json:"job_id"`
	Stage   terms.Stage `json:"stage"`
	Machine string      `json:"machine"`
	Hands   string      `json:"hands"`
	Ring    terms.Ring  `json:"ring"`
	Value   string      `json:"value"` // with its unit; empty: none yet
	Says    string      `json:"says"`
	Left    bool        `json:"left"` // running without its person
}

// WaitView is an open job.
type WaitView struct {
	jobs.NextThing
	Hands string `json:"hands"`
	Owner string `json:"owner"` // whose machine it is
}

// AskedOf is a question.
type AskedOf struct {
	JobID   string `json:"job_id"`
	Machine string `json:"machine"`
	Says    string `json:"says"`
}

// shiftNote is the setting that keeps the note.
const shiftNote = "shift note"

// Note is what the shift before left.
func (r *Room) Note(ctx context.Context) (n ShiftNote, err error) {
	raw, err := r.desk.Book.Setting(ctx, shiftNote)
	if err == nil && raw != "" {
		err = json.Unmarshal([]byte(raw), &n)
	}
	return n, err
}

// SetNote leaves one.
func (r *Room) SetNote(ctx context.Context, in NewShiftNote) (desk.Receipt, error) {
	receipt, ran, err := desk.Put(ctx, r.desk, in.Write, in, func(tx *logbook.Tx, st logbook.Stamp) (desk.Receipt, error) {
		text := tidy(in.Text)
		if text == "" {
			return desk.Received(in.Write, shiftNote, "note"), tx.SetSetting(shiftNote, "")
		}
		raw, err := json.Marshal(ShiftNote{text, st.By, st.At})
		if err != nil {
			return desk.Receipt{}, err
		}
		return desk.Received(in.Write, shiftNote, "note"), tx.SetSetting(shiftNote, string(raw))
	})
	if ran && err == nil {
		r.desk.Tell(desk.BenchNews, desk.Changed{ID: shiftNote, Changed: []string{"note"}})
	}
	return receipt, err
}

// Handover is what the next shift must know.
func (r *Room) Handover(ctx context.Context) (HandoverView, error) {
	v := HandoverView{Under: []UnderView{}, Waits: []WaitView{}, Promised: []jobs.NextThing{}, Questions: []AskedOf{}, Unproved: []BookRow{}, Kit: []kit.DueView{}}
	var err error
	if v.Note, err = r.Note(ctx); err != nil {
		return v, err
	}
	open, err := r.desk.Book.Search(ctx, logbook.Wanted{Open: true}, logbook.Newest, mostOpen)
	if err != nil {
		return v, err
	}
	of, ids := map[string]logbook.Job{}, []string{}
	for _, j := range open {
		of[j.ID], ids = j, append(ids, j.ID)
	}
	running := r.holds.RunningSummaries()
	held := map[string]bool{}
	for _, h := range running {
		held[h.JobID] = true
		u := UnderView{JobID: h.JobID, Stage: h.Stage, Machine: h.Machine, Hands: of[h.JobID].Hands, Ring: h.Ring, Says: h.Sentence, Left: h.LaidBy}
		if h.Value != nil {
			u.Value = h.Value.Text + " " + h.Unit
		}
		v.Under = append(v.Under, u)
	}
	next, err := r.jobs.Next(ctx, running)
	if err != nil {
		return v, err
	}
	for _, n := range next {
		switch {
		case held[n.JobID] && n.Says == "": // it is above
		case n.DueAt != nil:
			v.Promised = append(v.Promised, n)
		default:
			v.Waits = append(v.Waits, WaitView{n, of[n.JobID].Hands, of[n.JobID].Owner})
		}
	}
	if v.Questions, err = r.questions(ctx, of, ids); err != nil {
		return v, err
	}
	mended, err := r.desk.Book.Search(ctx, logbook.Wanted{Unproved: true}, logbook.Newest, RowsAtOnce)
	if err != nil {
		return v, err
	}
	for _, j := range mended {
		v.Unproved = append(v.Unproved, bookRow(j))
	}
	if v.Kit, err = r.kit.Due(ctx); err != nil {
		return v, err
	}
	v.People, err = r.desk.Book.People(ctx)
	return v, err
}

// questions are those that nobody answered, of open jobs.
func (r *Room) questions(ctx context.Context, of map[string]logbook.Job, ids []string) ([]AskedOf, error) {
	out := []AskedOf{}
	if len(ids) == 0 {
		return out, nil
	}
	all, err := r.desk.Book.FactsOn(ctx, terms.AboutQuestion, ids...)
	if err != nil || len(all) == 0 {
		return out, err
	}
	answers, err := r.desk.Book.FactsOn(ctx, terms.AboutAnswer, ids...)
	for _, f := range all {
		if _, ok := answers.Standing(terms.AboutAnswer, f.About); !ok {
			out = append(out, AskedOf{f.JobID, of[f.JobID].Machine, f.Sentence})
		}
	}
	return out, err
}
