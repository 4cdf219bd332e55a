package main

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"time"

	"idlehiss/bundle"
	"idlehiss/core/terms"
	"idlehiss/desk"
	"idlehiss/logbook"
	"idlehiss/shop"
)

type exportCmd struct {
	Hold    string `arg:"" optional:"" help:"Id of a hold, or of a job for its last test: its trace as CSV."`
	Job     string `xor:"what" help:"A job as a bundle." placeholder:"ID"`
	Machine string `xor:"what" help:"All jobs on a machine as a bundle." placeholder:"NAME"`
	Book    bool   `xor:"what" help:"The whole book as a bundle."`
	Paper   string `xor:"what" help:"A job's paper as one page, which needs nothing beside it." placeholder:"ID"`
	shop.PaperWanted
	Data string `default:"data/shop" help:"Folder of the logbook." placeholder:"DIR"`
	Out  string `help:"Write to this file." placeholder:"FILE"`
	JSON bool   `name:"json" help:"Print one JSON document: of a trace."`
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
	bundled := c.Job != "" || c.Machine != "" || c.Book
	switch one := bundled || c.Paper != ""; {
	case one == (c.Hold != ""):
		return badInput("name a hold, or one of --job, --machine, --book, --paper")
	case one && c.JSON:
		return badInput("--json goes with a hold's trace")
	case c.Paper == "" && c.PaperWanted != (shop.PaperWanted{}):
		return badInput("--slip, --unit and --size go with --paper")
	}
	book, err := logbook.OpenToRead(ctx, c.Data) // it may be served meanwhile
	if err != nil {
		return keeping(fmt.Errorf("--data: %w", err))
	}
	defer book.Close()
	s, err := shop.Reader(ctx, book, reading{})
	if err != nil {
		return err
	}
	switch {
	case bundled:
		f, err := s.Bundles.Find(ctx, bundle.Asked(c.Job, c.Machine))
		if err != nil {
			return badInput("%w", err)
		}
		return writeOut(o, c.Out, func(w io.Writer) error { return s.Bundles.Write(ctx, w, f) })
	case c.Paper != "":
		return writeOut(o, c.Out, func(w io.Writer) error {
			return given(s.Paper(ctx, w, c.Paper, c.PaperWanted))
		})
	}
	id := c.Hold
	if all, err := book.HoldsOf(ctx, c.Hold); err == nil {
		for _, h := range all {
			if h.Purpose != terms.RigProof {
				id = h.ID
			}
		}
	}
	tr, notes, err := s.Holds.Export(ctx, id)
	if err != nil {
		return badInput("%w", err)
	}
	if !c.JSON {
		return writeOut(o, c.Out, func(w io.Writer) error { return tr.WriteCSV(w, notes...) })
	}
	var b bytes.Buffer
	if err := tr.WriteCSV(&b, notes...); err != nil {
		return err
	}
	return document(o.out, exported{id, len(tr.Readings), notes, b.String()})
}

// given is wrong input where it is a refusal.
func given(err error) error {
	var r *desk.Refusal
	if errors.As(err, &r) {
		return badInput("%w", err)
	}
	return err
}

type importCmd struct {
	File string `arg:"" help:"A bundle." type:"existingfile"`
	Try  bool   `help:"Only say what would be added, and what differs."`
	Data string `default:"data/shop" help:"Folder of the logbook." placeholder:"DIR"`
	JSON bool   `name:"json" help:"Print one JSON document."`
}

func (c *importCmd) Run(o outside) error {
	ctx := context.Background()
	f, err := os.Open(c.File)
	if err != nil {
		return badInput("%w", err)
	}
	defer f.Close()
	info, err := f.Stat()
	if err != nil {
		return err
	}
	open := logbook.Open
	if c.Try {
		open = logbook.OpenToRead
	}
	book, err := open(ctx, c.Data)
	if errors.Is(err, logbook.ErrInUse) {
		return fmt.Errorf("%w. While it runs, its page takes a bundle over under Devices", err)
	}
	if err != nil {
		return keeping(err)
	}
	defer book.Close()
	s, err := shop.Reader(ctx, book, reading{})
	if err != nil {
		return err
	}
	from := bundle.From{ReaderAt: f, Size: info.Size()}
	var plan bundle.Takeover
	if c.Try {
		plan, err = s.Bundles.Look(ctx, from)
	} else {
		plan, err = s.Bundles.Take(ctx, desk.Write{ID: desk.NewID(), By: "shop", Device: "command line"}, from)
	}
	if err != nil {
		return given(err)
	}
	if c.JSON {
		return document(o.out, plan)
	}
	_, err = fmt.Fprintln(o.out, plan)
	return err
}
