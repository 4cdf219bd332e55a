// Package circuit describes what is put under pressure as a graph: chambers that
// hold pressure, parts between them and the outside, ports where a rig fits.
// Limits, run sheet, suspects and the simulated stand-in follow from it.
package circuit

import (
	"cmp"
	"strings"

	"idlehiss/core/quantity"
	"idlehiss/core/terms"
)

// Outside is the chamber that needs no declaration: the shop's air.
const Outside = "outside"

// Families are the kinds of circuit, in the order they are told.
var Families = []string{"cooling", "cap", "cooler", "intake", "crankcase", "carburettor", "head", "block", "housing", "hydraulic", "accumulator", "train"}

// Circuit is one versioned description. Times, volumes and pressures are SI.
type Circuit struct {
	ID         string      `yaml:"id" json:"id"`
	Version    int         `yaml:"version" json:"version"`
	Title      string      `yaml:"title" json:"title"`
	Family     string      `yaml:"family" json:"family"`
	Summary    string      `yaml:"summary" json:"summary"`
	Liquid     Liquid      `yaml:"liquid" json:"liquid"`       // what the loop carries at work
	Fill       Liquid      `yaml:"fill" json:"fill,omitempty"` // what it may be filled with for a test, or never
	With       Medium      `yaml:"tested_with" json:"tested_with,omitempty"`
	Mark       Mark        `yaml:"mark" json:"mark"`                         // none: its steps say how far
	Things     string      `yaml:"things" json:"things,omitempty"`           // what is gone round by name, such as wagon; empty: nothing
	Cut        *CutBetween `yaml:"cut_between" json:"cut_between,omitempty"` // what parts a row of them
	Hazards    []Hazard    `yaml:"hazards" json:"hazards,omitempty"`         // what can hurt here, beside what follows from the rest
	Options    []Option    `yaml:"options" json:"options,omitempty"`
	Positions  []Position  `yaml:"positions" json:"positions,omitempty"` // levers, spools, pistons: they decide what a step tries
	Covers     []Cover     `yaml:"covers" json:"covers,omitempty"`       // what must come off before a part is seen
	Matters    []Matter    `yaml:"matters" json:"matters,omitempty"`     // in which schools differ
	Repairs    []Repair    `yaml:"repairs" json:"repairs,omitempty"`     // smallest first; none: the library's own
	Chambers   []Chamber   `yaml:"chambers" json:"chambers"`
	Ports      []Port      `yaml:"ports" json:"ports,omitempty"`
	Signs      []Sign      `yaml:"signs" json:"signs,omitempty"`
	Parts      []Part      `yaml:"parts" json:"parts"`
	Steps      []Step      `yaml:"steps" json:"steps,omitempty"`         // none: one hold, by the mark
	Acts       []Act       `yaml:"acts" json:"acts,omitempty"`           // that split the suspects under pressure
	Imitators  []Imitator  `yaml:"imitators" json:"imitators,omitempty"` // what looks like what
	Words      []string    `yaml:"words" json:"words,omitempty"`         // in a machine's name or complaint, that propose this circuit
	Also       []string    `yaml:"also" json:"also,omitempty"`           // words that propose it less strongly
	Complaints []string    `yaml:"complaints" json:"complaints,omitempty"`
	Further    []Further   `yaml:"further" json:"further,omitempty"` // where it is tight and the complaint stands
	Stages     []StageText `yaml:"stages" json:"stages,omitempty"`
	NotTested  []string    `yaml:"not_tested" json:"not_tested,omitempty"`
	NotCold    []string    `yaml:"not_tested_cold" json:"not_tested_cold,omitempty"` // as long as every hold was cold
	Standing   string      `yaml:"standing" json:"standing"`
	Source     string      `yaml:"source" json:"source"`
}

// Liquid is what a circuit carries at work.
type Liquid string

