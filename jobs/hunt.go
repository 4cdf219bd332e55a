package jobs

import (
	"context"
	"errors"
	"slices"
	"strings"

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

// told takes down something that the hunt is told.
func (r *Room) told(ctx context.Context, jobID string, w desk.Write, content any, prefix string, subject terms.Subject, about string, source terms.Source, value any, says func(*file) (string, error)) (desk.Receipt, error) {
	return r.change(ctx, jobID, w, content, "looks", func(p *pencil) error {
		words, err := says(p.file)
		if err != nil {
			return err
		}
		return p.fact(entry{prefix, subject, about, terms.HuntStage, source, words, value})
	})
}

// Ground takes it down.
func (r *Room) Ground(ctx context.Context, jobID string, in TakeGround) (desk.Receipt, error) {
	return r.told(ctx, jobID, in.Write, in, "ground", terms.AboutGround, "", terms.FromSaid, in.Ground, func(f *file) (string, error) {
		return in.Says(&f.basis.Circuit, r.lib)
	})
}

// CameOut takes it down.
func (r *Room) CameOut(ctx context.Context, jobID string, in TakePlace) (desk.Receipt, error) {
	return r.told(ctx, jobID, in.Write, in, "came-out", terms.AboutCameOut, in.Place, terms.FromEyes, in.CameOut, func(f *file) (string, error) { return in.Says(&f.basis.Circuit) })
}

// Answer takes down what was noticed of an act.
func (r *Room) Answer(ctx context.Context, jobID string, in TakeAnswer) (desk.Receipt, error) {
	return r.told(ctx, jobID, in.Write, in, "act", terms.AboutAct, in.Act, terms.FromEyes, in.Seen, func(f *file) (string, error) { return in.Says(&f.basis.Circuit) })
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
	if errors.Is(err, logbook.ErrNotFound) {
		return nil, desk.NotThere(err)
	}
	return p.JPEG, err
}

// Why says which evidence raised a suspect, and which lowered it.
func (r *Room) Why(ctx context.Context, jobID, part string) ([]trail.HuntReason, error) {
	f, err := r.file(ctx, jobID)
	if err != nil {
		return nil, err
	}
	shown, err := r.holds.Summaries(ctx, holds.Case{Machine: f.job.Machine, Basis: f.basis, Holds: f.rows, Calls: f.calls})
	if err != nil {
		return nil, err
	}
	_, err = r.outcome(ctx, f)
	return f.log(shown).Why(r.lib, part), err
}

// log is what a hunt reads of a job, its steps worked out before. shown are its holds as they are now;
// without them each is as its last call has it.
func (f *file) log(shown []holds.HoldView) *trail.Log {
	l := trail.Read(&f.basis.Circuit, f.facts, f.looks)
	l.Joints, l.Proven, l.Said = f.joints(), f.proven(), f.said
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
