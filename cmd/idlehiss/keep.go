package main

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"
	"time"

	"idlehiss/backups"
	"idlehiss/logbook"
)

type backupCmd struct {
	File string `arg:"" help:"The file to write, or a folder for one named by its moment. A backup that is there is replaced."`
	Data string `default:"data/shop" help:"Folder of the logbook." placeholder:"DIR"`
}

func (c *backupCmd) Run(o outside) error {
	if info, err := os.Stat(c.File); err == nil && info.IsDir() {
		c.File = filepath.Join(c.File, backups.Name(time.Now()))
	}
	if err := logbook.Backup(context.Background(), c.Data, c.File); err != nil {
		return keeping(err)
	}
	fmt.Fprintf(o.out, "The book of %s is in %s. Keep it on another disk.\n", c.Data, c.File)
	return nil
}

type restoreCmd struct {
	File    string `arg:"" help:"A backup."`
	Data    string `default:"data/shop" help:"Folder of the logbook." placeholder:"DIR"`
	Replace bool   `help:"Take the place of the book that is there, which is kept beside it."`
}

func (c *restoreCmd) Run(o outside) error {
	kept, err := logbook.Restore(context.Background(), c.File, c.Data, c.Replace)
	if err != nil {
		return keeping(err)
	}
	if kept != "" {
		fmt.Fprintf(o.out, "The book that was there is %s.\n", kept)
	}
	fmt.Fprintf(o.out, "%s is the book of %s now. Other devices sign in again.\n", c.File, c.Data)
	return nil
}

type checkCmd struct {
	Data string `default:"data/shop" help:"Folder of the logbook." placeholder:"DIR"`
	File string `help:"A single file, such as a backup, in place of a folder." placeholder:"FILE"`
	Save string `help:"Write what can be read into this new file." placeholder:"FILE"`
	JSON bool   `name:"json" help:"Print one JSON document."`
}

// sounded is a check as a document.
type sounded struct {
	logbook.Report
	Sound bool            `json:"sound"`
	Saved []logbook.Saved `json:"saved,omitempty"`
}

// errUnsound ends a check that found something; it is said already.
var errUnsound = errors.New("the book is not sound")

func (c *checkCmd) Run(o outside) error {
	path := cmp.Or(c.File, filepath.Join(c.Data, logbook.File))
	r, err := logbook.Check(context.Background(), path)
	if err != nil {
		return keeping(err)
	}
	out := sounded{Report: r, Sound: r.Sound()}
	if c.Save != "" {
		if out.Saved, err = logbook.Save(context.Background(), path, c.Save); err != nil {
			return keeping(err)
		}
	}
	if c.JSON {
		err = document(o.out, out)
	} else {
		out.print(o, c)
	}
	if !out.Sound {
		err = cmp.Or(err, errUnsound)
	}
	return err
}

func (r sounded) print(o outside, c *checkCmd) {
	fmt.Fprintf(o.out, "%s: %.1f MB, schema %d\n", r.File, float64(r.Bytes)/1e6, r.Version)
	fmt.Fprintf(o.out, "%d jobs, %d holds, %d calls read back\n", r.Jobs, r.Holds, r.Calls)
	for _, kind := range []struct {
		title string
		of    []logbook.Fault
	}{{"Damaged pages", r.Pages}, {"What belongs to nothing", r.Orphans}, {"Entries that do not read back", r.Entries}} {
		if len(kind.of) > 0 {
			fmt.Fprintf(o.out, "%s:\n", kind.title)
		}
		for _, f := range kind.of {
			fmt.Fprintf(o.out, "  %s: %s\n", f.Of, f.Says)
		}
	}
	if r.Sound {
		fmt.Fprintln(o.out, "Nothing is wrong.")
	} else {
		fmt.Fprintln(o.out, "Rows that can be read:")
		for _, t := range r.Tables {
			more := ""
			if t.Cut != "" {
				more = ", and then no further: " + t.Cut
			}
			fmt.Fprintf(o.out, "  %s %d%s\n", t.Name, t.Rows, more)
		}
	}
	for _, s := range r.Saved {
		left := ""
		if s.Left > 0 {
			left = fmt.Sprintf(" (%d left out, since what they belong to cannot be read)", s.Left)
		}
		fmt.Fprintf(o.out, "saved %s %d%s\n", s.Name, s.Rows, left)
	}
	switch {
	case r.Saved != nil:
		fmt.Fprintf(o.out, "%s is a sound book. 'idlehiss restore %s --data %s --replace' takes it.\n", c.Save, c.Save, c.Data)
	case !r.Sound:
		fmt.Fprintln(o.out, "Restore the last good backup. Where there is none, 'idlehiss check --save FILE' writes what can be read into a new book.")
	}
}

// keeping is wrong input where a file or folder is not what it should be.
func keeping(err error) error {
	for _, kind := range []error{logbook.ErrNoBook, logbook.ErrNotABook, logbook.ErrDamaged, logbook.ErrNewer, fs.ErrExist, fs.ErrNotExist} {
		if errors.Is(err, kind) {
			return badInput("%w", err)
		}
	}
	return err
}
