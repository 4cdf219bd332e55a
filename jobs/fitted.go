package jobs

import (
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"slices"
	"strings"

	"idlehiss/core/quantity"
	"idlehiss/core/runsheet"
	"idlehiss/core/terms"
	"idlehiss/desk"
	"idlehiss/kit"
	"idlehiss/trail"
)

// RigFitted is which adapters, plates and plugs went on this machine: pieces of the kit,
// stacked in this order, and what is not in it.
type RigFitted struct {
	desk.Write
	Pieces []string `json:"pieces,omitempty" maxItems:"12" doc:"ids of adapters and plugs of the kit"`
	Text   string   `json:"text,omitempty" maxLength:"300" doc:"beside them"`
	Neck   string   `json:"neck,omitempty" maxLength:"60" doc:"how wide the neck is and how it is made: 38 mm; bayonet, shallow"`
}

// RigView is what goes on a machine.
type RigView struct {
	Ports  []string        `json:"ports"`   // each with the fittings it takes
	Pieces []kit.PieceView `json:"pieces"`  // those that suit first
	Fitted string          `json:"fitted"`  // as taken down
	Text   string          `json:"text"`    // of it, what is not of the kit
	Necked bool            `json:"necked"`  // there is a neck whose size chooses the adapter
	Neck   string          `json:"neck"`    // as it was measured
	Before string          `json:"before"`  // what fitted the machine when it was last here
	Says   []string        `json:"says"`    // what to mind with these pieces
	SeenAt []string        `json:"seen_at"` // where the rig itself was seen to leak
}

// RigFitted takes down what fitted, so that the next job on the machine knows.
func (r *Room) RigFitted(ctx context.Context, jobID string, in RigFitted) (desk.Receipt, error) {
	in.Text, in.Neck = strings.TrimSpace(in.Text), strings.TrimSpace(in.Neck)
	if in.Neck != "" {
		if _, err := runsheet.ParseNeck(in.Neck); err != nil {
			return desk.Receipt{}, desk.Refuse("neck", "%v", err)
		}
	}
	return r.change(ctx, jobID, in.Write, in, "rig", func(p *pencil) error {
		on := p.shelf.Picked(in.Pieces)
		if len(on) != len(in.Pieces) {
			return desk.Refuse("pieces", "one of these is no adapter or plug of the kit")
		}
		_, had := p.facts.Standing(terms.AboutFitted, "")
		says := "What fitted: " + kit.Called(on, in.Text) + "."
		switch {
		case kit.Called(on, in.Text) != "":
		case in.Neck != "":
			says = "The neck: " + in.Neck + "."
		case had:
			says = "Everything is off the rig again."
		default:
			return desk.Refuse("text", "type what fitted, such as 'blue bayonet, shallow', or choose a piece of the kit")
		}
		return p.fact(entry{"fitted", terms.AboutFitted, "", terms.RigUp, terms.FromTyped, says, trail.Fitted{Pieces: append([]string{}, in.Pieces...), Text: in.Text, Neck: in.Neck}})
	})
}

// bladders are those of the rig, with their own order of up and down.
func (f *file) bladders() []runsheet.Bladder {
	var out []runsheet.Bladder
	for _, p := range f.on {
		if p.OwnAir {
			out = append(out, runsheet.Bladder{ID: p.ID, Name: p.Name})
		}
	}
	return out
}

// rigView is the rig of a job: what its ports take, what of the kit suits, what is on.
func (r *Room) rigView(ctx context.Context, f *file) (RigView, error) {
	v := RigView{Ports: []string{}, Pieces: []kit.PieceView{}, Says: []string{}, SeenAt: append([]string{}, f.rigSeen()...),
		Fitted: kit.Called(f.on, f.fitted.Text), Text: f.fitted.Text, Neck: f.fitted.Neck}
	var takes []terms.Fitting
	for _, p := range f.basis.Circuit.Ports {
		v.Ports = append(v.Ports, p.Says())
		takes = append(takes, p.Fittings...)
	}
	v.Necked = slices.ContainsFunc(takes, terms.Fitting.Sized)
	var neck runsheet.Neck
	var err error
	if v.Neck != "" {
		if neck, err = runsheet.ParseNeck(v.Neck); err != nil {
			return v, err // it was read when it was taken down
		}
	}
	elsewhere := r.holds.InUse(f.job.ID)
	facts, err := r.desk.Book.Facts(ctx, slices.Collect(maps.Keys(elsewhere))...)
	if err != nil {
		return v, err
	}
	v.Pieces = append(v.Pieces, f.shelf.Suiting(neck, takes, f.fitted.Pieces, trail.OnRigs(facts, elsewhere))...)
	if n := len(f.on); n > 1 {
		v.Says = append(v.Says, fmt.Sprintf("%d pieces stacked are %d joints to suspect: soap each before you blame the part.", n, n))
	}
	if v.Neck != "" && !slices.ContainsFunc(v.Pieces, func(p kit.PieceView) bool { return p.Sized }) {
		v.Says = append(v.Says, "Nothing in the kit is known to fit "+v.Neck+": a rubber sheet, an expanding rubber or a bladder of the right size would.")
	}
	if l := f.ratedPieces(); len(l) > 0 {
		w := runsheet.Weakest(l)
		v.Says = append(v.Says, fmt.Sprintf("The weakest piece is rated to %s kPa: %s.", quantity.Significant(w.Pa/1e3, 3), w.Of))
	}
	v.Before, err = r.fittedBefore(ctx, f)
	return v, err
}

func (f *file) ratedPieces() []runsheet.Limit {
	var out []runsheet.Limit
	for _, p := range f.on {
		if p.RatingPa > 0 {
			out = append(out, runsheet.Limit{Of: p.Name, Pa: p.RatingPa, CeilingPa: p.RatingPa})
		}
	}
	return out
}

// fittedBefore is what fitted when the machine was last here with the same circuit.
func (r *Room) fittedBefore(ctx context.Context, f *file) (string, error) {
	before, err := r.desk.Book.Earlier(ctx, f.job, f.basis.Circuit.ID, terms.AboutFitted, "", rememberedJobs)
	if err != nil {
		return "", err
	}
	for _, x := range before {
		var kept trail.Fitted
		if json.Unmarshal(x.Value, &kept) != nil {
			continue // of an earlier version: nothing to remember
		}
		if w := kit.Called(f.shelf.Picked(kept.Pieces), kept.Text); w != "" {
			return w, nil
		}
	}
	return "", nil
}
