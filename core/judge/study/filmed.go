package study

import (
	"math"
	"math/rand/v2"

	"idlehiss/core/judge"
	"idlehiss/core/trace"
)

// Filmed is one hold on one needle that sticks, read by eye and by camera.
type Filmed struct {
	Ratio    float64
	Friction float64 // Pa: the most by which its train holds the needle back
	Slips    bool    // it jumps; else it follows behind
	Tapped   bool    // taps came when they were asked for
	Eye, Cam Watched
	Taps     int // until the call by camera
}

// Watched is what came of it one way.
type Watched struct {
	Called judge.Call
	AtS    float64 // of the call; where there was none the whole time that it was watched
}

// Wrong tells a call on the wrong side.
func (f *Filmed) Wrong(w Watched) bool {
	return w.Called == judge.Tight && f.Ratio > 1 || w.Called == judge.Leaking && f.Ratio < 1
}

// The gauge: 0 to 2.5 bar in divisions of 0.05 bar, of class 1.6, as testers have them.
const (
	filmedDivision = 5e3
	FilmedFriction = 1.6 / 100 * 250e3 // Pa, the most
	filmedMostS    = 1500.0
	nudgeS         = 0.1  // the needle's own time
	eyeEvery       = 30.0 // s between two looks, give or take a fifth
)

// RunFilmed plays so many holds in every band, each read both ways. tapped: the mechanic taps as often as is asked.
func RunFilmed(seed uint64, each int, tapped bool) []Filmed {
	return run(each, func(i int) Filmed { return film(seed+uint64(i), Bands[i%len(Bands)], tapped) })
}

// film draws a hold as the others are drawn, for this gauge: friction between none and the class, evenly; by an eye that
// taps the glass before each look, every half minute; by a camera once a second, whose place of the needle errs by a fiftieth
// of a division, half of its square another each time, half drifting over a minute (light, a prop that gives way).
func film(seed uint64, ratio float64, tapped bool) Filmed {
	var h *Hold
	for try := uint64(0); ; try++ {
		rng := rand.New(rand.NewPCG(seed, 4077+try))
		h = roll(rng, seed, ratio)
		h.Kind, h.Warmth = Needle, 0
		h.AtPa = []float64{60e3, 90e3, 110e3, 140e3, 180e3}[rng.IntN(5)]
		was := h.LimitPa
		h.LimitPa = h.AtPa * 0.003 * math.Pow(0.04/0.003, rng.Float64()) / 60
		h.RatePa = ratio * h.LimitPa
		h.Question.AtPa = &h.AtPa
		h.Question.Gauge = judge.Gauge{DivisionPa: filmedDivision, FrictionPa: FilmedFriction}
		if h.Question.LimitPaPerS > 0 {
			h.Question.LimitPaPerS = h.LimitPa
		} else {
			h.Question.LimitFlow *= h.LimitPa / was
		}
		h.StepPa, h.NoisePa = filmedDivision/4, 0.12*filmedDivision
		h.EveryS = eyeEvery
		h.trace()
		apart := math.Abs(h.RatePa - h.LimitPa)
		if ratio > 0.5 && ratio < 2 {
			apart = h.LimitPa
		}
		if h.ideal(apart) <= 1500 {
			break
		}
	}
	rng := rand.New(rand.NewPCG(seed, 555))
	out := Filmed{Ratio: ratio, Friction: rng.Float64() * h.Question.Gauge.FrictionPa, Slips: rng.IntN(2) == 0, Tapped: tapped}
	out.Eye = h.byEye(rand.New(rand.NewPCG(seed, 556)), newTrain(&out, rand.New(rand.NewPCG(seed, 558))))
	out.Cam, out.Taps = h.byCamera(rand.New(rand.NewPCG(seed, 557)), newTrain(&out, rand.New(rand.NewPCG(seed, 558))), tapped)
	return out
}

// train is a needle's: it rests until the pressure is farther off than its friction, then it jumps to within a share of it,
// or follows at that distance. A tap leaves some of it.
type train struct {
	friction, keeps, leaves float64 // Pa; share of it left after a slip; after a tap
	needle, sticks          float64
	rng                     *rand.Rand
}

func newTrain(f *Filmed, rng *rand.Rand) *train {
	t := &train{friction: f.Friction, keeps: 1, leaves: 0.2 * rng.Float64(), rng: rng}
	if f.Slips {
		t.keeps = 0.2 + 0.6*rng.Float64()
	}
	t.again()
	t.needle = math.NaN()
	return t
}

// again draws how far it sticks this time.
func (t *train) again() {
	t.sticks = t.friction
	if t.keeps < 1 {
		t.sticks *= math.Max(0.3, 1+0.15*t.rng.NormFloat64())
	}
}

func (t *train) follow(pa float64) float64 {
	if math.IsNaN(t.needle) {
		t.needle = pa - t.sticks // pumped up: it lags behind
	}
	if off := t.needle - pa; math.Abs(off) > t.sticks {
		t.needle = pa + math.Copysign(t.keeps*t.sticks, off)
		t.again()
	}
	return t.needle
}

