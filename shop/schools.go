package shop

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"slices"
	"strings"

	"idlehiss/core/circuit"
	"idlehiss/core/judge"
	"idlehiss/logbook"
)

// MatterView is a matter on which schools differ, with the one chosen for the job.
type MatterView struct {
	ID      string        `json:"id"`
	Kind    string        `json:"kind"`
	Title   string        `json:"title"`
	Chosen  string        `json:"chosen"`
	Schools []circuit.Way `json:"schools"`
}

// ChooseSchool is by which school a matter is done.
type ChooseSchool struct {
	Write
	Matter string `json:"matter" doc:"of the circuit, or repair"`
	School string `json:"school"`
}

// ofRepair is the matter of every circuit: where on the ladder of repairs to begin.
const ofRepair = "repair"

// chosenSchools are the schools chosen for a job, by matter.
func chosenSchools(whole *circuit.Circuit, facts []logbook.Fact) map[string]string {
	out := map[string]string{}
	for _, m := range whole.Matters {
		out[m.ID] = schoolOf(facts, m.ID)
	}
	return out
}

func schoolOf(facts []logbook.Fact, matter string) string {
	var id string
	if f, ok := standing(facts, "school/"+matter); ok {
		_ = json.Unmarshal(f.Value, &id) // what cannot be read is the default
	}
	return id
}

func matters(sn snapshot) []MatterView {
	out := []MatterView{}
	for _, m := range sn.whole.Matters {
		out = append(out, MatterView{m.ID, m.Kind, m.Title, m.Chosen(schoolOf(sn.facts, m.ID)).ID, m.Schools})
	}
	return out
}

// ChooseSchool chooses one for the job. It is refused once a step was done that only
// the present one has: what was measured stays on the sheet.
func (s *Shop) ChooseSchool(ctx context.Context, jobID string, in ChooseSchool) (JobView, error) {
	holds, err := s.book.HoldsOf(ctx, jobID)
	if err != nil {
		return JobView{}, err
	}
	held := map[string]bool{}
	for _, h := range holds {
		var r rig
		if err := json.Unmarshal(h.Rig, &r); err != nil {
			return JobView{}, err
		}
		held[r.Step] = true
	}
	return change(ctx, s, jobID, in.Write, in, func(tx *logbook.Tx, st logbook.Stamp, j logbook.Job, sn snapshot) error {
		if in.Matter == ofRepair {
			r, err := s.repairSchool(sn, in.School)
			if err != nil {
				return err
			}
			return fact(tx, st, "school-"+st.ID, jobID, "school/"+ofRepair, "put-right", "school", "Mended by this school: "+r.Title+".", r.ID)
		}
		m, ok := sn.whole.Matter(in.Matter)
		if !ok {
			return refuse("matter", "%s has no matter %q on which schools differ", sn.Circuit.Title, in.Matter)
		}
		school := m.Chosen(in.School)
		if school.ID != in.School {
			return refuse("school", "%s is not done by %q", lower(m.Title), in.School)
		}
		chosen := chosenSchools(&sn.whole, sn.facts)
		chosen[m.ID] = school.ID
		then := sn.whole.By(chosen)
		for _, step := range sn.Circuit.Steps {
			_, stays := then.Test(step.ID)
			_, found := standing(sn.facts, "found/"+step.ID)
			if !stays && (found || held[step.ID]) {
				return conflict("%s has been done, and by “%s” it is not: what was measured stays. Begin another job for the other school", lower(step.Title), school.Title)
			}
		}
		return fact(tx, st, "school-"+st.ID, jobID, "school/"+m.ID, "limit", "school", m.Title+": "+school.Title+".", school.ID)
	})
}

// MendView is how a job's finding is put right: the ladder of repairs, and what was
// done of it.
type MendView struct {
	School  string                 `json:"school"`
	Schools []circuit.RepairSchool `json:"schools"`
	Parts   []MendPart             `json:"parts"` // where a fault was seen, or all that may leak
	Done    []string               `json:"done"`
	Says    string                 `json:"says"`   // whether it was proved; empty while nothing was mended
	Proved  bool                   `json:"proved"` // a hold after the last repair was tight
}

// MendPart is a part with the repairs that suit it, in the order they are proposed.
type MendPart struct {
	ID     string           `json:"id"`
	Title  string           `json:"title"`
	Seen   bool             `json:"seen"`
	Ladder []circuit.Repair `json:"ladder"`
}

// Mend is a repair that was done.
type Mend struct {
	Write
	Part   string `json:"part"`
	Repair string `json:"repair"`
	Note   string `json:"note,omitempty" maxLength:"300"`
}

