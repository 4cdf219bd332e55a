package simulate

import (
	"math"
	"slices"

	"idlehiss/core/physics"
)

// state of one chamber. Gas is counted as pressure times volume at 20 °C, Pa·m³,
// so that a mass is the same wherever it is and however warm.
type state struct {
	amount float64
	liquid float64 // m³ at the start's temperature
	crept  []float64
	warm   float64 // of the gas, relative to its walls
	walls  float64 // K
	aims   float64 // K, where the walls go
	slowS  float64 // in which they go there; 0: they stay
}

// Sim is a system at a moment.
type Sim struct {
	sys     System
	chamber []state
	drive   []float64 // of each passage's law at the pressure its flow is told at
	open    []bool    // passages that let through: reliefs lift and reseat, valves are worked
	venting []bool
	now     float64
	out     float64 // gas that has gone outside or into what is held, Pa·m³
	dt      float64 // the step that did last
}

const gamma = 1.4 // heat capacity ratio of air

// New starts a system at rest at ambient pressure.
func New(sys System) (*Sim, error) {
	if sys.AirK == 0 {
		sys.AirK = physics.StandardK
	}
	if err := sys.check(); err != nil {
		return nil, err
	}
	sys.Chambers, sys.Passages = slices.Clone(sys.Chambers), slices.Clone(sys.Passages)
	s := &Sim{sys: sys, chamber: make([]state, len(sys.Chambers)), venting: make([]bool, len(sys.Chambers)), open: make([]bool, len(sys.Passages))}
	for i := range sys.Chambers {
		c := &sys.Chambers[i]
		st := &s.chamber[i]
		st.walls, st.aims, st.liquid, st.crept = sys.AirK, sys.AirK, c.LiquidM3, make([]float64, len(c.Gives))
		st.amount = s.resting(i)
	}
	for k, l := range sys.Passages {
		s.drive = append(s.drive, l.Law.Drive(l.RefPa, sys.AmbientPa))
		s.open[k] = !l.Shut && l.Lifts == 0
	}
	s.fresh()
	return s, nil
}

// resting is the gas that a chamber holds at ambient pressure, Pa·m³.
func (s *Sim) resting(i int) float64 {
	return (s.sys.AmbientPa - s.vapour(i)) * s.room(i) * physics.StandardK / s.chamber[i].walls
}

// Now is the time simulated, s.
func (s *Sim) Now() float64 { return s.now }

// Gas is all the gas inside and what has gone, Pa·m³ at 20 °C: only strokes and
// supplies change it.
func (s *Sim) Gas() float64 {
	sum := s.out
	for i := range s.chamber {
		if s.sys.Chambers[i].HeldPa == nil {
			sum += s.chamber[i].amount
		}
	}
	return sum
}

// LiquidM3 is what is left of a chamber's liquid.
func (s *Sim) LiquidM3(i int) float64 { return s.chamber[i].liquid }

// room is a chamber's room for gas at no pressure: what liquid has left behind
// added, what warm liquid takes up less.
func (s *Sim) room(i int) float64 {
	c, st := &s.sys.Chambers[i], &s.chamber[i]
	v := c.GasM3 + c.LiquidM3 - st.liquid*(1+physics.ExpansionCoolant*(st.walls-s.sys.AirK))
	for k, g := range c.Gives {
		if g.TauS > 0 {
			v += st.crept[k]
		}
	}
	return math.Max(v, 1e-9)
}

// vapour is the pressure of the coolant's own vapour, Pa absolute.
func (s *Sim) vapour(i int) float64 {
	if !s.sys.Chambers[i].Coolant {
		return 0
	}
	p, err := physics.VapourPressure(physics.EthyleneGlycol, 0.5, s.chamber[i].walls)
	if err != nil {
		return 0 // frozen: none worth showing
	}
	return p
}

// GaugePa is a chamber's pressure over ambient.
func (s *Sim) GaugePa(i int) float64 {
	c, st := &s.sys.Chambers[i], &s.chamber[i]
	if c.HeldPa != nil {
		return *c.HeldPa
	}
	v, stiff := s.room(i), 0.0
	for _, g := range c.Gives {
		if g.TauS <= 0 {
			stiff += g.M3PerPa
		}
	}
	// (p − vapour)·(v + stiff·(p − a)) = n, solved for g = p − a.
	a, pv := s.sys.AmbientPa, s.vapour(i)
	n := st.amount * st.walls * (1 + st.warm) / physics.StandardK
	if stiff == 0 {
		return n/v + pv - a
	}
	b, excess := v+stiff*(a-pv), n-(a-pv)*v
	return 2 * excess / (b + math.Sqrt(b*b+4*stiff*excess))
}

