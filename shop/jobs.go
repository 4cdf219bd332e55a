package shop

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"idlehiss/core/circuit"
	"idlehiss/core/quantity"
	"idlehiss/core/runsheet"
	"idlehiss/logbook"
)

// StartJob is what a page says to begin a job.
type StartJob struct {
	Write
	Machine   string          `json:"machine" maxLength:"80" doc:"what stands on the bench, as people call it"`
	Complaint string          `json:"complaint" maxLength:"400"`
	Circuit   string          `json:"circuit,omitempty"`
	Mark      string          `json:"mark,omitempty" maxLength:"40" doc:"the mark on the cap, as it stands there"`
	Options   map[string]bool `json:"options,omitempty" doc:"what this machine has of the circuit's options; absent: as is the rule"`
	Things    []string        `json:"things,omitempty" doc:"vehicles or whatever is gone round, by name, in order"`
}

// Tick sets or clears an item of a stage.
type Tick struct {
	Write
	Item string `json:"item"`
	On   bool   `json:"on"`
}

// Remark is a fact in somebody's own words.
type Remark struct {
	Write
	Stage string `json:"stage"`
	Text  string `json:"text" maxLength:"600"`
}

// Look is what was seen at a part, or not.
type Look struct {
	Write
	Part   string `json:"part"`
	Method string `json:"method" maxLength:"40"`
	Seen   bool   `json:"seen"`
	Class  string `json:"class,omitempty" enum:",fault,meant,forgotten opening"`
	Note   string `json:"note,omitempty" maxLength:"300"`
}

// CloseJob ends a job.
type CloseJob struct {
	Write
	Abandon bool   `json:"abandon"`
	Found   string `json:"found,omitempty" maxLength:"300" doc:"what it was, in a few words"`
}

// Begin starts a job on a machine, which is made when the name is new.
func (s *Shop) Begin(ctx context.Context, in StartJob) (JobView, error) {
	in.Machine, in.Complaint = strings.TrimSpace(in.Machine), strings.TrimSpace(in.Complaint)
	if in.Machine == "" {
		return JobView{}, refuse("machine", "say what is on the bench: the name people call it by, such as 'bin carrier 4'")
	}
	if in.Complaint == "" {
		in.Complaint = "routine"
	}
	c, err := s.circuitOf(in)
	if err != nil {
		return JobView{}, err
	}
	fitted := c.AsRule()
	for id, on := range in.Options {
		if _, ok := fitted[id]; !ok {
			return JobView{}, refuse("options", "%s has no option %q", c.Title, id)
		}
		fitted[id] = on
	}
	c = c.Fitted(fitted)
	if !c.Marked() && in.Mark != "" {
		return JobView{}, refuse("mark", "%s is limited by no mark: its steps say how far", c.Title)
	}
	if len(in.Things) > 60 {
		return JobView{}, refuse("things", "%d are too many: 60 at most", len(in.Things))
	}
	if in.Mark != "" {
		if _, err := quantity.DecodeMark(in.Mark, c.Plausible()); err != nil {
			return JobView{}, refuse("mark", "%v", err)
		}
	}
	raw, err := json.Marshal(snapshot{Circuit: c, Hold: s.hold, Target: s.target, Repair: s.repair, Fitted: fitted, Things: in.Things})
	if err != nil {
		return JobView{}, err
	}
	sum := sha256.Sum256(raw)
	ack, ran, err := put(ctx, s, in.Write, in, func(tx *logbook.Tx, st logbook.Stamp) (Choice, error) {
		ms := st
		ms.ID = "m-" + st.ID
		m, err := tx.MachineNamed(ms, in.Machine)
		if err != nil {
			return Choice{}, err
		}
		j := logbook.Job{Stamp: st, MachineID: m.ID, Complaint: in.Complaint, Snapshot: raw, Hash: hex.EncodeToString(sum[:])}
		if err := errors.Join(tx.AddJob(j), tx.Index(j.ID, m.Name, j.Complaint)); err != nil {
			return Choice{}, err
		}
		if in.Mark != "" {
			if err := s.addMark(tx, st, "mark-"+st.ID, j.ID, &c, in.Mark, 0); err != nil {
				return Choice{}, err
			}
		}
		return Choice{ID: j.ID}, nil
	})
	if err != nil {
		return JobView{}, err
	}
	if ran {
		s.bus.send("bench", map[string]string{"id": ack.ID})
	}
	return s.Job(ctx, ack.ID)
}

