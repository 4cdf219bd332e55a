package holds

import (
	"bytes"
	"math"
	"testing"
	"time"

	"idlehiss/core/judge"
	"idlehiss/core/trace"
)

// judged is the judgement of a hold's export, watched or as a whole.
func (r *room) judged(hold string, watched bool) judge.Report {
	r.Helper()
	tr, notes, err := r.Export(r.Context(), hold)
	if err != nil {
		r.Fatal(err)
	}
	var file bytes.Buffer
	if err := tr.WriteCSV(&file, notes...); err != nil {
		r.Fatal(err)
	}
	asked, err := judge.ParseSettings(tr.Settings)
	if err != nil {
		r.Fatal(err)
	}
	ambient, err := asked.AmbientPa()
	if err != nil {
		r.Fatal(err)
	}
	if tr, err = trace.ReadCSV(&file, ambient); err != nil {
		r.Fatal(err)
	}
	q, err := asked.Question(tr)
	if err != nil {
		r.Fatal(err)
	}
	l, err := judge.NewLive(q, nil)
	if err != nil {
		r.Fatal(err)
	}
	l.Watch(watched)
	next := 0
	for _, x := range tr.Readings {
		for ; next < len(tr.Events) && tr.Events[next].AtS <= x.AtS; next++ {
			l.Event(tr.Events[next])
		}
		l.Reading(x)
	}
	return l.Report()
}

// At any moment what a live hold shows is what its export says: before a call, after one, when the
// figures go on, and at the end.
func TestALiveHoldSaysWhatItsExportSays(t *testing.T) {
	r := open(t)
	const at = 110e3
	hold := r.begun(at)
	r.press(hold, trace.Stroke)
	r.stands(hold, at/1e3)
	r.press(hold, trace.Isolate)
	same := func(when string, shown, file *judge.Report) {
		t.Helper()
		a, b := shown.RateKPaPerMin, file.RateKPaPerMin
		if (a == nil) != (b == nil) {
			t.Fatalf("%s: shown %+v, in the file %+v", when, a, b)
		}
		if a == nil {
			return
		}
		for _, x := range [][2]float64{{a.Value, b.Value}, {a.Low, b.Low}, {a.High, b.High}} {
			if math.Abs(x[0]-x[1]) > 0.005*math.Max(1, math.Abs(x[1])) {
				t.Errorf("%s: shown %+v, in the file %+v", when, *a, *b)
				return
			}
		}
	}
	called := false
	first := 0.0
	for n := range 40 {
		r.clock.set(r.clock.Now().Add(15 * time.Second))
		// It settles at first, and loses 2.4 kPa a minute; 1 is allowed.
		s := 16 * float64(n+1)
		h := r.stands(hold, math.Round((110-4*(1-math.Exp(-s/40))-2.4*s/60)/1.25)*1.25)
		if n == 0 {
			continue // a trace of two readings is none
		}
		file := r.judged(hold, true)
		same(time.Duration(s*float64(time.Second)).String(), h.Report, &file)
		switch {
		case len(h.Calls) == 0 && h.Report.Call != file.Call:
			t.Errorf("after %g s: shown %s, in the file %s", s, h.Report.Call, file.Call)
		case len(h.Calls) > 0 && !called:
			called, first = true, h.Report.RateKPaPerMin.High-h.Report.RateKPaPerMin.Low
		}
	}
	h := r.looked(hold)
	if !called || h.Report.Call != judge.Leaking {
		t.Fatalf("not called: %+v", h.Report)
	}
	if width := h.Report.RateKPaPerMin.High - h.Report.RateKPaPerMin.Low; width > first/2 {
		t.Errorf("after the call the figures stand still: %.3g kPa/min wide, at the call %.3g", width, first)
	}
	r.press(hold, trace.Release)
	h = r.looked(hold)
	file := r.judged(hold, false)
	same("ended", h.Report, &file)
	if h.Report.Call != file.Call {
		t.Errorf("ended: shown %s, in the file %s", h.Report.Call, file.Call)
	}
}