// The liquids that matter to a rule; a file may name another.
const (
	Coolant Liquid = "coolant" // hot at work: a fall while it cools proves nothing
	Oil     Liquid = "oil"     // under pressure it is injected through skin
	Water   Liquid = "water"   // that a bare part may be filled with
	Fuel    Liquid = "fuel"    // burns: no flame, no spark, open air
	Never   Liquid = "never"   // said of what may not be filled at all
)

// MayBeFilled is what a circuit may be filled with for a test; empty: with nothing.
func (c *Circuit) MayBeFilled() Liquid {
	if c.Fill == Never {
		return ""
	}
	return c.Fill
}

// Untested is what was not tested; warm: a hold was warm, or hot.
func (c *Circuit) Untested(warm bool) []string {
	out := append([]string{}, c.NotTested...)
	if !warm {
		out = append(out, c.NotCold...)
	}
	return out
}

// Medium is what is put under pressure.
type Medium string

// The media; empty is air.
const (
	WithAir      Medium = "air"
	WithNitrogen Medium = "nitrogen"
	WithOil      Medium = "oil"
)

// Medium is what a circuit is tested with.
func (c *Circuit) Medium() Medium { return cmp.Or(c.With, WithAir) }

// Further is a next step where a circuit is tight and the complaint stands: the test of another
// circuit, a step of this one, or a hold under other conditions. One of the three is given.
type Further struct {
	ID      string `yaml:"id" json:"id"`
	Title   string `yaml:"title" json:"title"`
	Why     string `yaml:"why" json:"why"`
	Circuit string `yaml:"circuit" json:"circuit"`
	Step    string `yaml:"step" json:"step"`
	Held    Held   `yaml:"held" json:"held"`
}

// Held is how a hold is repeated.
type Held string

// The ways to hold again.
const (
	HeldHot   Held = "hot"
	HeldWarm  Held = "warm"
	HeldMoved Held = "moved" // something is moved meanwhile
	HeldFull  Held = "full"  // with less air, and longer
	HeldNight Held = "night" // after a night
)

// Values lists every way, and none.
func (Held) Values() []string {
	return []string{"", string(HeldHot), string(HeldWarm), string(HeldMoved), string(HeldFull), string(HeldNight)}
}

// Content is what a chamber holds.
type Content string

// The contents of a chamber.
const (
	HoldsLiquid Content = "liquid" // and the trapped gas above it
	HoldsGas    Content = "gas"
)

// Mark says which printed figure limits the circuit.
type Mark struct {
	On      string      `yaml:"on" json:"on"`       // "cap"
	Label   string      `yaml:"label" json:"label"` // of the field in which it is typed
	Accept  [2]Pressure `yaml:"accept" json:"accept"`
	Certain [2]Pressure `yaml:"certain" json:"certain"`
}

// Pressure is written with its unit in files.
type Pressure = quantity.Pa

// Chamber is a space that holds pressure.
type Chamber struct {
	ID         string      `yaml:"id" json:"id"`
	Title      string      `yaml:"title" json:"title"`
	Holds      Content     `yaml:"holds" json:"holds"`
	Open       bool        `yaml:"open" json:"open"`             // stands at ambient whatever is done
	Burns      bool        `yaml:"burns" json:"burns,omitempty"` // fuel burns in it when the engine runs
	Volume     quantity.M3 `yaml:"volume" json:"volume"`
	TrappedAir quantity.M3 `yaml:"trapped_air" json:"trapped_air"`
	Gives      []Give      `yaml:"gives" json:"gives,omitempty"`
	PumpHeat   Heat        `yaml:"pump_heat" json:"pump_heat"`
	At         [2]float64  `yaml:"at" json:"at"` // place on the drawing, per cent
}

// Give is how much a chamber widens under pressure, and how slowly: what makes
// a trace settle. A time of nothing is plain elasticity.
type Give struct {
	Volume quantity.M3 `yaml:"volume" json:"volume"`
	At     Pressure    `yaml:"at" json:"at"`
	Over   quantity.S  `yaml:"over" json:"over"`
}

