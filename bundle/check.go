package bundle

import (
	"bytes"
	"cmp"
	"crypto/sha256"
	"encoding/hex"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"math"
	"regexp"
	"slices"
	"time"

	"idlehiss/core/judge"
	"idlehiss/core/quantity"
	"idlehiss/core/terms"
	"idlehiss/holds"
	"idlehiss/logbook"
	"idlehiss/snapshot"
	"idlehiss/trail"
)

// ahead is how far the clock of the shop that made a bundle may be ahead of this one's.
const ahead = 24 * time.Hour

// earliest is before any entry of this program.
var earliest = time.Date(2020, 1, 1, 0, 0, 0, 0, time.UTC)

// The most letters of a name, and of a text.
const (
	mostName = 200
	mostText = 20_000
)

var wellFormed = regexp.MustCompile("^" + id + "$")

func ofSnapshot(raw []byte) (s snapshot.Snapshot, err error) { return s, json.Unmarshal(raw, &s) }

// job reads a job of a bundle, refuses what no shop could have written, and gives it with the machine that it is on. A
// hold that was still running when the bundle was made ends with the last that is known of it: its gauge is not here.
func (a *archive) job(id string, latest time.Time) (logbook.Whole, error) {
	var in Job
	if err := a.decode(jobName(id), &in); err != nil {
		return logbook.Whole{}, err
	}
	w := logbook.Whole{Job: in.Job, Words: in.Words, Facts: in.Facts, Observations: in.Observations, Photos: in.Photos}
	for _, h := range in.Holds {
		whole, err := a.hold(h)
		if err != nil {
			return w, no("the hold %s of job %s: %w", h.ID, id, err)
		}
		w.Holds = append(w.Holds, whole)
	}
	for i := range w.Photos {
		raw, err := a.unpack(photoName(w.Photos[i].ID))
		if err != nil {
			return w, err
		}
		if w.Photos[i].JPEG, err = trail.CleanPhoto(raw); err != nil {
			return w, no("%s: %w", photoName(w.Photos[i].ID), err)
		}
	}
	c := checking{latest: latest}
	if c.job(w); id != w.ID {
		c.say("it has another id in itself")
	}
	if len(c.faults) > 0 {
		return w, no("job %s: %w", id, errors.Join(c.faults[:min(3, len(c.faults))]...))
	}
	return w, nil
}

// hold reads a hold's traces.
func (a *archive) hold(h Hold) (logbook.WholeHold, error) {
	out := logbook.WholeHold{Hold: h.Hold, Events: h.Events, Gaps: h.Gaps, Calls: h.Calls}
	for _, g := range []int{int(holds.Near), int(holds.Far)} {
		if a.files[traceName(h.ID, g)] == nil {
			continue
		}
		raw, err := a.unpack(traceName(h.ID, g))
		if err != nil {
			return out, err
		}
		rs, err := readTrace(raw, h.At, g)
		if err != nil {
			return out, fmt.Errorf("%s: %w", traceName(h.ID, g), err)
		}
		out.Readings = append(out.Readings, rs...)
	}
	slices.SortFunc(out.Readings, func(a, b logbook.Reading) int { return cmp.Or(a.Gauge-b.Gauge, a.Seq-b.Seq) })
	// Who took each down stands beside the traces, in the same order.
	n := 0
	for _, s := range h.Sides {
		seq := 0
		for _, run := range s.Runs {
			for range min(run.N, len(out.Readings)-n+1) {
				if seq++; n >= len(out.Readings) || out.Readings[n].Gauge != s.Gauge || out.Readings[n].Seq != seq {
					return out, errors.New("its traces have other readings than its sides tell of")
				}
				r := &out.Readings[n]
				r.By, r.Device, r.Struck = run.By, run.Device, s.Struck[seq]
				n++
			}
		}
	}
	if n != len(out.Readings) {
		return out, errors.New("its traces have more readings than its sides tell of")
	}
	if out.State != terms.Ended {
		end := lastMoment(&out)
		out.State, out.EndedAt, out.LaidBy = terms.Ended, &end, false
	}
	return out, nil
}

// lastMoment is that of the last which is known of a hold.
func lastMoment(h *logbook.WholeHold) time.Time {
	last := h.At
	later := func(at time.Time) {
		if at.After(last) {
			last = at
		}
	}
	for _, r := range h.Readings {
		later(r.At)
	}
	for _, e := range h.Events {
		later(e.At)
	}
	if h.IsolatedAt != nil {
		later(*h.IsolatedAt)
	}
	return last
}

// checking gathers what is wrong with a job.
type checking struct {
	latest time.Time
	faults []error
}

func (c *checking) say(format string, a ...any) {
	if len(c.faults) < 10 {
		c.faults = append(c.faults, fmt.Errorf(format, a...))
	}
}

func (c *checking) stamp(of string, s logbook.Stamp) {
	if !wellFormed.MatchString(s.ID) {
		c.say("%s has no proper id", of)
	}
	c.moment(of, s.At)
	c.text(of, mostName, s.By, s.Device)
}

func (c *checking) moment(of string, at time.Time) {
	if at.Before(earliest) || at.After(c.latest) || at.Nanosecond()%1000 != 0 {
		c.say("%s is of %s: the clock of the shop that wrote it was wrong", of, at.Format(time.RFC3339))
	}
}

