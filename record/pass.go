package record

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"strings"

	"idlehiss/core/terms"
	"idlehiss/desk"
	"idlehiss/logbook"
)

// Passed is a job that goes into other hands.
type Passed struct {
	desk.Write
	To   string `json:"to" maxLength:"60" doc:"first name of who goes on with it"`
	Note string `json:"note,omitempty" maxLength:"300" doc:"what to know"`
}

// Question is put to somebody else, who may be in another workshop: it goes with the job's bundle.
type Question struct {
	desk.Write
	To   string `json:"to" maxLength:"80" doc:"who is asked"`
	Text string `json:"text" maxLength:"500" doc:"the question"`
}

// Answered is what they say.
type Answered struct {
	desk.Write
	Question string `json:"question" doc:"its id"`
	Text     string `json:"text" maxLength:"500"`
}

// asking is what the fact of a question keeps.
type asking struct {
	To   string `json:"to"`
	Text string `json:"text"`
}

// Pass puts an open job into other hands.
func (r *Room) Pass(ctx context.Context, jobID string, in Passed) (desk.Receipt, error) {
	to, note := tidy(in.To), tidy(in.Note)
	if to == "" {
		return desk.Receipt{}, desk.Refuse("to", "type the first name of who goes on with it")
	}
	return r.add(ctx, jobID, in.Write, in, func(tx *logbook.Tx, st logbook.Stamp, j logbook.Job) error {
		if j.State != terms.Open {
			return desk.Conflicts("this job is %s: begin another on the machine", j.State)
		}
		says := fmt.Sprintf("Passed from %s to %s.", j.Hands, to)
		if note != "" {
			says += " " + note
		}
		return errors.Join(fact(tx, st, jobID, "passed", terms.AboutPassed, "", says, to), tx.SetHands(jobID, to))
	})
}

// Ask puts a question about a job, open or not.
func (r *Room) Ask(ctx context.Context, jobID string, in Question) (desk.Receipt, error) {
	q := asking{tidy(in.To), tidy(in.Text)}
	switch {
	case q.Text == "":
		return desk.Receipt{}, desk.Refuse("text", "type the question, such as 'is this weep worth a new core?'")
	case q.To == "":
		return desk.Receipt{}, desk.Refuse("to", "type who is asked")
	}
	return r.add(ctx, jobID, in.Write, in, func(tx *logbook.Tx, st logbook.Stamp, _ logbook.Job) error {
		return fact(tx, st, jobID, "question", terms.AboutQuestion, st.ID, fmt.Sprintf("%s is asked: %s", q.To, q.Text), q)
	})
}

// Answer takes down what they say to it.
func (r *Room) Answer(ctx context.Context, jobID string, in Answered) (desk.Receipt, error) {
	text := tidy(in.Text)
	if text == "" {
		return desk.Receipt{}, desk.Refuse("text", "type the answer")
	}
	return r.add(ctx, jobID, in.Write, in, func(tx *logbook.Tx, st logbook.Stamp, _ logbook.Job) error {
		all, err := tx.Facts(jobID)
		if err != nil {
			return err
		}
		if _, ok := all.Standing(terms.AboutQuestion, in.Question); !ok {
			return desk.Refuse("question", "that question was not asked on this sheet")
		}
		return fact(tx, st, jobID, "answer", terms.AboutAnswer, in.Question, fmt.Sprintf("%s answers: %s", st.By, text), text)
	})
}

// onJob is the content of a write beside the job that it is of.
type onJob struct {
	Job string
	Of  any
}

// add takes something down on a job, closed ones too: it is added to, never changed.
func (r *Room) add(ctx context.Context, jobID string, w desk.Write, content any, fn func(*logbook.Tx, logbook.Stamp, logbook.Job) error) (desk.Receipt, error) {
	receipt, ran, err := desk.Put(ctx, r.desk, w, onJob{jobID, content}, func(tx *logbook.Tx, st logbook.Stamp) (desk.Receipt, error) {
		j, err := tx.Job(jobID)
		if err != nil {
			return desk.Receipt{}, desk.Sought(err)
		}
		return desk.Received(w, jobID, "facts"), fn(tx, st, j)
	})
	if ran && err == nil {
		r.desk.Tell(desk.JobNews, desk.Changed{ID: jobID, Changed: []string{"facts"}})
	}
	return receipt, err
}

func fact(tx *logbook.Tx, st logbook.Stamp, jobID, prefix string, subject terms.Subject, about, says string, value any) error {
	raw, err := json.Marshal(value)
	if err != nil {
		return err
	}
	st.ID = prefix + "-" + st.ID
	return tx.AddFact(logbook.Fact{Stamp: st, JobID: jobID, Subject: subject, About: about, Stage: terms.WriteDown, Sentence: says, Source: terms.FromSaid, Value: raw})
}

func tidy(text string) string { return strings.Join(strings.Fields(text), " ") }
