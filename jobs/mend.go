package jobs

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"idlehiss/core/circuit"
	"idlehiss/core/quantity"
	"idlehiss/core/runsheet"
	"idlehiss/core/steps"
	"idlehiss/core/terms"
	"idlehiss/desk"
	"idlehiss/logbook"
	"idlehiss/snapshot"
	"idlehiss/trail"
)

// MendView is how a job's finding is put right: the ladder of repairs, and what was done
// of it.
type MendView struct {
	School  string                 `json:"school"`
	Schools []circuit.RepairSchool `json:"schools"`
	Parts   []trail.MendPart       `json:"parts"` // where a fault was seen, or all that may leak
	Done    []string               `json:"done"`
	Proof   steps.Proof            `json:"proof"`   // by what was held before and after
	Asks    string                 `json:"asks"`    // the part of which the cause is asked; empty: none
	AsksOf  string                 `json:"asks_of"` // its title
	Causes  []trail.CauseChoice    `json:"causes"`
}

// Mend is a repair that was done.
type Mend struct {
	desk.Write
	Part   string `json:"part"`
	Repair string `json:"repair"`
	Note   string `json:"note,omitempty" maxLength:"300"`
}

func (r *Room) repairSchool(f *file, id string) (circuit.RepairSchool, error) {
	all := r.repairSchools(f)
	for _, s := range all {
		if s.ID == id {
			return s, nil
		}
	}
	return all[0], desk.Refuse("school", "there is no school of repair %q", id)
}

// repairSchools are those the job was begun with; of one from before they were kept, the
// library's.
func (r *Room) repairSchools(f *file) []circuit.RepairSchool {
	if len(f.basis.Repair) > 0 {
		return f.basis.Repair
	}
	return r.repair
}

func (r *Room) ladder(c *circuit.Circuit) []circuit.Repair {
	if len(c.Repairs) > 0 {
		return c.Repairs
	}
	return r.lib.Repairs
}

// chosenRepair is the school of repair of a job.
func (r *Room) chosenRepair(f *file) circuit.RepairSchool {
	s, err := r.repairSchool(f, snapshot.ChosenSchool(f.facts, ofRepair))
	if err != nil {
		return r.repairSchools(f)[0]
	}
	return s
}

// mendParts are the parts that may be mended, those seen leaking first.
func (r *Room) mendParts(f *file, ranked []trail.SuspectView) []trail.MendPart {
	whole := &f.basis.Circuit
	return trail.Mendable(ranked, whole, r.chosenRepair(f), r.ladder(whole))
}

// mendView is what may be mended and what was.
func (r *Room) mendView(f *file, ranked []trail.SuspectView) MendView {
	v := MendView{School: r.chosenRepair(f).ID, Schools: r.repairSchools(f), Parts: trail.Once(r.mendParts(f, slices.Clone(ranked))), Done: []string{}, Causes: trail.Causes(), Proof: f.repairProof()}
	for _, x := range f.facts {
		if x.Subject != terms.AboutRepair {
			continue
		}
		cause, asked := trail.CauseSays(f.facts, x.About)
		v.Done = append(v.Done, strings.TrimSpace(x.Sentence+" "+cause))
		v.Asks, v.AsksOf = "", ""
		if i := slices.IndexFunc(v.Parts, func(p trail.MendPart) bool { return p.ID == x.About }); i >= 0 && !asked {
			v.Asks, v.AsksOf = x.About, v.Parts[i].Title
		}
	}
	return v
}

// repairProof is what was held before the last repair and after it.
func (f *file) repairProof() steps.Proof {
	var last time.Time
	for _, x := range f.facts {
		if x.Subject == terms.AboutRepair {
			last = x.At
		}
	}
	if last.IsZero() {
		return steps.Proof{Unlike: []string{}}
	}
	var before, after []steps.Tested
	for i := range f.holds {
		switch h := &f.holds[i]; {
		case h.proof() || h.report == nil:
		case h.began.Before(last):
			before = append(before, f.tested(h))
		default:
			after = append(after, f.tested(h))
		}
	}
	return steps.ProveRepair(before, after)
}

