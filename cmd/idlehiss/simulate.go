package main

import (
	"bytes"
	"fmt"
	"strings"

	"idlehiss/core/physics"
	"idlehiss/core/quantity"
	"idlehiss/core/simulate"
	"idlehiss/library"
)

type simulateCmd struct {
	ID      string            `arg:"" help:"A circuit's id."`
	Leak    map[string]string `help:"Where it leaks and how much at test pressure, such as radiator=3cm3/min." placeholder:"PART=FLOW"`
	Law     string            `enum:"laminar,orifice" default:"laminar" help:"Law of the leak."`
	At      pressureFlag      `default:"110kPa" help:"Test pressure; negative for vacuum."`
	Air     *volumeFlag       `help:"Trapped air (the circuit's own)." placeholder:"VOLUME"`
	Stroke  volumeFlag        `default:"30cm3" help:"Pump stroke."`
	Hold    timeFlag          `default:"5min" help:"How long it is held."`
	Every   timeFlag          `default:"1s" help:"Time between readings."`
	Digital pressureFlag      `default:"0.1kPa" help:"Last digit of the gauge."`
	Noise   pressureFlag      `default:"0.06kPa" help:"Noise of the gauge, one standard deviation."`
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
}

type simulatedEvent struct {
	AtS   float64 `json:"at_s"`
	Event string  `json:"event"`
}

func (c *simulateCmd) Run(o outside) error {
	x, err := library.Circuit(c.ID)
	if err != nil {
		return badInput("%w", err)
	}
	leaks, total, err := flows(c.Leak)
	if err != nil {
		return err
	}
	if c.Hold.Low/c.Every.Low > 1e6 {
		return badInput("more than a million readings: a longer --every will do")
	}
	at := c.At.Mid()
	sys, err := simulate.FromCircuit(&x, leaks, physics.Law(c.Law), at, c.Ambient.Low)
	if err != nil {
		return badInput("--leak: %w", err)
	}
	if at < 0 {
		for i := range sys.Passages {
			sys.Passages[i].StdM3PeS = -sys.Passages[i].StdM3PeS
		}
	}
	if c.Air != nil {
		sys.Chambers[0].GasM3 = c.Air.Mid()
	}
	tr, err := simulate.Run{System: sys, Reader: simulate.Reader{StepPa: c.Digital.Low, NoisePa: c.Noise.Low, Seed: c.Seed}, Unit: c.Digital.Unit,
		StrokeM3: c.Stroke.Low, StrokeS: 1, TargetPa: at, HoldS: c.Hold.Low, EveryS: c.Every.Low}.Trace()
	if err != nil {
		return badInput("%w", err)
	}
	air := sys.Chambers[0].GasM3
	var w bytes.Buffer
	if !c.JSON {
		tr.Settings = fmt.Sprintf("--ambient %.6gkPa --at=%.6gkPa --gas %.6gL --digital %.6gkPa", c.Ambient.Low/1e3, at/1e3, air*1e3, c.Digital.Low/1e3)
		if err := tr.WriteCSV(&w, "simulated: "+x.Title+", "+leakWords(c.Leak)); err != nil {
			return err
		}
		return c.deliver(o, w.Bytes())
	}
	doc := simulated{Circuit: x.ID, Simulated: true, TestPressureKPa: at / 1e3, AmbientKPa: c.Ambient.Low / 1e3, AirCm3: air * 1e6,
		TrueFlowCm3PerMin: total * 60e6, TrueRateKPaPerMin: simulate.RatePaPerS(total, air) * 60 / 1e3, Readings: [][2]float64{}, Events: []simulatedEvent{}}
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
	if c.Out != "" {
		return writeAside(c.Out, content)
	}
	_, err := o.out.Write(content)
	return err
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
