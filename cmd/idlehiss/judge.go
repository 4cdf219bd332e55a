package main

import (
	"fmt"
	"io"
	"os"
	"reflect"

	"github.com/alecthomas/kong"
	"github.com/google/shlex"

	"idlehiss/core/judge"
	"idlehiss/core/quantity"
	"idlehiss/core/trace"
	"idlehiss/library"
)

type judgeFlags struct {
	Limit        *rateFlag     `help:"Allowed steady loss, such as '10kPa in 2min'." placeholder:"FALL in TIME"`
	LimitFlow    *flowFlag     `help:"Allowed flow, such as 3cm3/min; needs --gas." placeholder:"FLOW"`
	Stroke       *volumeFlag   `help:"A stroke of the pump: a pump-up that stalls then tells a flow." placeholder:"VOLUME"`
	Liquid       *volumeFlag   `help:"Liquid beside the trapped air, for the temperature; needs --gas." placeholder:"VOLUME"`
	Gas          *volumeFlag   `help:"Trapped air, such as '0.45L ± 0.03L'." placeholder:"VOLUME"`
	ByStrokes    *bool         `help:"Pump strokes told --gas: walls that give way after them are reckoned in."`
	WarmthUnread *bool         `help:"It is warm and nobody reads how warm: no fall is judged."`
	Class        *float64      `help:"Gauge class, per cent of span." placeholder:"PERCENT"`
	Division     *pressureFlag `help:"Between two printed marks of a needle gauge." placeholder:"PRESSURE"`
	Digital      *pressureFlag `help:"Last digit of a digital gauge." placeholder:"PRESSURE"`
	Read         *float64      `help:"Fraction of a division that was read to (0.25)." placeholder:"FRACTION"`
	Ambient      *pressureFlag `help:"Air pressure around, absolute (101.325kPa)." placeholder:"PRESSURE"`
	Rig          *rateFlag     `help:"The rig's own loss, such as '0.2kPa/min'." placeholder:"FALL/TIME"`
	RigVolume    *volumeFlag   `help:"The rig's loss was measured dead-headed on this volume; needs --gas." placeholder:"VOLUME"`
	At           *pressureFlag `help:"Test pressure (the pressure at the start of the hold)." placeholder:"PRESSURE"`
	HoldFrom     *timeFlag     `help:"Where the hold begins, on the file's own time." placeholder:"TIME"`
	Live         *bool         `help:"Replay reading by reading and give the first call made; an exported hold asks for it."`
}

type judgeCmd struct {
	Trace string `arg:"" help:"Trace file, CSV; - for standard input."`
	judgeFlags
	JSON bool `name:"json" help:"Print one JSON document."`
}

func (c *judgeCmd) Run(o outside) error {
	rep, err := c.report(o)
	if err != nil {
		return err
	}
	if c.JSON {
		return document(o.out, rep)
	}
	c.print(o.out, rep)
	return nil
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
	ambient := quantity.StandardAtmosphere
	if c.Ambient != nil {
		ambient = c.Ambient.Low
	}
	tr, err := trace.ReadCSV(in, ambient)
	if err != nil {
		return judge.Report{}, badInput("%s: %w", name, err)
	}
	if err := c.fill(tr.Settings); err != nil {
		return judge.Report{}, badInput("%s: the line '# judge:': %w", name, err)
	}
	q, err := c.question(tr)
	if err != nil {
		return judge.Report{}, badInput("%w", err)
	}
	schools, err := library.HoldSchools()
	if err != nil {
		return judge.Report{}, err
	}
	rep, err := judge.Judge(tr, q, schools, c.Live != nil && *c.Live)
	if err != nil {
		return judge.Report{}, badInput("%w", err)
	}
	return rep, nil
}

