package shop

import (
	"context"
	"fmt"

	"idlehiss/core/quantity"
	"idlehiss/logbook"
)

// ToppedUp is what the machine is reported to lose.
type ToppedUp struct {
	Write
	Added  string  `json:"added" maxLength:"30" doc:"a volume, such as 0.5 L"`
	Within string  `json:"within" maxLength:"30" doc:"a time, such as 14 d"`
	Hours  float64 `json:"hours" exclusiveMinimum:"0" maximum:"24" doc:"a day under pressure"`
}

// toppedUp is what the fact "topped up" keeps.
type toppedUp struct {
	M3PerS float64 `json:"m3_per_s"` // while under pressure
}

// TopUps takes down how much is topped up, so that a leak can be held against it.
func (s *Shop) TopUps(ctx context.Context, jobID string, in ToppedUp) (JobView, error) {
	added, err := quantity.Parse(in.Added, quantity.Volume, quantity.MustNamed("L", quantity.Volume), 0)
	if err != nil {
		return JobView{}, refuse("added", "%v", err)
	}
	within, err := quantity.Parse(in.Within, quantity.Time, quantity.MustNamed("d", quantity.Time), 0)
	if err != nil || within.Low <= 0 {
		return JobView{}, refuse("within", "%q is no time: such as 14 d is wanted", in.Within)
	}
	if !(in.Hours > 0) || in.Hours > 24 {
		return JobView{}, refuse("hours", "a day has 24 hours: how many of them is the circuit under pressure?")
	}
	rate := added.Mid() / (within.Mid() * in.Hours / 24)
	return change(ctx, s, jobID, in.Write, in, func(tx *logbook.Tx, st logbook.Stamp, j logbook.Job, sn snapshot) error {
		return fact(tx, st, "topped-up-"+st.ID, jobID, "topped up", "first-look", "said",
			fmt.Sprintf("Topped up by %s within %s, %s hours a day: %s mL an hour.", unitsWritten(added), unitsWritten(within), quantity.Significant(in.Hours, 2), quantity.Significant(rate*3600e6, 2)), toppedUp{rate})
	})
}

func unitsWritten(v quantity.Value) string {
	return quantity.Significant(v.Unit.Of(v.Mid()), 3) + " " + v.Unit.Symbol
}
