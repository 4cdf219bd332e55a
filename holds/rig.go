package holds

import (
	"math"

	"idlehiss/core/judge"
	"idlehiss/core/quantity"
	"idlehiss/core/runsheet"
	"idlehiss/gauges"
	"idlehiss/kit"
)

// Rig is what a hold keeps of how it was done.
type Rig struct {
	Gauge     runsheet.Gauge     `json:"gauge"`
	Pump      runsheet.Pump      `json:"pump"`
	Target    runsheet.Target    `json:"target"`
	Limit     runsheet.Limit     `json:"limit"`
	Wanted    runsheet.Wanted    `json:"wanted_allowance"`
	Allowance runsheet.Allowance `json:"allowance"`
	AmbientPa float64            `json:"ambient_pa"`
	GasM3     float64            `json:"gas_m3"`
	GasSE     float64            `json:"gas_se_m3"`
	Step      string             `json:"step,omitempty"`           // of the circuit; empty: its first hold
	ByStrokes bool               `json:"gas_by_strokes,omitempty"` // they showed the gas
	Unread    bool               `json:"warmth_unread,omitempty"`  // as a file said
	LiquidM3  float64            `json:"liquid_m3,omitempty"`      // beside the gas; where not the circuit's own
	Proven    bool               `json:"rig_proven"`
	Given     *GivenAir          `json:"given_air,omitempty"` // where the strokes do not show it
	Loss      *RigLoss           `json:"rig_loss,omitempty"`  // of the rig itself, dead-headed
	StandIn   *gauges.Spec       `json:"stand_in,omitempty"`
	Wire      *gauges.Wire       `json:"wire,omitempty"`
	Posted    bool               `json:"posted,omitempty"`
	Far       *kit.Gauge         `json:"far,omitempty"` // the gauge at the other end
}

// near is the gauge that the hold is judged by, as the kit knows it.
func (r *Rig) near() kit.Gauge {
	return kit.Gauge{Gauge: r.Gauge, StandIn: r.StandIn, Wire: r.Wire, Posted: r.Posted}
}

// On puts a gauge of the kit on the rig.
func (r *Rig) On(near kit.Gauge, far *kit.Gauge) {
	r.Gauge, r.StandIn, r.Wire, r.Posted, r.Far = near.Gauge, near.StandIn, near.Wire, near.Posted, far
}

// Kit are the ids of what is on the rig, with these pieces.
func (r *Rig) Kit(on []kit.Piece) []string {
	ids := []string{r.Gauge.ID, r.Pump.ID}
	if r.Far != nil {
		ids = append(ids, r.Far.ID)
	}
	for _, p := range on {
		ids = append(ids, p.ID)
	}
	return ids
}

// GivenAir is trapped air that was worked out beside the job.
type GivenAir struct {
	M3        float64 `json:"m3"`
	SE        float64 `json:"se_m3"`
	ByStrokes bool    `json:"by_strokes,omitempty"`
}

// RigLoss is what the rig itself lost in its proof. Without its own volume it can be
// shown but not subtracted.
type RigLoss struct {
	PaPerS float64 `json:"pa_per_s"`
	SE     float64 `json:"se_pa_per_s"`
	GasM3  float64 `json:"gas_m3"`
	GasSE  float64 `json:"gas_se_m3"`

	OnSystem bool `json:"on_system,omitempty"` // as it shows on the system itself
}

// on is what it takes from a system with so much air, rounded as an exported file
// writes it, so that the file is judged alike.
func (r RigLoss) on(gasM3, gasSE float64) (paPerS, se float64) {
	paPerS, se = r.PaPerS, r.SE
	if !r.OnSystem {
		paPerS, se = judge.OnSystem(r.PaPerS, r.SE, r.GasM3, r.GasSE, gasM3, gasSE)
	}
	return asWritten(paPerS), asWritten(se)
}

func asWritten(paPerS float64) float64 { return quantity.TenDigits(paPerS*60/1e3) * 1e3 / 60 }

// ceiling is the pressure never to be passed, as a distance from ambient: the weakest
// limit, or the target that was set beyond it with a reason.
func (r *Rig) ceiling() float64 {
	return math.Max(math.Abs(r.Limit.CeilingPa), math.Abs(r.Target.Pa)) * (1 + 1e-9)
}

// draws reports whether the hold is under vacuum, and sign turns a gauge pressure into
// its distance from ambient.
func (r *Rig) draws() bool { return r.Target.Pa < 0 }

func (r *Rig) sign() float64 {
	if r.draws() {
		return -1
	}
	return 1
}

// gauges are the near one and, where there is one, the far one.
func (r *Rig) gauges() []kit.Gauge {
	out := []kit.Gauge{r.near()}
	if r.Far != nil {
		out = append(out, *r.Far)
	}
	return out
}