// fill takes from the file's own judge line what the command line left open.
func (c *judgeCmd) fill(settings string) error {
	if settings == "" {
		return nil
	}
	args, err := shlex.Split(settings)
	if err != nil {
		return err
	}
	var from struct{ judgeFlags }
	parser, err := kong.New(&from, kong.Exit(func(int) {}), kong.Writers(io.Discard, io.Discard))
	if err != nil {
		return err
	}
	if _, err := parser.Parse(args); err != nil {
		return err
	}
	// Two flags of one question: whichever the command line has decides.
	if c.Limit != nil || c.LimitFlow != nil {
		from.Limit, from.LimitFlow = nil, nil
	}
	if c.Division != nil || c.Digital != nil {
		from.Division, from.Digital = nil, nil
	}
	mine, its := reflect.ValueOf(&c.judgeFlags).Elem(), reflect.ValueOf(&from.judgeFlags).Elem()
	for i := range mine.NumField() {
		if mine.Field(i).IsNil() {
			mine.Field(i).Set(its.Field(i))
		}
	}
	return nil
}

func (c *judgeCmd) question(tr *trace.Trace) (judge.Question, error) {
	q := judge.Question{AmbientPa: quantity.StandardAtmosphere}
	if c.Ambient != nil {
		q.AmbientPa = c.Ambient.Low
	} else if len(tr.Ambient) > 0 {
		q.AmbientPa = tr.Ambient[0].Value
	}
	if c.Limit != nil && c.LimitFlow != nil {
		return q, fmt.Errorf("--limit and --limit-flow are two ways to say one thing: give one")
	}
	if c.Limit != nil {
		q.LimitPaPerS = c.Limit.PaPerS
	}
	if c.LimitFlow != nil {
		q.LimitFlow = c.LimitFlow.Low
	}
	if c.Gas != nil {
		q.GasM3, q.GasSE = c.Gas.Mid(), c.Gas.SE
	}
	q.WarmthUnread = c.WarmthUnread != nil && *c.WarmthUnread
	q.GasByStrokes = c.ByStrokes != nil && *c.ByStrokes
	if c.Stroke != nil {
		q.StrokeM3 = c.Stroke.Mid()
	}
	if c.Liquid != nil {
		if c.Gas == nil {
			return q, fmt.Errorf("--liquid needs --gas beside it, such as '0.6L'")
		}
		q.LiquidM3 = c.Liquid.Mid()
	}
	if c.Class != nil {
		q.Gauge.ClassPercent = *c.Class
	}
	if c.Division != nil {
		q.Gauge.DivisionPa = c.Division.Low
	}
	if c.Digital != nil {
		q.Gauge.DigitalPa = c.Digital.Low
	}
	if c.Read != nil {
		q.Gauge.ReadFraction = *c.Read
	}
	if c.At != nil {
		at := c.At.Mid()
		q.AtPa = &at
	}
	if c.HoldFrom != nil {
		from := c.HoldFrom.Low
		q.HoldFrom = &from
	}
	if c.Rig != nil {
		q.RigPaPerS, q.RigSE = c.Rig.PaPerS, c.Rig.SE
	}
	if c.RigVolume != nil {
		if c.Rig == nil || q.GasM3 <= 0 {
			return q, fmt.Errorf("--rig-volume scales --rig to this system and needs both --rig and --gas")
		}
		q.RigPaPerS, q.RigSE = judge.OnSystem(q.RigPaPerS, q.RigSE, c.RigVolume.Low, c.RigVolume.SE, q.GasM3, q.GasSE)
	}
	return q, q.Check()
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
	if r.Next != "" {
		fmt.Fprintf(w, "  next: %s\n", r.Next)
	}
	for _, s := range r.Schools {
		fmt.Fprintf(w, "  %-22s %s: %s allowed, saw %s\n", s.ID, s.Verdict, s.Allowed, s.Saw)
	}
	if r.Called != nil {
		fmt.Fprintf(w, "  first called           %s at %s\n", *r.Called, quantity.Clock(*r.CalledAtS))
	}
}
