// Command bigshop makes a shop of years for those who work on this program: the stories of the demo shop, told again
// many thousand times on other machines and days, and some holds that have been running for long.
package main

import (
	"context"
	"fmt"
	"os"
	"time"

	"github.com/alecthomas/kong"

	"idlehiss/demo"
	"idlehiss/logbook"
)

type options struct {
	Out   string  `arg:"" help:"Folder to make; it must not be there."`
	Jobs  int     `default:"100000" help:"How many ended jobs."`
	Live  int     `default:"13" help:"How many holds are running."`
	Least int     `default:"36000" help:"Readings of the shortest of them, one a second."`
	Most  int     `default:"86400" help:"Readings of the longest."`
	Years float64 `default:"8" help:"Over how long the jobs were done."`
}

func main() {
	var o options
	parser := kong.Must(&o, kong.Name("bigshop"), kong.Description("Makes a big shop out of the demo's stories."))
	_, err := parser.Parse(os.Args[1:])
	parser.FatalIfErrorf(err)
	parser.FatalIfErrorf(build(context.Background(), o))
}

func build(ctx context.Context, o options) error {
	if _, err := os.Stat(o.Out); err == nil {
		return fmt.Errorf("%s is there already: choose another folder", o.Out)
	}
	now := time.Now().UTC().Truncate(time.Second)
	longest := time.Duration(o.Most+600) * time.Second
	book, err := logbook.Open(ctx, o.Out)
	if err != nil {
		return err
	}
	if err := demo.Fill(ctx, book, at(now.Add(-longest))); err != nil {
		return err
	}
	if err := book.Close(); err != nil {
		return err
	}
	// Opened once more: what arrived last lies with the other readings then.
	if book, err = logbook.Open(ctx, o.Out); err != nil {
		return err
	}
	if err := book.Close(); err != nil {
		return err
	}
	begun := time.Now()
	readings, err := tellAgain(ctx, o, now.Add(-longest-time.Hour))
	if err != nil {
		return err
	}
	fmt.Printf("%d jobs with %d readings in %s\n", o.Jobs, readings, time.Since(begun).Round(time.Second))
	return hold(ctx, o, now)
}

// at is a clock that stands still.
type at time.Time

func (a at) Now() time.Time { return time.Time(a) }
func (at) Speed() float64   { return 0.001 }
