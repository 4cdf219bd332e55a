package jobs

import (
	"context"
	"encoding/json"
	"errors"
	"strings"

	"idlehiss/catalogue"
	"idlehiss/core/circuit"
	"idlehiss/core/runsheet"
	"idlehiss/core/terms"
	"idlehiss/desk"
	"idlehiss/holds"
	"idlehiss/kit"
	"idlehiss/logbook"
	"idlehiss/snapshot"
	"idlehiss/trail"
)

// StartJob is what a page says to begin a job.
type StartJob struct {
	desk.Write
	Machine   string          `json:"machine" maxLength:"80" doc:"what stands on the bench, as people call it"`
	Complaint string          `json:"complaint" maxLength:"400"`
	Circuit   string          `json:"circuit,omitempty"`
	Mark      string          `json:"mark,omitempty" maxLength:"40" doc:"the mark on the cap, as it stands there"`
	Options   map[string]bool `json:"options,omitempty" doc:"what this machine has of the circuit's options; absent: as is the rule"`
	From      string          `json:"from,omitempty" doc:"the job out of which it is begun, whose machine and complaint it takes on"`
	Things    []string        `json:"things,omitempty" doc:"vehicles or whatever is gone round, by name, in order"`
}

// mostThings is as many as are ever gone round by name.
const mostThings = 60

// routine is the complaint where none was said.
const routine = "routine"

// Begin starts a job on a machine, which is made when the name is new.
func (r *Room) Begin(ctx context.Context, in StartJob) (desk.Receipt, error) {
	if in.From != "" {
		from, err := r.desk.Book.Job(ctx, in.From)
		if err != nil {
			return desk.Receipt{}, desk.Refuse("from", "%v", err)
		}
		in.Machine, in.Complaint = from.Machine, from.Complaint
	}
	in.Machine, in.Complaint = strings.TrimSpace(in.Machine), strings.TrimSpace(in.Complaint)
	if in.Machine == "" {
		return desk.Receipt{}, desk.Refuse("machine", "type what is on the bench: the name people call it by, such as 'bin carrier 4'")
	}
	if in.Complaint == "" {
		in.Complaint = routine
	}
	c, options, err := r.circuitOf(in)
	if err != nil {
		return desk.Receipt{}, err
	}
	if len(in.Things) > mostThings {
		return desk.Receipt{}, desk.Refuse("things", "%d are too many: %d at most", len(in.Things), mostThings)
	}
	if in.Mark != "" {
		if _, err := catalogue.Decoded(&c, "mark", in.Mark); err != nil {
			return desk.Receipt{}, err
		}
	}
	raw, hash, err := snapshot.Snapshot{Circuit: c, Hold: r.schools.Hold, Target: r.schools.Target, Repair: r.repair, Fitted: options, Things: in.Things}.Encode()
	if err != nil {
		return desk.Receipt{}, err
	}
	owner, err := r.partiesBefore(ctx, in.Machine)
	if err != nil {
		return desk.Receipt{}, err
	}
	receipt, ran, err := desk.Put(ctx, r.desk, in.Write, in, func(tx *logbook.Tx, st logbook.Stamp) (desk.Receipt, error) {
		got := desk.Received(in.Write, st.ID, "sheet")
		ms := st
		ms.ID = "m-" + st.ID
		m, err := tx.MachineNamed(ms, in.Machine)
		if err != nil {
			return got, err
		}
		j := logbook.Job{Stamp: st, MachineID: m.ID, Complaint: in.Complaint, Snapshot: raw, Hash: hash, From: in.From}
		err = errors.Join(tx.AddJob(j), tx.Index(j.ID, m.Name, j.Complaint))
		if err == nil && owner != (trail.Parties{}) {
			err = keepParties(owner, tx, st, j.ID, m.Name, j.Complaint)
		}
		if err != nil || in.Mark == "" {
			return got, err
		}
		return got, addMark(tx, st, j.ID, &c, in.Mark, 0)
	})
	if ran && err == nil {
		r.desk.Tell(desk.BenchNews, desk.Changed{ID: receipt.Of, Changed: []string{"jobs"}})
	}
	return receipt, err
}

// circuitOf is the circuit that a job is begun with, as this machine has it: the one it
// names, or else the one its words mean.
func (r *Room) circuitOf(in StartJob) (c circuit.Circuit, options map[string]bool, err error) {
	if in.Circuit == "" {
		meant, err := r.catalogue.Meant(circuit.Typed{Bench: in.Machine, Complaint: in.Complaint, Figure: in.Mark})
		if err != nil {
			return c, nil, err
		}
		in.Circuit = meant.ID
	}
	if c, err = r.catalogue.Named(in.Circuit); err != nil {
		return c, nil, err
	}
	options = c.AsRule()
	for id, on := range in.Options {
		if _, ok := options[id]; !ok {
			return c, nil, desk.Refuse("options", "%s has no option %q", c.Title, id)
		}
		options[id] = on
	}
	return c.Fitted(options), options, nil
}

