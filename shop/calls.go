package shop

import (
	"context"
	"encoding/json"

	"idlehiss/core/judge"
	"idlehiss/logbook"
)

// said is what stands of a hold: its last call, else what is made of it so far. A
// call stands although the next reading alone would not have made it.
func (l *live) said() *judge.Report {
	if n := len(l.calls); n > 0 {
		rep := l.callView(l.calls[n-1]).Report
		return &rep
	}
	if l.report == nil || l.report.Firm || l.report.Call == judge.NeverReached {
		return l.report
	}
	rep := *l.report
	rep.Call = judge.NotYet // nearly: said only once it is firm
	return &rep
}

// callIfMade keeps a call that is made firmly. At the end the answer to the whole
// hold is kept, but "not yet" takes nothing back.
func (s *Shop) callIfMade(ctx context.Context, l *live) error {
	if l.report == nil || l.doubted() && l.hold.State != "ended" {
		return nil
	}
	ended := l.hold.State == "ended"
	if made := l.report.Firm || l.report.Call == judge.NeverReached || ended && l.report.Call != judge.NotYet; !made && !(ended && len(l.calls) == 0) {
		return nil
	}
	if n := len(l.calls); n > 0 && l.calls[n-1].Call == string(l.report.Call) && !ended {
		return nil // the last says the same
	}
	return s.keep(ctx, l)
}

// keep adds what is made of the hold now to its calls.
func (s *Shop) keep(ctx context.Context, l *live) error {
	raw, err := json.Marshal(l.report)
	if err != nil {
		return err
	}
	c := logbook.Call{Stamp: logbook.Stamp{ID: newID(), At: s.clock.Now(), By: "judge", Device: "server"}, HoldID: l.hold.ID, Judge: judge.Version,
		Call: string(l.report.Call), LastSeq: l.lastSeq(), Report: raw}
	if err := s.book.Batch(ctx, func(tx *logbook.Tx) error { return s.keepCall(tx, l, c) }); err != nil {
		return err
	}
	l.calls = append(l.calls, c)
	s.bus.send("job", map[string]string{"id": l.hold.JobID})
	return nil
}

func (s *Shop) keepCall(tx *logbook.Tx, l *live, c logbook.Call) error {
	if err := tx.AddCall(c); err != nil {
		return err
	}
	if l.hold.Purpose == "rig proof" || len(l.circuit.Tests()) > 1 {
		return nil // one of several steps does not speak for the job
	}
	var loss *float64
	if l.report.LossMLPerH != nil && l.report.Call == judge.Leaking {
		v := l.report.LossMLPerH.Value
		loss = &v
	}
	return tx.Summarise(l.hold.JobID, c.Call, loss, "")
}
