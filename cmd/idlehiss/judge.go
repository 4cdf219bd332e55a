package main

import (
	"fmt"
	"io"
	"os"
	"strings"

	"idlehiss/core/judge"
	"idlehiss/core/quantity"
	"idlehiss/core/trace"
	"idlehiss/library"
)

// judgeFlags are the judge's settings; each is read by the judge itself, so that the
// command line and a file's own line mean the same.
type judgeFlags struct {
	Limit        string `help:"Allowed steady loss, such as '10kPa in 2min'." placeholder:"FALL in TIME"`
	LimitFlow    string `help:"Allowed flow, such as 3cm3/min; needs --gas." placeholder:"FLOW"`
	Stroke       string `help:"A stroke of the pump: a pump-up that stalls then shows a flow." placeholder:"VOLUME"`
	Liquid       string `help:"Liquid beside the trapped air, for the temperature; needs --gas." placeholder:"VOLUME"`
	Gas          string `help:"Trapped air, such as '0.45L ± 0.03L'." placeholder:"VOLUME"`
	ByStrokes    bool   `help:"Pump strokes showed --gas: walls that give way after them are allowed for."`
	WarmthUnread bool   `help:"Warm, and the temperature is not measured: no fall is judged."`
	Class        string `help:"Gauge class, per cent of span." placeholder:"PERCENT"`
	Division     string `help:"Between two printed marks of a needle gauge." placeholder:"PRESSURE"`
	Digital      string `help:"Last digit of a digital gauge." placeholder:"PRESSURE"`
	Read         string `help:"Fraction of a division that was read to (0.25)." placeholder:"FRACTION"`
	Friction     string `help:"By how much a filmed needle's train may hold it back (a division)." placeholder:"PRESSURE"`
	Ambient      string `help:"Air pressure around, absolute (101.325kPa)." placeholder:"PRESSURE"`
	Rig          string `help:"The rig's own loss, such as '0.2kPa/min'." placeholder:"FALL/TIME"`
	RigVolume    string `help:"The rig's loss was measured dead-headed on this volume; needs --gas." placeholder:"VOLUME"`
	At           string `help:"Test pressure (the pressure at the start of the hold)." placeholder:"PRESSURE"`
	HoldFrom     string `help:"Where the hold begins, on the file's own time." placeholder:"TIME"`
	Live         bool   `help:"Replay reading by reading and give the first call made; an exported hold asks for it."`
}

// settings are those that were given.
func (f judgeFlags) settings() judge.Settings {
	out := judge.Settings{}
	for flag, text := range map[judge.Flag]string{judge.FlagLimit: f.Limit, judge.FlagLimitFlow: f.LimitFlow, judge.FlagStroke: f.Stroke, judge.FlagLiquid: f.Liquid, judge.FlagGas: f.Gas,
		judge.FlagClass: f.Class, judge.FlagDivision: f.Division, judge.FlagDigital: f.Digital, judge.FlagRead: f.Read, judge.FlagFriction: f.Friction, judge.FlagAmbient: f.Ambient, judge.FlagRig: f.Rig, judge.FlagRigVolume: f.RigVolume, judge.FlagAt: f.At, judge.FlagHoldFrom: f.HoldFrom} {
		if text != "" {
			out[flag] = text
		}
	}
	for flag, on := range map[judge.Flag]bool{judge.FlagByStrokes: f.ByStrokes, judge.FlagWarmthUnread: f.WarmthUnread, judge.FlagLive: f.Live} {
		if on {
			out[flag] = ""
		}
	}
	return out
}

type judgeCmd struct {
	Trace string `arg:"" help:"Trace file, CSV; - for standard input."`
	judgeFlags
	JSON bool `name:"json" help:"Print one JSON document."`
}

func (c *judgeCmd) Run(o outside) error {
	rep, err := c.report(o)
	if err == nil && c.JSON {
		return document(o.out, rep)
	}
	if err == nil {
		c.print(o.out, rep)
	}
	return err
}

// report reads the trace and judges it.
func (c *judgeCmd) report(o outside) (judge.Report, error) {
	in, name := o.in, "standard input"
	if c.Trace != "-" {
		f, err := os.Open(c.Trace)
		if err != nil {
			return judge.Report{}, badInput("%w", err)
		}
		defer f.Close()
		in, name = f, c.Trace
	}
	asked := c.settings()
	ambient, err := asked.AmbientPa()
	if err != nil {
		return judge.Report{}, badInput("%w", err)
	}
	tr, err := trace.ReadCSV(in, ambient)
	if err != nil {
		return judge.Report{}, badInput("%s: %w", name, err)
	}
	its, err := judge.ParseSettings(tr.Settings)
	if err != nil {
		return judge.Report{}, badInput("%s: the line '# judge:': %w", name, err)
	}
	asked = asked.Over(its)
	q, err := asked.Question(tr)
	if err != nil {
		return judge.Report{}, badInput("%w", err)
	}
	schools, err := library.HoldSchools()
	if err != nil {
		return judge.Report{}, err
	}
	rep, err := judge.Judge(tr, q, schools, asked.Has(judge.FlagLive))
	if err != nil {
		return judge.Report{}, badInput("%w", err)
	}
	return rep, nil
}

func (c *judgeCmd) print(w io.Writer, r judge.Report) {
	// A call that was made while watching stands, though the whole alone would not make it.
	if r.Called != nil && r.Call == judge.NotYet {
		fmt.Fprintf(w, "%s\n  Called while watching; the whole trace alone would say %s.\n", *r.Called, r.Call)
	} else {
		fmt.Fprintf(w, "%s\n", r.Call)
	}
	for _, s := range r.Why {
		fmt.Fprintf(w, "  %s\n", s)
	}
	line := func(label, unit string, i *judge.Interval) {
		if i != nil {
			fmt.Fprintf(w, "  %-22s %s %s (%s to %s)\n", label, quantity.Significant(i.Value, 3), unit, quantity.Significant(i.Low, 3), quantity.Significant(i.High, 3))
		}
	}
	line("loss", "kPa/min", r.RateKPaPerMin)
	if r.SmallestKPaPerMin != nil {
		fmt.Fprintf(w, "  %-22s %s kPa/min\n", "would have shown", quantity.Significant(*r.SmallestKPaPerMin, 2))
	}
	line("flow", "cm³/min", r.FlowCm3PerMin)
	line("equivalent hole", "µm", r.HoleUm)
	line("settles in", "s", r.SettleS)
	for _, a := range r.Acts {
		fmt.Fprintf(w, "  %-22s %s: %s\n", a.Event, quantity.Clock(a.AtS), a.Says)
	}
	if r.Next != "" {
		fmt.Fprintf(w, "  next: %s\n", r.Next)
	}
	for _, s := range r.Schools {
		fmt.Fprintf(w, "  %-22s %s: %s allowed, saw %s\n", s.ID, s.Verdict, s.Allowed, s.Saw)
	}
	if len(r.Unused) > 0 {
		fmt.Fprintf(w, "  columns not used: %s\n", strings.Join(r.Unused, ", "))
	}
	if r.Called != nil {
		fmt.Fprintf(w, "  first called           %s at %s\n", *r.Called, quantity.Clock(*r.CalledAtS))
	}
}