func (t *train) tap(pa float64) { t.needle = pa + t.leaves*t.friction*(2*t.rng.Float64()-1) }

func (h *Hold) byEye(rng *rand.Rand, needle *train) Watched {
	live, err := judge.NewLive(h.Question, nil)
	if err != nil {
		panic(err) // a question drawn here has an answer
	}
	next := 0.0
	for t := 0.0; t <= filmedMostS; t += nudgeS {
		pa := h.shown(t)
		needle.follow(pa)
		if t < next {
			continue
		}
		needle.tap(pa)
		v := needle.needle + h.NoisePa*rng.NormFloat64()
		live.Reading(trace.Reading{AtS: t, GaugePa: math.Round(v/h.StepPa) * h.StepPa, How: trace.Read})
		if call, firm := live.Look(); firm {
			return Watched{call, t}
		}
		next = t + h.EveryS*(0.8+0.4*rng.Float64())
	}
	return Watched{judge.NotYet, filmedMostS}
}

// Of a camera that is propped up before the gauge, and of the hand that taps.
const (
	sightNoise  = 0.014 // division, another each second: with the drift a fiftieth
	sightDrift  = 0.014 // division, over driftS
	driftS      = 60.0
	filmedEvery = 1.0
	reachesS    = 4.0 // on average, from the asking to the tap
)

func (h *Hold) byCamera(rng *rand.Rand, needle *train, tapped bool) (Watched, int) {
	live, err := judge.NewLive(h.Question, nil)
	if err != nil {
		panic(err)
	}
	next, drift, taps, due := 0.0, 0.0, 0, math.Inf(1)
	for t := 0.0; t <= filmedMostS; t += nudgeS {
		pa := h.shown(t)
		needle.follow(pa)
		if _, on := live.Taps(t); t >= due && on == nil {
			live.Event(trace.Event{AtS: t, Kind: trace.Tap})
			taps, due = taps+1, t
		}
		if t >= due {
			needle.tap(pa)
			due = math.Inf(1)
			next := t + 0.7 + 0.6*rng.Float64()
			if _, on := live.Taps(next); on != nil {
				due = next
			}
		}
		if t < next {
			continue
		}
		next = t + filmedEvery
		keep := math.Exp(-filmedEvery / driftS)
		drift = keep*drift + math.Sqrt(1-keep*keep)*sightDrift*filmedDivision*rng.NormFloat64()
		live.Reading(trace.Reading{AtS: t, GaugePa: needle.needle + drift + sightNoise*filmedDivision*rng.NormFloat64(), How: trace.Camera})
		if t > 120 && int(t)%3 != 0 {
			continue
		}
		if call, firm := live.Look(); firm {
			return Watched{call, t}, taps
		}
		if tapped && math.IsInf(due, 1) {
			if asked, _ := live.Taps(t); asked {
				due = t + 1 + rng.ExpFloat64()*(reachesS-1)
			}
		}
	}
	return Watched{judge.NotYet, filmedMostS}, taps
}

// FilmedGroup is what came of many.
type FilmedGroup struct {
	Name                   string
	N                      int
	EyeWrong, CamWrong     int
	EyeCalled, CamCalled   int
	EyeMedianS, CamMedianS float64
	EyeMinutes, CamMinutes float64 // all of them together, those without a call to the end
	MedianShare            float64 // of the camera's time in the eye's, hold by hold
	TapsMedian             float64
}

// MedianOf is the camera's median in the eye's.
func (g FilmedGroup) MedianOf() float64 { return g.CamMedianS / g.EyeMedianS }

// Share is the camera's minutes in the eye's, all together.
func (g FilmedGroup) Share() float64 { return g.CamMinutes / g.EyeMinutes }

// ByFilmed groups them, in the order of the groups' first members.
func ByFilmed(all []Filmed, key func(*Filmed) string) (out []FilmedGroup) {
	var names []string
	members := map[string][]*Filmed{}
	for i := range all {
		k := key(&all[i])
		if members[k] == nil {
			names = append(names, k)
		}
		members[k] = append(members[k], &all[i])
	}
	for _, name := range names {
		g := FilmedGroup{Name: name, N: len(members[name])}
		var eye, cam, share, taps []float64
		for _, f := range members[name] {
			g.EyeWrong += b2i(f.Wrong(f.Eye))
			g.CamWrong += b2i(f.Wrong(f.Cam))
			g.EyeCalled += b2i(f.Eye.Called != judge.NotYet)
			g.CamCalled += b2i(f.Cam.Called != judge.NotYet)
			g.EyeMinutes += f.Eye.AtS / 60
			g.CamMinutes += f.Cam.AtS / 60
			eye, cam = append(eye, f.Eye.AtS), append(cam, f.Cam.AtS)
			share, taps = append(share, f.Cam.AtS/f.Eye.AtS), append(taps, float64(f.Taps))
		}
		g.EyeMedianS, g.CamMedianS, g.MedianShare, g.TapsMedian = median(eye), median(cam), median(share), median(taps)
		out = append(out, g)
	}
	return out
}
