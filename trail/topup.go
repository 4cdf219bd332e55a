package trail

import (
	"fmt"

	"idlehiss/core/quantity"
	"idlehiss/desk"
)

// TopUps is how much is topped up, as it is typed.
type TopUps struct {
	Added  string  `json:"added" maxLength:"30" doc:"a volume, such as 0.5 L"`
	Within string  `json:"within" maxLength:"30" doc:"a time, such as 14 d"`
	Hours  float64 `json:"hours" exclusiveMinimum:"0" maximum:"24" doc:"a day under pressure"`
}

// ToppedUp is what its fact keeps.
type ToppedUp struct {
	M3PerS float64 `json:"m3_per_s"` // while under pressure
}

const hoursADay = 24

// Keep is how much is topped up as it is kept, and in words.
func (t TopUps) Keep() (kept ToppedUp, says string, err error) {
	added, err := quantity.Parse(t.Added, quantity.Volume, quantity.MustNamed("L", quantity.Volume), 0)
	if err != nil {
		return kept, "", desk.Refuse("added", "%v", err)
	}
	within, err := quantity.Parse(t.Within, quantity.Time, quantity.MustNamed("d", quantity.Time), 0)
	if err != nil || within.Low <= 0 {
		return kept, "", desk.Refuse("within", "%q is no time: type one such as 14 d", t.Within)
	}
	if !(t.Hours > 0) || t.Hours > hoursADay {
		return kept, "", desk.Refuse("hours", "type for how many of the day's 24 hours the circuit is under pressure")
	}
	kept.M3PerS = added.Mid() / (within.Mid() * t.Hours / hoursADay)
	return kept, fmt.Sprintf("Topped up by %s within %s, %s hours a day: %s mL an hour.", written(added), written(within), quantity.Significant(t.Hours, 2), quantity.Significant(kept.M3PerS*3600e6, 2)), nil
}

func written(v quantity.Value) string {
	return quantity.Significant(v.Unit.Of(v.Mid()), 3) + " " + v.Unit.Symbol
}