func (f *file) tested(h *held) steps.Tested {
	step, _ := f.basis.Snapshot.Circuit.Test(h.step)
	_, u := h.rig.Gauge.Ring()
	if f.spoken != nil {
		u = *f.spoken
	}
	return steps.Tested{ID: h.id, Step: h.step, Condition: h.condition, Under: runsheet.UnderSays(step, h.condition), TargetPa: h.rig.Target.Pa,
		GasM3: h.rig.GasM3, LimitPaPerS: h.rig.Allowance.PaPerS, Unit: u, Report: h.report}
}

// Called keeps what a call makes of a job's repair, in the write of the call.
func (r *Room) Called(ctx context.Context, tx *logbook.Tx, jobID string) error {
	shelf, err := r.kit.Shelf(ctx)
	if err != nil {
		return err
	}
	if f, err := r.fileIn(ctx, tx, jobID, shelf); err == nil && f.mended() { // one that cannot be read takes no call with it
		return tx.SetMend(jobID, f.repairProof().State)
	}
	return nil
}

// Caused is what made a part fail.
type Caused struct {
	desk.Write
	Part  string      `json:"part"`
	Cause terms.Cause `json:"cause"`
}

// Cause takes down what made a part fail that was mended.
func (r *Room) Cause(ctx context.Context, jobID string, in Caused) (desk.Receipt, error) {
	return r.change(ctx, jobID, in.Write, in, "mend", func(p *pencil) error {
		if _, mended := p.facts.Standing(terms.AboutRepair, in.Part); !mended {
			return desk.Refuse("part", "%q was not mended on this sheet", in.Part)
		}
		says, err := trail.CauseOf(in.Cause)
		return errors.Join(err, p.fact(entry{"cause", terms.AboutCause, in.Part, terms.PutRight, terms.FromEyes, says, in.Cause}))
	})
}

// Mend takes down a repair.
func (r *Room) Mend(ctx context.Context, jobID string, in Mend) (desk.Receipt, error) {
	return r.change(ctx, jobID, in.Write, in, "mend", func(p *pencil) error {
		_, ranked := p.log(nil).View(r.lib)
		parts := r.mendParts(p.file, ranked)
		i := slices.IndexFunc(parts, func(x trail.MendPart) bool { return x.ID == in.Part })
		if i < 0 {
			return desk.Refuse("part", "there is no part %q to mend on this sheet", in.Part)
		}
		k := slices.IndexFunc(parts[i].Ladder, func(x circuit.Repair) bool { return x.ID == in.Repair })
		if k < 0 {
			return desk.Refuse("repair", "%s is not mended by %q", quantity.Lower(parts[i].Title), in.Repair)
		}
		says := fmt.Sprintf("%s: %s.", parts[i].Title, parts[i].Ladder[k].Title)
		if note := strings.TrimSpace(in.Note); note != "" {
			says += " " + note
		}
		return errors.Join(p.fact(entry{"mend", terms.AboutRepair, in.Part, terms.PutRight, terms.FromEyes, says, in}), p.fact(mendedBy(r.chosenRepair(p.file))), p.tx.SetMend(jobID, terms.Unproved))
	})
}

// mended reports whether a job had a repair: what is held after it is a retest.
func (f *file) mended() bool {
	return slices.ContainsFunc(f.facts, func(x logbook.Fact) bool { return x.Subject == terms.AboutRepair })
}

// ofRepair is the matter of every circuit: where on the ladder of repairs to begin.
const ofRepair = "repair"

func mendedBy(s circuit.RepairSchool) entry {
	return entry{"school", terms.AboutSchool, ofRepair, terms.PutRight, terms.FromSchool, "Repair by this school: " + s.Title + ".", s.ID}
}
