package shop

import (
	"context"
	"fmt"
	"strings"

	"idlehiss/core/quantity"
	"idlehiss/logbook"
)

// TakeAir is trapped air that was not told by the strokes.
type TakeAir struct {
	Write
	M3        float64 `json:"m3" exclusiveMinimum:"0" maximum:"10"`
	SE        float64 `json:"se_m3" minimum:"0"`
	ByStrokes bool    `json:"by_strokes,omitempty" doc:"pump strokes told it: walls that give way after them are not in it"`
	Says      string  `json:"says" maxLength:"200" doc:"how it was found"`
}

// mostAirM3 is the largest trapped volume: a long train's brake pipe holds a tenth.
const mostAirM3 = 10.0

// givenAir is what the fact "air" keeps.
type givenAir struct {
	M3        float64 `json:"m3"`
	SE        float64 `json:"se_m3"`
	ByStrokes bool    `json:"by_strokes,omitempty"`
}

// Air takes down trapped air that was worked out beside the job: it stands in
// where the strokes do not tell it, also for a hold that is running.
func (s *Shop) Air(ctx context.Context, jobID string, in TakeAir) (JobView, error) {
	if !(in.M3 > 0) || in.M3 > mostAirM3 {
		return JobView{}, refuse("m3", "%g m³ of trapped air is not possible here: more than nothing and at most %g m³ is taken", in.M3, mostAirM3)
	}
	if !(in.SE >= 0) || in.SE > in.M3 {
		return JobView{}, refuse("se_m3", "the doubt cannot be larger than the air itself")
	}
	given := givenAir{in.M3, in.SE, in.ByStrokes}
	v, err := change(ctx, s, jobID, in.Write, in, func(tx *logbook.Tx, st logbook.Stamp, j logbook.Job, sn snapshot) error {
		return fact(tx, st, "air-"+st.ID, jobID, "air", "pressurise", "slate",
			fmt.Sprintf("About %s L of air is squeezed. %s", quantity.Significant(in.M3*1e3, 2), strings.TrimSpace(in.Says)), given)
	})
	if err != nil {
		return v, err
	}
	s.mu.Lock()
	for _, l := range s.live {
		if l.hold.JobID != jobID || l.hold.Purpose == "rig proof" {
			continue
		}
		if err := s.giveAir(ctx, l, given); err != nil {
			s.mu.Unlock()
			return v, err
		}
	}
	s.mu.Unlock()
	return s.Job(ctx, jobID)
}

func (s *Shop) giveAir(ctx context.Context, l *live, given givenAir) error {
	l.rig.Given = &given
	if l.hold.State == "holding" {
		l.settle()
	}
	if err := l.saveRig(ctx, s.book); err != nil {
		return err
	}
	if err := l.rebuild(); err != nil {
		return err
	}
	// A call that was made stands; beside it the same is said with its size.
	if n := len(l.calls); n > 0 && l.report != nil && l.report.Firm {
		if err := s.keep(ctx, l); err != nil {
			return err
		}
	}
	s.showWhole(l)
	return nil
}
