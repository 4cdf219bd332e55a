package simulate

import (
	"hash/fnv"
	"math"
	"math/rand/v2"

	"idlehiss/core/circuit"
	"idlehiss/core/hunt"
	"idlehiss/core/physics"
)

// Notice is what a person notices at one part by one method: how long that takes
// with the way there, and how long until it shows.
type Notice struct {
	Part      string
	Method    string
	HandsS    float64 // reach and method
	WaitS     float64 // with hands free
	M3PerS    float64 // escaping there now: standard flow of gas, or flow of liquid
	Liquid    bool
	Chance    float64 // of noticing it
	Seen      bool    // whether it was, this time
	Shows     string  // what; "" when nothing
	Meant     bool    // it belongs there
	Forbidden bool    // the method must not be used here
}

// escape is what comes out at a part now, into the open.
func (s *Sim) escape(part string) (m3PerS float64, liquid, meant bool) {
	for k, p := range s.sys.Passages {
		if p.Part != part || !s.open[k] {
			continue
		}
		out := s.Flow(k)
		if p.From == Outside {
			out = -out
		} else if p.To != Outside && s.sys.Chambers[p.To].HeldPa == nil {
			continue // it goes into another closed room: nothing shows outside
		}
		if out <= 0 {
			continue // drawn inwards: a breath in is not seen by bubbles
		}
		m3PerS += out
		liquid, meant = liquid || p.Law == physics.Liquid, meant || p.Meant
	}
	return m3PerS, liquid, meant
}

// Notices plays every look: each part by each method, at the pressure of now. The
// same seed gives the same luck. atPa is the pressure at which they are done, there what each
// part is like.
func (s *Sim) Notices(parts []circuit.Part, methods []hunt.Method, atPa float64, there func(circuit.Part) []hunt.Place, seed uint64) []Notice {
	out := make([]Notice, 0, len(parts)*len(methods))
	for _, p := range parts {
		flow, liquid, meant := s.escape(p.ID)
		places := there(p)
		for _, m := range methods {
			n := Notice{Part: p.ID, Method: m.ID, HandsS: float64(p.Reach) + float64(m.Takes), WaitS: float64(m.Waits),
				M3PerS: flow, Liquid: liquid, Meant: meant, Chance: m.Chance(flow, liquid), Forbidden: m.Suits(atPa, places...).Matters}
			if n.Forbidden {
				n.Chance = 0
			}
			luck := fnv.New64a()
			luck.Write([]byte(p.ID + "/" + m.ID))
			if rand.New(rand.NewPCG(seed, luck.Sum64())).Float64() < n.Chance {
				n.Seen, n.Shows = true, m.Shows
			}
			out = append(out, n)
		}
	}
	return out
}

// Minutes is the whole of a look, minutes.
func (n Notice) Minutes() float64 { return math.Ceil((n.HandsS+n.WaitS)/60*10) / 10 }
