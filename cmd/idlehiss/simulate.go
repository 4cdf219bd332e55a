package main

import (
	"bytes"
	"fmt"
	"io"
	"maps"
	"slices"
	"strings"

	"idlehiss/core/circuit"
	"idlehiss/core/hunt"
	"idlehiss/core/physics"
	"idlehiss/core/quantity"
	"idlehiss/core/simulate"
	"idlehiss/library"
)

type simulateCmd struct {
	ID      string            `arg:"" help:"A circuit's id."`
	Leak    map[string]string `help:"Where it leaks and how much at test pressure, such as radiator=3cm3/min." placeholder:"PART=FLOW"`
	Law     string            `enum:"laminar,orifice,liquid" default:"laminar" help:"Law of the leak: gas through a narrow way or a hole, or liquid from below the gas."`
	Step    string            `help:"Which of the circuit's steps (its first hold)." placeholder:"STEP"`
	With    []string          `help:"An option that this machine has; may be repeated." placeholder:"OPTION"`
	Without []string          `help:"An option that it has not; may be repeated." placeholder:"OPTION"`
	By      []string          `help:"A school by which it is done, where schools differ; may be repeated." placeholder:"MATTER=SCHOOL"`
	OneWay  map[string]string `help:"A leak that passes one way only, such as clutch-seal=inward." placeholder:"PART=WAY"`
	At      pressureFlag      `default:"110kPa" help:"Test pressure; negative for vacuum."`
	Air     *volumeFlag       `help:"Trapped air (the circuit's own)." placeholder:"VOLUME"`
	Stroke  volumeFlag        `default:"30cm3" help:"Pump stroke."`
	Hold    timeFlag          `default:"5min" help:"How long it is held."`
	Every   timeFlag          `default:"1s" help:"Time between readings."`
	Digital pressureFlag      `default:"0.1kPa" help:"Last digit of the gauge."`
	Needle  *pressureFlag     `help:"A needle gauge with this division, read by eye, in place of digits." placeholder:"DIVISION"`
	Noise   pressureFlag      `default:"0.06kPa" help:"Noise of the gauge, one standard deviation."`
	Zero    *pressureFlag     `help:"What the gauge shows with nothing on it." placeholder:"PRESSURE"`
	Span    float64           `help:"Error of the gauge's span, %, within its class."`
	Drops   float64           `help:"Share of readings that never come, %."`
	Ambient pressureFlag      `default:"101.325kPa" help:"Air pressure around, absolute."`
	Seed    uint64            `default:"1" help:"Of the noise."`
	JSON    bool              `name:"json" help:"Print one JSON document instead of CSV."`
	Out     string            `help:"Write to this file." placeholder:"FILE"`
}

// simulated is a simulated trace with the truth behind it.
type simulated struct {
	Circuit           string           `json:"circuit"`
	Simulated         bool             `json:"simulated"`
	TestPressureKPa   float64          `json:"test_pressure_kpa"`
	AmbientKPa        float64          `json:"ambient_kpa"`
	AirCm3            float64          `json:"air_cm3"`
	TrueRateKPaPerMin float64          `json:"true_rate_kpa_per_min"`
	TrueFlowCm3PerMin float64          `json:"true_flow_cm3_per_min"`
	Readings          [][2]float64     `json:"readings_s_kpa"`
	Events            []simulatedEvent `json:"events"`
	Noticed           []noticed        `json:"noticed"`    // at each part by each method, at the pressure of the end
	Acts              []simulatedAct   `json:"acts"`       // of each act that cuts something off
	Conditions        []simulatedAct   `json:"conditions"` // hot, moved
}

// simulatedAct is the loss after an act, or under a condition, as a share of the loss before.
type simulatedAct struct {
	ID    string  `json:"id"`
	Share float64 `json:"share_left"`
}

