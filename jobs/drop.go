package jobs

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"io"
	"strings"

	"idlehiss/core/runsheet"
	"idlehiss/core/terms"
	"idlehiss/core/trace"
	"idlehiss/desk"
	"idlehiss/files"
	"idlehiss/holds"
	"idlehiss/logbook"
)

// Dropped is a trace file that becomes a finished hold.
type Dropped struct {
	desk.Write
	Name      string          `json:"name" maxLength:"200"`
	Text      string          `json:"text" doc:"the file, CSV"`
	Condition terms.Condition `json:"condition,omitempty"`
	Step      string          `json:"step,omitempty" doc:"of the circuit; absent: its first hold"`
}

// DroppedView is which hold it became.
type DroppedView struct {
	HoldID string `json:"hold_id"`
	Known  bool   `json:"known"` // the same content was there already
	Says   string `json:"says"`  // what was taken, what of it was not used, and how it differs from what the job asks
}

// Drop takes a trace file into a job. The same content becomes the same hold.
func (r *Room) Drop(ctx context.Context, jobID string, in Dropped) (DroppedView, error) {
	f, err := r.file(ctx, jobID)
	if err != nil {
		return DroppedView{}, err
	}
	sum := sha256.New()
	whole := io.MultiReader(strings.NewReader(jobID+"\n"), strings.NewReader(in.Text))
	_, _ = io.Copy(sum, r.desk.Others.Reading(whole)) // a hash takes everything
	v := DroppedView{HoldID: "trace-" + hex.EncodeToString(sum.Sum(nil)[:12])}
	for _, h := range f.rows {
		v.Known = v.Known || h.ID == v.HoldID
	}
	if v.Known {
		return v, nil
	}
	if err := f.open(); err != nil {
		return DroppedView{}, err
	}
	b, tr, p, err := r.fromFile(f, in)
	if err != nil {
		return DroppedView{}, err
	}
	var aim *runsheet.Target
	if p != nil {
		aim = &p.Target
	}
	v.Says = runsheet.FileSays(in.Name, tr, aim)
	_, err = r.holds.TakeFile(ctx, v.HoldID, in.Write, b, tr, func(tx *logbook.Tx, st logbook.Stamp) error {
		return addFact(tx, st, jobID, entry{"file", terms.AboutFile, v.HoldID, terms.HoldStage, terms.FromFile, v.Says, in.Name})
	})
	return v, err
}

// fromFile is the hold that a file is, and what was planned in its place (nil: nothing).
func (r *Room) fromFile(f *file, in Dropped) (b holds.Beginning, tr *trace.Trace, p *planned, err error) {
	if tr, err = trace.ReadInTurns(strings.NewReader(in.Text), r.desk.AmbientPa, r.desk.Others.GiveWay); err != nil {
		return b, nil, nil, desk.Refuse("text", "the file %s: %v", in.Name, err)
	}
	if n := len(tr.Readings); n > holds.MostInFile {
		return b, nil, nil, desk.Refuse("text", "the file %s has %d readings; up to %d go into the book. Thin it: one reading a second is plenty", in.Name, n, holds.MostInFile)
	}
	step, err := f.holdStep(in.Step)
	if err != nil {
		return b, nil, nil, err
	}
	if err := runsheet.CheckCondition(step, in.Condition); err != nil {
		return b, nil, nil, desk.Refuse("condition", "%v", err)
	}
	if p, err = r.plan(f, step, nil); err != nil {
		return b, nil, nil, err
	}
	var plan *files.Plan
	if p != nil {
		plan = &files.Plan{Gauge: p.near.Gauge, Target: p.Target, Wanted: p.Wanted}
	}
	rig, err := files.Rig(tr, plan, f.shelf.PumpsInUse()[0], step, f.basis.Hold, r.desk.AmbientPa)
	if err != nil {
		return b, nil, nil, desk.Refuse("text", "the file %s: %v", in.Name, err)
	}
	return holds.Beginning{JobID: f.job.ID, Machine: f.job.Machine, Basis: f.basis, Chamber: f.basis.Circuit.Pressed(step).Port.Chamber, Purpose: terms.Test, Condition: in.Condition, Rig: rig}, tr, p, nil
}
