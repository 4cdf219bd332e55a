package gauges

import (
	"fmt"
	"io/fs"
	"os"
	"slices"
	"strings"

	"github.com/goccy/go-yaml"

	"idlehiss/library"
)

// ParseMap reads a register map file and refuses it whole when anything in it is
// wrong, with the line where that can be told.
func ParseMap(raw []byte) (RegisterMap, error) {
	var m RegisterMap
	if err := yaml.UnmarshalWithOptions(raw, &m, yaml.Strict()); err != nil {
		return m, fmt.Errorf("%s", yaml.FormatError(err, false, true))
	}
	if f := m.Faults(); len(f) > 0 {
		return m, fmt.Errorf("%s", strings.Join(f, "\n"))
	}
	return m, nil
}

// Maps reads the register maps that ship, and then those of a shop's own folder
// (nil for none), which may replace one by its id. A shop's file that is wrong is
// left out and named with what is wrong in it.
func Maps(own fs.FS) (maps []RegisterMap, wrong map[string]string, err error) {
	wrong = map[string]string{}
	take := func(m RegisterMap) {
		for i := range maps {
			if maps[i].ID == m.ID {
				maps[i] = m
				return
			}
		}
		maps = append(maps, m)
	}
	for i, from := range []fs.FS{library.Registers(), own} {
		if from == nil {
			continue
		}
		names, err := fs.Glob(from, "*.yaml")
		if err != nil {
			return nil, nil, err
		}
		for _, name := range names {
			raw, err := library.ReadOwn(from, name)
			var m RegisterMap
			if err == nil {
				m, err = ParseMap(raw)
			}
			switch {
			case err == nil:
				take(m)
			case i == 0:
				return nil, nil, fmt.Errorf("%s: %w", name, err)
			default:
				wrong[name] = err.Error()
			}
		}
	}
	return maps, wrong, nil
}

// FindMap finds one that ships by its id, or reads a file.
func FindMap(name string) (RegisterMap, error) {
	maps, _, err := Maps(nil)
	if err != nil {
		return RegisterMap{}, err
	}
	var have []string
	for _, m := range maps {
		if m.ID == name {
			return m, nil
		}
		have = append(have, m.ID)
	}
	raw, err := os.ReadFile(name)
	if os.IsNotExist(err) {
		slices.Sort(have)
		return RegisterMap{}, fmt.Errorf("there is neither a register map %q nor a file of that name; there is %s", name, strings.Join(have, ", "))
	}
	if err != nil {
		return RegisterMap{}, err
	}
	m, err := ParseMap(raw)
	if err != nil {
		return m, fmt.Errorf("%s: %w", name, err)
	}
	return m, nil
}
