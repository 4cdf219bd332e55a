package jobs

import (
	"context"
	"encoding/json"
	"errors"
	"slices"
	"time"

	"idlehiss/catalogue"
	"idlehiss/core/circuit"
	"idlehiss/core/hunt"
	"idlehiss/core/quantity"
	"idlehiss/core/terms"
	"idlehiss/desk"
	"idlehiss/logbook"
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

// SignView is something that may be seen before any tool, and points to a part.
type SignView struct {
	ID    string `json:"id"`
	Title string `json:"title"`
	Seen  bool   `json:"seen"`
}

// SuspectView is a part with what was seen at it.
type SuspectView struct {
	ID     string            `json:"id"`
	Title  string            `json:"title"`
	Look   string            `json:"look"`
	Share  float64           `json:"share"`   // prior odds as a share
	Signs  []string          `json:"signs"`   // titles of those that point to it
	Seen   []ObservationView `json:"seen"`    // latest last
	OfRig  bool              `json:"of_rig"`  // of the rig, or shut for the test
	Faulty bool              `json:"faulty"`  // a leak was seen there
	Looked bool              `json:"looked"`  // and nothing was seen
	NoPart bool              `json:"no_part"` // it is none of the circuit's parts: it is not mended here
	Cover  string            `json:"cover"`   // what hides it, and its price; empty: nothing
	Within string            `json:"within"`  // where to look behind it
}

// ObservationView is one look.
type ObservationView struct {
	At     time.Time   `json:"at"`
	By     string      `json:"by"`
	Method string      `json:"method"`
	Seen   bool        `json:"seen"`
	Class  terms.Class `json:"class"`
	Note   string      `json:"note"`
	Says   string      `json:"says"` // what was seen, in words
}

// part finds what may be looked at: a part of the circuit, the rig or one of its joints.
func (f *file) part(id string) (circuit.Part, error) {
	for _, p := range append(f.joints(), hunt.RigItself) {
		if p.ID == id {
			return p, nil
		}
	}
	for _, p := range f.basis.Circuit.Parts {
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
		return errors.Join(p.fact(entry{"look", terms.AboutLook, in.Part, terms.HuntStage, terms.FromEyes, hunt.LookSays(part.Title, in.Seen, in.Class, in.Note), in.Seen}), r.summarise(ctx, p))
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
		c := &p.basis.Circuit
		if !slices.Contains(hunt.Signs(hunt.Bounding(c)), in.Sign) {
			return desk.Refuse("sign", "%s has no sign %q: write it in words", c.Title, in.Sign)
		}
		says := quantity.Capital(c.SignTitle(in.Sign)) + ": seen."
		if !in.Seen {
			says = quantity.Capital(c.SignTitle(in.Sign)) + ": not so."
		}
		return p.fact(entry{"sign", terms.AboutSign, in.Sign, terms.FirstLook, terms.FromEyes, says, in.Seen})
	})
}

// Hunch takes a guess down.
func (r *Room) Hunch(ctx context.Context, jobID string, in Hunch) (desk.Receipt, error) {
	return r.change(ctx, jobID, in.Write, in, "looks", func(p *pencil) error {
		says := "The guess is taken back."
		if in.Part != "" {
			parts := hunt.Bounding(&p.basis.Circuit)
			i := slices.IndexFunc(parts, func(x circuit.Part) bool { return x.ID == in.Part })
			if i < 0 {
				return desk.Refuse("part", "%s has no part %q", p.basis.Circuit.Title, in.Part)
			}
			says = "A guess: " + quantity.Lower(parts[i].Title) + "."
		}
		return p.fact(entry{"hunch", terms.AboutHunch, "", terms.FirstLook, terms.FromTyped, says, in.Part})
	})
}

// signsSeen are the signs that stand, by id.
func (f *file) signsSeen() map[string]bool {
	out := map[string]bool{}
	for _, x := range f.facts.On(terms.AboutSign) {
		var seen bool
		out[x.About] = json.Unmarshal(x.Value, &seen) == nil && seen
	}
	return out
}

func (f *file) hunch() (part string) {
	if x, ok := f.facts.Standing(terms.AboutHunch, ""); ok {
		_ = json.Unmarshal(x.Value, &part) // what cannot be read is no hunch
	}
	return part
}

func (f *file) signs() []SignView {
	out, seen := []SignView{}, f.signsSeen()
	c := &f.basis.Circuit
	for _, id := range hunt.SignsOf(c) {
		out = append(out, SignView{id, c.SignTitle(id), seen[id]})
	}
	return out
}

// suspects are the parts that may leak, the likeliest first.
func (f *file) suspects() []SuspectView {
	c := &f.basis.Circuit
	out := []SuspectView{}
	for _, s := range hunt.Suspects(c, f.joints(), f.signsSeen(), f.hunch()) {
		v := SuspectView{ID: s.ID, Title: s.Title, Look: s.Part.Look, Share: s.Share, OfRig: s.OfRig, Signs: []string{}, Seen: []ObservationView{}, Cover: catalogue.Behind(c, s.Part), Within: s.Within}
		v.NoPart = !slices.ContainsFunc(c.Parts, func(p circuit.Part) bool { return p.ID == s.ID && !p.Opening })
		for _, id := range s.Signs {
			v.Signs = append(v.Signs, c.SignTitle(id))
		}
		for _, o := range f.looks {
			if o.Part == s.ID {
				v.Seen = append(v.Seen, ObservationView{At: o.At, By: o.By, Method: o.Method, Seen: o.Seen, Class: o.Class, Note: o.Note, Says: hunt.Observed(o.Seen, o.Class, o.Note)})
				v.Faulty = v.Faulty || o.Seen && o.Class.Faulty()
			}
		}
		v.Looked = len(v.Seen) > 0 && !v.Faulty
		out = append(out, v)
	}
	return out
}