// circuitOf is the circuit that a job is begun with: the one it names, or else the one
// its words mean.
func (s *Shop) circuitOf(in StartJob) (circuit.Circuit, error) {
	if in.Circuit != "" {
		return s.circuitNamed(in.Circuit)
	}
	all, _, err := s.circuits()
	if err != nil {
		return circuit.Circuit{}, err
	}
	return circuit.Meant(all, in.Machine+" "+in.Complaint, in.Mark != ""), nil
}

// openJob reads a job that still takes entries.
func (s *Shop) openJob(ctx context.Context, id string) (logbook.Job, error) {
	j, err := s.book.Job(ctx, id)
	if errors.Is(err, logbook.ErrNotFound) {
		return j, &Refusal{Says: err.Error(), Kind: Missing}
	}
	if err == nil && j.State != "open" {
		return j, conflict("this job is %s; it is only added to by a new job on the same machine", j.State)
	}
	return j, err
}

// onJob is the content of a write on a job.
type onJob struct {
	Job  string
	What any
}

// change does one write on an open job and answers with the sheet. fn may not ask for
// the holds: who writes to one has them locked, and waits for the book.
func change(ctx context.Context, s *Shop, jobID string, w Write, content any, fn func(*logbook.Tx, logbook.Stamp, logbook.Job, snapshot) error) (JobView, error) {
	j, err := s.book.Job(ctx, jobID)
	if errors.Is(err, logbook.ErrNotFound) {
		return JobView{}, &Refusal{Says: err.Error(), Kind: Missing}
	}
	if err != nil {
		return JobView{}, err
	}
	_, ran, err := put(ctx, s, w, onJob{jobID, content}, func(tx *logbook.Tx, st logbook.Stamp) (Ack, error) {
		facts, err := tx.Facts(jobID)
		if err != nil {
			return Ack{}, err
		}
		sn, err := snapshotOf(j, facts)
		if err != nil {
			return Ack{}, err
		}
		if j.State != "open" {
			return Ack{}, conflict("this job is %s; it is only added to by a new job on the same machine", j.State)
		}
		return Ack{}, fn(tx, st, j, sn)
	})
	if err != nil {
		return JobView{}, err
	}
	if ran {
		s.bus.send("job", map[string]string{"id": jobID})
	}
	return s.Job(ctx, jobID)
}

// fact takes down a sentence.
func fact(tx *logbook.Tx, st logbook.Stamp, id, jobID, subject, stage, source, sentence string, value any) error {
	raw, err := json.Marshal(value)
	if err != nil {
		return err
	}
	st.ID = id
	return tx.AddFact(logbook.Fact{Stamp: st, JobID: jobID, Subject: subject, Stage: stage, Sentence: sentence, Source: source, Value: raw})
}

// Tick sets or clears an item.
func (s *Shop) Tick(ctx context.Context, jobID string, in Tick) (JobView, error) {
	return change(ctx, s, jobID, in.Write, in, func(tx *logbook.Tx, st logbook.Stamp, j logbook.Job, sn snapshot) error {
		on, _, err := s.onRig(ctx, sn.facts)
		if err != nil {
			return err
		}
		for _, stage := range runsheet.Stages(&sn.Circuit, bladders(on)...) {
			for _, i := range stage.Ticks {
				if i.ID == in.Item {
					sentence := i.Text + "."
					if !in.On {
						sentence = "Taken back: " + i.Text + "."
					}
					return fact(tx, st, "tick-"+st.ID, jobID, "tick/"+i.ID, stage.ID, "eyes", sentence, in.On)
				}
			}
		}
		return refuse("item", "this sheet has no item %q to tick", in.Item)
	})
}

// Remark takes down a fact in somebody's own words.
func (s *Shop) Remark(ctx context.Context, jobID string, in Remark) (JobView, error) {
	if in.Text = strings.TrimSpace(in.Text); in.Text == "" {
		return JobView{}, refuse("text", "there is nothing to take down")
	}
	return change(ctx, s, jobID, in.Write, in, func(tx *logbook.Tx, st logbook.Stamp, j logbook.Job, sn snapshot) error {
		return fact(tx, st, "remark-"+st.ID, jobID, "remark/"+st.ID, in.Stage, "eyes", in.Text, in.Text)
	})
}

// SkipProof takes down that the rig was not proven.
func (s *Shop) SkipProof(ctx context.Context, jobID string, w Write) (JobView, error) {
	return change(ctx, s, jobID, w, w, func(tx *logbook.Tx, st logbook.Stamp, j logbook.Job, sn snapshot) error {
		return fact(tx, st, "skip-"+st.ID, jobID, "proof", "prove", "eyes", "The rig was not proven before this test.", false)
	})
}

