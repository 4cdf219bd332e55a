package circuit

import "slices"

// Hazard is something that can hurt. A caution or a tick names what it guards against in of.
type Hazard string

// The hazards.
const (
	Eyes      Hazard = "eyes"      // whatever flies: eyes covered
	AtZero    Hazard = "zero"      // opened before the pressure is gone
	Thrust    Hazard = "thrust"    // a plug, plate or piston that the pressure pushes out
	Energy    Hazard = "energy"    // a kilojoule and more in the gas
	Scald     Hazard = "scald"     // hot liquid
	Injection Hazard = "injection" // oil under pressure through skin
	Flammable Hazard = "flammable" // fuel, or oil mist
	Nitrogen  Hazard = "nitrogen"  // it smothers, and what else is filled in explodes with oil
	Fan       Hazard = "fan"       // fan and belts that start by themselves
	Voltage   Hazard = "voltage"   // high voltage
	Whip      Hazard = "whip"      // a hose parted under pressure
	Falls     Hazard = "falls"     // a load that the circuit holds up
	Moves     Hazard = "moves"     // a train, a brake, an engine that air turns
	Poison    Hazard = "poison"    // by mouth
)

// Hazards are all of them.
var Hazards = []Hazard{Eyes, AtZero, Thrust, Energy, Scald, Injection, Flammable, Nitrogen, Fan, Voltage, Whip, Falls, Moves, Poison}

// Values lists every hazard.
func (Hazard) Values() []string {
	var out []string
	for _, h := range Hazards {
		out = append(out, string(h))
	}
	return out
}

// usual are the hazards of a family of circuits, whatever its file says.
var usual = map[string][]Hazard{
	"cooling":     {Fan},
	"intake":      {Fan, Moves},
	"crankcase":   {Flammable},
	"carburettor": {Flammable},
	"housing":     {Flammable}, // oil mist
	"hydraulic":   {Falls},
	"accumulator": {Whip},
	"train":       {Moves, Whip},
}

// There are the hazards of a circuit: of its family, of what it carries and is tested with, of
// what its pressure moves, and those that its file names.
func (c *Circuit) There() []Hazard {
	out := []Hazard{Eyes}
	if slices.ContainsFunc(c.Tests(), func(s Step) bool { return s.Kind != Round && s.Kind != Checklist && s.Kind != Cracks }) {
		out = append(out, AtZero)
	}
	out = append(out, usual[c.Family]...)
	if c.Liquid == Coolant {
		out = append(out, Scald)
	}
	if c.Liquid == Fuel {
		out = append(out, Flammable)
	}
	switch c.Medium() {
	case WithOil:
		out = append(out, Injection)
	case WithNitrogen:
		out = append(out, Nitrogen)
	}
	if slices.ContainsFunc(c.Parts, func(p Part) bool { return p.Stop != "" || p.Kind == KindPiston }) {
		out = append(out, Thrust)
	}
	out = append(out, c.Hazards...)
	slices.SortFunc(out, func(a, b Hazard) int { return slices.Index(Hazards, a) - slices.Index(Hazards, b) })
	return slices.Compact(out)
}

// Guarded are the hazards that some caution or tick names.
func (c *Circuit) Guarded() []Hazard {
	var out []Hazard
	take := func(items []Item) {
		for _, i := range items {
			out = append(out, i.Of...)
		}
	}
	for _, s := range c.Stages {
		take(s.Cautions)
		take(s.Ticks)
	}
	for _, s := range c.Steps {
		take(s.Cautions)
		take(s.Ticks)
	}
	return out
}

// Musts reports whether a hazard is guarded by a tick without which nothing goes on, or
// without which the job cannot close.
func (c *Circuit) Musts(h Hazard) bool {
	guards := func(i Item) bool { return i.Must && slices.Contains(i.Of, h) }
	return slices.ContainsFunc(c.Stages, func(s StageText) bool { return slices.ContainsFunc(s.Ticks, guards) }) ||
		slices.ContainsFunc(c.Steps, func(s Step) bool { return slices.ContainsFunc(s.Ticks, guards) })
}
