package judge

import (
	"math"
	"math/rand/v2"
	"slices"
	"testing"

	"idlehiss/core/trace"
)

// acted is a drawn hold in which something was done to one part.
type acted struct {
	trace   trace.Trace
	gauge   Gauge
	actS    float64
	left    float64 // share of the leak that is left
	watchS  float64
	forever float64 // rate before, Pa/s
}

// drawActed draws gauge, creep, leak and act widely: the leak stopped, halved or untouched, up to a
// tenth of the air cut off and the needle lifted.
func drawActed(rng *rand.Rand, kind int) acted {
	within := func(a, b float64) float64 { return a * math.Pow(b/a, rng.Float64()) }
	a := acted{left: []float64{0, 0.5, 1}[rng.IntN(3)], actS: within(75, 300), watchS: within(60, 180)}
	at, ambient := within(40e3, 200e3), 101325.0
	a.forever = at * within(0.01, 0.12) / 60
	every, noise := 1.0, 0.0
	switch kind {
	case 0: // flickering digits
		a.gauge, noise = Gauge{DigitalPa: 100}, within(50, 200)
	case 1: // quiet digits
		a.gauge, noise = Gauge{DigitalPa: 100}, within(5, 25)
	case 2: // a needle read by eye
		a.gauge, every = Gauge{DivisionPa: 2000}, within(6, 15)
	case 3: // crossings of its marks, and a look now and then
		a.gauge, every = Gauge{DivisionPa: 2000}, 0.2
	}
	var creep [3][2]float64
	for i := range creep {
		creep[i] = [2]float64{at * within(0.002, 0.03), within(3, 150)}
	}
	air, lift := 0.1*rng.Float64(), at*0.02*rng.Float64()
	p, lost, lastRead := at, 0.0, math.Inf(-1)
	const dt = 0.2
	for i := range int((a.actS + a.watchS) / dt) {
		t := float64(i) * dt
		settled, up, rate := 0.0, 0.0, a.forever
		for _, c := range creep {
			settled += c[0] * (1 - math.Exp(-t/c[1]))
		}
		if t >= a.actS {
			up, rate = lift, rate*a.left/(1-air)
			if len(a.trace.Events) == 0 {
				a.trace.Events = append(a.trace.Events, trace.Event{AtS: t, Kind: "act:clamp"})
			}
		}
		square := func(p float64) float64 { return (p+ambient)*(p+ambient) - ambient*ambient }
		lost += rate * square(math.Max(p, 0)) / square(at) * dt
		was := p
		if p = at - settled - lost + up; p < 0.2*at {
			break
		}
		read := func(v float64, how trace.How) {
			a.trace.Readings = append(a.trace.Readings, trace.Reading{AtS: t, GaugePa: v, How: how})
		}
		if kind == 3 {
			d := a.gauge.DivisionPa
			if mark := math.Ceil(p/d) * d; was > mark-1e-9 && p < mark-1e-9 && math.Floor(was/d) != math.Floor(p/d) && t != a.actS {
				read(mark+0.02*d*rng.NormFloat64(), trace.Mark)
			} else if t == 0 || t-lastRead > 60 {
				lastRead = t
				read(math.Round(4*(p/d+eyeSigma*rng.NormFloat64()))/4*d, trace.Read)
			}
			continue
		}
		if t-lastRead < every-1e-9 {
			continue
		}
		lastRead = t
		if d := a.gauge.DivisionPa; d > 0 {
			read(math.Round(4*(p/d+eyeSigma*rng.NormFloat64()))/4*d, trace.Read)
		} else {
			read(math.Round((p+noise*rng.NormFloat64())/a.gauge.DigitalPa)*a.gauge.DigitalPa, trace.Read)
		}
	}
	return a
}

// until is the trace up to a moment.
func (a acted) until(s float64) acted {
	cut := a
	cut.watchS = s - a.actS
	cut.trace.Readings = nil
	for _, r := range a.trace.Readings {
		if r.AtS <= s {
			cut.trace.Readings = append(cut.trace.Readings, r)
		}
	}
	return cut
}

// judgeActed is what is said of the act.
func judgeActed(a *acted) (ActReport, bool) {
	q := Question{AmbientPa: 101325, LimitPaPerS: 20, Gauge: a.gauge}
	l, err := NewLive(q, nil)
	if err != nil {
		panic(err)
	}
	next := 0
	for _, r := range a.trace.Readings {
		for ; next < len(a.trace.Events) && a.trace.Events[next].AtS <= r.AtS; next++ {
			l.Event(a.trace.Events[next])
		}
		l.Reading(r)
	}
	for ; next < len(a.trace.Events); next++ {
		l.Event(a.trace.Events[next])
	}
	l.Now(a.actS + a.watchS)
	acts := l.Acts()
	if len(acts) == 0 {
		return ActReport{}, false
	}
	return acts[0], true
}

func TestActsAreToldAsTheyWere(t *testing.T) {
	const each = 250
	kinds := []string{"flickering digits", "quiet digits", "needle by eye", "crossings"}
	right, wrong, all := 0, 0, 0
	for kind, name := range kinds {
		rng := rand.New(rand.NewPCG(13, uint64(kind)))
		r, w := 0, 0
		for range each {
			a := drawActed(rng, kind)
			got, ok := judgeActed(&a)
			slow := a.left < slowerBelow
			switch {
			case !ok || got.Verdict == ActNotYet:
			case got.Verdict == ActSlower == slow && got.Verdict != ActFaster:
				r++
			default:
				w++
			}
		}
		t.Logf("%s: right %.1f %%, wrong %.1f %%", name, 100*float64(r)/each, 100*float64(w)/each)
		right, wrong, all = right+r, wrong+w, all+each
	}
	if s := float64(wrong) / float64(all); s > 0.05 {
		t.Errorf("wrong: %.1f %%", 100*s)
	}
	if s := float64(right) / float64(all); s < 0.8 {
		t.Errorf("right: %.1f %%", 100*s)
	}
}

