package shop

import (
	"fmt"
	"math"

	"idlehiss/core/circuit"
	"idlehiss/core/physics"
	"idlehiss/core/quantity"
)

// hurts is the stored energy (J) from which it is shown before anything is pumped:
// a hard hammer blow (PHYSICS §8). askFill is where filling or a shield is asked for.
const (
	hurts   = 100.0
	askFill = 1000.0
)

// plugAcross is a common plug or stub (m), for the thrust.
const plugAcross = 25e-3

// stored says what stands in a step's gas at its target, where that can hurt.
func stored(c *circuit.Circuit, s circuit.Step, atPa, ambientPa float64) string {
	if atPa <= 0 {
		return ""
	}
	joules, _ := physics.StoredEnergy(atPa, c.Room(s), ambientPa)
	if joules < hurts {
		return ""
	}
	newtons := atPa * math.Pi / 4 * plugAcross * plugAcross
	says := fmt.Sprintf("At that pressure the air in it holds %s J; a hard hammer blow is 100. A 25 mm plug is pushed with %s N: nobody before one.",
		quantity.Significant(joules, 2), quantity.Significant(newtons, 2))
	if joules >= askFill {
		says += " Fill it with water but for a little air and look for weeps, shield it, or take a lower pressure."
	}
	return says
}