// Look takes down what was seen at a part, or not.
func (s *Shop) Look(ctx context.Context, jobID string, in Look) (JobView, error) {
	facts, err := s.book.Facts(ctx, jobID)
	if err != nil {
		return JobView{}, err
	}
	on, _, err := s.onRig(ctx, facts)
	if err != nil {
		return JobView{}, err
	}
	return change(ctx, s, jobID, in.Write, in, func(tx *logbook.Tx, st logbook.Stamp, j logbook.Job, sn snapshot) error {
		part := rigItself
		if i := slices.IndexFunc(on, func(p piece) bool { return p.joint().ID == in.Part }); i >= 0 {
			part = on[i].joint()
		} else if in.Part != rigItself.ID {
			i := slices.IndexFunc(sn.Circuit.Parts, func(p circuit.Part) bool { return p.ID == in.Part })
			if i < 0 {
				return refuse("part", "%s has no part %q", sn.Circuit.Title, in.Part)
			}
			part = sn.Circuit.Parts[i]
		}
		if in.Method == "" {
			in.Method = "eyes"
		}
		if err := tx.AddObservation(logbook.Observation{Stamp: st, JobID: jobID, Part: in.Part, Method: in.Method, Seen: in.Seen, Class: in.Class, Note: in.Note}); err != nil {
			return err
		}
		title := part.Title
		sentence := fmt.Sprintf("%s: nothing seen.", title)
		if in.Seen {
			sentence = fmt.Sprintf("%s: leak seen.", title)
			if in.Class == "meant" || in.Class == "forgotten opening" {
				sentence = fmt.Sprintf("%s: escape seen, %s.", title, in.Class)
			}
		}
		if in.Note != "" {
			sentence += " " + in.Note
		}
		return fact(tx, st, "look-"+st.ID, jobID, "look/"+in.Part, "hunt", "eyes", sentence, in.Seen)
	})
}

// End closes a job once everything is put right, or abandons it.
func (s *Shop) End(ctx context.Context, jobID string, in CloseJob) (JobView, error) {
	view, err := s.Job(ctx, jobID)
	if err != nil {
		return JobView{}, err
	}
	together := view.Call
	facts, err := s.book.Facts(ctx, jobID)
	if err != nil {
		return JobView{}, err
	}
	looks, err := s.book.Observations(ctx, jobID)
	if err != nil {
		return JobView{}, err
	}
	holds, err := s.book.HoldsOf(ctx, jobID)
	if err != nil {
		return JobView{}, err
	}
	return change(ctx, s, jobID, in.Write, in, func(tx *logbook.Tx, st logbook.Stamp, j logbook.Job, sn snapshot) error {
		for _, h := range holds {
			if h.State != "ended" {
				return conflict("a hold of this job is still under pressure: bleed it down first")
			}
		}
		if open := view.Outstanding; len(open) > 0 && !in.Abandon {
			var names []string
			for _, i := range open {
				names = append(names, "“"+i.Text+"”")
			}
			return conflict("not yet ticked: %s. Tick what is done, then close", strings.Join(names, ", "))
		}
		found := strings.TrimSpace(in.Found)
		if found == "" {
			found = faultsSeen(&sn.Circuit, looks)
		}
		call := j.Call
		if len(sn.Circuit.Tests()) > 1 {
			call = inBook(together.Verdict)
		}
		state := "closed"
		if in.Abandon {
			state = "abandoned"
		}
		words := []string{j.Machine, j.Complaint, found, call}
		for _, f := range facts {
			if strings.HasPrefix(f.Subject, "remark/") {
				words = append(words, f.Sentence)
			}
		}
		return errors.Join(tx.Summarise(jobID, call, j.LossMLH, found), tx.Index(jobID, words...), tx.EndJob(jobID, state, st.At))
	})
}

func faultsSeen(c *circuit.Circuit, looks []logbook.Observation) string {
	var out []string
	for _, o := range looks {
		if !o.Seen || o.Class == "meant" {
			continue
		}
		for _, p := range c.Parts {
			if p.ID == o.Part && !slices.Contains(out, p.Title) {
				out = append(out, p.Title)
			}
		}
	}
	return strings.Join(out, ", ")
}

func ticked(facts []logbook.Fact) map[string]bool {
	out := map[string]bool{}
	for _, f := range facts {
		if item, ok := strings.CutPrefix(f.Subject, "tick/"); ok && f.SupersededBy == "" {
			out[item] = string(f.Value) == "true"
		}
	}
	return out
}
