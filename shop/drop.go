package shop

import (
	"context"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"github.com/google/shlex"

	"idlehiss/core/judge"
	"idlehiss/core/physics"
	"idlehiss/core/quantity"
	"idlehiss/core/runsheet"
	"idlehiss/core/trace"
	"idlehiss/logbook"
)

// Dropped is a trace file that becomes a finished hold.
type Dropped struct {
	Write
	Name      string `json:"name" maxLength:"200"`
	Text      string `json:"text" doc:"the file, CSV"`
	Condition string `json:"condition,omitempty" maxLength:"120"`
	Step      string `json:"step,omitempty" doc:"of the circuit; absent: its first hold"`
}

// DroppedView tells which hold it became.
type DroppedView struct {
	HoldID string `json:"hold_id"`
	Known  bool   `json:"known"` // the same content was there already
}

// mostDropped is as many readings as a book takes in at once.
const mostDropped = 200_000

// thermometer is the gauge number under which temperatures are kept beside the
// pressures, °C.
const thermometer = 100

// Drop takes a trace file into a job. The same content becomes the same hold.
func (s *Shop) Drop(ctx context.Context, jobID string, in Dropped) (DroppedView, error) {
	j, err := s.openJob(ctx, jobID)
	if err != nil {
		return DroppedView{}, err
	}
	facts, err := s.book.Facts(ctx, jobID)
	if err != nil {
		return DroppedView{}, err
	}
	sn, err := snapshotOf(j, facts)
	if err != nil {
		return DroppedView{}, err
	}
	sum := sha256.Sum256([]byte(jobID + "\n" + in.Text))
	id := "trace-" + hex.EncodeToString(sum[:12])
	if _, err := s.book.Hold(ctx, id); err == nil {
		return DroppedView{HoldID: id, Known: true}, nil
	}
	tr, err := trace.ReadCSV(strings.NewReader(in.Text), s.ambient)
	if err != nil {
		return DroppedView{}, refuse("text", "the file %s: %v", in.Name, err)
	}
	if n := len(tr.Readings); n > mostDropped {
		return DroppedView{}, refuse("text", "the file %s has %d readings; up to %d go into the book. Thin it: one reading a second is plenty", in.Name, n, mostDropped)
	}
	step, err := holdStep(&sn.Circuit, in.Step)
	if err != nil {
		return DroppedView{}, err
	}
	p, err := s.plan(ctx, sn, step, nil)
	if err != nil {
		return DroppedView{}, err
	}
	r, err := s.droppedRig(ctx, sn, p, tr)
	if err != nil {
		return DroppedView{}, refuse("text", "the file %s: %v", in.Name, err)
	}
	r.Step = step.ID
	raw, err := json.Marshal(r)
	if err != nil {
		return DroppedView{}, err
	}
	first, last := tr.Readings[0].AtS, tr.Readings[len(tr.Readings)-1].AtS
	if n := len(tr.Events); n > 0 {
		first, last = math.Min(first, tr.Events[0].AtS), math.Max(last, tr.Events[n-1].AtS)
	}
	s.mu.Lock()
	defer s.mu.Unlock()
	w := in.Write
	w.ID = id
	begun := s.stamp(w).At.Add(-seconds(last - first)).Truncate(time.Microsecond)
	at := func(t float64) time.Time { return begun.Add(seconds(t - first)) }
	_, _, err = put(ctx, s, w, in.Text, func(tx *logbook.Tx, st logbook.Stamp) (Choice, error) {
		st.At = begun
		shut, end := at(shutAt(tr)), at(last)
		h := logbook.Hold{Stamp: st, JobID: jobID, Purpose: "test", Condition: in.Condition, Chamber: sn.Circuit.Pressed(step).Port.Chamber, Rig: raw, State: "ended", IsolatedAt: &shut, EndedAt: &end}
		if err := tx.AddHold(h); err != nil {
			return Choice{}, err
		}
		var rows []logbook.Reading
		for i, x := range tr.Readings {
			// Ten digits: what was read, without the dust of conversion.
			rows = append(rows, logbook.Reading{HoldID: id, Gauge: 1, Seq: i + 1, At: at(x.AtS), Value: tenDigits(tr.Unit.Of(x.GaugePa)), Unit: tr.Unit.Symbol, How: string(x.How), By: st.By, Device: "file"})
		}
		for i, x := range tr.Temperature {
			rows = append(rows, logbook.Reading{HoldID: id, Gauge: thermometer, Seq: i + 1, At: at(x.AtS), Value: x.Value, Unit: "°C", How: "read", By: st.By, Device: "file"})
		}
		errs := []error{tx.AddReadings(rows...)}
		for i, e := range tr.Events {
			es := st
			es.ID, es.At = fmt.Sprintf("%s-e%d", id, i), at(e.AtS)
			errs = append(errs, tx.AddEvent(logbook.Event{Stamp: es, HoldID: id, Kind: e.Kind}))
		}
		said := fmt.Sprintf("A trace from the file %s: %d readings over %s.", in.Name, len(tr.Readings), quantity.Clock(last-first))
		if len(tr.Second) > 0 {
			said += " Its second gauge was left out."
		}
		fs := st
		fs.At = s.clock.Now()
		errs = append(errs, fact(tx, fs, id+"-f", jobID, "file/"+id, "hold", "file", said, in.Name))
		return Choice{ID: id}, errors.Join(errs...)
	})
	if err != nil {
		return DroppedView{}, err
	}
	h, err := s.book.Hold(ctx, id)
	if err != nil {
		return DroppedView{}, err
	}
	l, err := s.load(ctx, h)
	if err != nil {
		return DroppedView{}, err
	}
	// The air is told by the file's own strokes, where it has them and no figure.
	if l.rig.GasM3 == 0 {
		l.settle()
		if err := errors.Join(l.saveRig(ctx, s.book), l.rebuild()); err != nil {
			return DroppedView{}, err
		}
	}
	if err := s.callIfMade(ctx, l); err != nil {
		return DroppedView{}, err
	}
	s.bus.send("job", map[string]string{"id": jobID})
	return DroppedView{HoldID: id}, nil
}

