package terms

// Alarm is what must be done at once.
type Alarm string

// The alarms.
const (
	NoAlarm    Alarm = ""
	OverLimit  Alarm = "over-limit"
	StopEngine Alarm = "stop-engine" // nothing relieves the loop while the cap is off
)

// Values lists every alarm.
func (Alarm) Values() []string { return values(NoAlarm, OverLimit, StopEngine) }
