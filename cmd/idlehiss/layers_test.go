package main

import (
	"io/fs"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"testing"
)

// rows are the folders in the order of the layout: a package imports only from
// rows above its own, and core only from core.
var rows = []string{"core/", "library", "backups", "logbook", "gauges", "sheets", "desk", "snapshot", "catalogue", "kit", "holds", "eye", "files", "trail", "jobs", "bundle", "door", "record", "shop", "web", "ui", "demo", "cmd/"}

func row(path string) int {
	for i, r := range rows {
		if path+"/" == r || strings.HasPrefix(path+"/", strings.TrimSuffix(r, "/")+"/") {
			return i
		}
	}
	return -1
}

func TestImportsPointUpwards(t *testing.T) {
	out, err := exec.Command("go", "list", "-tags", "nomsgpack", "-f", `{{.ImportPath}}: {{join .Imports " "}}`, "idlehiss/...").Output()
	if err != nil {
		t.Fatal(err)
	}
	seen := 0
	for _, line := range strings.Split(strings.TrimSpace(string(out)), "\n") {
		of, imports, _ := strings.Cut(line, ": ")
		of = strings.TrimPrefix(of, "idlehiss/")
		if of == "browser" {
			continue // only tests
		}
		if row(of) < 0 {
			t.Errorf("%s stands in no row of the layout", of)
		}
		for _, i := range strings.Fields(imports) {
			i, ours := strings.CutPrefix(i, "idlehiss/")
			if !ours {
				if strings.HasPrefix(of, "core/") && strings.Contains(i, ".") && !strings.HasPrefix(i, "gonum.org/") {
					t.Errorf("%s imports %s; core stands on the standard library and gonum", of, i)
				}
				continue
			}
			seen++
			if row(i) > row(of) || row(i) == row(of) && !strings.HasPrefix(i, "core/") {
				t.Errorf("%s imports %s, which stands below it", of, i)
			}
		}
	}
	if seen < 20 {
		t.Errorf("only %d imports were looked at", seen)
	}
}

// A room that a person can still hold in the head has no more lines than these, without
// its tests. The packages of core are one subject each, and only their files are counted.
const (
	mostOfARoom = 3000
	mostOfAFile = 400
)

func TestNoRoomIsTooLarge(t *testing.T) {
	rooms := map[string]int{}
	err := filepath.WalkDir("../..", func(path string, d fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		if d.IsDir() && (d.Name() == "node_modules" || strings.HasPrefix(d.Name(), ".") && len(d.Name()) > 2) {
			return filepath.SkipDir
		}
		if d.IsDir() || !strings.HasSuffix(path, ".go") || strings.HasSuffix(path, "_test.go") {
			return nil
		}
		raw, err := os.ReadFile(path)
		if err != nil {
			return err
		}
		n := strings.Count(string(raw), "\n")
		if !strings.HasPrefix(path, "../../core/") {
			rooms[filepath.Dir(path)] += n
		}
		if n > mostOfAFile {
			t.Errorf("%s has %d lines", path, n)
		}
		return nil
	})
	if err != nil {
		t.Fatal(err)
	}
	for room, n := range rooms {
		if n > mostOfARoom {
			t.Errorf("%s has %d lines", room, n)
		}
	}
	if len(rooms) < 16 {
		t.Errorf("only %d rooms were looked at", len(rooms))
	}
}
