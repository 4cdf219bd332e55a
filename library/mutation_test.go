package library

import (
	"errors"
	"fmt"
	"io/fs"
	"strings"
	"testing"

	"idlehiss/core/circuit"
	"idlehiss/core/runsheet"
)

// whole goes through everything that follows from a circuit, by every school.
func whole(t *testing.T, about string, c circuit.Circuit) {
	t.Helper()
	ways := []map[string]string{{}}
	for _, m := range c.Matters {
		for _, s := range m.Schools {
			ways = append(ways, map[string]string{m.ID: s.ID})
		}
	}
	for _, way := range ways {
		x := c.Fitted(c.AsRule()).By(way)
		closed := map[string]bool{}
		for _, s := range x.Tests() {
			in := x.Pressed(s)
			if len(in.Chambers) == 0 {
				t.Errorf("%s: step %s presses nothing", about, s.ID)
			}
			for _, l := range runsheet.StepLimits(&x, s) {
				if l.CeilingPa == 0 {
					t.Errorf("%s: step %s has a limit of nothing", about, s.ID)
				}
			}
			for _, cl := range in.Closures {
				closed[cl.Part.ID] = closed[cl.Part.ID] || !cl.Already
			}
			if x.Room(s) < 0 {
				t.Errorf("%s: step %s has a room of %v", about, s.ID, x.Room(s))
			}
		}
		// What is counted in is counted out again.
		in, out := map[string]bool{}, map[string]bool{}
		for _, st := range runsheet.Stages(&x) {
			for _, k := range st.Ticks {
				if id, ok := strings.CutPrefix(k.ID, "shut-"); ok {
					in[id] = true
				}
				if id, ok := strings.CutPrefix(k.ID, "out-"); ok {
					out[id] = true
				}
			}
		}
		for id := range closed {
			if closed[id] && (!in[id] || !out[id]) {
				t.Errorf("%s, by %v: %s is shut, counted in %v, out %v", about, way, id, in[id], out[id])
			}
		}
	}
}

// every is which of the lines are tried: all of some five thousand take minutes.
const every = 8

// A file with any one of its lines left out is either sound, and everything follows
// from it, or refused with a line and a word: nothing between.
func TestACircuitWithoutAnyOneLineIsSoundOrNamed(t *testing.T) {
	names, err := fs.Glob(files, "circuits/*.yaml")
	if err != nil {
		t.Fatal(err)
	}
	sound, refused := 0, 0
	for _, name := range names {
		raw, err := files.ReadFile(name)
		if err != nil {
			t.Fatal(err)
		}
		lines := strings.Split(strings.TrimSuffix(string(raw), "\n"), "\n")
		for i := range lines {
			if strings.HasPrefix(lines[i], "#") || (i+len(name))%every != 0 {
				continue
			}
			about := fmt.Sprintf("%s without line %d (%s)", name, i+1, strings.TrimSpace(lines[i]))
			c, err := ParseCircuit([]byte(strings.Join(append(append([]string{}, lines[:i]...), lines[i+1:]...), "\n") + "\n"))
			var faults FileFaults
			switch {
			case err == nil:
				sound++
				whole(t, about, c)
			case !errors.As(err, &faults) || len(faults) == 0:
				t.Errorf("%s: refused without a place: %v", about, err)
			default:
				refused++
				for _, f := range faults {
					if strings.TrimSpace(f.Says) == "" || f.Line < 0 || f.Line > len(lines) {
						t.Errorf("%s: %+v", about, f)
					}
				}
			}
		}
	}
	if sound < 60 || refused < 60 {
		t.Errorf("%d were sound and %d refused: the check looks at too little", sound, refused)
	}
	t.Logf("%d sound, %d refused", sound, refused)
}