// One part after another is shut off without a pause between: the loss before the first stands for all.
func TestActsRightUponOneAnotherAreTold(t *testing.T) {
	rng := rand.New(rand.NewPCG(15, 0))
	l, err := NewLive(Question{AmbientPa: 101325, LimitPaPerS: 20, Gauge: Gauge{DigitalPa: 100}}, nil)
	if err != nil {
		t.Fatal(err)
	}
	want := map[string]ActVerdict{"act:a": ActSame, "act:b": ActSlower, "act:c": ActSame, "act:d": ActSame}
	p := 100e3
	for s := range 100 + 45*len(want) {
		loss := 120.0 // Pa/s
		if n := s - 100; n >= 0 {
			if n/45 == 1 {
				loss = 0
			}
			if n%45 == 0 {
				if n > 0 {
					l.Event(trace.Event{AtS: float64(s), Kind: trace.ActOver})
				}
				l.Event(trace.Event{AtS: float64(s), Kind: []string{"act:a", "act:b", "act:c", "act:d"}[n/45]})
			}
		}
		p -= loss
		l.Reading(trace.Reading{AtS: float64(s) + 0.5, GaugePa: math.Round((p+80*rng.NormFloat64())/100) * 100})
	}
	acts := l.Acts()
	if len(acts) != len(want) {
		t.Fatalf("%d acts: %+v", len(acts), acts)
	}
	for _, a := range acts {
		if a.Verdict != want[a.Event] {
			t.Errorf("%s: %s, slower at %.3f, %+v before, %+v after", a.Event, a.Verdict, a.OddsSlower, a.Before, a.After)
		}
	}
	// After a top-up earlier verdicts stand, and a new act is judged by the readings after the top-up alone.
	last := l.tr.Readings[len(l.tr.Readings)-1].AtS
	for _, e := range []trace.Event{{AtS: last + 1, Kind: trace.ActOver}, {AtS: last + 2, Kind: trace.Stroke}, {AtS: last + 4, Kind: trace.TopUp}} {
		l.Event(e)
	}
	p = 100e3
	for s := range 145 {
		if s == 100 {
			l.Event(trace.Event{AtS: last + 6 + 100, Kind: "act:e"})
		}
		if s < 100 {
			p -= 120
		}
		l.Reading(trace.Reading{AtS: last + 6.5 + float64(s), GaugePa: math.Round((p+80*rng.NormFloat64())/100) * 100})
	}
	more := l.Acts()
	if len(more) != len(acts)+1 || more[len(acts)].Verdict != ActSlower || more[len(acts)].Over {
		t.Fatalf("after the top-up: %+v", more)
	}
	for i, a := range acts {
		if b := more[i]; b.Event != a.Event || b.Verdict != a.Verdict || !b.Over {
			t.Errorf("%s was %s, after the top-up %s %s, over %v", a.Event, a.Verdict, b.Event, b.Verdict, b.Over)
		}
	}
}

// The time that is promised before an act is kept, and no mark crossed is evidence.
func TestAnActIsWatchedAsLongAsPromised(t *testing.T) {
	rng := rand.New(rand.NewPCG(14, 0))
	var over []float64
	for len(over) < 60 {
		a := drawActed(rng, len(over)%3)
		if a.left == 0.5 {
			continue
		}
		l, err := NewLive(Question{AmbientPa: 101325, LimitPaPerS: 20, Gauge: a.gauge}, nil)
		if err != nil {
			t.Fatal(err)
		}
		for _, r := range a.trace.Readings {
			if r.AtS < a.actS {
				l.Reading(r)
			}
		}
		promised := l.actS()
		if promised == nil || *promised < 5 || *promised > a.watchS {
			continue
		}
		took := math.Inf(1)
		for s := a.actS + *promised/4; s <= a.actS+a.watchS; s += *promised / 4 {
			cut := a.until(s)
			if got, ok := judgeActed(&cut); ok && got.Verdict != ActNotYet {
				took = s - a.actS
				break
			}
		}
		over = append(over, took / *promised)
	}
	slices.Sort(over)
	if mid := over[len(over)/2]; mid > 1.5 {
		t.Errorf("watched %.2f times as long as promised, at the middle; %.2f at nine in ten", mid, over[len(over)*9/10])
	}
	still := acted{gauge: Gauge{DivisionPa: 2000}, actS: 150, watchS: 120}
	for i := range 8 {
		still.trace.Readings = append(still.trace.Readings, trace.Reading{AtS: float64(i) * 20, GaugePa: 110e3 - 2e3*float64(i), How: trace.Mark})
	}
	still.trace.Events = []trace.Event{{AtS: 150, Kind: "act:clamp"}}
	if got, ok := judgeActed(&still); !ok || got.Verdict != ActSlower || got.After.High > got.Before.Low {
		t.Errorf("no mark was crossed after the clamp: %+v", got)
	}
	still.watchS = 8
	if got, ok := judgeActed(&still); !ok || got.Verdict != ActNotYet || got.MoreS == nil || *got.MoreS <= 0 {
		t.Errorf("eight seconds after the clamp: %+v", got)
	}
}
