package holds

import (
	"cmp"
	"context"
	"encoding/json"
	"fmt"
	"iter"
	"math"
	"slices"
	"time"

	"idlehiss/core/circuit"
	"idlehiss/core/judge"
	"idlehiss/core/quantity"
	"idlehiss/core/runsheet"
	"idlehiss/core/terms"
	"idlehiss/core/trace"
	"idlehiss/desk"
	"idlehiss/kit"
	"idlehiss/logbook"
	"idlehiss/snapshot"
)

// Side is the end at which a gauge sits: the number of its readings in the book.
type Side int

// The sides. Temperatures (°C) are kept beside the pressures, under a number of their own.
const (
	Near        Side = 1
	Far         Side = 2 // watched beside the near one, never judged
	Thermometer Side = 100
)

// record is everything the book has of a hold. A record is a value: what is shown to
// others is a copy, and its lists are never changed in place, only added to.
type record struct {
	hold    logbook.Hold
	rig     Rig
	machine string
	circuit *circuit.Circuit
	step    circuit.Step
	schools []judge.School
	unit    quantity.Unit // of the near gauge

	sides  [2]readings    // near, far
	whys   trace.Reasons  // for which readings are struck
	warmth []trace.Sample // °C
	events []logbook.Event
	gaps   []logbook.Gap
	calls  []call
}

// reading is one as a hold works with it, on the hold's own axis.
type reading = trace.Noted

// readings are one gauge's, in order of time, with the farthest from ambient that stands.
type readings struct {
	all     []reading
	highest float64 // Pa from ambient
}

// call is one call that was made, with its report.
type call struct {
	at     time.Time
	call   judge.Call
	report judge.Report
}

func (rec *record) side(s Side) *readings { return &rec.sides[s-Near] }

func (rec *record) near() []reading { return rec.sides[0].all }

// axis is the hold's own time, seconds since it began. Microseconds divide to the same
// double that an exported file reads back as.
func (rec *record) axis(t time.Time) float64 {
	return float64(t.UnixMicro()-rec.hold.At.UnixMicro()) / 1e6
}

// moment turns the hold's axis back into the clock's time.
func (rec *record) moment(atS float64) time.Time {
	return rec.hold.At.Add(time.Duration(math.Round(atS*1e6)) * time.Microsecond)
}

// begin makes the record of a hold without its readings.
func begin(h logbook.Hold, machine string, b snapshot.Basis) (record, error) {
	rec := record{hold: h, machine: machine, circuit: &b.Circuit, schools: b.Hold}
	if err := json.Unmarshal(h.Rig, &rec.rig); err != nil {
		return rec, fmt.Errorf("what the hold keeps of its rig cannot be read: %w", err)
	}
	if err := rec.rig.Gauge.Faults(); err != nil {
		return rec, fmt.Errorf("the hold's gauge: %w", err)
	}
	rec.step, _ = rec.circuit.Test(rec.rig.Step)
	_, rec.unit = rec.rig.Gauge.Ring()
	return rec, nil
}

// read brings a whole record from the book. Its readings are each gauge's in the order in which they were taken down.
func read(ctx context.Context, d *desk.Desk, h logbook.Hold, readings iter.Seq2[logbook.Reading, error]) (record, error) {
	j, err := d.Book.Job(ctx, h.JobID)
	if err != nil {
		return record{}, err
	}
	facts, err := d.Book.Facts(ctx, h.JobID)
	if err != nil {
		return record{}, err
	}
	basis, err := snapshot.Of(ctx, d.Book, j, facts)
	if err != nil {
		return record{}, err
	}
	rec, err := begin(h, j.Machine, basis)
	if err != nil {
		return rec, err
	}
	return rec, rec.fill(ctx, d.Book, readings)
}

func (rec *record) fill(ctx context.Context, book *logbook.Book, readings iter.Seq2[logbook.Reading, error]) (err error) {
	n, err := book.LastSeq(ctx, rec.hold.ID, int(Near))
	if err != nil {
		return err
	}
	rec.side(Near).all = make([]reading, 0, n)
	for r, err := range readings {
		if err != nil {
			return err
		}
		switch Side(r.Gauge) {
		case Thermometer:
			rec.warmth = append(rec.warmth, trace.Sample{AtS: rec.axis(r.At), Value: r.Value})
		case Far:
			rec.side(Far).take(rec.taken(r), rec.rig.sign())
		default:
			rec.side(Near).take(rec.taken(r), rec.rig.sign())
		}
	}
	// What came late was taken down late.
	slices.SortStableFunc(rec.near(), byTime)
	slices.SortStableFunc(rec.side(Far).all, byTime)
	trace.InTime(rec.warmth)
	if rec.events, err = book.Events(ctx, rec.hold.ID); err != nil {
		return err
	}
	if rec.gaps, err = book.Gaps(ctx, rec.hold.ID); err != nil {
		return err
	}
	calls, err := book.Calls(ctx, rec.hold.ID)
	rec.calls = decodeCalls(calls, rec.unit)
	return err
}

