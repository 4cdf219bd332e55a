package main

import (
	"bufio"
	"context"
	"fmt"
	"strings"
	"time"

	"idlehiss/core/terms"
	"idlehiss/door"
	"idlehiss/logbook"
)

type pinCmd struct {
	Data  string     `default:"data/shop" help:"Folder of the logbook." placeholder:"DIR"`
	Role  terms.Role `default:"owner" enum:"owner,hand" help:"Whose: the owner's (settings, kit, devices, backups) or that of the hands (jobs and holds)."`
	Clear bool       `help:"Remove it. Without any PIN only this computer is served."`
}

// Run reads the PIN from standard input, so that it stands in no list of commands.
func (c *pinCmd) Run(o outside) error {
	pin := ""
	if !c.Clear {
		fmt.Fprintf(o.err, "The PIN (%s), six digits or more, or a phrase: ", c.Role)
		line, err := bufio.NewReader(o.in).ReadString('\n')
		if pin = strings.TrimSpace(line); pin == "" {
			return badInput("no PIN was typed (%v)", err)
		}
	}
	ctx := context.Background()
	book, err := logbook.Open(ctx, c.Data)
	if err != nil {
		return keeping(err)
	}
	defer book.Close()
	if err := door.SetPin(ctx, book, c.Role, pin, time.Now()); err != nil {
		return badInput("%w", err)
	}
	if c.Clear {
		fmt.Fprintln(o.out, "It is removed, and whoever came in by it is out.")
		return nil
	}
	fmt.Fprintln(o.out, "It is set. Other devices are let in with 'idlehiss serve --addr'; those that came in by it before enter it again.")
	return nil
}
