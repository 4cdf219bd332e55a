package main

import (
	"errors"
	"fmt"
	"reflect"
	"strings"

	"github.com/alecthomas/kong"

	"idlehiss/core/quantity"
	"idlehiss/core/slate"
)

// calcCmd hands everything after it to the calculator, which has flags of its own.
type calcCmd struct {
	Words []string `arg:"" optional:"" passthrough:"" name:"name" help:"Which calculator, and what it asks for: 'calc boiling --cap 110kPa'; 'calc' alone lists them, 'calc NAME --help' tells what one asks for."`
}

// calculated is the --json document of calc; figures' names carry their units.
type calculated struct {
	Calculator string             `json:"calculator"`
	Formula    string             `json:"formula"`
	Sentence   string             `json:"sentence"`
	Figures    map[string]float64 `json:"figures"`
	Intervals  map[string]bounds  `json:"intervals"` // 95 %, of the figures whose doubt is known
	Notes      []string           `json:"notes"`
}

type bounds struct {
	Low  float64 `json:"low"`
	High float64 `json:"high"`
}

type calcLine struct {
	ID      string `json:"id"`
	Title   string `json:"title"`
	Formula string `json:"formula"`
}

func (c *calcCmd) Run(o outside) error {
	if len(c.Words) == 0 || strings.HasPrefix(c.Words[0], "-") {
		return listCalculators(o, len(c.Words) > 0 && c.Words[0] == "--json")
	}
	calc, err := slate.Named(c.Words[0])
	if err != nil {
		return badInput("%w", err)
	}
	typed, asJSON, helped, err := calcFlags(calc, c.Words[1:], o)
	if err != nil || helped {
		return err
	}
	a, err := calc.Work(typed, false)
	if err != nil {
		var f slate.FieldError
		if errors.As(err, &f) {
			return badInput("--%s: %w", f.Field, err)
		}
		return badInput("%w", err)
	}
	if asJSON {
		doc := calculated{calc.ID, calc.Formula, a.Sentence, map[string]float64{}, map[string]bounds{}, a.Notes}
		for _, f := range a.Figures {
			doc.Figures[f.ID] = f.Value
			if f.Low != nil && f.High != nil {
				doc.Intervals[f.ID] = bounds{*f.Low, *f.High}
			}
		}
		return document(o.out, doc)
	}
	fmt.Fprintln(o.out, strings.TrimSpace(a.Sentence))
	for _, f := range a.Figures {
		between := ""
		if f.Low != nil && f.High != nil {
			between = fmt.Sprintf(" (%s to %s)", quantity.Significant(*f.Low, 3), quantity.Significant(*f.High, 3))
		}
		fmt.Fprintf(o.out, "  %-40s %s%s\n", f.Label, f.Text, between)
	}
	for _, n := range a.Notes {
		fmt.Fprintf(o.out, "  %s\n", n)
	}
	fmt.Fprintf(o.out, "  %s\n", calc.Formula)
	return nil
}

func listCalculators(o outside, asJSON bool) error {
	var lines []calcLine
	for _, c := range slate.All() {
		lines = append(lines, calcLine{c.ID, c.Title, c.Formula})
	}
	if asJSON {
		return document(o.out, lines)
	}
	for _, l := range lines {
		fmt.Fprintf(o.out, "%-14s %s\n", l.ID, l.Title)
	}
	return nil
}

// calcFlags reads a calculator's own flags: one for each field.
func calcFlags(c slate.Calculator, words []string, o outside) (typed map[string]string, asJSON, helped bool, err error) {
	var fields []reflect.StructField
	for _, f := range c.Fields {
		help := f.Label
		if f.Help != "" {
			help += ": " + f.Help
		}
		if f.Default != "" {
			help += " (" + f.Default + ")"
		}
		tag := fmt.Sprintf(`name:%q help:%q placeholder:%q`, f.ID, help, strings.ToUpper(string(f.Kind)))
		if f.Default == "" && !f.Optional {
			tag += ` required:""`
		}
		fields = append(fields, reflect.StructField{Name: "F" + strings.ReplaceAll(f.ID, "-", "_"), Type: reflect.TypeFor[string](), Tag: reflect.StructTag(tag)})
	}
	fields = append(fields, reflect.StructField{Name: "JSON", Type: reflect.TypeFor[bool](), Tag: `name:"json" help:"Print one JSON document."`})
	flags := reflect.New(reflect.StructOf(fields))
	p, err := kong.New(flags.Interface(), kong.Name("idlehiss calc "+c.ID), kong.Description(c.Title+". "+c.Formula),
		kong.Writers(o.out, o.err), kong.Exit(func(int) { helped = true }))
	if err != nil {
		return nil, false, false, err
	}
	if _, err := p.Parse(words); err != nil && !helped {
		return nil, false, false, badInput("%w", err)
	}
	typed = map[string]string{}
	for i, f := range c.Fields {
		if v := flags.Elem().Field(i).String(); v != "" {
			typed[f.ID] = v
		}
	}
	return typed, flags.Elem().FieldByName("JSON").Bool(), helped, nil
}