// noticed is what a person notices at a part by a method.
type noticed struct {
	Part    string  `json:"part"`
	Method  string  `json:"method"`
	Minutes float64 `json:"minutes"` // with the way there and until it shows
	Chance  float64 `json:"chance"`
	Seen    bool    `json:"seen"`
	Shows   string  `json:"shows"`
	Meant   bool    `json:"meant"`
}

// leaks puts flows and ways together.
func (c *simulateCmd) leaks(flows map[string]float64) ([]simulate.Leak, error) {
	var out []simulate.Leak
	for _, part := range slices.Sorted(maps.Keys(flows)) {
		l := simulate.Leak{Part: part, M3PerS: flows[part], Law: physics.Law(c.Law)}
		switch way := c.OneWay[part]; way {
		case "":
		case "inward", "outward":
			l.Inward, l.Outward = way == "inward", way == "outward"
		default:
			return nil, badInput("--one-way: %s=%s; inward or outward is meant", part, way)
		}
		out = append(out, l)
	}
	for part := range c.OneWay {
		if flows[part] == 0 {
			return nil, badInput("--one-way: %s has no --leak", part)
		}
	}
	return out, nil
}

type simulatedEvent struct {
	AtS   float64 `json:"at_s"`
	Event string  `json:"event"`
}

func (c *simulateCmd) Run(o outside) error {
	x, _, err := fitted(c.ID, c.With, c.Without, c.By)
	if err != nil {
		return err
	}
	leaks, total, err := flows(c.Leak)
	if err != nil {
		return err
	}
	if c.Hold.Low/c.Every.Low > 1e6 {
		return badInput("more than a million readings: a longer --every will do")
	}
	at := c.At.Mid()
	step, ok := x.Test(c.Step)
	if !ok {
		return badInput("--step: %s has no step %q", x.Title, c.Step)
	}
	list, err := c.leaks(leaks)
	if err != nil {
		return err
	}
	sys, port, err := simulate.FromStep(&x, step, list, at, c.Ambient.Low)
	if err != nil {
		return badInput("--leak: %w", err)
	}
	if c.Air != nil {
		sys.Chambers[port].GasM3 = c.Air.Mid()
	}
	reader, unit, err := c.gauge()
	if err != nil {
		return err
	}
	tr, sim, err := simulate.Run{System: sys, Reader: reader, Unit: unit, StrokeM3: c.Stroke.Low, StrokeS: 1, TargetPa: at, HoldS: c.Hold.Low, EveryS: c.Every.Low, Chamber: port}.Trace()
	if err != nil {
		return badInput("%w", err)
	}
	methods, err := library.Methods()
	if err != nil {
		return err
	}
	notices := sim.Notices(x.Parts, methods, at, func(p circuit.Part) []hunt.Place { return hunt.There(&x, step, p) }, c.Seed)
	air := 0.0
	for i, ch := range x.Chambers {
		if slices.Contains(x.Pressed(step).Chambers, ch.ID) {
			air += sys.Chambers[i].GasM3
		}
	}
	var w bytes.Buffer
	if !c.JSON {
		tr.Settings = fmt.Sprintf("--ambient %.6gkPa --at=%.6gkPa --gas %.6gL %s", c.Ambient.Low/1e3, at/1e3, air*1e3, c.told())
		if err := tr.WriteCSV(&w, append([]string{"simulated: " + x.Title + ", " + leakWords(c.Leak)}, seen(x, methods, notices)...)...); err != nil {
			return err
		}
		return c.deliver(o, w.Bytes())
	}
	doc := simulated{Circuit: x.ID, Simulated: true, TestPressureKPa: at / 1e3, AmbientKPa: c.Ambient.Low / 1e3, AirCm3: air * 1e6,
		TrueFlowCm3PerMin: total * 60e6, TrueRateKPaPerMin: simulate.RatePaPerS(total, air) * 60 / 1e3, Readings: [][2]float64{}, Events: []simulatedEvent{}, Noticed: []noticed{}, Acts: []simulatedAct{}, Conditions: []simulatedAct{}}
	for _, a := range sim.Acts(&x, step) {
		doc.Acts = append(doc.Acts, simulatedAct(a))
	}
	for _, a := range sim.Changes(&x) {
		doc.Conditions = append(doc.Conditions, simulatedAct(a))
	}
	for _, n := range notices {
		doc.Noticed = append(doc.Noticed, noticed{n.Part, n.Method, n.Minutes(), n.Chance, n.Seen, n.Shows, n.Meant})
	}
	for _, r := range tr.Readings {
		doc.Readings = append(doc.Readings, [2]float64{r.AtS, r.GaugePa / 1e3})
	}
	for _, e := range tr.Events {
		doc.Events = append(doc.Events, simulatedEvent{e.AtS, e.Kind})
	}
	if err := document(&w, doc); err != nil {
		return err
	}
	return c.deliver(o, w.Bytes())
}

