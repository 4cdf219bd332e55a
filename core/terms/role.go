package terms

// Role is as what somebody is let in.
type Role string

// The roles.
const (
	Owner  Role = "owner"  // settings, kit, devices and backups, and all that a hand does
	Hand   Role = "hand"   // jobs and holds
	Logger Role = "logger" // posts the readings of named gauges
)

// Values lists every role.
func (Role) Values() []string { return values(Owner, Hand, Logger) }
