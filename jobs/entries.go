package jobs

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"

	"idlehiss/core/circuit"
	"idlehiss/core/judge"
	"idlehiss/core/quantity"
	"idlehiss/core/runsheet"
	"idlehiss/core/terms"
	"idlehiss/desk"
	"idlehiss/holds"
	"idlehiss/trail"
)

// Tick sets or clears an item of a stage.
type Tick struct {
	desk.Write
	Item string `json:"item"`
	On   bool   `json:"on"`
}

// Remark is a fact in somebody's own words.
type Remark struct {
	desk.Write
	Stage terms.Stage `json:"stage"`
	Text  string      `json:"text" maxLength:"600"`
}

// Tick sets or clears an item.
func (r *Room) Tick(ctx context.Context, jobID string, in Tick) (desk.Receipt, error) {
	return r.change(ctx, jobID, in.Write, in, "ticks", func(p *pencil) error {
		for _, stage := range runsheet.Stages(&p.basis.Circuit, p.bladders()...) {
			for _, i := range stage.Ticks {
				if i.ID != in.Item {
					continue
				}
				says := i.Text + "."
				if !in.On {
					says = "Taken back: " + i.Text + "."
				}
				return p.fact(entry{"tick", terms.AboutTick, i.ID, stage.ID, terms.FromEyes, says, in.On})
			}
		}
		return desk.Refuse("item", "this sheet has no item %q to tick", in.Item)
	})
}

// Remark takes down a fact in somebody's own words.
func (r *Room) Remark(ctx context.Context, jobID string, in Remark) (desk.Receipt, error) {
	if in.Text = strings.TrimSpace(in.Text); in.Text == "" {
		return desk.Receipt{}, desk.Refuse("text", "type what you saw")
	}
	if !in.Stage.Known() {
		return desk.Receipt{}, desk.Refuse("stage", "there is no such stage")
	}
	return r.change(ctx, jobID, in.Write, in, "facts", func(p *pencil) error {
		return p.fact(entry{"remark", terms.AboutRemark, p.stamp.ID, in.Stage, terms.FromEyes, in.Text, in.Text})
	})
}

// SkipProof takes down that the rig was not proven.
func (r *Room) SkipProof(ctx context.Context, jobID string, w desk.Write) (desk.Receipt, error) {
	return r.change(ctx, jobID, w, w, "stages", func(p *pencil) error {
		return p.fact(entry{"skip", terms.AboutProof, "", terms.ProveRig, terms.FromEyes, "The rig was not proven before this test.", false})
	})
}

// ToppedUp is what the machine is reported to lose.
type ToppedUp struct {
	desk.Write
	trail.TopUps
}

// TopUps takes down how much is topped up, so that a leak can be held against it.
func (r *Room) TopUps(ctx context.Context, jobID string, in ToppedUp) (desk.Receipt, error) {
	return r.change(ctx, jobID, in.Write, in, "facts", func(p *pencil) error {
		kept, says, err := in.Keep()
		return errors.Join(err, p.fact(entry{"topped-up", terms.AboutTopUps, "", terms.FirstLook, terms.FromSaid, says, kept}))
	})
}

// NewReminder is something to look at again, in so many minutes, and again where it is slow.
type NewReminder struct {
	desk.Write
	trail.LookAgain
}

// RemindedOf ends a reminder, or the look that is due of one that goes on, or puts it off.
type RemindedOf struct {
	desk.Write
	trail.Look
}

// Remind takes a reminder down.
func (r *Room) Remind(ctx context.Context, jobID string, in NewReminder) (desk.Receipt, error) {
	return r.change(ctx, jobID, in.Write, in, "reminders", func(p *pencil) error {
		kept, says, err := in.Keep(p.stamp.At)
		return errors.Join(err, p.fact(entry{"remind", terms.AboutReminder, p.stamp.ID, terms.HuntStage, terms.FromTyped, says, kept}))
	})
}

// Reminded takes down what there was to see.
func (r *Room) Reminded(ctx context.Context, jobID string, in RemindedOf) (desk.Receipt, error) {
	return r.change(ctx, jobID, in.Write, in, "reminders", func(p *pencil) error {
		kept, says, err := trail.Looked(p.facts, in.Look, p.stamp.At)
		return errors.Join(err, p.fact(entry{"reminded", terms.AboutReminder, in.Reminder, terms.HuntStage, terms.FromEyes, says, kept}))
	})
}

// TakeAir is trapped air that the strokes do not show.
type TakeAir struct {
	desk.Write
	M3        float64 `json:"m3" exclusiveMinimum:"0" maximum:"10"`
	SE        float64 `json:"se_m3" minimum:"0"`
	ByStrokes bool    `json:"by_strokes,omitempty" doc:"pump strokes showed it: walls that give way after them are not in it"`
	Says      string  `json:"says" maxLength:"200" doc:"how it was found"`
}

// mostAirM3 is the largest trapped volume: a long train's brake pipe holds a tenth.
const mostAirM3 = 10.0