// gauge is the gauge as the flags tell it.
func (c *simulateCmd) gauge() (simulate.Reader, quantity.Unit, error) {
	r := simulate.Reader{StepPa: c.Digital.Low, NoisePa: c.Noise.Low, Span: c.Span / 100, Drops: c.Drops / 100, Seed: c.Seed}
	unit := c.Digital.Unit
	if c.Needle != nil {
		r.DivisionPa, r.StepPa, unit = c.Needle.Low, c.Needle.Low/4, c.Needle.Unit
	}
	if c.Zero != nil {
		r.ZeroPa = c.Zero.Mid()
	}
	switch {
	case r.StepPa <= 0:
		return r, unit, badInput("--digital, --needle: a gauge shows steps above zero, such as 0.1kPa")
	case c.Span < -20 || c.Span > 20:
		return r, unit, badInput("--span %v: a gauge's span errs by some per cent, at most 20", c.Span)
	case c.Drops < 0 || c.Drops > 90:
		return r, unit, badInput("--drops %v: 0 to 90 %%", c.Drops)
	}
	return r, unit, nil
}

// told is the gauge as the judge is told of it.
func (c *simulateCmd) told() string {
	if c.Needle != nil {
		return fmt.Sprintf("--division %.6gkPa", c.Needle.Low/1e3)
	}
	return fmt.Sprintf("--digital %.6gkPa", c.Digital.Low/1e3)
}

// seen says what was heard and seen, a line a look that showed something.
func seen(x circuit.Circuit, methods []hunt.Method, notices []simulate.Notice) (lines []string) {
	titles := map[string]string{}
	for _, p := range x.Parts {
		titles[p.ID] = p.Title
	}
	for _, m := range methods {
		titles[m.ID] = m.Title
	}
	for _, n := range notices {
		if n.Seen {
			lines = append(lines, fmt.Sprintf("noticed: %s: %s, %s, after %s", titles[n.Part], titles[n.Method], n.Shows, quantity.Clock(n.HandsS+n.WaitS)))
		}
	}
	if len(lines) == 0 {
		lines = []string{"noticed: nothing at any part by any method"}
	}
	return lines
}

// flows reads what leaks where, m³/s.
func flows(typed map[string]string) (leaks map[string]float64, total float64, err error) {
	leaks = map[string]float64{}
	for part, text := range typed {
		v, err := withUnit(text, quantity.Flow)
		if err != nil {
			return nil, 0, badInput("--leak %s: %w", part, err)
		}
		leaks[part] = v.Low
		total += v.Low
	}
	return leaks, total, nil
}

func (c *simulateCmd) deliver(o outside, content []byte) error {
	return writeOut(o, c.Out, func(w io.Writer) error {
		_, err := w.Write(content)
		return err
	})
}

func leakWords(leaks map[string]string) string {
	if len(leaks) == 0 {
		return "no leak"
	}
	var out []string
	for part, flow := range leaks {
		out = append(out, part+" "+flow)
	}
	return strings.Join(out, ", ")
}
