package hunt

import (
	"slices"

	"idlehiss/core/circuit"
)

// There is what a part is like in a step, as far as methods mind: under vacuum, inside, beside a
// belt, on the machine, with oil under pressure or fuel about.
func There(c *circuit.Circuit, s circuit.Step, p circuit.Part) []Place {
	return there(c, c.There(), s, p)
}

// there is the same where the circuit's hazards are known.
func there(c *circuit.Circuit, hazards []circuit.Hazard, s circuit.Step, p circuit.Part) []Place {
	var out []Place
	add := func(yes bool, place Place) {
		if yes {
			out = append(out, place)
		}
	}
	burns := func(id string) bool { ch, _ := c.Chamber(id); return ch.Burns }
	add(s.Draws(), UnderVacuum)
	add(p.Between[0] != circuit.Outside && p.Between[1] != circuit.Outside, Inside)
	add(slices.Contains(hazards, circuit.Voltage), Electrics)
	add(slices.Contains(hazards, circuit.Fan) || slices.Contains(hazards, circuit.Moves) || slices.Contains(hazards, circuit.Falls), OnMachine)
	add(slices.Contains(hazards, circuit.Fan) && p.Behind != "", NearBelts)
	add(c.Medium() == circuit.WithOil, OilPressure)
	add(slices.Contains(hazards, circuit.Flammable), NearFuel)
	add(burns(p.Between[0]) || burns(p.Between[1]), Combustion)
	return out
}
