package shop

import (
	"context"
	"encoding/json"
	"fmt"

	"idlehiss/core/circuit"
	"idlehiss/core/quantity"
	"idlehiss/logbook"
)

// EnterMark is the mark as it stands on the part.
type EnterMark struct {
	Write
	Text    string `json:"text" maxLength:"40"`
	Reading int    `json:"reading" minimum:"0" doc:"which of the decoded readings is meant; 0 the likeliest"`
}

// markFact is what the fact "mark" keeps.
type markFact struct {
	Text    string `json:"text"`
	Reading int    `json:"reading"`
}

func (s *Shop) addMark(tx *logbook.Tx, st logbook.Stamp, id, jobID string, c *circuit.Circuit, text string, reading int) error {
	m, err := quantity.DecodeMark(text, c.Plausible())
	if err != nil {
		return refuse("text", "%v", err)
	}
	if reading >= len(m.Readings) {
		return refuse("reading", "%q has %d readings; number %d is not one of them", text, len(m.Readings), reading+1)
	}
	r := m.Readings[reading]
	said := quantity.Significant(r.HighPa/1e3, 3) + " kPa"
	if m.Band() {
		said = quantity.Significant(r.LowPa/1e3, 3) + " to " + said
	}
	sentence := fmt.Sprintf("The %s says %s, read in %s: %s.", c.Mark.On, m.Text, r.Unit.Symbol, said)
	if !m.Bare {
		sentence = fmt.Sprintf("The %s says %s: %s.", c.Mark.On, m.Text, said)
	}
	return fact(tx, st, id, jobID, "mark", "limit", "mark", sentence, markFact{m.Text, reading})
}

// Mark takes down the mark as it stands on the part.
func (s *Shop) Mark(ctx context.Context, jobID string, in EnterMark) (JobView, error) {
	return change(ctx, s, jobID, in.Write, in, func(tx *logbook.Tx, st logbook.Stamp, j logbook.Job, sn snapshot) error {
		if !sn.Circuit.Marked() {
			return refuse("text", "%s is limited by no mark: its steps say how far", sn.Circuit.Title)
		}
		return s.addMark(tx, st, "mark-"+st.ID, jobID, &sn.Circuit, in.Text, in.Reading)
	})
}

// DecodeMark reads a mark without keeping it.
func (s *Shop) DecodeMark(text, circuitID string) (MarkView, error) {
	c, err := s.circuitNamed(circuitID)
	if err != nil {
		return MarkView{}, err
	}
	if !c.Marked() {
		return MarkView{}, refuse("text", "%s is limited by no mark: its steps say how far", c.Title)
	}
	m, err := quantity.DecodeMark(text, c.Plausible())
	if err != nil {
		return MarkView{}, refuse("text", "%v", err)
	}
	return markView(m), nil
}

func markView(m quantity.Mark) MarkView {
	v := MarkView{Text: m.Text, Doubt: m.Doubt, Readings: []MarkReading{}}
	for _, r := range m.Readings {
		eq := map[string]string{}
		for _, name := range []string{"bar", "psi", "kPa", "kgf/cm²"} {
			u := quantity.MustNamed(name, quantity.Pressure)
			digits := map[string]float64{"bar": 0.01, "psi": 0.1, "kPa": 1, "kgf/cm²": 0.01}[name]
			text := u.Show(r.HighPa, u.SI(digits))
			if r.LowPa != r.HighPa {
				text = u.Figure(r.LowPa, u.SI(digits)) + " to " + text
			}
			eq[name] = text
		}
		v.Readings = append(v.Readings, MarkReading{Unit: r.Unit.Symbol, LowPa: r.LowPa, HighPa: r.HighPa, HalfDigitPa: r.HalfDigitPa, Doubt: r.Doubt, Equivalents: eq})
	}
	return v
}

// markOf is the mark as it was decoded; nil while it is not known, or where the
// circuit has none.
func markOf(sn snapshot) (m *quantity.Mark, chosen int, err error) {
	f, ok := standing(sn.facts, "mark")
	if !ok || !sn.Circuit.Marked() {
		return nil, 0, nil
	}
	var kept markFact
	if err := json.Unmarshal(f.Value, &kept); err != nil {
		return nil, 0, err
	}
	got, err := quantity.DecodeMark(kept.Text, sn.Circuit.Plausible())
	if err != nil {
		return nil, 0, err
	}
	return &got, min(kept.Reading, len(got.Readings)-1), nil
}
