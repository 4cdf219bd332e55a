package steps

import (
	"fmt"
	"math"
	"sort"
	"strconv"
	"strings"

	"idlehiss/core/circuit"
	"idlehiss/core/quantity"
	"idlehiss/core/slate"
)

// Order numbers the bolts of a plate, given as the bolts in each row: from the
// middle outwards, each next one on the side away from the last, so that the
// sheet is pressed flat towards its edges. The first is 1.
func Order(rows []int) [][]int {
	type bolt struct {
		row, at int
		x, y    float64 // from the middle, in spacings of the longest row
	}
	longest := 1
	for _, n := range rows {
		longest = max(longest, n)
	}
	var left []bolt
	out := make([][]int, len(rows))
	for r, n := range rows {
		out[r] = make([]int, n)
		for i := range n {
			x := (float64(i) + 0.5) / float64(n) * float64(longest)
			left = append(left, bolt{r, i, x - float64(longest)/2, (float64(r) - float64(len(rows)-1)/2) * 1.5})
		}
	}
	ring := func(b bolt) float64 { return math.Round(math.Hypot(b.x, b.y)*4) / 4 }
	sort.SliceStable(left, func(i, j int) bool { return ring(left[i]) < ring(left[j]) })
	last := bolt{x: 0.01, y: 0.02}
	for n := 1; len(left) > 0; n++ {
		// Of those that are next by distance, the one furthest across from the last.
		best, across := 0, math.Inf(1)
		for i, b := range left {
			if ring(b) > ring(left[0])+0.5 {
				break
			}
			if along := b.x*last.x + b.y*last.y + 3*ring(b); along < across-1e-9 {
				best, across = i, along
			}
		}
		b := left[best]
		out[b.row][b.at], last = n, b
		left = append(left[:best], left[best+1:]...)
	}
	return out
}

func askTighten(s circuit.Step, _ *circuit.Circuit, _ Given) Ask {
	var rows, torques []string
	for _, n := range s.Bolts.Rows {
		rows = append(rows, strconv.Itoa(n))
	}
	for _, t := range s.Bolts.Torques {
		torques = append(torques, quantity.Significant(float64(t), 3)+" N·m")
	}
	a := Ask{Fields: []slate.Field{
		{ID: "bolts", Label: "Bolts in each row", Kind: slate.Text, Default: strings.Join(rows, " "), Help: "such as 5 5"},
		{ID: "torques", Label: "In steps of", Kind: slate.Text, Default: strings.Join(torques, ", "), Help: "such as 15 N·m, 30 N·m"},
		{ID: "done", Label: "Rounds done", Kind: slate.Number, Default: "0", Help: "a round is all bolts once, in order"},
	}}
	if s.Bolts.Renip {
		a.Fields = append(a.Fields, slate.Field{ID: "nipped", Label: "Re-nipped at", Kind: slate.Text, Help: "the pressures, such as 140 kPa, 200 kPa"})
	}
	return a
}

// BoltRows reads "5 5" or "4,6,4".
func BoltRows(text string) ([]int, error) {
	var rows []int
	total := 0
	for _, w := range strings.FieldsFunc(text, func(r rune) bool { return r == ' ' || r == ',' || r == ';' || r == '/' }) {
		n, err := strconv.Atoi(w)
		if err != nil || n < 1 || n > 40 {
			return nil, fmt.Errorf("%q is no number of bolts: write the bolts in each row, such as 5 5", w)
		}
		rows = append(rows, n)
		total += n
	}
	if len(rows) == 0 || len(rows) > 6 || total > 80 {
		return nil, fmt.Errorf("one to six rows of bolts are wanted, such as 5 5")
	}
	return rows, nil
}

// judgeTighten wants every round of torque done, in rising steps.
func judgeTighten(sh *sheet) (Outcome, error) {
	rows, err := BoltRows(sh.in.Text("bolts"))
	if err != nil {
		return Outcome{}, CellError{"", "bolts", err}
	}
	var torques []float64
	for _, w := range strings.FieldsFunc(sh.in.Text("torques"), func(r rune) bool { return r == ',' || r == ';' }) {
		v, err := quantity.Parse(strings.TrimSpace(w), quantity.Torque, quantity.MustNamed("N·m", quantity.Torque), sh.given.AmbientPa)
		if err != nil {
			return Outcome{}, CellError{"", "torques", err}
		}
		if n := len(torques); n > 0 && v.Mid() <= torques[n-1] {
			return Outcome{}, CellError{"", "torques", fmt.Errorf("the steps of torque must rise")}
		}
		torques = append(torques, v.Mid())
	}
	bolts := 0
	for _, n := range rows {
		bolts += n
	}
	rounds, done := max(1, len(torques)), int(sh.in.SI("done"))
	if done > rounds {
		return Outcome{}, CellError{"", "done", fmt.Errorf("there are %d rounds, not %d", rounds, done)}
	}
	out := Outcome{Order: Order(rows), Verdict: Good, Sentence: fmt.Sprintf("All %d bolts, %d rounds, from the middle outwards.", bolts, rounds)}
	if done < rounds {
		out.Verdict, out.Sentence = Unknown, fmt.Sprintf("Round %d of %d", done+1, rounds)
		if len(torques) > 0 {
			out.Sentence += ": all to " + quantity.Significant(torques[done], 3) + " N·m"
		}
		out.Sentence += ", 1 to " + strconv.Itoa(bolts) + " in order."
	}
	if sh.step.Bolts.Renip {
		out.Notes = []string{"Closing one place opens another: all of them once more at every pressure step."}
	}
	return out, nil
}
