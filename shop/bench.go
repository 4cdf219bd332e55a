package shop

import (
	"context"

	"idlehiss/catalogue"
	"idlehiss/door"
	"idlehiss/holds"
	"idlehiss/jobs"
	"idlehiss/kit"
	"idlehiss/record"
)

// BenchView is what is under pressure now and what wants hands next.
type BenchView struct {
	Holds    []holds.HoldView       `json:"holds"`
	Next     []jobs.NextThing       `json:"next"`
	Kit      []kit.DueView          `json:"kit"`  // what is due of it
	Note     record.ShiftNote       `json:"note"` // of the shift before
	Circuits []catalogue.CircuitRow `json:"circuits"`
	Demo     bool                   `json:"demo"`
	Wrong    *door.WrongView        `json:"wrong_pins"` // lately
	Listed   int                    `json:"listed"`     // number of the last event that it has
}

// Bench is what is under pressure now and what wants hands next. Its holds are
// summaries: a page asks for the trace of each by itself.
func (s *Shop) Bench(ctx context.Context) (BenchView, error) {
	_, listed := s.bus.at() // before anything is read
	v := BenchView{Demo: s.demo, Listed: listed, Holds: s.Holds.RunningSummaries()}
	var err error
	if v.Circuits, err = s.Catalogue.Rows(); err != nil {
		return v, err
	}
	if v.Next, err = s.Jobs.Next(ctx, v.Holds); err != nil {
		return v, err
	}
	if v.Kit, err = s.Kit.Due(ctx); err != nil {
		return v, err
	}
	if v.Note, err = s.Record.Note(ctx); err != nil {
		return v, err
	}
	v.Wrong, err = s.Door.Wrong(ctx)
	return v, err
}
