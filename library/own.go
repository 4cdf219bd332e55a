package library

import (
	"errors"
	"io/fs"
	"slices"
	"strings"

	"idlehiss/core/circuit"
)

// Own is a shop's own circuit file: read, or refused with its faults.
type Own struct {
	File    string
	Circuit circuit.Circuit
	Faults  FileFaults // none: it is sound

	Findings []FileFinding // what a reader of the trade would correct; it is used all the same
}

// OwnCircuits reads the circuit files of a folder; none is an empty list. Of two
// that claim one id the second is refused.
func OwnCircuits(folder fs.FS) ([]Own, error) {
	names, err := fs.Glob(folder, "*.yaml")
	if err != nil {
		return nil, err
	}
	var out []Own
	by := map[string]int{}
	for _, name := range names {
		own := Own{File: name}
		raw, err := ReadOwn(folder, name)
		if err != nil {
			own.Faults = FileFaults{{0, err.Error()}}
		} else if own.Circuit, own.Findings, err = Review(raw); err != nil && !errors.As(err, &own.Faults) {
			own.Faults = FileFaults{{0, err.Error()}}
		}
		if len(own.Faults) == 0 {
			if first, ok := by[own.Circuit.ID]; ok {
				says := FileFault{lineWith(raw, "id:"), "the id " + own.Circuit.ID + " is that of " + out[first].File + " too: every id once"}
				own.Faults = FileFaults{says}
			} else {
				by[own.Circuit.ID] = len(out)
			}
		}
		out = append(out, own)
	}
	return out, nil
}

func lineWith(raw []byte, start string) int {
	for i, l := range strings.Split(string(raw), "\n") {
		if strings.HasPrefix(l, start) {
			return i + 1
		}
	}
	return 0
}

// Merged is what ships with a shop's own beside it; one of its own outranks the
// shipped one of the same id.
func Merged(own []Own) ([]circuit.Circuit, error) {
	all, err := Circuits()
	if err != nil {
		return nil, err
	}
	for _, o := range own {
		if len(o.Faults) > 0 {
			continue
		}
		if i := slices.IndexFunc(all, func(c circuit.Circuit) bool { return c.ID == o.Circuit.ID }); i >= 0 {
			all[i] = o.Circuit
		} else {
			all = append(all, o.Circuit)
		}
	}
	InOrder(all)
	return all, nil
}