func (c *checking) text(of string, most int, texts ...string) {
	for _, t := range texts {
		if len(t) > most {
			c.say("%s has a text of %d letters", of, len(t))
		}
	}
}

// word refuses one that is not among those of its kind.
func word[T interface {
	~string
	Values() []string
}](c *checking, of string, w T) {
	if !slices.Contains(w.Values(), string(w)) {
		c.say("%s has %.40q, which this program does not know", of, string(w))
	}
}

// mostFigure is beyond every figure of a test in its unit; what is larger would only overflow in what is worked out.
const mostFigure = 1e13

// value refuses what is no JSON, or has a figure beyond any test.
func (c *checking) value(of string, raw json.RawMessage) {
	d := json.NewDecoder(bytes.NewReader(raw))
	for {
		switch t, err := d.Token(); x := t.(type) {
		case float64:
			if math.Abs(x) > mostFigure {
				c.say("%s has a figure of %g, which is none of a test", of, x)
				return
			}
		case nil:
			if err != nil && !errors.Is(err, io.EOF) {
				c.say("%s cannot be read", of)
			}
			if err != nil {
				return
			}
		}
	}
}

func (c *checking) job(w logbook.Whole) {
	c.stamp("it", w.Stamp)
	word(c, "it", w.State)
	c.text("it", mostText, w.Complaint, w.Found, w.Words, w.Call, w.Machine)
	c.end("it", w.EndedAt, w.State != terms.Open)
	if w.From != "" && !wellFormed.MatchString(w.From) {
		c.say("it was begun out of no proper job")
	}
	sum := sha256.Sum256(w.Snapshot)
	if hex.EncodeToString(sum[:]) != w.Hash {
		c.say("its snapshot of circuit and schools is not the one it began with")
	}
	c.value("its snapshot", w.Snapshot)
	s, err := ofSnapshot(w.Snapshot)
	if err != nil {
		c.say("its snapshot of circuit and schools cannot be read")
	}
	for _, x := range s.Hold {
		if x.HoldS <= 0 || x.AllowedPa < 0 {
			c.say("its school %.40q holds for no time", x.ID)
		}
	}
	for _, f := range w.Facts {
		of := "the fact " + f.ID
		c.stamp(of, f.Stamp)
		word(c, of, f.Subject)
		word(c, of, f.Source)
		c.text(of, mostText, f.About, f.Sentence)
		c.value(of, f.Value)
		if !f.Stage.Known() {
			c.say("%s was noted at no stage of a job", of)
		}
		if f.SupersededBy != "" && !slices.ContainsFunc(w.Facts, func(x logbook.Fact) bool { return x.ID == f.SupersededBy && x.ID != f.ID }) {
			c.say("%s is superseded by what is not there", of)
		}
	}
	for _, o := range w.Observations {
		of := "what was seen, " + o.ID
		c.stamp(of, o.Stamp)
		word(c, of, o.Class)
		c.text(of, mostText, o.Part, o.Method, o.Note)
		c.pressure(of, o.PressurePa)
	}
	for _, p := range w.Photos {
		c.stamp("the photo "+p.ID, p.Stamp)
		c.text("the photo "+p.ID, mostText, p.Part, p.Note)
	}
	for _, h := range w.Holds {
		c.hold(h)
	}
}

func (c *checking) pressure(of string, pa *float64) {
	if pa != nil && !quantity.PossiblePa(*pa) {
		c.say("%s was at a pressure beyond any test", of)
	}
}

func (c *checking) end(of string, at *time.Time, ended bool) {
	if (at != nil) != ended {
		c.say("%s has an end or has none, against its state", of)
	} else if at != nil {
		c.moment(of, *at)
	}
}

func (c *checking) hold(h logbook.WholeHold) {
	of := "the hold " + h.ID
	c.stamp(of, h.Stamp)
	word(c, of, h.Purpose)
	word(c, of, h.State)
	word(c, of, h.Condition.Warmth)
	c.text(of, mostText, h.Condition.Under, h.Condition.Note, h.Chamber)
	c.end(of, h.EndedAt, true)
	if h.IsolatedAt != nil {
		c.moment(of, *h.IsolatedAt)
	}
	c.value(of, h.Rig)
	var rig holds.Rig
	if err := json.Unmarshal(h.Rig, &rig); err != nil {
		c.say("%s: what it keeps of its rig cannot be read", of)
	} else if err := rig.Gauge.Faults(); err != nil {
		c.say("%s: its gauge: %w", of, err)
	}
	last := 0
	for _, r := range h.Readings {
		c.moment(of, r.At)
		c.text(of, mostName, r.By, r.Device, r.Struck)
		last = max(last, r.Seq)
	}
	for _, e := range h.Events {
		c.stamp("an event of "+of, e.Stamp)
		c.text("an event of "+of, mostName, e.Kind)
		c.pressure("an event of "+of, e.PressurePa)
	}
	for _, g := range h.Gaps {
		c.moment("a gap of "+of, g.From)
		c.moment("a gap of "+of, g.To)
		c.text("a gap of "+of, mostName, g.Why)
	}
	for _, x := range h.Calls {
		c.stamp("a call of "+of, x.Stamp)
		c.text("a call of "+of, mostName, x.Judge, x.Call)
		c.value("a call of "+of, x.Report)
		var report judge.Report
		if err := json.Unmarshal(x.Report, &report); err != nil || x.LastSeq > last {
			c.say("a call of %s stands on what is not there", of)
		}
	}
}
