package study

import (
	"math"
	"math/rand/v2"

	"idlehiss/core/physics"
	"idlehiss/core/trace"
)

// The second corpus is drawn by another model than the one that the judge fits: the gas, its
// temperature, two strains of the walls and the leak are integrated together in time, so that
// no sum of a leak and of exponentials is exactly true. What is hard in a shop is in it: a
// needle that is off by the same for all readings of a hold and whose span is wrong, digits
// quieter than the last one, steps, top-ups, a temperature that is read, vacuum, liquid, holds
// shorter than one would like, and allowances near what the gauge can tell.

// wall is a part that gives way.
type wall struct {
	m3PerPa, tauS float64
	swollen       float64 // m³ now
}

// circuit is the state of a stranger's circuit. Pressures in Pa, volumes in m³.
type circuit struct {
	ambient float64
	gasM3   float64 // unstrained, with nothing leaked from below
	gas     float64 // amount, Pa·m³ at the temperature of the start
	warmK   float64 // by which the gas is warmer than what surrounds it
	coolsS  float64
	walls   [2]wall
	law     physics.Law
	atPa    float64 // where ratePa is told
	ratePa  float64 // Pa/s with walls that have given way; 0: nothing leaves
	rigPa   float64 // the rig's own, Pa/s, in proportion to the gauge pressure
	leftM3  float64 // liquid that has left
	floorPa float64 // where a cap or a needle shuts, gauge Pa; 0: nothing opens
	floorS  float64 // in which it brings the pressure there
	roomK   float64 // by which what surrounds it has warmed since the start
}

func (c *circuit) gaugePa() float64 {
	room := c.gasM3 + c.leftM3
	for _, w := range c.walls {
		room += w.swollen
	}
	return c.gas*(startK+c.warmK+c.roomK)/startK/room - c.ambient
}

// effective is V_eff (PHYSICS §2) at a gauge pressure.
func (c *circuit) effective(gaugePa float64) float64 {
	v := c.gasM3
	for _, w := range c.walls {
		v += w.m3PerPa * (2*gaugePa + c.ambient)
	}
	return v
}

func (c *circuit) advance(dt float64) {
	p := c.gaugePa()
	for i := range c.walls {
		w := &c.walls[i]
		w.swollen += (w.m3PerPa*p - w.swollen) * -math.Expm1(-dt/w.tauS)
	}
	c.warmK *= math.Exp(-dt / c.coolsS)
	veff := c.effective(c.atPa)
	if c.law == physics.Liquid {
		c.leftM3 += c.ratePa * veff / (c.atPa + c.ambient) * p / c.atPa * dt
	} else {
		c.gas -= c.ratePa * veff * c.law.Drive(p, c.ambient) / c.law.Drive(c.atPa, c.ambient) * math.Copysign(1, c.atPa) * dt
	}
	if sign := math.Copysign(1, c.atPa); c.floorPa != 0 && sign*p > sign*c.floorPa {
		c.gas -= (p - c.floorPa) * veff / c.floorS * dt
	}
	c.gas -= c.rigPa * veff * p / math.Abs(c.atPa) * dt
}

// bring sets the gas so that a gauge pressure stands there.
func (c *circuit) bring(gaugePa float64) {
	c.gas *= (gaugePa + c.ambient) / (c.gaugePa() + c.ambient)
}

// stranger is one hold of the second corpus.
type stranger struct {
	Hold
	steps   []float64 // s
	topUps  []float64 // s
	floorPa float64   // where something shuts, gauge Pa; 0: nothing does
	shown   []float64 // true gauge Pa every strangerS from the start of the hold, at the room's temperature
	kelvin  []float64
	still   []float64 // the same with nothing leaking: what settles
	trace   trace.Trace
	fromS   float64 // when the hold starts, on the trace's axis
}

const (
	strangerS = 0.05 // s between the points of a true curve
	pumpS     = 2.0  // s between strokes
)

