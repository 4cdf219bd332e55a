package main

import (
	"bufio"
	"context"
	"fmt"
	"strings"
	"time"

	"idlehiss/door"
	"idlehiss/logbook"
)

type pinCmd struct {
	Data  string `default:"data/shop" help:"Folder of the logbook." placeholder:"DIR"`
	Clear bool   `help:"Remove the PIN: only this computer is served then."`
}

// Run reads the PIN from standard input, so that it stands in no list of commands.
func (c *pinCmd) Run(o outside) error {
	pin := ""
	if !c.Clear {
		fmt.Fprint(o.err, "The shop's PIN, 4 to 12 digits: ")
		line, err := bufio.NewReader(o.in).ReadString('\n')
		if pin = strings.TrimSpace(line); pin == "" {
			return badInput("no PIN was typed (%v)", err)
		}
	}
	ctx := context.Background()
	book, err := logbook.Open(ctx, c.Data)
	if err != nil {
		return err
	}
	defer book.Close()
	if err := door.SetPin(ctx, book, pin, time.Now()); err != nil {
		return badInput("%w", err)
	}
	if c.Clear {
		fmt.Fprintln(o.out, "The PIN is removed. Only this computer is served.")
		return nil
	}
	fmt.Fprintln(o.out, "The PIN is set. Other devices can be let in with 'idlehiss serve --addr'; those that were signed in must enter it again.")
	return nil
}
