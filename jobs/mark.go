package jobs

import (
	"context"
	"encoding/json"
	"fmt"

	"idlehiss/catalogue"
	"idlehiss/core/circuit"
	"idlehiss/core/quantity"
	"idlehiss/core/terms"
	"idlehiss/desk"
	"idlehiss/logbook"
)

// EnterMark is the mark as it stands on the part.
type EnterMark struct {
	desk.Write
	Text    string `json:"text" maxLength:"40"`
	Reading int    `json:"reading" minimum:"0" doc:"which of the decoded readings is meant; 0 the likeliest"`
}

// markKept is what the fact keeps.
type markKept struct {
	Text    string `json:"text"`
	Reading int    `json:"reading"`
}

// Mark takes down the mark as it stands on the part.
func (r *Room) Mark(ctx context.Context, jobID string, in EnterMark) (desk.Receipt, error) {
	return r.change(ctx, jobID, in.Write, in, "plan", func(p *pencil) error {
		return addMark(p.tx, p.stamp, p.job.ID, &p.basis.Circuit, in.Text, in.Reading)
	})
}

func addMark(tx *logbook.Tx, st logbook.Stamp, jobID string, c *circuit.Circuit, text string, reading int) error {
	m, err := catalogue.Decoded(c, "text", text)
	if err != nil {
		return err
	}
	if reading < 0 || reading >= len(m.Readings) {
		return desk.Refuse("reading", "%q has %d readings; number %d is not one of them", text, len(m.Readings), reading+1)
	}
	return addFact(tx, st, jobID, entry{"mark", terms.AboutMark, "", terms.KnowLimit, terms.FromMark, markSays(c, m, m.Readings[reading]), markKept{m.Text, reading}})
}

func markSays(c *circuit.Circuit, m quantity.Mark, r quantity.Reading) string {
	said := quantity.Significant(r.HighPa/1e3, 3) + " kPa"
	if m.Band() {
		said = quantity.Significant(r.LowPa/1e3, 3) + " to " + said
	}
	if !m.Bare {
		return fmt.Sprintf("The %s says %s: %s.", c.Mark.On, m.Text, said)
	}
	return fmt.Sprintf("The %s says %s, read in %s: %s.", c.Mark.On, m.Text, r.Unit.Symbol, said)
}

// markOf is the mark as it was decoded; nil while it is not known, or where the circuit
// has none.
func markOf(facts logbook.Facts, c *circuit.Circuit) (m *quantity.Mark, chosen int, err error) {
	f, ok := facts.Standing(terms.AboutMark, "")
	if !ok || !c.Marked() {
		return nil, 0, nil
	}
	var kept markKept
	if err := json.Unmarshal(f.Value, &kept); err != nil {
		return nil, 0, err
	}
	got, err := quantity.DecodeMark(kept.Text, c.Plausible())
	if err != nil {
		return nil, 0, err
	}
	return &got, min(kept.Reading, len(got.Readings)-1), nil
}

// reading is the mark's reading that is meant; nil where there is none.
func (f *file) reading() *quantity.Reading {
	if f.mark == nil {
		return nil
	}
	return &f.mark.Readings[f.chosen]
}
