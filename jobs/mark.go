package jobs

import (
	"context"

	"idlehiss/catalogue"
	"idlehiss/core/circuit"
	"idlehiss/core/runsheet"
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
	return addFact(tx, st, jobID, entry{"mark", terms.AboutMark, "", terms.KnowLimit, terms.FromMark, runsheet.MarkSays(c, m, m.Readings[reading]), markKept{m.Text, reading}})
}