// drawStranger makes the n-th hold of a band of the second corpus.
func drawStranger(seed uint64, ratio float64) *stranger {
	rng := rand.New(rand.NewPCG(seed, 4711))
	between := func(a, b float64) float64 { return a * math.Exp(rng.Float64()*math.Log(b/a)) }
	pick := func(list ...float64) float64 { return list[rng.IntN(len(list))] }
	s := &stranger{Hold: Hold{Seed: seed, Ratio: ratio, Ambient: between(88e3, 103e3), Law: physics.Laminar}}
	s.Kind = []Kind{Digital, Needle, Digital, Needle, Digital, Needle, Digital, Marks}[rng.IntN(8)]
	s.AtPa = pick(3.5e3, 10e3, 20e3, 35e3, 70e3, 110e3, 140e3, 300e3, 480e3, 700e3, -20e3, -40e3, -60e3)
	switch k := rng.IntN(10); {
	case k < 3:
		s.Law = physics.Orifice
	case k < 4 && s.AtPa > 0:
		s.Law = physics.Liquid
	}
	span := math.Abs(s.AtPa)
	s.HoldS = pick(120, 180, 300, 300, 600, 900, 1200)
	s.GasM3 = between(1.5e-5, 0.09)
	c := circuit{ambient: s.Ambient, gasM3: s.GasM3, coolsS: between(2, 8), law: s.Law, atPa: s.AtPa, walls: [2]wall{{tauS: 1}, {tauS: 1}}}
	settles := rng.IntN(10) < 7
	if settles {
		c.warmK = math.Copysign(between(0.5, 4), s.AtPa)
		for i, share := range []float64{between(0.004, 0.035), between(0.002, 0.035)} {
			// A wall that lets the pressure fall by A once it has given way.
			c.walls[i].m3PerPa = share * s.GasM3 / (s.AtPa + s.Ambient)
		}
		// Most walls give way within some seconds, hoses within a minute or two.
		c.walls[0].tauS, c.walls[1].tauS = between(2, 12), between(3, 12)
		if rng.IntN(3) == 0 {
			c.walls[1].tauS = between(12, 120)
		}
	}
	s.Class = []Class{Still, Settling, Leak, SettlingLeak}[b2i(settles)+2*b2i(ratio > 0)]
	s.gauge(between, pick)
	// Half of the allowances lie near what the gauge can tell in this time.
	s.LimitPa = span * between(0.003, 0.04) / 60
	if rng.IntN(2) == 0 {
		n := math.Max(4, s.HoldS/s.EveryS)
		error := math.Sqrt(12/n) / s.HoldS * math.Hypot(s.NoisePa, s.StepPa/math.Sqrt(12))
		s.LimitPa = math.Min(s.LimitPa, error*between(8, 60))
	}
	s.RatePa = ratio * s.LimitPa
	c.ratePa = s.RatePa
	q := &s.Question
	q.AmbientPa, q.AtPa = s.Ambient, &s.AtPa
	q.Gauge.ClassPercent = 0
	veff := c.effective(s.AtPa)
	if rng.IntN(4) == 0 {
		doubt := 0.01 + 0.04*rng.Float64()
		q.LimitFlow = physics.StandardFlow(s.LimitPa, veff, physics.StandardK)
		q.GasM3 = veff * (1 + doubt*rng.NormFloat64())
		q.GasSE = q.GasM3 * doubt
	} else {
		q.LimitPaPerS = s.LimitPa
	}
	if rng.IntN(8) == 0 {
		c.rigPa = s.LimitPa * between(0.02, 0.3)
		q.RigSE = 0.1 * c.rigPa
		q.RigPaPerS = c.rigPa + q.RigSE*rng.NormFloat64()
	}
	switch k := rng.IntN(20); {
	case k < 1:
		s.steps = []float64{s.HoldS * (0.3 + 0.4*rng.Float64())}
	case k < 3:
		s.topUps = []float64{s.HoldS * (0.25 + 0.25*rng.Float64())}
	case k < 4:
		s.Warmth, s.WarmTauS = (rng.Float64()-0.5)*6, between(120, 1200)
	case k < 5: // only a top-up separates it from settling
		s.floorPa = s.AtPa * (0.85 + 0.12*rng.Float64())
		c.floorPa, c.floorS = s.floorPa, between(5, 40)
		s.topUps = []float64{s.HoldS * (0.3 + 0.2*rng.Float64())}
	}
	s.play(c, rng, span*between(0.04, 0.15))
	return s
}

// gauge draws what it is read by.
func (s *stranger) gauge(between func(a, b float64) float64, pick func(...float64) float64) {
	span := math.Abs(s.AtPa)
	if s.Kind == Digital {
		s.StepPa = span / between(150, 3000)
		s.NoisePa = s.StepPa * between(0.1, 1.2)
		s.EveryS = pick(0.5, 1, 1, 2, 5)
		s.Question.Gauge.DigitalPa = s.StepPa
		return
	}
	division := span / between(10, 40)
	s.StepPa, s.NoisePa = division/4, 0.12*division
	s.EveryS = between(8, 45)
	if s.Kind == Marks {
		s.EveryS = s.HoldS
	}
	s.Question.Gauge.DivisionPa = division
}

