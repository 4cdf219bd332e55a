package jobs

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"idlehiss/core/circuit"
	"idlehiss/core/quantity"
	"idlehiss/core/terms"
	"idlehiss/desk"
	"idlehiss/holds"
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
	Says    string                 `json:"says"`   // whether it was proved; empty while nothing was mended
	Proved  bool                   `json:"proved"` // a hold after the last repair was tight
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
func (r *Room) mendView(f *file, shown []holds.HoldView, ranked []trail.SuspectView) MendView {
	v := MendView{School: r.chosenRepair(f).ID, Schools: r.repairSchools(f), Parts: trail.Once(r.mendParts(f, slices.Clone(ranked))), Done: []string{}}
	var last logbook.Fact
	for _, x := range f.facts {
		if x.Subject == terms.AboutRepair {
			v.Done, last = append(v.Done, x.Sentence), x
		}
	}
	if len(v.Done) == 0 {
		return v
	}
	v.Says = "Not proved yet: hold it again in the same way. A new part can leak too."
	for _, h := range shown {
		if n := len(h.Calls); h.Purpose == terms.Retest && !h.StartedAt.Before(last.At) && n > 0 {
			v.Proved = tight(h.Report)
			v.Says = "Held again after the repair: " + h.Sentence
		}
	}
	return v
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
		return errors.Join(p.fact(entry{"mend", terms.AboutRepair, in.Part, terms.PutRight, terms.FromEyes, says, in}), p.fact(mendedBy(r.chosenRepair(p.file))))
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