func seconds(s float64) time.Duration { return time.Duration(math.Round(s*1e6)) * time.Microsecond }

func tenDigits(v float64) float64 {
	if v == 0 {
		return 0
	}
	scale := math.Pow(10, 9-math.Floor(math.Log10(math.Abs(v))))
	return math.Round(v*scale) / scale
}

// shutAt is where the hold of a trace begins.
func shutAt(tr *trace.Trace) float64 {
	for _, p := range tr.Phases(nil) {
		if p.Kind == trace.Hold {
			return p.FromS
		}
	}
	return tr.Readings[0].AtS
}

// droppedRig is what the file was taken with: what its own judge line says, else
// what the job's plan says, else what the data tell.
func (s *Shop) droppedRig(ctx context.Context, sn snapshot, p *PlanView, tr *trace.Trace) (rig, error) {
	pumps, err := s.Pumps(ctx)
	if err != nil {
		return rig{}, err
	}
	r := rig{Pump: pumps[0], AmbientPa: s.ambient, Proven: true}
	said, err := settingsOf(tr.Settings)
	if err != nil {
		return r, err
	}
	figure := func(flag string, kind quantity.Kind) (quantity.Value, bool, error) {
		text, ok := said[flag]
		if !ok {
			return quantity.Value{}, false, nil
		}
		v, err := quantity.Parse(text, kind, quantity.Unit{}, s.ambient)
		if err == nil && v.Bare {
			err = fmt.Errorf("%q has no unit", text)
		}
		if err != nil {
			err = fmt.Errorf("the line '# judge:', --%s: %w", flag, err)
		}
		return v, err == nil, err
	}
	amb, ok, e1 := figure("ambient", quantity.Pressure)
	if ok {
		r.AmbientPa = amb.Low
	} else if len(tr.Ambient) > 0 {
		r.AmbientPa = tr.Ambient[0].Value
	}
	gas, _, e2 := figure("gas", quantity.Volume)
	r.GasM3, r.GasSE = gas.Mid(), gas.SE
	_, r.ByStrokes = said["by-strokes"]
	_, r.Unread = said["warmth-unread"]
	division, needle, e3 := figure("division", quantity.Pressure)
	digital, digits, e4 := figure("digital", quantity.Pressure)
	at, aimed, e5 := figure("at", quantity.Pressure)
	liquid, _, e6 := figure("liquid", quantity.Volume)
	stroke, stroked, e7 := figure("stroke", quantity.Volume)
	flow, flows, e8 := figure("limit-flow", quantity.Flow)
	if err := errors.Join(e1, e2, e3, e4, e5, e6, e7, e8); err != nil {
		return r, err
	}
	r.LiquidM3 = liquid.Mid()
	if stroked {
		r.Pump = Pump{ID: "file", Name: "the file's own pump", StrokeM3: stroke.Mid(), StrokeSE: stroke.SE}
	}
	class := 0.0
	if text, ok := said["class"]; ok {
		if class, _, err = quantity.Number(text); err != nil {
			return r, fmt.Errorf("the line '# judge:', --class: %w", err)
		}
	}
	if text, ok := said["rig"]; ok {
		rate, fall, over, err := quantity.ParseRate(text, quantity.Unit{}, s.ambient)
		if err == nil && fall.Bare {
			err = fmt.Errorf("%q has no unit", text)
		}
		if err != nil {
			return r, fmt.Errorf("the line '# judge:', --rig: %w", err)
		}
		r.Loss = &rigLoss{PaPerS: rate, SE: fall.SE / over.Low, OnSystem: true}
	}
	kind, step := "digital", digital.Low
	switch {
	case needle:
		kind, step = "needle", division.Low
	case !digits && p != nil && p.Gauge.Kind == "needle" && readsLike(tr, p.Gauge):
		kind, step = "needle", p.Gauge.DivisionPa()
	case !digits:
		step = judge.InferStep(tr)
	}
	low, high := 0.0, 0.0
	for _, x := range tr.Readings {
		low, high = math.Min(low, x.GaugePa), math.Max(high, x.GaugePa)
	}
	u := tr.Unit
	r.Gauge = runsheet.Gauge{ID: "file", Name: "the file's own gauge", Kind: kind, Class: class,
		Rings: []runsheet.Ring{{Unit: u.Symbol, From: math.Floor(u.Of(low)), To: math.Ceil(u.Of(math.Max(high*1.2, 4*step))), Division: tenDigits(u.Of(step)), Numbered: 0}}}
	switch {
	case aimed:
		r.Target.Pa = at.Mid()
	case p != nil:
		r.Target = p.Target
	default:
		from := shutAt(tr)
		for _, x := range tr.Readings {
			if x.AtS >= from {
				r.Target.Pa = x.GaugePa
				break
			}
		}
	}
	if math.Abs(r.Target.Pa) < 1000 {
		return r, fmt.Errorf("there is no pressure in it to judge")
	}
	r.Limit = runsheet.Limit{Of: "trace", Pa: math.Max(math.Abs(r.Target.Pa), high)}
	if p != nil {
		r.Limit, r.Wanted = p.Weakest, p.Wanted
	} else {
		r.Wanted.From = "house"
	}
	if text, ok := said["limit"]; ok {
		if _, err := runsheet.TypedAllowance(text, r.Gauge, r.AmbientPa); err != nil {
			return r, fmt.Errorf("the line '# judge:', --limit: %w", err)
		}
		r.Wanted = wantedAllowance{"typed", text}
	} else if flows {
		if r.GasM3 <= 0 {
			return r, fmt.Errorf("the line '# judge:': --limit-flow needs --gas beside it")
		}
		rate := physics.RateOfFlow(flow.Mid(), r.GasM3, physics.StandardK)
		r.Wanted = wantedAllowance{"typed", fmt.Sprintf("%.10g kPa in 1 min", rate*60/1e3)}
	}
	test, _ := sn.Circuit.Test(r.Step)
	r.Allowance, _ = allowanceFor(r.Wanted, test, r.Gauge, sn.Hold, r.GasM3, r.Target.Pa, r.AmbientPa)
	return r, nil
}

