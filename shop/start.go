package shop

import (
	"context"
	"encoding/json"

	"idlehiss/core/circuit"
	"idlehiss/core/judge"
	"idlehiss/logbook"
)

// StartHold is what a page says to begin a hold.
type StartHold struct {
	Write
	Purpose   string `json:"purpose" enum:"rig proof,test,repeat"`
	Step      string `json:"step,omitempty" doc:"of the circuit; absent: its first hold"`
	Condition string `json:"condition,omitempty" maxLength:"120"`
}

// Start begins a hold on a job's rig.
func (s *Shop) Start(ctx context.Context, jobID string, in StartHold) (HoldView, error) {
	switch done, err := s.stands(ctx, in.Write, in); {
	case err != nil:
		return HoldView{}, err
	case done:
		return s.Hold(ctx, in.ID)
	}
	j, err := s.openJob(ctx, jobID)
	if err != nil {
		return HoldView{}, err
	}
	facts, err := s.book.Facts(ctx, jobID)
	if err != nil {
		return HoldView{}, err
	}
	sn, err := snapshotOf(j, facts)
	if err != nil {
		return HoldView{}, err
	}
	step, err := holdStep(&sn.Circuit, in.Step)
	if err != nil {
		return HoldView{}, err
	}
	if in.Purpose != "rig proof" {
		if err := s.gate(ctx, jobID, step.ID, true); err != nil {
			return HoldView{}, err
		}
		on, _, err := s.onRig(ctx, facts)
		if err != nil {
			return HoldView{}, err
		}
		for _, b := range bladders(on) {
			if !ticked(facts)[b.Up().ID] {
				return HoldView{}, conflict("%s comes first: blow it up by its own channel, and tick it at Rig up", b.Name)
			}
		}
	}
	purpose := in.Purpose
	if purpose != "rig proof" && mended(facts) {
		purpose = "retest"
	}
	p, err := s.plan(ctx, sn, step, nil)
	if err != nil {
		return HoldView{}, err
	}
	if p == nil {
		return HoldView{}, conflict("the limit is not known yet: enter the mark on the %s before anything is pumped up", sn.Circuit.Mark.On)
	}
	holds, err := s.book.HoldsOf(ctx, jobID)
	if err != nil {
		return HoldView{}, err
	}
	proven := false
	var loss *rigLoss
	for _, h := range holds {
		if h.State != "ended" && h.ID != in.ID {
			return HoldView{}, conflict("a hold of this job is still running: bleed it down first")
		}
		if h.Purpose == "rig proof" {
			calls, err := s.book.Calls(ctx, h.ID)
			if err != nil {
				return HoldView{}, err
			}
			proven = len(calls) > 0 && calls[len(calls)-1].Call == "tight"
			if loss, err = s.rigLoss(ctx, h.ID); err != nil {
				return HoldView{}, err
			}
		}
	}
	r := rig{Step: step.ID, Gauge: p.Gauge, Pump: p.Pump, Target: p.Target, Limit: p.Weakest, Wanted: p.Wanted, Allowance: p.Allowance, AmbientPa: s.ambient, Proven: proven}
	r.StandIn, r.Wire, r.Posted, r.Far = p.kit.StandIn, p.kit.Wire, p.kit.Posted, p.farKit
	if in.Purpose != "rig proof" {
		r.Loss = loss
		if r.Given, err = s.givenAir(ctx, jobID); err != nil {
			return HoldView{}, err
		}
	}
	raw, err := json.Marshal(r)
	if err != nil {
		return HoldView{}, err
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	if err := s.free(in.ID, p.kit, p.farKit); err != nil {
		return HoldView{}, err
	}
	h, ran, err := put(ctx, s, in.Write, in, func(tx *logbook.Tx, st logbook.Stamp) (logbook.Hold, error) {
		h := logbook.Hold{Stamp: st, JobID: jobID, Purpose: purpose, Condition: in.Condition, Chamber: sn.Circuit.Pressed(step).Port.Chamber, Rig: raw, State: "pumping", Simulated: r.StandIn != nil}
		if h.Simulated {
			if err := tx.MarkSimulated(jobID); err != nil {
				return h, err
			}
		}
		return h, tx.AddHold(h)
	})
	if err != nil {
		return HoldView{}, err
	}
	if !ran {
		return s.holdView(ctx, h.ID)
	}
	l, err := s.load(ctx, h)
	if err != nil {
		return HoldView{}, err
	}
	if in.Purpose == "rig proof" {
		l.rig.Allowance = l.allowance()
	}
	if err := s.attach(l); err != nil {
		return HoldView{}, err
	}
	s.live[h.ID] = l
	s.bus.send("job", map[string]string{"id": jobID})
	s.show(l)
	return s.viewOf(l, true), nil
}

// holdStep finds a step that is a hold.
func holdStep(c *circuit.Circuit, id string) (circuit.Step, error) {
	step, ok := c.Test(id)
	switch {
	case !ok:
		return step, refuse("step", "%s has no step %q", c.Title, id)
	case step.Kind != circuit.Hold:
		return step, refuse("step", "%s is no hold: nothing is pumped up for it", lower(step.Title))
	}
	return step, nil
}

// free refuses a gauge that speaks for another hold.
func (s *Shop) free(holdID string, kit KitGauge, far *KitGauge) error {
	asked := []KitGauge{kit}
	if far != nil {
		asked = append(asked, *far)
	}
	for _, l := range s.live {
		for _, ln := range l.lines {
			for _, k := range asked {
				if l.hold.ID != holdID && ln.stand == nil && ln.face.ID == k.ID {
					return conflict("%s is on the hold of %s: let that down first, or take another gauge", k.Name, l.machine)
				}
			}
		}
	}
	return nil
}

// rigLoss is what a finished rig proof measured.
func (s *Shop) rigLoss(ctx context.Context, proofID string) (*rigLoss, error) {
	s.mu.Lock()
	defer s.mu.Unlock()
	l, err := s.find(ctx, proofID)
	if err != nil {
		return nil, err
	}
	said := l.said()
	if said == nil {
		return nil, nil
	}
	rate, se, ok := judge.OwnLoss(*said)
	if !ok {
		return nil, nil
	}
	return &rigLoss{PaPerS: rate * 1e3 / 60, SE: se * 1e3 / 60, GasM3: l.rig.GasM3, GasSE: l.rig.GasSE}, nil
}

// givenAir is the trapped air that was worked out beside the job, if it was.
func (s *Shop) givenAir(ctx context.Context, jobID string) (*givenAir, error) {
	facts, err := s.book.Facts(ctx, jobID)
	if err != nil {
		return nil, err
	}
	f, ok := standing(facts, "air")
	if !ok {
		return nil, nil
	}
	var given givenAir
	return &given, json.Unmarshal(f.Value, &given)
}
