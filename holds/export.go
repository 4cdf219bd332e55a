package holds

import (
	"context"
	"fmt"
	"time"

	"idlehiss/core/judge"
	"idlehiss/core/trace"
	"idlehiss/desk"
)

// Export is a hold as a trace whose judge line carries all that was asked, with comment
// lines to stand above it.
func (r *Room) Export(ctx context.Context, id string) (*trace.Trace, []string, error) {
	p, err := r.picture(ctx, id)
	if err != nil {
		return nil, nil, err
	}
	tr := p.trace()
	q := p.question()
	if len(p.warmth) == 0 && p.rig.LiquidM3 == 0 {
		q.LiquidM3 = 0 // the circuit's own matters only beside a temperature
	}
	tr.Settings = judge.SettingsOf(q).String()
	notes := []string{fmt.Sprintf("%s, %s, %s", p.machine, p.hold.Purpose, p.hold.At.Format(time.RFC3339))}
	if p.hold.Simulated {
		notes = append(notes, "simulated")
	}
	return tr, notes, nil
}

// Reader is a room on a book that no shop has open: for commands that only read.
func Reader(d *desk.Desk) *Room {
	return &Room{desk: d, report: (*judge.Live).Report, live: map[string]*keeper{}, lost: map[string]string{}}
}

// WhyView is what lies behind a call, on demand.
type WhyView struct {
	Fit     []judge.FitPoint `json:"fit"`
	Changes string           `json:"changes"` // what would change the call
}

// Why fits a hold once more and tells what the call depends on.
func (r *Room) Why(ctx context.Context, holdID string) (WhyView, error) {
	p, err := r.picture(ctx, holdID)
	if err != nil {
		return WhyView{}, err
	}
	v := WhyView{Fit: []judge.FitPoint{}}
	if said := p.said(); said != nil {
		v.Changes = said.Changes(p.unit)
	}
	k := &keeper{room: r, now: *p}
	if err := safely(k.fromTheBeginning); err != nil {
		return v, nil // it cannot be judged, and says so where it is shown
	}
	if fit := k.judge.Residuals(); fit != nil {
		v.Fit = fit
	}
	return v, nil
}

// OwnLoss is what the rig's proof on it measured; nil where it was not judged.
func OwnLoss(proof Rig, said *judge.Report) *RigLoss {
	if said == nil {
		return nil
	}
	rate, se, ok := judge.OwnLoss(*said)
	if !ok {
		return nil
	}
	return &RigLoss{PaPerS: rate * 1e3 / 60, SE: se * 1e3 / 60, GasM3: proof.GasM3, GasSE: proof.GasSE}
}