// play pumps the circuit up and holds it, with and without its leak.
func (s *stranger) play(c circuit, rng *rand.Rand, dropPa float64) {
	strokes := 6 + rng.IntN(12)
	s.fromS = pumpS * float64(strokes+1)
	sealed := c
	sealed.ratePa, sealed.rigPa = 0, 0
	floor := c.floorPa
	for _, x := range []*circuit{&c, &sealed} {
		x.floorPa = 0 // the pump holds its own against it
		warm := x.warmK
		x.warmK = 0
		x.gas = x.ambient * x.gasM3
		for k := range strokes {
			x.bring(s.AtPa * float64(k+1) / float64(strokes))
			x.warmK = warm
			s.trace.Events = append(s.trace.Events, trace.Event{AtS: pumpS * float64(k), Kind: trace.Stroke})
			for range int(pumpS / strangerS) {
				x.advance(strangerS)
			}
		}
		x.bring(s.AtPa * (1 + 0.01*rng.NormFloat64()))
		x.warmK = warm / 2
		x.floorPa = floor
	}
	s.trace.Events = append(s.trace.Events[:strokes], trace.Event{AtS: s.fromS, Kind: trace.Isolate})
	n := int(watchedS(s.HoldS)/strangerS) + 2
	said := rng.IntN(2) == 0
	for i := range n {
		t := float64(i) * strangerS
		s.shown = append(s.shown, c.gaugePa())
		s.still = append(s.still, sealed.gaugePa())
		s.kelvin = append(s.kelvin, c.roomK+startK)
		for _, x := range []*circuit{&c, &sealed} {
			for _, at := range s.topUps {
				if t < at && at <= t+strangerS {
					x.bring(s.AtPa)
				}
			}
			for _, at := range s.steps {
				if t < at && at <= t+strangerS {
					x.bring(x.gaugePa() - math.Copysign(dropPa, s.AtPa))
				}
			}
			if s.Warmth != 0 {
				x.roomK = s.Warmth * -math.Expm1(-t/s.WarmTauS)
			}
			x.advance(strangerS)
		}
	}
	for _, at := range s.topUps {
		s.trace.Events = append(s.trace.Events, trace.Event{AtS: s.fromS + at, Kind: trace.TopUp})
	}
	for _, at := range s.steps {
		if said {
			s.trace.Events = append(s.trace.Events, trace.Event{AtS: s.fromS + at, Kind: trace.Moved})
		}
	}
	s.read(rng)
}

// at is a true gauge pressure, t in seconds of the hold.
func (s *stranger) at(curve []float64, t float64) float64 {
	x := t / strangerS
	i := min(max(0, int(x)), len(curve)-2)
	return curve[i] + (x-float64(i))*(curve[i+1]-curve[i])
}

const (
	sharedOff  = 0.003 // of the test pressure: by which a needle is off, the same for a whole hold
	thermometS = 5.0   // s between temperatures
	thermoStep = 0.1   // K
)

// read is what a person or a logger takes down of it.
func (s *stranger) read(rng *rand.Rand) {
	s.trace.DigitPa = s.StepPa
	off := 0.0
	if s.Kind != Digital {
		off = math.Abs(s.AtPa) * sharedOff * (2*rng.Float64() - 1)
	}
	end := watchedS(s.HoldS)
	note := func(t float64) {
		v := s.at(s.shown, t) + off + s.NoisePa*rng.NormFloat64()
		s.trace.Readings = append(s.trace.Readings, trace.Reading{AtS: s.fromS + t, GaugePa: math.Round(v/s.StepPa) * s.StepPa, How: trace.Read})
	}
	mark := func(from, to float64) {
		half := s.Question.Gauge.DivisionPa / 2
		last := s.at(s.shown, from) + off
		for t := from + strangerS; t < to; t += strangerS {
			v := s.at(s.shown, t) + off
			if a, b := math.Floor(last/half), math.Floor(v/half); a != b && math.Abs(v-last) < half {
				when := s.fromS + t + 0.3*rng.NormFloat64()
				if n := len(s.trace.Readings); when > s.trace.Readings[n-1].AtS && when < s.fromS+to {
					s.trace.Readings = append(s.trace.Readings, trace.Reading{AtS: when, GaugePa: half * math.Max(a, b), How: trace.Mark})
				}
			}
			last = v
		}
	}
	for t := 0.0; t <= end; {
		note(t)
		step := s.EveryS
		if s.Kind != Digital {
			step *= 0.8 + 0.4*rng.Float64()
		}
		if s.Kind == Marks {
			step = s.EveryS - 1e-3
			mark(t, math.Min(t+step, end))
		}
		t += step
	}
	if s.Warmth != 0 {
		for t := 0.0; t <= end; t += thermometS {
			k := s.at(s.kelvin, t) - 273.15
			s.trace.Temperature = append(s.trace.Temperature, trace.Sample{AtS: s.fromS + t, Value: math.Round(k/thermoStep) * thermoStep})
		}
	}
}