// Stroke pushes one pump stroke of outside air into a chamber, compressed as
// quickly as hands do it: it warms, less what the pump and the hose keep. A
// negative volume draws one out.
func (s *Sim) Stroke(i int, m3 float64) {
	c, st := &s.sys.Chambers[i], &s.chamber[i]
	if c.HeldPa != nil {
		return
	}
	defer s.fresh()
	p := s.GaugePa(i) + s.sys.AmbientPa
	if m3 < 0 {
		// The pump's own room is added, and shut off again: p·V = p'·(V + V_s).
		v := s.room(i)
		gone := st.amount * -m3 / (v - m3)
		st.amount -= gone
		s.out += gone
		return
	}
	in := s.sys.AmbientPa * m3 * physics.StandardK / s.sys.AirK
	mixed := st.warm * st.amount / (st.amount + in)
	if c.CoolsS > 0 && c.Heats > 0 {
		// All of it adiabatically: p'^(1/γ)·V = p^(1/γ)·V + a^(1/γ)·V_s.
		gas := p - s.vapour(i)
		v := st.amount * st.walls * (1 + st.warm) / physics.StandardK / gas
		after := math.Pow(math.Pow(gas, 1/gamma)+math.Pow(s.sys.AmbientPa, 1/gamma)*m3/v, gamma)
		hot := after*v*physics.StandardK/((st.amount+in)*st.walls) - 1
		mixed += c.Heats * (hot - mixed)
	}
	st.warm = mixed
	st.amount += in
}

// Vent opens or shuts a chamber's release valve.
func (s *Sim) Vent(i int, open bool) { s.venting[i] = open; s.fresh() }

// Work opens or shuts the passages of a part: a valve, a lever, a primer's button.
func (s *Sim) Work(part string, open bool) {
	for k, l := range s.sys.Passages {
		if l.Part == part {
			s.open[k] = open
		}
	}
	s.fresh()
}

// Part cuts a share of a chamber's gas off, or puts it back at the chamber's own pressure with the share
// below nothing: what is behind the cut is not followed.
func (s *Sim) Part(i int, share float64) {
	times := 1 - share
	if share < 0 {
		times = 1 / (1 + share)
	}
	c := &s.sys.Chambers[i]
	s.chamber[i].amount *= times
	c.GasM3 *= times
	c.Gives = slices.Clone(c.Gives)
	for k := range c.Gives {
		c.Gives[k].M3PerPa *= times
		s.chamber[i].crept[k] *= times
	}
	s.fresh()
}

// Hold sets what a held chamber stands at: a supply's regulator, a cylinder with
// the engine running.
func (s *Sim) Hold(i int, gaugePa float64) {
	s.sys.Chambers[i].HeldPa = &gaugePa
	s.fresh()
}

// Warm lets a chamber's walls and liquid go to a temperature (K), exponentially
// within so many seconds.
func (s *Sim) Warm(i int, kelvin, overS float64) {
	s.chamber[i].aims, s.chamber[i].slowS = kelvin, math.Max(overS, 1e-3)
	s.fresh()
}

// The time step grows while little happens and starts short after anything done.
const (
	shortest = 1e-3  // s
	longest  = 2.0   // s
	change   = 0.002 // of the absolute pressure, or of a warmth, that one step may bring
)

func (s *Sim) fresh() { s.dt = 0.01 }

// Advance lets time pass.
func (s *Sim) Advance(seconds float64) {
	end := s.now + seconds
	for s.now < end-1e-9 {
		dt := math.Min(s.dt, end-s.now)
		moved := s.advance(dt)
		s.now += dt
		switch {
		case moved > change && s.dt > shortest:
			s.dt = math.Max(shortest, s.dt*0.9*change/moved)
		case moved < change/2:
			s.dt = math.Min(longest, s.dt*1.5)
		}
	}
}

