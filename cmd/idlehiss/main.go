// Command idlehiss is the whole application: the server, the demo shop, and every
// computation of its pages on the command line.
package main

import (
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"

	"github.com/alecthomas/kong"
)

// commands is the command line; each command stands in a file of its own.
type commands struct {
	Serve    serveCmd    `cmd:"" help:"Run the application."`
	Demo     demoCmd     `cmd:"" help:"Run it on the demo shop, with simulated gauges."`
	Judge    judgeCmd    `cmd:"" help:"Read a pressure trace and call it."`
	Compare  compareCmd  `cmd:"" help:"Tell two traces apart: which loses faster, and by how much."`
	Calc     calcCmd     `cmd:"" help:"The calculators: marks, units, trapped air, flow, hole, boiling, …"`
	Simulate simulateCmd `cmd:"" help:"Produce a trace from a circuit with a given leak."`
	Gauge    gaugeCmd    `cmd:"" help:"A simulated gauge that speaks Modbus TCP."`
	Pin      pinCmd      `cmd:"" help:"Set the PIN with which other devices are let in."`
	Circuits circuitsCmd `cmd:"" help:"List the circuits, show one, or check a file."`
	Plan     planCmd     `cmd:"" help:"The run sheet for a circuit."`
	Call     callCmd     `cmd:"" help:"Make one call of all the findings of a job."`
	Hunt     huntCmd     `cmd:"" help:"Suspects of a leak and the next check, from what is known."`
	Passages passagesCmd `cmd:"" help:"The isolation tests of a housing, in their order, and the next one."`
	Backup   backupCmd   `cmd:"" help:"Copy the book into one file, also while it is served."`
	Check    checkCmd    `cmd:"" help:"Say what is wrong with a book, and save what can be read of it."`
	Restore  restoreCmd  `cmd:"" help:"Put a backup in the place of the book."`
	Export   exportCmd   `cmd:"" help:"A hold's trace as CSV; a job, a machine or the book as a bundle; a job's paper."`
	Import   importCmd   `cmd:"" help:"Take a bundle over: whole or not at all."`
	Schema   schemaCmd   `cmd:"" help:"The JSON Schema of a circuit file or of a command's --json."`
}

// outside is what a command may touch.
type outside struct {
	in       io.Reader
	out, err io.Writer
}

// inputError is wrong input or a wrong flag: exit status 2.
type inputError struct{ error }

func (e inputError) Unwrap() error { return e.error }

func badInput(format string, a ...any) error { return inputError{fmt.Errorf(format, a...)} }

func main() {
	os.Exit(run(os.Args[1:], outside{os.Stdin, os.Stdout, os.Stderr}))
}

// run is main without the process: it gives the exit status.
func run(args []string, o outside) int {
	var c commands
	code := -1
	parser, err := kong.New(&c, kong.Name("idlehiss"), kong.Description("Pressure tests: held, called, and kept."),
		kong.Writers(o.out, o.err), kong.Exit(func(n int) { code = n }), kong.ShortUsageOnError(), kong.Bind(o))
	if err != nil {
		fmt.Fprintln(o.err, "idlehiss:", err)
		return 1
	}
	ctx, err := parser.Parse(args)
	if code >= 0 {
		return code // --help has answered
	}
	if err != nil {
		fmt.Fprintln(o.err, "idlehiss:", err)
		return 2
	}
	err = ctx.Run(o)
	var bad inputError
	switch {
	case err == nil:
		return 0
	case errors.As(err, &bad):
		fmt.Fprintln(o.err, "idlehiss:", err)
		return 2
	}
	fmt.Fprintln(o.err, "idlehiss:", err)
	return 1
}

// document prints one JSON document and nothing else.
func document(w io.Writer, v any) error {
	e := json.NewEncoder(w)
	e.SetIndent("", "  ")
	e.SetEscapeHTML(false)
	return e.Encode(v)
}
