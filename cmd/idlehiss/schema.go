package main

import (
	"encoding/json"
	"fmt"
	"sort"
	"strings"

	"idlehiss/bundle"
	"idlehiss/core/circuit"
	"idlehiss/core/hunt"
	"idlehiss/core/judge"
	"idlehiss/core/passages"
	"idlehiss/library"
	"idlehiss/web"
)

type schemaCmd struct {
	Name string `arg:"" help:"circuit, http, or a command that has --json."`
	JSON bool   `name:"json" help:"The schema is JSON already; taken for evenness."`
}

// documents are the commands' --json documents by name.
var documents = map[string]any{
	"judge":          judge.Report{},
	"compare":        judge.Comparison{},
	"calc":           calculated{},
	"calc-list":      []calcLine{},
	"simulate":       simulated{},
	"circuits":       []circuitLine{},
	"circuits-show":  circuit.Circuit{},
	"circuits-check": checked{},
	"plan":           planned{},
	"call":           calledAll{},
	"hunt":           hunt.Report{},
	"passages":       passages.Report{},
	"export":         exported{},
	"import":         bundle.Takeover{},
	"bundle":         bundle.Job{},
}

func (c *schemaCmd) Run(o outside) error {
	raw, err := schemaOf(c.Name)
	if err != nil {
		return err
	}
	_, err = fmt.Fprintln(o.out, strings.TrimSpace(string(raw)))
	return err
}

func schemaOf(name string) ([]byte, error) {
	switch name {
	case "circuit":
		return []byte(library.CircuitSchema), nil
	case "http":
		_, api := web.New(nil, nil, web.Options{})
		raw, err := api.OpenAPI().MarshalJSON()
		if err != nil {
			return nil, err
		}
		var doc any
		if err := json.Unmarshal(raw, &doc); err != nil {
			return nil, err
		}
		return json.MarshalIndent(doc, "", "  ")
	}
	doc, ok := documents[name]
	if !ok {
		names := []string{"circuit", "http"}
		for n := range documents {
			names = append(names, n)
		}
		sort.Strings(names)
		return nil, badInput("there is no document %q; there is %s", name, strings.Join(names, ", "))
	}
	return web.Schema(doc)
}