func (s *Shop) repairSchool(sn snapshot, id string) (circuit.RepairSchool, error) {
	all := s.repairSchools(sn)
	for _, r := range all {
		if r.ID == id {
			return r, nil
		}
	}
	return all[0], refuse("school", "there is no school of repair %q", id)
}

// repairSchools are those the job was begun with; of one from before they were
// kept, the library's.
func (s *Shop) repairSchools(sn snapshot) []circuit.RepairSchool {
	if len(sn.Repair) > 0 {
		return sn.Repair
	}
	return s.repair
}

func (s *Shop) ladder(c *circuit.Circuit) []circuit.Repair {
	if len(c.Repairs) > 0 {
		return c.Repairs
	}
	return s.repairs
}

// mendView is what may be mended and what was.
func (s *Shop) mendView(sn snapshot, suspects []SuspectView, holds []HoldView) MendView {
	school, err := s.repairSchool(sn, schoolOf(sn.facts, ofRepair))
	if err != nil {
		school = s.repairSchools(sn)[0]
	}
	v := MendView{School: school.ID, Schools: s.repairSchools(sn), Parts: []MendPart{}, Done: []string{}}
	ranked := slices.Clone(suspects)
	slices.SortStableFunc(ranked, func(a, b SuspectView) int {
		if x, y := faulty(a), faulty(b); x != y {
			return map[bool]int{true: -1, false: 1}[x]
		}
		return int(1e6 * (b.Share - a.Share))
	})
	for _, p := range ranked {
		i := slices.IndexFunc(sn.whole.Parts, func(x circuit.Part) bool { return x.ID == p.ID && !x.Opening })
		if i < 0 {
			continue // the rig's own is no part to mend
		}
		if l := school.Ladder(s.ladder(&sn.whole), sn.whole.Parts[i].Kind); len(l) > 0 {
			v.Parts = append(v.Parts, MendPart{p.ID, p.Title, faulty(p), l})
		}
	}
	last := logbook.Fact{}
	for _, f := range sn.facts {
		if strings.HasPrefix(f.Subject, "repair/") {
			v.Done, last = append(v.Done, f.Sentence), f
		}
	}
	if len(v.Done) == 0 {
		return v
	}
	v.Says = "Not proved yet: hold it again in the same way. A new part can be bad."
	for _, h := range holds {
		if n := len(h.Calls); h.Purpose == "retest" && !h.StartedAt.Before(last.At) && n > 0 {
			v.Proved = h.Calls[n-1].Call == judge.Tight
			v.Says = "Held again after it: " + h.Sentence
		}
	}
	return v
}

func faulty(p SuspectView) bool {
	return slices.ContainsFunc(p.Seen, func(o ObservationView) bool {
		return o.Seen && o.Class != "meant" && o.Class != "forgotten opening"
	})
}

// Mend takes down a repair.
func (s *Shop) Mend(ctx context.Context, jobID string, in Mend) (JobView, error) {
	v, err := s.Job(ctx, jobID)
	if err != nil {
		return JobView{}, err
	}
	i := slices.IndexFunc(v.Mend.Parts, func(p MendPart) bool { return p.ID == in.Part })
	if i < 0 {
		return JobView{}, refuse("part", "there is no part %q to mend on this sheet", in.Part)
	}
	part := v.Mend.Parts[i]
	k := slices.IndexFunc(part.Ladder, func(r circuit.Repair) bool { return r.ID == in.Repair })
	if k < 0 {
		return JobView{}, refuse("repair", "%s is not mended by %q", lower(part.Title), in.Repair)
	}
	says := fmt.Sprintf("%s: %s.", part.Title, part.Ladder[k].Title)
	if note := strings.TrimSpace(in.Note); note != "" {
		says += " " + note
	}
	return change(ctx, s, jobID, in.Write, in, func(tx *logbook.Tx, st logbook.Stamp, j logbook.Job, sn snapshot) error {
		school, err := s.repairSchool(sn, v.Mend.School)
		if err != nil {
			return err
		}
		return errors.Join(
			fact(tx, st, "mend-"+st.ID, jobID, "repair/"+in.Part, "put-right", "eyes", says, in),
			fact(tx, st, "school-"+st.ID, jobID, "school/"+ofRepair, "put-right", "school", "Mended by this school: "+school.Title+".", school.ID))
	})
}

// mended tells whether a job had a repair: what is held after it is a retest.
func mended(facts []logbook.Fact) bool {
	return slices.ContainsFunc(facts, func(f logbook.Fact) bool { return strings.HasPrefix(f.Subject, "repair/") })
}
