// Package library ships the circuits and schools as YAML files with a JSON
// Schema, embedded in the program, and reads a shop's own files by the same rules.
package library

import (
	"embed"
	"fmt"
	"io/fs"
	"slices"
	"sort"
	"strings"
	"sync"

	"github.com/goccy/go-yaml"

	"idlehiss/core/asked"
	"idlehiss/core/circuit"
	"idlehiss/core/hunt"
	"idlehiss/core/judge"
	"idlehiss/core/quantity"
	"idlehiss/core/runsheet"
)

//go:embed circuits/*.yaml schools/*.yaml registers/*.yaml methods.yaml repairs.yaml book.yaml
var files embed.FS

// CircuitSchema is the JSON Schema of a circuit file.
//
//go:embed circuit.schema.json
var CircuitSchema string

// Registers are the files that say where common kinds of gauge keep their figures.
func Registers() fs.FS {
	sub, err := fs.Sub(files, "registers")
	if err != nil {
		panic(err) // the folder is embedded
	}
	return sub
}

// Circuits gives every circuit that ships. They were checked when the program was
// tested, and are only read here; a shop's own go through ParseCircuit.
func Circuits() ([]circuit.Circuit, error) {
	all, err := shipped()
	return slices.Clone(all), err
}

var shipped = sync.OnceValues(func() ([]circuit.Circuit, error) {
	names, err := fs.Glob(files, "circuits/*.yaml")
	if err != nil {
		return nil, err
	}
	out := make([]circuit.Circuit, len(names))
	for i, name := range names {
		raw, err := files.ReadFile(name)
		if err != nil {
			return nil, err
		}
		if err := yaml.UnmarshalWithOptions(raw, &out[i], yaml.Strict()); err != nil {
			return nil, fmt.Errorf("%s: %w", name, err)
		}
	}
	InOrder(out)
	return out, nil
})

// InOrder sorts circuits as they are told, family by family.
func InOrder(all []circuit.Circuit) {
	sort.SliceStable(all, func(i, j int) bool {
		a, b := slices.Index(circuit.Families, all[i].Family), slices.Index(circuit.Families, all[j].Family)
		return a < b || a == b && all[i].ID < all[j].ID
	})
}

// Circuit finds one that ships.
func Circuit(id string) (circuit.Circuit, error) {
	all, err := Circuits()
	if err != nil {
		return circuit.Circuit{}, err
	}
	var have []string
	for _, c := range all {
		if c.ID == id {
			return c, nil
		}
		have = append(have, c.ID)
	}
	return circuit.Circuit{}, fmt.Errorf("there is no circuit %q; there is %s", id, strings.Join(have, ", "))
}

// HoldSchools reads the schools of hold.
func HoldSchools() ([]judge.School, error) {
	raw, err := files.ReadFile("schools/hold.yaml")
	if err != nil {
		return nil, err
	}
	var in []struct {
		ID, Title, Why, Source string
		Hold, After            quantity.S
		Allowed                quantity.Pa
	}
	if err := yaml.UnmarshalWithOptions(raw, &in, yaml.Strict()); err != nil {
		return nil, err
	}
	var out []judge.School
	for _, s := range in {
		out = append(out, judge.School{ID: s.ID, Title: s.Title, Why: s.Why, Source: s.Source, HoldS: float64(s.Hold), AllowedPa: float64(s.Allowed), AfterS: float64(s.After)})
	}
	return out, nil
}

// TargetSchools reads the schools of target.
func TargetSchools() ([]runsheet.TargetSchool, error) {
	raw, err := files.ReadFile("schools/target.yaml")
	if err != nil {
		return nil, err
	}
	var out []runsheet.TargetSchool
	return out, yaml.UnmarshalWithOptions(raw, &out, yaml.Strict())
}

// RepairSchools reads the schools of repair.
func RepairSchools() ([]circuit.RepairSchool, error) {
	raw, err := files.ReadFile("schools/repair.yaml")
	if err != nil {
		return nil, err
	}
	var out []circuit.RepairSchool
	return out, yaml.UnmarshalWithOptions(raw, &out, yaml.Strict())
}

// BookWords reads what plain words mean that are typed to search the book.
func BookWords() (asked.Vocabulary, error) {
	var out asked.Vocabulary
	raw, err := files.ReadFile("book.yaml")
	if err == nil {
		err = yaml.UnmarshalWithOptions(raw, &out, yaml.Strict())
	}
	return out, err
}

// Repairs reads the ladder of repairs of circuits that have none of their own.
func Repairs() ([]circuit.Repair, error) {
	raw, err := files.ReadFile("repairs.yaml")
	if err != nil {
		return nil, err
	}
	var out []circuit.Repair
	return out, yaml.UnmarshalWithOptions(raw, &out, yaml.Strict())
}

// Methods reads the ways to find a leak.
func Methods() ([]hunt.Method, error) {
	raw, err := files.ReadFile("methods.yaml")
	if err != nil {
		return nil, err
	}
	var out []hunt.Method
	if err := yaml.UnmarshalWithOptions(raw, &out, yaml.Strict()); err != nil {
		return nil, err
	}
	for _, m := range out {
		if err := m.Faults(); err != nil {
			return nil, err
		}
	}
	return out, nil
}
