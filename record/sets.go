package record

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"idlehiss/core/steps"
	"idlehiss/core/terms"
	"idlehiss/desk"
	"idlehiss/jobs"
	"idlehiss/logbook"
)

// NewSet is which machines are one together: a train's wagons, a fleet's vehicles.
type NewSet struct {
	desk.Write
	Whole   string   `json:"whole" maxLength:"80" doc:"what they are together; it is made where the name is new"`
	Members []string `json:"members" maxItems:"60" doc:"by name, in order; those that are left out are no longer of it"`
	Add     bool     `json:"add,omitempty" doc:"beside those that are of it already"`
}

// SetView is a set as one and each.
type SetView struct {
	Whole    string       `json:"whole"`    // what a machine is one of; empty: nothing
	Thing    string       `json:"thing"`    // what its circuit calls one of them, such as wagon; empty: none was tested so
	Proposed []string     `json:"proposed"` // names for them, where the last test went round more than there are here
	Members  []MemberView `json:"members"`
}

// MemberView is one of a set.
type MemberView struct {
	Name  string     `json:"name"`
	At    *time.Time `json:"at"` // of its latest own job; null: none
	JobID string     `json:"job_id"`
	Ring  terms.Ring `json:"ring"` // of that
	Says  string     `json:"says"`
	In    []ResultAt `json:"in"` // what the whole's latest tests say of it, latest first
}

// ResultAt is what one test of the whole says of one of the set.
type ResultAt struct {
	JobID string     `json:"job_id"`
	At    time.Time  `json:"at"`
	Ring  terms.Ring `json:"ring"`
	Says  string     `json:"says"` // what is not right; empty: nothing
}

// latestWhole is as many of the whole's tests as are gone through for each of the set.
const latestWhole = 3

// SetOf says which machines are one together. They are made where the name is new.
func (r *Room) SetOf(ctx context.Context, in NewSet) (desk.Receipt, error) {
	if in.Whole = tidy(in.Whole); in.Whole == "" {
		return desk.Receipt{}, desk.Refuse("whole", "type what they are together, such as 'Mist-blowers'")
	}
	whole, err := r.desk.Book.MachineCalled(ctx, in.Whole)
	switch {
	case errors.Is(err, logbook.ErrNotFound):
		whole = logbook.Machine{Name: in.Whole}
	case err != nil:
		return desk.Receipt{}, err
	}
	var names []string
	for i, n := range in.Members {
		n, at := tidy(n), fmt.Sprintf("members[%d]", i)
		switch {
		case n == "":
			continue
		case n == whole.Name:
			return desk.Receipt{}, desk.Refuse(at, "%s cannot be one of itself", n)
		case slices.Contains(names, n):
			return desk.Receipt{}, desk.Refuse(at, "%s stands twice", n)
		case len([]rune(n)) > mostName:
			return desk.Receipt{}, desk.Refuse(at, "%q is too long: %d letters at most", n, mostName)
		}
		names = append(names, n)
	}
	had, err := r.desk.Book.MachinesIn(ctx, whole.ID)
	if err != nil {
		return desk.Receipt{}, err
	}
	if in.Add {
		var all []string
		for _, m := range had {
			all = append(all, m.Name)
		}
		names = slices.Compact(append(all, slices.DeleteFunc(names, func(n string) bool { return slices.Contains(all, n) })...))
	}
	if of, err := r.desk.Book.MachinesIn(ctx, whole.PartOf); err != nil || len(of) > 0 && len(names) > 0 {
		return desk.Receipt{}, orElse(err, desk.Conflicts("%s is one of a set itself", whole.Name))
	}
	receipt, ran, err := desk.Put(ctx, r.desk, in.Write, in, func(tx *logbook.Tx, st logbook.Stamp) (desk.Receipt, error) {
		if whole.ID == "" {
			ws := st
			ws.ID = "m-" + st.ID
			made, err := tx.MachineNamed(ws, whole.Name)
			if err != nil {
				return desk.Receipt{}, err
			}
			whole = made
		}
		got := desk.Received(in.Write, whole.ID, "machine")
		for _, m := range had {
			if err := tx.PutIn(m.ID, "", 0); err != nil {
				return got, err
			}
		}
		for i, name := range names {
			ms := st
			ms.ID = fmt.Sprintf("m-%d-%s", i+1, st.ID)
			m, err := tx.MachineNamed(ms, name)
			if err != nil {
				return got, err
			}
			if m.PartOf != "" && m.PartOf != whole.ID {
				return got, desk.Refuse(fmt.Sprintf("members[%d]", i), "%s is one of another set: take it out of that first", m.Name)
			}
			if err := tx.PutIn(m.ID, whole.ID, i+1); err != nil {
				return got, err
			}
		}
		return got, nil
	})
	if ran && err == nil {
		r.desk.Tell(desk.BenchNews, desk.Changed{ID: whole.ID, Changed: []string{"machine"}})
	}
	return receipt, err
}