// Air takes down trapped air that was worked out beside the job: it stands in where the
// strokes do not show it, also for a hold in progress.
func (r *Room) Air(ctx context.Context, jobID string, in TakeAir) (desk.Receipt, error) {
	if !(in.M3 > 0) || in.M3 > mostAirM3 {
		return desk.Receipt{}, desk.Refuse("m3", "%g m³ of trapped air is not possible here: it is more than nothing and at most %g m³", in.M3, mostAirM3)
	}
	if !(in.SE >= 0) || in.SE > in.M3 {
		return desk.Receipt{}, desk.Refuse("se_m3", "the doubt cannot be larger than the air itself")
	}
	given := holds.GivenAir{M3: in.M3, SE: in.SE, ByStrokes: in.ByStrokes}
	receipt, err := r.change(ctx, jobID, in.Write, in, "facts", func(p *pencil) error {
		says := fmt.Sprintf("About %s L of trapped air. %s", quantity.Significant(in.M3*1e3, 2), strings.TrimSpace(in.Says))
		return p.fact(entry{"air", terms.AboutAir, "", terms.Pressurise, terms.FromSlate, says, given})
	})
	if err != nil {
		return receipt, err
	}
	return receipt, r.holds.GiveAir(ctx, jobID, given)
}

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
	desk.Write
	Matter string `json:"matter" doc:"of the circuit, or repair"`
	School string `json:"school"`
}

func (f *file) matters() []MatterView {
	out := []MatterView{}
	for _, m := range f.basis.Snapshot.Circuit.Matters {
		out = append(out, MatterView{m.ID, m.Kind, m.Title, m.Chosen(f.basis.Chosen[m.ID]).ID, m.Schools})
	}
	return out
}

// ChooseSchool chooses one for the job. It is refused once a step was done that only the
// present one has: what was measured stays on the sheet.
func (r *Room) ChooseSchool(ctx context.Context, jobID string, in ChooseSchool) (desk.Receipt, error) {
	return r.change(ctx, jobID, in.Write, in, "sheet", func(p *pencil) error {
		if in.Matter == ofRepair {
			s, err := r.repairSchool(p.file, in.School)
			if err != nil {
				return err
			}
			return p.fact(mendedBy(s))
		}
		whole := &p.basis.Snapshot.Circuit
		m, ok := whole.Matter(in.Matter)
		if !ok {
			return desk.Refuse("matter", "%s has no matter %q on which schools differ", whole.Title, in.Matter)
		}
		school := m.Chosen(in.School)
		if school.ID != in.School {
			return desk.Refuse("school", "%s is not done by %q", quantity.Lower(m.Title), in.School)
		}
		chosen := map[string]string{m.ID: school.ID}
		for id, was := range p.basis.Chosen {
			if id != m.ID {
				chosen[id] = was
			}
		}
		then := whole.By(chosen)
		for _, step := range p.basis.Circuit.Steps {
			_, stays := then.Test(step.ID)
			_, found := p.facts.Standing(terms.AboutFound, step.ID)
			held := slices.ContainsFunc(p.holds, func(h held) bool { return h.step == step.ID })
			if !stays && (found || held) {
				return desk.Conflicts("%s has been done, and by “%s” it is not: what was measured stays. Start another job for the other school", quantity.Lower(step.Title), school.Title)
			}
		}
		return p.fact(entry{"school", terms.AboutSchool, m.ID, terms.KnowLimit, terms.FromSchool, m.Title + ": " + school.Title + ".", school.ID})
	})
}

// CloseJob ends a job.
type CloseJob struct {
	desk.Write
	Abandon bool   `json:"abandon"`
	Found   string `json:"found,omitempty" maxLength:"300" doc:"what it was, in a few words"`
}

// End closes a job once everything is put right, or abandons it.
func (r *Room) End(ctx context.Context, jobID string, in CloseJob) (desk.Receipt, error) {
	receipt, err := r.change(ctx, jobID, in.Write, in, "sheet", func(p *pencil) error {
		for _, h := range p.holds {
			if h.state != terms.Ended {
				return desk.Conflicts("a hold of this job is still under pressure: bleed it down first")
			}
		}
		if open := p.outstanding(); len(open) > 0 && !in.Abandon {
			var names []string
			for _, i := range open {
				names = append(names, "“"+i.Text+"”")
			}
			return desk.Conflicts("not ticked yet: %s. Tick what is done, then close the job", strings.Join(names, ", "))
		}
		found := strings.TrimSpace(in.Found)
		if found == "" {
			found = strings.Join(trail.SeenAt(p.looks, p.own()), ", ")
		}
		call := p.job.Call
		all, err := r.outcome(ctx, p.file)
		switch {
		case err != nil:
			return err
		case len(all.call.Seen) > 0:
			call = string(judge.Leaking)
		case p.many() || len(all.call.Past) > 0:
			call = all.call.Verdict.InBook()
		}
		state := terms.Closed
		if in.Abandon {
			state = terms.Abandoned
		}
		words := append([]string{p.job.Machine, p.job.Complaint, found, call}, trail.PartiesIn(p.facts).Words()...)
		for _, x := range p.facts {
			if x.Subject == terms.AboutRemark {
				words = append(words, x.Sentence)
			}
		}
		return errors.Join(p.tx.Summarise(jobID, call, p.job.LossMLH, found), p.tx.SetMend(jobID, p.repairProof().State), p.tx.Index(jobID, words...), p.tx.EndJob(jobID, state, p.stamp.At))
	})
	if err == nil {
		r.desk.Tell(desk.BenchNews, desk.Changed{ID: jobID, Changed: []string{"jobs"}})
	}
	return receipt, err
}

// outstanding is what must be ticked before the job may be closed, and is not.
func (f *file) outstanding() []circuit.Item {
	return append(append([]circuit.Item{}, runsheet.Outstanding(&f.basis.Circuit, f.ticked, f.bladders()...)...), trail.PutBack(&f.basis.Circuit, f.facts)...)
}
