package main

import (
	"os/exec"
	"strings"
	"testing"
)

// rows are the folders in the order of the layout: a package imports only from
// rows above its own, and core only from core.
var rows = []string{"core/", "library", "logbook", "gauges", "sheets", "shop", "web", "ui", "demo", "cmd/"}

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