// mostName is as long as a machine's name is.
const mostName = 80

func orElse(err, other error) error {
	if err != nil {
		return err
	}
	return other
}

// set is what a machine is one of, or what is of it; whole are its latest jobs where it is the set.
func (r *Room) set(ctx context.Context, m logbook.Machine, visits []visited) (SetView, error) {
	v := SetView{Proposed: []string{}, Members: []MemberView{}}
	if m.PartOf != "" {
		whole, err := r.desk.Book.Machine(ctx, m.PartOf)
		if err != nil {
			return v, err
		}
		all, err := r.desk.Book.JobsOf(ctx, whole.ID, latestWhole)
		if err != nil {
			return v, err
		}
		of, err := r.desk.Book.MachinesIn(ctx, whole.ID)
		if err != nil {
			return v, err
		}
		found, err := r.roundIn(ctx, all, of)
		v.Whole = whole.Name
		v.Members = append(v.Members, MemberView{Name: m.Name, Ring: terms.RingDotted, In: append([]ResultAt{}, found[m.ID]...)})
		return v, err
	}
	of, err := r.desk.Book.MachinesIn(ctx, m.ID)
	if err != nil {
		return v, err
	}
	var latest []logbook.Job
	for _, j := range visits {
		if j.circuit.Things != "" && len(latest) < latestWhole {
			latest, v.Thing = append(latest, j.Job), j.circuit.Things
		}
	}
	if v.Thing == "" && len(of) == 0 {
		return v, nil
	}
	if len(of) == 0 {
		for _, t := range visits[slices.IndexFunc(visits, func(x visited) bool { return x.circuit.Things != "" })].things {
			v.Proposed = append(v.Proposed, m.Name+", "+t)
		}
		return v, nil
	}
	found, err := r.roundIn(ctx, latest, of)
	if err != nil {
		return v, err
	}
	for _, one := range of {
		mv := MemberView{Name: one.Name, Ring: terms.RingDotted, In: append([]ResultAt{}, found[one.ID]...)}
		own, err := r.desk.Book.JobsOf(ctx, one.ID, 1)
		if err != nil {
			return v, err
		}
		if len(own) > 0 {
			row := bookRow(own[0])
			mv.At, mv.JobID, mv.Ring, mv.Says = &row.At, row.ID, row.Ring, row.Complaint
		}
		v.Members = append(v.Members, mv)
	}
	return v, nil
}

// roundIn is what tests of a whole, the latest first, say of each of the set, by the id of its machine. One of the set is
// known by its name, or else by its place where the test went round as many.
func (r *Room) roundIn(ctx context.Context, latest []logbook.Job, of []logbook.Machine) (map[string][]ResultAt, error) {
	out := map[string][]ResultAt{}
	for _, j := range latest {
		sheet, err := r.jobs.Job(ctx, j.ID)
		if err != nil {
			continue // it says so itself, where it is opened
		}
		for place, name := range sheet.Things {
			i := slices.IndexFunc(of, func(m logbook.Machine) bool { return m.Name == name })
			if i < 0 && len(of) == len(sheet.Things) {
				i = place
			}
			if i >= 0 {
				ring, says := roundOf(sheet.Steps, name)
				out[of[i].ID] = append(out[of[i].ID], ResultAt{j.ID, j.At, ring, says})
			}
		}
	}
	return out, nil
}

// roundOf is what a test's rounds say of one that they went round.
func roundOf(all []jobs.StepView, name string) (terms.Ring, string) {
	var wrong []string
	right := 0
	for _, s := range all {
		i := slices.IndexFunc(s.Ask.Rows, func(r steps.Row) bool { return r.Title == name })
		if i < 0 {
			continue
		}
		k := slices.IndexFunc(s.Outcome.Rows, func(r steps.RowOutcome) bool { return r.ID == s.Ask.Rows[i].ID })
		switch {
		case k < 0:
		case s.Outcome.Rows[k].Verdict == steps.Bad:
			wrong = append(wrong, fmt.Sprintf("%s: %s", s.Title, s.Outcome.Rows[k].Says))
		case s.Outcome.Rows[k].Verdict == steps.Good:
			right++
		}
	}
	switch {
	case len(wrong) > 0:
		return terms.RingCut, strings.Join(wrong, "; ")
	case right > 0:
		return terms.RingWhole, ""
	}
	return terms.RingDotted, ""
}