// StartHold is what a page says to begin a hold.
type StartHold struct {
	desk.Write
	Purpose   terms.Purpose   `json:"purpose"`
	Step      string          `json:"step,omitempty" doc:"of the circuit; absent: its first hold"`
	Condition terms.Condition `json:"condition,omitempty"`
}

// Start begins a hold on a job's rig. Its receipt is of the hold.
func (r *Room) Start(ctx context.Context, jobID string, in StartHold) (desk.Receipt, error) {
	if got, was, err := desk.Again[desk.Receipt](ctx, r.desk, in.Write, onJob{jobID, in}); was || err != nil {
		return got, err
	}
	shelf, err := r.kit.Shelf(ctx)
	if err != nil {
		return desk.Receipt{}, err
	}
	var begun logbook.Hold
	var b holds.Beginning
	receipt, ran, err := desk.Put(ctx, r.desk, in.Write, onJob{jobID, in}, func(tx *logbook.Tx, st logbook.Stamp) (desk.Receipt, error) {
		f, err := r.fileIn(ctx, tx, jobID, shelf)
		if err != nil {
			return desk.Receipt{}, err
		}
		if b, err = r.beginning(ctx, f, in); err != nil {
			return desk.Receipt{}, err
		}
		if begun, err = b.Encode(st); err != nil {
			return desk.Receipt{}, err
		}
		if begun.Simulated {
			err = tx.MarkSimulated(jobID)
		}
		return desk.Received(in.Write, begun.ID, "holds"), errors.Join(err, tx.AddHold(begun), tx.KitUsed(b.Rig.Kit(f.on)...))
	})
	if err != nil || !ran {
		return receipt, err
	}
	r.tell(jobID, "holds")
	return receipt, r.holds.Begin(ctx, begun, b)
}

// beginning is the hold that may be begun now, or why none may.
func (r *Room) beginning(ctx context.Context, f *file, in StartHold) (holds.Beginning, error) {
	var b holds.Beginning
	if err := f.open(); err != nil {
		return b, err
	}
	step, err := f.holdStep(in.Step)
	if err != nil {
		return b, err
	}
	for _, h := range f.holds {
		if h.state != terms.Ended {
			return b, desk.Conflicts("a hold of this job is still running: bleed it down first")
		}
	}
	proof := in.Purpose == terms.RigProof
	if err := runsheet.CheckCondition(step, in.Condition); err != nil && !proof {
		return b, desk.Refuse("condition", "%v", err)
	}
	if !proof {
		if err := r.ready(ctx, f, step); err != nil {
			return b, err
		}
		if f.mended() {
			in.Purpose = terms.Retest
		}
	}
	p, err := r.plan(f, step, nil)
	if err != nil {
		return b, err
	}
	if p == nil {
		return b, f.markFirst()
	}
	asked := []kit.Gauge{p.near}
	if p.far != nil {
		asked = append(asked, *p.far)
	}
	if err := r.holds.Free(in.ID, asked...); err != nil {
		return b, err
	}
	rig := holds.Rig{Step: step.ID, Pump: p.pump, Target: p.Target, Limit: p.Target.Weakest, Wanted: p.Wanted, Allowance: p.Allowance, AmbientPa: r.desk.AmbientPa, Proven: f.proven()}
	rig.On(p.near, p.far)
	if !proof {
		if last := f.last(true); last != nil {
			rig.Loss = holds.OwnLoss(last.rig, last.report)
		}
		if rig.Given, err = f.givenAir(); err != nil {
			return b, err
		}
	}
	return holds.Beginning{JobID: f.job.ID, Machine: f.job.Machine, Basis: f.basis, Chamber: f.basis.Circuit.Pressed(step).Port.Chamber, Purpose: in.Purpose, Condition: in.Condition, Rig: rig}, nil
}

// ready refuses a hold while something must come before it.
func (r *Room) ready(ctx context.Context, f *file, step circuit.Step) error {
	if err := r.gate(ctx, f, step); err != nil {
		return err
	}
	for _, b := range f.bladders() {
		if !f.ticked[b.Up().ID] {
			return desk.Conflicts("%s comes first: inflate it through its own channel, then tick it at Rig up", b.Name)
		}
	}
	return nil
}

// givenAir is the trapped air that was worked out beside the job, if it was.
func (f *file) givenAir() (*holds.GivenAir, error) {
	x, ok := f.facts.Standing(terms.AboutAir, "")
	if !ok {
		return nil, nil
	}
	var given holds.GivenAir
	return &given, json.Unmarshal(x.Value, &given)
}