// decodeCalls reads what was said. A call whose report cannot be read any more still
// shows its word; the sentences are those of today, where the reasons were kept.
func decodeCalls(rows []logbook.Call, u quantity.Unit) []call {
	var out []call
	for _, c := range rows {
		x := call{at: c.At, call: judge.Call(c.Call)}
		if err := json.Unmarshal(c.Report, &x.report); err != nil {
			x.report = judge.Report{Call: x.call}
		}
		if len(x.report.Reasons) > 0 {
			x.report.Word(u)
		}
		if x.report.Reasons == nil {
			x.report.Reasons = []judge.Reason{}
		}
		out = append(out, x)
	}
	return out
}

// taken is a row of the book as a hold works with it.
func (rec *record) taken(r logbook.Reading) reading {
	u := rec.unit
	if r.Unit != u.Symbol {
		if other, err := quantity.Named(r.Unit, quantity.Pressure); err == nil {
			u = other
		}
	}
	x := reading{AtS: rec.axis(r.At), GaugePa: u.SI(r.Value), Seq: int32(r.Seq), Why: rec.whys.Place(r.Struck)}
	x.Taken(trace.How(r.How))
	x.Set(trace.Own, r.By == byGauge || r.Device == fromFile && x.Is&trace.Crossed == 0)
	return x
}

// byGauge is who took down what a gauge said by itself, fromFile the device of what came as a file.
const (
	byGauge  = "gauge"
	fromFile = "file"
)

// add takes in a reading in order of time; one that lies in the past is put in its
// place in a copy of the list.
func (rec *record) add(s Side, r reading) {
	l := rec.side(s)
	if n := len(l.all); n > 0 && l.all[n-1].AtS > r.AtS {
		l.all = slices.Clone(l.all)
		defer func() { slices.SortStableFunc(l.all, byTime) }()
	}
	l.take(r, rec.rig.sign())
}

// take puts a reading at the end.
func (l *readings) take(r reading, sign float64) {
	l.all = append(l.all, r)
	if r.Stands() {
		l.highest = max(l.highest, sign*r.GaugePa)
	}
}

func byTime(a, b reading) int { return cmp.Compare(a.AtS, b.AtS) }

// change replaces a reading in a copy of the list.
func (rec *record) change(s Side, seq int, set func(*reading)) bool {
	l := rec.side(s)
	for i := len(l.all) - 1; i >= 0; i-- {
		if int(l.all[i].Seq) != seq {
			continue
		}
		all := slices.Clone(l.all)
		set(&all[i])
		*l = readings{}
		for _, r := range all {
			l.take(r, rec.rig.sign())
		}
		return true
	}
	return false
}

// happened takes in an event in order of time.
func (rec *record) happened(e logbook.Event) {
	at := len(rec.events)
	for at > 0 && rec.events[at-1].At.After(e.At) {
		at--
	}
	rec.events = slices.Insert(slices.Clone(rec.events), at, e)
}

// lastSeq is the highest sequence of a side.
func (rec *record) lastSeq(s Side) int {
	seq, all := 0, rec.side(s).all
	// Readings taken down late stand a little before the end.
	for i := len(all) - 1; i >= 0 && i >= len(all)-lateMost; i-- {
		seq = max(seq, int(all[i].Seq))
	}
	return seq
}

const lateMost = 64

// last is the latest reading of a side that is believed.
func (rec *record) last(s Side) runsheet.Standing {
	all := rec.side(s).all
	for i := len(all) - 1; i >= 0; i-- {
		if all[i].Stands() {
			return runsheet.Standing{Pa: all[i].GaugePa, Seen: true}
		}
	}
	return runsheet.Standing{}
}

// trace is the hold as a trace, without what does not stand.
func (rec *record) trace() *trace.Trace {
	tr := &trace.Trace{Unit: rec.unit, DigitPa: rec.rig.Gauge.ForJudge().StepPa(), Temperature: rec.warmth}
	for _, r := range rec.sides[0].all {
		if r.Stands() {
			tr.Readings = append(tr.Readings, r.Reading())
		}
	}
	for _, r := range rec.sides[1].all {
		if r.Stands() {
			tr.Second = append(tr.Second, r.Reading())
		}
	}
	for _, e := range rec.events {
		tr.Events = append(tr.Events, trace.Event{AtS: rec.axis(e.At), Kind: e.Kind})
	}
	return tr
}