// Heat is what share of the heat of its compression pumped air brings in (the pump
// and its hose keep the rest), and how fast it cools at the walls.
type Heat struct {
	Share float64    `yaml:"share" json:"share"`
	Over  quantity.S `yaml:"over" json:"over"`
}

// Port is where a rig can be fitted.
type Port struct {
	ID       string          `yaml:"id" json:"id"`
	Chamber  string          `yaml:"chamber" json:"chamber"`
	Title    string          `yaml:"title" json:"title"`
	Fittings []terms.Fitting `yaml:"fittings" json:"fittings,omitempty"`

	// What becomes of it in a step that is fed elsewhere.
	Close    string `yaml:"close" json:"close,omitempty"`         // with what it is shut
	ClosedBy string `yaml:"closed_by" json:"closed_by,omitempty"` // or by what it is shut already
	Mouth    string `yaml:"mouth" json:"mouth,omitempty"`         // or the opening among the parts that is its mouth
	LeftOpen string `yaml:"left_open" json:"left_open,omitempty"` // or why it stays open

	With    []string `yaml:"with" json:"with,omitempty"`       // options that must be fitted
	Without []string `yaml:"without" json:"without,omitempty"` // and those that must not
}

// Says names the port and the fittings that it takes.
func (p Port) Says() string {
	var names []string
	for _, x := range p.Fittings {
		names = append(names, string(x))
	}
	if len(names) == 0 {
		return p.Title
	}
	return p.Title + ": " + strings.Join(names, ", ")
}

// Sign is something that may be seen before any tool is used.
type Sign struct {
	ID    string  `yaml:"id" json:"id"`
	Title string  `yaml:"title" json:"title"`
	Tells float64 `yaml:"tells" json:"tells,omitempty"` // how many times likelier it makes the parts it points to; 0: as usual
}

// SignTitle is what a sign is called. A job from before signs had ids knows each by its
// title.
func (c *Circuit) SignTitle(id string) string {
	for _, s := range c.Signs {
		if s.ID == id {
			return s.Title
		}
	}
	return id
}

