package steps

import (
	"fmt"
	"strconv"
	"strings"

	"idlehiss/core/circuit"
	"idlehiss/core/quantity"
	"idlehiss/core/slate"
)

func askTighten(s circuit.Step, _ *circuit.Circuit, _ Given) Ask {
	var rows, torques []string
	for _, n := range s.Bolts.Rows {
		rows = append(rows, strconv.Itoa(n))
	}
	for _, t := range s.Bolts.Torques {
		torques = append(torques, quantity.Significant(float64(t), 3)+" N·m")
	}
	a := Ask{Fields: []slate.Field{
		{ID: "bolts", Label: "Bolts in each row", Kind: slate.Text, Default: strings.Join(rows, " "), Help: "such as 5 5; or tap them in on the plate"},
		{ID: "places", Label: "Or the place of each", Kind: slate.Text, Help: "along the plate and across it, such as 20 10; 80 10"},
		{ID: "torques", Label: "Torque steps", Kind: slate.Text, Default: strings.Join(torques, ", "), Help: "such as 15 N·m, 30 N·m"},
		{ID: "done", Label: "Rounds done", Kind: slate.Number, Default: "0", Help: "one round: every bolt once, in order"},
	}}
	if s.Bolts.Renip {
		a.Fields = append(a.Fields, slate.Field{ID: "nipped", Label: "Re-nipped at", Kind: slate.Text, Help: "the pressures, such as 140 kPa, 200 kPa"})
	}
	return a
}

// judgeTighten wants every round of torque done, in rising steps.
func judgeTighten(sh *sheet) (Outcome, error) {
	bolts, err := BoltPlaces(sh.in.Text("places"))
	if err != nil {
		return Outcome{}, CellError{"", "places", err}
	}
	if len(bolts) == 0 {
		if bolts, err = BoltRows(sh.in.Text("bolts")); err != nil {
			return Outcome{}, CellError{"", "bolts", err}
		}
	}
	Order(bolts)
	var torques []float64
	for _, w := range strings.FieldsFunc(sh.in.Text("torques"), func(r rune) bool { return r == ',' || r == ';' }) {
		v, err := quantity.Parse(strings.TrimSpace(w), quantity.Torque, quantity.MustNamed("N·m", quantity.Torque), sh.given.AmbientPa)
		if err != nil {
			return Outcome{}, CellError{"", "torques", err}
		}
		if n := len(torques); n > 0 && v.Mid() <= torques[n-1] {
			return Outcome{}, CellError{"", "torques", fmt.Errorf("each torque step must be higher than the one before")}
		}
		torques = append(torques, v.Mid())
	}
	rounds, done := max(1, len(torques)), int(sh.in.SI("done"))
	if done > rounds {
		return Outcome{}, CellError{"", "done", fmt.Errorf("there are %d rounds, not %d", rounds, done)}
	}
	out := Outcome{Bolts: bolts, Verdict: Good, Sentence: fmt.Sprintf("All %d bolts, %d rounds, from the middle outwards.", len(bolts), rounds)}
	if done < rounds {
		out.Verdict, out.Sentence = Unknown, fmt.Sprintf("Round %d of %d", done+1, rounds)
		if len(torques) > 0 {
			out.Sentence += ": all to " + quantity.Significant(torques[done], 3) + " N·m"
		}
		out.Sentence += ", 1 to " + strconv.Itoa(len(bolts)) + " in order."
	}
	if sh.step.Bolts.Renip {
		out.Notes = []string{"Tightening one bolt loosens the next: tighten all of them again at every pressure step, the pressure let off first."}
	}
	return out, nil
}
