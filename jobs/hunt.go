package jobs

import (
	"context"
	"errors"
	"slices"
	"strings"

	"idlehiss/core/circuit"
	"idlehiss/core/passages"
	"idlehiss/core/terms"
	"idlehiss/desk"
	"idlehiss/holds"
	"idlehiss/logbook"
	"idlehiss/trail"
)

// TakeGround is what the hunt takes for granted: all of it, each time.
type TakeGround struct {
	desk.Write
	trail.Ground
}

// TakePlace is a place where it was seen to come out, or was not after all.
type TakePlace struct {
	desk.Write
	trail.CameOut
}

// TakeAnswer is what was noticed of an act of the circuit.
type TakeAnswer struct {
	desk.Write
	trail.Answered
}

// TakeTried is what an isolation test showed.
type TakeTried struct {
	desk.Write
	trail.Tried
}

// TakeSetUp is one change of how everything stands on the bench.
type TakeSetUp struct {
	desk.Write
	trail.SetUp
}

// told takes down something that the hunt is told: e without its stage and words.
func (r *Room) told(ctx context.Context, jobID string, w desk.Write, content any, e entry, says func(c *circuit.Circuit) (string, error)) (desk.Receipt, error) {
	return r.change(ctx, jobID, w, content, "looks", func(p *pencil) (err error) {
		e.stage = terms.HuntStage
		if e.says, err = says(&p.basis.Circuit); err != nil {
			return err
		}
		return p.fact(e)
	})
}

// Ground takes it down.
func (r *Room) Ground(ctx context.Context, jobID string, in TakeGround) (desk.Receipt, error) {
	return r.told(ctx, jobID, in.Write, in, entry{prefix: "ground", subject: terms.AboutGround, source: terms.FromSaid, value: in.Ground}, func(c *circuit.Circuit) (string, error) {
		return in.Says(c, r.lib)
	})
}

// CameOut takes it down.
func (r *Room) CameOut(ctx context.Context, jobID string, in TakePlace) (desk.Receipt, error) {
	return r.told(ctx, jobID, in.Write, in, entry{prefix: "came-out", subject: terms.AboutCameOut, about: in.Place, source: terms.FromEyes, value: in.CameOut}, in.Says)
}

// Answer takes down what was noticed of an act.
func (r *Room) Answer(ctx context.Context, jobID string, in TakeAnswer) (desk.Receipt, error) {
	return r.told(ctx, jobID, in.Write, in, entry{prefix: "act", subject: terms.AboutAct, about: in.Act, source: terms.FromEyes, value: in.Seen}, in.Says)
}

// Tried takes down what an isolation test showed.
func (r *Room) Tried(ctx context.Context, jobID string, in TakeTried) (desk.Receipt, error) {
	return r.told(ctx, jobID, in.Write, in, entry{prefix: "tried", subject: terms.AboutTried, about: in.Test, source: terms.FromEyes, value: in.Tried}, in.Says)
}

// SetUp takes down a change of how everything stands on the bench.
func (r *Room) SetUp(ctx context.Context, jobID string, in TakeSetUp) (desk.Receipt, error) {
	return r.change(ctx, jobID, in.Write, in, "looks", func(p *pencil) error {
		if step, ok := trail.Pressing(&p.basis.Circuit, in.What); ok && in.Does == passages.Feed {
			if err := r.gate(ctx, p.file, step); err != nil {
				return err
			}
		}
		stand, err := in.After(&p.basis.Circuit, p.log(nil).StandNow())
		if err != nil {
			return err
		}
		return p.fact(entry{"set-up", terms.AboutSetUp, "", terms.HuntStage, terms.FromEyes, in.Says(&p.basis.Circuit), stand})
	})
}

// Passages is a job's housing as it is tested passage by passage.
func (r *Room) Passages(ctx context.Context, jobID string) (trail.PassagesView, error) {
	l, err := r.known(ctx, jobID)
	if err != nil {
		return trail.PassagesView{}, err
	}
	v, ok := l.Passages(r.lib)
	if !ok {
		return v, desk.Refuse("id", "%s has one way in and no levers: it is not tested passage by passage", l.Circuit.Title)
	}
	return v, nil
}

// TakePhoto is a picture of a part.
type TakePhoto struct {
	desk.Write
	Part string `json:"part"`
	Note string `json:"note,omitempty" maxLength:"300"`
	JPEG []byte `json:"jpeg" doc:"the picture, base64, at most 300 kB"`
}

// Photo keeps a picture, without what says where it was taken.
func (r *Room) Photo(ctx context.Context, jobID string, in TakePhoto) (desk.Receipt, error) {
	return r.change(ctx, jobID, in.Write, in, "looks", func(p *pencil) error {
		part, err := p.part(in.Part)
		if err != nil {
			return err
		}
		clean, err := trail.CleanPhoto(in.JPEG)
		if err != nil {
			return err
		}
		says := part.Title + ": photo." + strings.TrimRight(" "+in.Note, " ")
		return errors.Join(p.tx.AddPhoto(logbook.Photo{Stamp: p.stamp, JobID: jobID, Part: in.Part, Note: in.Note, JPEG: clean}),
			p.fact(entry{"photo", terms.AboutPhoto, p.stamp.ID, terms.HuntStage, terms.FromEyes, says, in.Part}))
	})
}

// PhotoOf reads one.
func (r *Room) PhotoOf(ctx context.Context, id string) ([]byte, error) {
	p, err := r.desk.Book.Photo(ctx, id)
	return p.JPEG, desk.Sought(err)
}

// Why says which evidence raised a suspect, and which lowered it.
func (r *Room) Why(ctx context.Context, jobID, part string) ([]trail.HuntReason, error) {
	l, err := r.known(ctx, jobID)
	if err != nil {
		return nil, err
	}
	return l.Why(r.lib, part), nil
}

// known is what a hunt reads of a job, its holds as they are now.
func (r *Room) known(ctx context.Context, jobID string) (*trail.Log, error) {
	f, err := r.file(ctx, jobID)
	if err != nil {
		return nil, err
	}
	shown, err := r.holds.Summaries(ctx, holds.Case{Machine: f.job.Machine, Basis: f.basis, Holds: f.rows, Calls: f.calls})
	if err != nil {
		return nil, err
	}
	_, err = r.outcome(ctx, f)
	return f.log(shown), err
}

// log is what a hunt reads of a job, its steps worked out before. shown are its holds as they are now;
// without them each is as its last call has it.
func (f *file) log(shown []holds.HoldView) *trail.Log {
	l := trail.Read(&f.basis.Circuit, f.facts, f.looks)
	l.Joints, l.Rated, l.Proven, l.Said = f.joints(), f.ratedPieces(), f.proven(), f.said
	for _, h := range f.holds {
		step, ok := f.basis.Circuit.Test(h.step)
		now := slices.IndexFunc(shown, func(v holds.HoldView) bool { return v.ID == h.id })
		if now >= 0 && shown[now].Report != nil {
			h.report = shown[now].Report
		}
		if ok && !h.proof() && h.report != nil {
			l.Holds = append(l.Holds, trail.Held{ID: h.id, At: h.began, Step: step, Condition: h.condition, Report: h.report})
		}
	}
	return l
}
