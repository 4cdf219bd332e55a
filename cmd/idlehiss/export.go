package main

import (
	"context"
	"os"
	"strings"
	"time"

	"idlehiss/core/quantity"
	"idlehiss/core/terms"
	"idlehiss/desk"
	"idlehiss/holds"
	"idlehiss/logbook"
)

type exportCmd struct {
	Hold string `arg:"" help:"Id of a hold, or of a job for its last test."`
	Data string `default:"data/shop" help:"Folder of the logbook." placeholder:"DIR"`
	Out  string `help:"Write to this file." placeholder:"FILE"`
	JSON bool   `name:"json" help:"Print one JSON document."`
}

// exported is an exported trace as a document.
type exported struct {
	Hold     string   `json:"hold"`
	Readings int      `json:"readings"`
	Notes    []string `json:"notes"`
	CSV      string   `json:"csv"`
}

// reading is the clock of a command that only reads.
type reading struct{}

func (reading) Now() time.Time { return time.Now() }
func (reading) Speed() float64 { return 1 }

func (c *exportCmd) Run(o outside) error {
	ctx := context.Background()
	if _, err := os.Stat(c.Data); err != nil {
		return badInput("--data: %w", err)
	}
	book, err := logbook.Open(ctx, c.Data)
	if err != nil {
		return err
	}
	defer book.Close()
	id := c.Hold
	if all, err := book.HoldsOf(ctx, c.Hold); err == nil {
		for _, h := range all {
			if h.Purpose != terms.RigProof {
				id = h.ID
			}
		}
	}
	tr, notes, err := holds.Reader(&desk.Desk{Book: book, Clock: reading{}, AmbientPa: quantity.StandardAtmosphere}).Export(ctx, id)
	if err != nil {
		return badInput("%w", err)
	}
	var b strings.Builder
	if err := tr.WriteCSV(&b, notes...); err != nil {
		return err
	}
	if c.JSON {
		return document(o.out, exported{id, len(tr.Readings), notes, b.String()})
	}
	if c.Out == "" {
		_, err = o.out.Write([]byte(b.String()))
		return err
	}
	return writeAside(c.Out, []byte(b.String()))
}