// advance makes one step and gives the largest relative change it brought.
func (s *Sim) advance(dt float64) float64 {
	most := 0.0
	// Half of the passages' step in order, half in reverse: second order.
	for k := range s.sys.Passages {
		most = math.Max(most, s.pass(k, dt/2))
	}
	for k := len(s.sys.Passages) - 1; k >= 0; k-- {
		most = math.Max(most, s.pass(k, dt/2))
	}
	for i := range s.chamber {
		c, st := &s.sys.Chambers[i], &s.chamber[i]
		if c.HeldPa != nil {
			continue
		}
		g := s.GaugePa(i)
		if s.venting[i] {
			// A hand valve lets a hand-held circuit down in a few seconds.
			gone := (st.amount - s.resting(i)) * (1 - math.Exp(-dt/0.8))
			st.amount -= gone
			s.out += gone
			st.warm = 0
		}
		for k, give := range c.Gives {
			if give.TauS > 0 {
				moved := (give.M3PerPa*g - st.crept[k]) * -math.Expm1(-dt/give.TauS)
				st.crept[k] += moved
				most = math.Max(most, math.Abs(moved)/s.room(i))
			}
		}
		if st.slowS > 0 {
			moved := (st.aims - st.walls) * -math.Expm1(-dt/st.slowS)
			st.walls += moved
			most = math.Max(most, math.Abs(moved)/st.walls*(1+physics.ExpansionCoolant*st.walls*c.LiquidM3/s.room(i)))
		}
		if c.CoolsS > 0 && st.warm != 0 {
			moved := st.warm * -math.Expm1(-dt/c.CoolsS)
			st.warm -= moved
			most = math.Max(most, math.Abs(moved))
		}
	}
	return most
}

// at is the absolute pressure at an end.
func (s *Sim) at(end int) float64 {
	if end == Outside {
		return s.sys.AmbientPa
	}
	return s.GaugePa(end) + s.sys.AmbientPa
}

// Flow is what passes at the k-th passage now, from its first end to its second:
// standard flow of gas, or flow of liquid, m³/s.
func (s *Sim) Flow(k int) float64 {
	return s.flow(k, s.at(s.sys.Passages[k].From), s.at(s.sys.Passages[k].To))
}

func (s *Sim) flow(k int, p1, p2 float64) float64 {
	l := &s.sys.Passages[k]
	if !s.open[k] || l.OneWay && p1 < p2 {
		return 0
	}
	if l.Law == physics.Liquid {
		if s.chamber[l.From].liquid <= 0 {
			return 0
		}
		return l.StdM3PeS * math.Max(0, p1-p2) / l.RefPa
	}
	return l.StdM3PeS * l.Law.Drive(p1-p2, p2) / s.drive[k]
}

// pass lets one passage do its part of a step and gives the relative change it
// brought. What two chambers share comes to rest between them, never beyond.
func (s *Sim) pass(k int, dt float64) float64 {
	l := &s.sys.Passages[k]
	p1, p2 := s.at(l.From), s.at(l.To)
	if l.Lifts > 0 && !l.Shut {
		across := p1 - p2
		if !s.open[k] && across > l.Lifts {
			s.open[k] = true
		} else if s.open[k] && across < l.Reseats {
			s.open[k] = false
		}
	}
	flow := s.flow(k, p1, p2)
	if flow == 0 {
		return 0
	}
	if l.Law == physics.Liquid {
		moved := math.Min(flow*dt, s.chamber[l.From].liquid)
		s.chamber[l.From].liquid -= moved
		if l.To != Outside && s.sys.Chambers[l.To].HeldPa == nil {
			s.chamber[l.To].liquid += moved
		}
		return moved / s.room(l.From)
	}
	// The difference closes with the time constant of both rooms.
	rate := 0.0
	for _, end := range []int{l.From, l.To} {
		if end != Outside && s.sys.Chambers[end].HeldPa == nil {
			rate += math.Abs(flow) * physics.StandardPa / s.room(end)
		}
	}
	lambda := rate / math.Max(math.Abs(p1-p2), 1e-9)
	moved := flow * physics.StandardPa * dt
	if x := lambda * dt; x > 1e-6 {
		moved *= -math.Expm1(-x) / x
	}
	s.take(l.From, l.To, moved)
	return math.Min(rate*dt, math.Abs(p1-p2)) / math.Max(p1, p2)
}

// take moves an amount of gas (Pa·m³) from one end to another; what expands or is
// pushed in cools or warms what it leaves or joins.
func (s *Sim) take(from, to int, moved float64) {
	if moved < 0 {
		from, to, moved = to, from, -moved
	}
	inK := s.sys.AirK
	if from != Outside && s.sys.Chambers[from].HeldPa == nil {
		c, st := &s.sys.Chambers[from], &s.chamber[from]
		inK = st.walls * (1 + st.warm)
		if c.CoolsS > 0 {
			st.warm = (1+st.warm)*math.Pow(1-moved/st.amount, gamma-1) - 1
		}
		st.amount -= moved
	} else {
		s.out -= moved
	}
	if to != Outside && s.sys.Chambers[to].HeldPa == nil {
		c, st := &s.sys.Chambers[to], &s.chamber[to]
		if c.CoolsS > 0 {
			// The gas that comes brings its enthalpy.
			k := st.walls * (1 + st.warm)
			st.warm = (st.amount*k+gamma*moved*inK)/((st.amount+moved)*st.walls) - 1
		}
		st.amount += moved
	} else {
		s.out += moved
	}
}