// Part stands between two chambers, or a chamber and the outside: each is a suspect.
type Part struct {
	ID      string      `yaml:"id" json:"id"`
	Title   string      `yaml:"title" json:"title"`
	Between [2]string   `yaml:"between" json:"between"`
	Kind    string      `yaml:"kind" json:"kind"`
	Odds    float64     `yaml:"odds" json:"odds"`
	Reach   quantity.S  `yaml:"reach" json:"reach"`
	Behind  string      `yaml:"behind" json:"behind"`                     // id of the cover that hides it; reach is a look from outside
	Look    string      `yaml:"look" json:"look"`                         // where and for what
	Within  string      `yaml:"look_behind" json:"look_behind,omitempty"` // the same behind its cover
	Signs   []string    `yaml:"signs" json:"signs,omitempty"`             // ids of the circuit's signs that point to it
	Limit   Pressure    `yaml:"limit" json:"limit"`
	Area    quantity.M2 `yaml:"area" json:"area,omitempty"` // on which the pressure pushes, of a plate, a plug or a piston
	Removed bool        `yaml:"removed" json:"removed"`     // off while the rig is on: not tested
	Rig     bool        `yaml:"rig" json:"rig,omitempty"`   // of the rig: its leak is no fault of what is tested

	Each     string             `yaml:"each" json:"each,omitempty"`           // every thing has one: its title in the singular
	Joins    bool               `yaml:"joins" json:"joins,omitempty"`         // open between its two sides unless a step shuts it
	Opening  bool               `yaml:"opening" json:"opening,omitempty"`     // open to the air: must be closed for a test
	Close    string             `yaml:"close" json:"close,omitempty"`         // with what
	ClosedBy string             `yaml:"closed_by" json:"closed_by,omitempty"` // or by what it is closed already
	Meant    quantity.M3PerS    `yaml:"meant" json:"meant,omitempty"`         // an escape that belongs there: so much
	MeantAt  Pressure           `yaml:"meant_at" json:"meant_at,omitempty"`   // at this pressure
	Lifts    Pressure           `yaml:"lifts" json:"lifts,omitempty"`         // a relief: opens at
	Reseats  Pressure           `yaml:"reseats" json:"reseats,omitempty"`     // and shuts at
	OneWay   bool               `yaml:"one_way" json:"one_way,omitempty"`     // lets through from the first side only
	OpensAt  Pressure           `yaml:"opens_at" json:"opens_at,omitempty"`   // at so much across it; 0: at next to nothing
	BothWays bool               `yaml:"both_ways" json:"both_ways,omitempty"` // a valve that must hold from either side
	At       []string           `yaml:"at" json:"at,omitempty"`               // positions in which the pressure reaches it; none: all
	OpenAt   []string           `yaml:"open_at" json:"open_at,omitempty"`     // positions in which it lets through
	LeftOpen string             `yaml:"left_open" json:"left_open,omitempty"` // an opening that no step shuts, and why
	Stop     string             `yaml:"stop" json:"stop,omitempty"`           // id of the tick that holds what the pressure moves
	Line     Line               `yaml:"line" json:"line,omitempty"`           // where it stands beside the liquid line
	Below    []string           `yaml:"below" json:"below,omitempty"`         // parts above it, whose leak runs down to here
	Changes  map[Change]float64 `yaml:"changes" json:"changes,omitempty"`     // how many times its leak grows under these
	With     []string           `yaml:"with" json:"with,omitempty"`           // options that must be fitted
	Without  []string           `yaml:"without" json:"without,omitempty"`     // and those that must not
}

// Kinds of part that a rule knows; a file may name others.
const (
	KindPiston = "piston" // the pressure moves it
	KindValve  = "valve"
	KindNeedle = "needle"
)

// StageText is what a circuit says at one stage of the order of work.
type StageText struct {
	Stage    terms.Stage `yaml:"stage" json:"stage"`
	Text     string      `yaml:"text" json:"text"`
	Cautions []Item      `yaml:"cautions" json:"cautions,omitempty"`
	Ticks    []Item      `yaml:"ticks" json:"ticks,omitempty"`
}

// Item is one line to be ticked or heeded.
type Item struct {
	ID    string   `yaml:"id" json:"id"`
	Text  string   `yaml:"text" json:"text"`
	Must  bool     `yaml:"must" json:"must"`       // the job cannot close without it
	Count bool     `yaml:"count" json:"count"`     // a closure: counted in and out
	Of    []Hazard `yaml:"of" json:"of,omitempty"` // what it guards against
}

// Marked reports whether a printed figure limits the circuit.
func (c *Circuit) Marked() bool { return c.Mark.On != "" }

// Chamber finds a chamber by its id.
func (c *Circuit) Chamber(id string) (Chamber, bool) {
	for _, ch := range c.Chambers {
		if ch.ID == id {
			return ch, true
		}
	}
	return Chamber{}, false
}

// Stage gives the circuit's own words for a stage.
func (c *Circuit) Stage(id terms.Stage) StageText {
	for _, s := range c.Stages {
		if s.Stage == id {
			return s
		}
	}
	return StageText{Stage: id}
}

// Plausible is the range of marks for the decoder.
func (c *Circuit) Plausible() quantity.Plausible {
	return quantity.Plausible{What: c.Mark.On,
		LowPa: float64(c.Mark.Accept[0]), HighPa: float64(c.Mark.Accept[1]),
		SureLow: float64(c.Mark.Certain[0]), SureHighPa: float64(c.Mark.Certain[1])}
}