// question is what the judge is asked.
func (rec *record) question() judge.Question {
	at := rec.rig.Target.Pa
	q := judge.Question{AmbientPa: rec.rig.AmbientPa, AtPa: &at, LimitPaPerS: rec.rig.Allowance.PaPerS, Gauge: rec.rig.Gauge.ForJudge(), Unit: rec.unit,
		GasM3: rec.rig.GasM3, GasSE: rec.rig.GasSE, GasByStrokes: rec.rig.ByStrokes, StrokeM3: rec.rig.Pump.StrokeM3}
	if rec.hold.Purpose == terms.RigProof {
		return q
	}
	q.Coolant = rec.circuit.Liquid == circuit.Coolant
	q.LiquidM3 = rec.rig.LiquidM3
	if c, _ := rec.circuit.Chamber(rec.hold.Chamber); q.LiquidM3 == 0 && c.Holds == circuit.HoldsLiquid {
		q.LiquidM3 = float64(c.Volume)
	}
	q.NotTested = rec.circuit.Untested(rec.hold.Condition.Unsteady())
	q.WarmthUnread = rec.warmthUnread()
	q.RigProven = &rec.rig.Proven
	if rec.rig.Loss != nil {
		q.RigPaPerS, q.RigSE = rec.rig.Loss.on(q.GasM3, q.GasSE)
	}
	return q
}

// warmthUnread reports whether a loop of coolant is warm or cooling and its temperature not measured.
func (rec *record) warmthUnread() bool {
	near := rec.near()
	return rec.circuit.Liquid == circuit.Coolant && (rec.rig.Unread || rec.engineRuns() || rec.hold.Condition.Unsteady()) &&
		(len(near) == 0 || !judge.WarmthFresh(rec.warmth, near[len(near)-1].AtS))
}

// engineRuns reports whether the engine was last said to be on.
func (rec *record) engineRuns() bool {
	for i := len(rec.events) - 1; i >= 0; i-- {
		switch rec.events[i].Kind {
		case trace.EngineOn:
			return true
		case trace.EngineOff:
			return false
		}
	}
	return rec.hold.Condition.Engine
}

// still reports whether nothing was done to the pressure in the last moments.
func (rec *record) still(atS float64) bool {
	if rec.hold.State != terms.Holding {
		return false
	}
	for i := len(rec.events) - 1; i >= 0; i-- {
		if e := rec.events[i]; trace.Moves(e.Kind) {
			return atS-rec.axis(e.At) > stillAfterS
		}
	}
	return true
}

// stillAfterS is how long after a stroke or a bleed the pressure may leap, s.
const stillAfterS = 3.0

// settle fixes what is judged once the supply is shut: the air is known now, and with
// it the allowance.
func (rec *record) settle() {
	r := &rec.rig
	r.GasM3, r.GasSE, r.ByStrokes = 0, 0, false
	if a, ok := rec.air(); ok {
		r.GasM3, r.GasSE, r.ByStrokes = a.M3, a.SE(), true
	} else if g := r.Given; g != nil {
		r.GasM3, r.GasSE, r.ByStrokes = g.M3, g.SE, g.ByStrokes
	}
	r.Allowance = rec.allowance()
}

// air is the trapped air that the strokes show.
func (rec *record) air() (runsheet.TrappedAir, bool) {
	until := quantity.MostSeconds
	if rec.hold.IsolatedAt != nil {
		until = rec.axis(*rec.hold.IsolatedAt)
	}
	return runsheet.AirFromStrokes(rec.trace(), until, rec.rig.Pump, rec.rig.AmbientPa, rec.rig.draws())
}

func (rec *record) allowance() runsheet.Allowance {
	if rec.hold.Purpose == terms.RigProof {
		return runsheet.ForProof(rec.rig.Gauge)
	}
	a, _ := rec.rig.Wanted.Resolve(rec.step, rec.rig.Gauge, rec.schools, rec.rig.GasM3, rec.rig.Target.Pa, rec.rig.AmbientPa)
	return a
}

// encode keeps what was settled about the rig after the hold began.
func (rec *record) encode() (logbook.Hold, error) {
	raw, err := json.Marshal(rec.rig)
	h := rec.hold
	h.Rig = raw
	return h, err
}

// proof reports whether only the rig is under pressure.
func (rec *record) proof() bool { return rec.hold.Purpose == terms.RigProof }

// speaking are the gauges of a hold that speak by themselves.
func (rec *record) speaking() []kit.Gauge {
	return slices.DeleteFunc(rec.rig.gauges(), func(g kit.Gauge) bool { return !g.ByItself() })
}