// readsLike tells whether all readings are quarters of a gauge's divisions.
func readsLike(tr *trace.Trace, g runsheet.Gauge) bool {
	quarter := g.DivisionPa() / 4
	for _, x := range tr.Readings {
		if n := x.GaugePa / quarter; math.Abs(n-math.Round(n)) > 0.02 {
			return false
		}
	}
	return true
}

// carried are the judge's flags that a hold in the book can keep; a file that says
// more is refused, so that it is not judged otherwise than it asks.
var carried = []string{"ambient", "at", "by-strokes", "class", "digital", "division", "gas", "limit", "limit-flow", "liquid", "live", "rig", "stroke", "warmth-unread"}

// settingsOf reads a "# judge:" line: --name value, --name=value.
func settingsOf(line string) (map[string]string, error) {
	words, err := shlex.Split(line)
	if err != nil {
		return nil, fmt.Errorf("the line '# judge:': %w", err)
	}
	out := map[string]string{}
	for i := 0; i < len(words); i++ {
		name, ok := strings.CutPrefix(words[i], "--")
		if !ok {
			return nil, fmt.Errorf("the line '# judge:': %q stands where a flag such as --limit belongs", words[i])
		}
		k, v, has := strings.Cut(name, "=")
		if !slices.Contains(carried, k) {
			return nil, fmt.Errorf("the line '# judge:' has --%s, which a hold in the book cannot keep: take it out, or use idlehiss judge", k)
		}
		if has {
			out[k] = v
		} else if i+1 < len(words) && !strings.HasPrefix(words[i+1], "--") {
			i++
			out[name] = words[i]
		} else {
			out[name] = ""
		}
	}
	return out, nil
}
