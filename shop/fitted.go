package shop

import (
	"context"
	"strings"

	"idlehiss/logbook"
)

// RigFitted is which adapter, plate and plugs went on this machine.
type RigFitted struct {
	Write
	Text string `json:"text" maxLength:"300"`
}

// RigFitted takes down what fitted, so that the next job on the machine knows.
func (s *Shop) RigFitted(ctx context.Context, jobID string, in RigFitted) (JobView, error) {
	if in.Text = strings.TrimSpace(in.Text); in.Text == "" {
		return JobView{}, refuse("text", "name what fitted, such as 'blue bayonet, shallow'")
	}
	return change(ctx, s, jobID, in.Write, in, func(tx *logbook.Tx, st logbook.Stamp, j logbook.Job, sn snapshot) error {
		return fact(tx, st, "fitted-"+st.ID, jobID, "fitted", "rig", "typed", "What fitted: "+in.Text+".", in.Text)
	})
}

// fittedBefore is what fitted when the machine was last here with the same circuit.
func (s *Shop) fittedBefore(ctx context.Context, j logbook.Job, circuitID string) (string, error) {
	jobs, err := s.book.JobsOf(ctx, j.MachineID)
	if err != nil {
		return "", err
	}
	latest := ""
	var at int64
	for _, other := range jobs {
		if other.ID == j.ID || other.At.After(j.At) || other.At.UnixMicro() < at {
			continue
		}
		sn, err := snapshotOf(other)
		if err != nil || sn.Circuit.ID != circuitID {
			continue
		}
		facts, err := s.book.Facts(ctx, other.ID)
		if err != nil {
			return "", err
		}
		if f, ok := standing(facts, "fitted"); ok {
			latest, at = strings.TrimSuffix(strings.TrimPrefix(f.Sentence, "What fitted: "), "."), other.At.UnixMicro()
		}
	}
	return latest, nil
}
