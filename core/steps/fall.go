package steps

import (
	"fmt"
	"strings"

	"idlehiss/core/circuit"
	"idlehiss/core/quantity"
	"idlehiss/core/slate"
)

func askFall(s circuit.Step, _ *circuit.Circuit, _ Given) Ask {
	seconds := func(id, label string) slate.Field {
		return slate.Field{ID: id, Label: label, Kind: slate.Kind(quantity.Time), Unit: "s", Help: "such as 3.4 s"}
	}
	to := kpa(float64(s.To))
	return Ask{Fields: []slate.Field{seconds("near", "Near gauge at "+to), seconds("far", "Far gauge at "+to)}, Clock: clock(s, "Valve opened", "near", "far")}
}

// judgeFall wants each gauge to pass the mark within a window of two sides, and
// the far one not long after the near one: a lag is a restriction between them.
func judgeFall(sh *sheet) (Outcome, error) {
	var out Outcome
	early, late, lag := float64(sh.step.Within[0]), float64(sh.step.Within[1]), float64(sh.step.Lag)
	secs := func(s float64) string { return quantity.Significant(s, 2) + " s" }
	if !sh.in.Given("near") || !sh.in.Given("far") {
		return Outcome{Verdict: Unknown, Sentence: fmt.Sprintf("Time the fall of both gauges to %s. Right: %s to %s each.", kpa(float64(sh.step.To)), secs(early), secs(late))}, nil
	}
	near, far := sh.in.SI("near"), sh.in.SI("far")
	behind := far - near
	out.Figures = []slate.Figure{slate.InUnit("near_s", "Near gauge", near, "s", quantity.Time), slate.InUnit("far_s", "Far gauge", far, "s", quantity.Time), slate.InUnit("lag_s", "Behind it", behind, "s", quantity.Time)}
	var bad []string
	for _, g := range []struct {
		name string
		at   float64
	}{{"near", near}, {"far", far}} {
		switch {
		case g.at < early:
			bad = append(bad, fmt.Sprintf("the %s gauge falls too soon, %s", g.name, secs(g.at)))
		case g.at > late:
			bad = append(bad, fmt.Sprintf("the %s gauge falls too late, %s", g.name, secs(g.at)))
		}
	}
	if behind > lag {
		bad = append(bad, fmt.Sprintf("the far gauge lags %s: something between the gauges is narrow", secs(behind)))
	}
	if behind < 0 {
		out.Notes = append(out.Notes, "The far gauge fell before the near gauge: check that they are not exchanged.")
	}
	if len(bad) > 0 {
		out.Verdict, out.Sentence = Bad, "Not right: "+strings.Join(bad, "; ")+"."
		return out, nil
	}
	out.Verdict, out.Sentence = Good, fmt.Sprintf("Both within %s to %s; %s between them.", secs(early), secs(late), secs(behind))
	return out, nil
}
