package main

import (
	"context"
	"os"
	"strings"

	"idlehiss/logbook"
	"idlehiss/shop"
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
	if holds, err := book.HoldsOf(ctx, c.Hold); err == nil {
		for _, h := range holds {
			if h.Purpose != "rig proof" {
				id = h.ID
			}
		}
	}
	tr, notes, err := shop.ExportHold(ctx, book, id)
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
