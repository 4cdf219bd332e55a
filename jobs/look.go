package jobs

import (
	"context"
	"errors"

	"idlehiss/core/circuit"
	"idlehiss/core/hunt"
	"idlehiss/core/terms"
	"idlehiss/desk"
	"idlehiss/kit"
	"idlehiss/logbook"
	"idlehiss/trail"
)

// Look is what was seen at a part, or not.
type Look struct {
	desk.Write
	Part   string      `json:"part"`
	Method string      `json:"method" maxLength:"40"`
	Seen   bool        `json:"seen"`
	Class  terms.Class `json:"class,omitempty"`
	Note   string      `json:"note,omitempty" maxLength:"300"`
}

// Sign takes down a free sign, seen or taken back.
type Sign struct {
	desk.Write
	Sign string `json:"sign" maxLength:"120" doc:"id of one of the circuit's signs"`
	Seen bool   `json:"seen"`
}

// Hunch is a guess before anything was looked at: it weighs, but less than a sign.
type Hunch struct {
	desk.Write
	Part string `json:"part" doc:"of the circuit; empty takes it back"`
}

// part finds what may be looked at: a part of the circuit, the rig or one of its joints.
func (f *file) part(id string) (circuit.Part, error) {
	for _, p := range append(f.joints(), hunt.RigItself) {
		if p.ID == id {
			return p, nil
		}
	}
	for _, p := range f.parts() {
		if p.ID == id {
			return p, nil
		}
	}
	return circuit.Part{}, desk.Refuse("part", "%s has no part %q", f.basis.Circuit.Title, id)
}

// Look takes down what was seen at a part, or not.
func (r *Room) Look(ctx context.Context, jobID string, in Look) (desk.Receipt, error) {
	return r.change(ctx, jobID, in.Write, in, "looks", func(p *pencil) error {
		part, err := p.part(in.Part)
		if err != nil {
			return err
		}
		if in.Method == "" {
			in.Method = "eyes"
		}
		if err := p.tx.AddObservation(logbook.Observation{Stamp: p.stamp, JobID: jobID, Part: in.Part, Method: in.Method, Seen: in.Seen, Class: in.Class, Note: in.Note}); err != nil {
			return err
		}
		return errors.Join(p.fact(entry{"look", terms.AboutLook, in.Part, terms.HuntStage, terms.FromEyes, hunt.LookSays(part.Title, in.Seen, in.Class, in.Note), in.Seen}),
			kit.JointSeen(p.tx, p.stamp, p.on, in.Part, p.job, in.Seen && in.Class.Faulty()), r.summarise(ctx, p))
	})
}

// Escape is how the leak of a circuit full of liquid was noticed.
type Escape struct {
	desk.Write
	How terms.Escape `json:"how" doc:"empty takes it back"`
}

// Escape takes it down; the size of the leak follows it.
func (r *Room) Escape(ctx context.Context, jobID string, in Escape) (desk.Receipt, error) {
	return r.change(ctx, jobID, in.Write, in, "looks", func(p *pencil) error {
		return errors.Join(p.fact(entry{"escape", terms.AboutEscape, "", terms.CallStage, terms.FromEyes, in.How.Says(), in.How}), r.summarise(ctx, p))
	})
}

// Sign takes one down.
func (r *Room) Sign(ctx context.Context, jobID string, in Sign) (desk.Receipt, error) {
	return r.change(ctx, jobID, in.Write, in, "looks", func(p *pencil) error {
		says, err := trail.SignSays(&p.basis.Circuit, in.Sign, in.Seen)
		if err != nil {
			return err
		}
		return p.fact(entry{"sign", terms.AboutSign, in.Sign, terms.FirstLook, terms.FromEyes, says, in.Seen})
	})
}

// Hunch takes a guess down.
func (r *Room) Hunch(ctx context.Context, jobID string, in Hunch) (desk.Receipt, error) {
	return r.change(ctx, jobID, in.Write, in, "looks", func(p *pencil) error {
		says, err := trail.HunchSays(&p.basis.Circuit, in.Part)
		if err != nil {
			return err
		}
		return p.fact(entry{"hunch", terms.AboutHunch, "", terms.FirstLook, terms.FromTyped, says, in.Part})
	})
}
