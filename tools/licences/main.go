// Command licences prints the licences of everything that ships inside the
// program: the Go modules it is linked from, the packages its page is built from,
// and the fonts. Run from the project's folder by `make licences`.
package main

import (
	"encoding/json"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
)

func main() {
	if err := run(); err != nil {
		fmt.Fprintln(os.Stderr, "licences:", err)
		os.Exit(1)
	}
}

// shipped is one thing that ships, and the folder where its licence lies.
type shipped struct{ name, folder string }

func run() error {
	all := []shipped{}
	mods, err := lines("go", "list", "-tags", "nomsgpack", "-deps", "-f", "{{with .Module}}{{if not .Main}}{{.Path}} {{.Version}}|{{.Dir}}{{end}}{{end}}", "./cmd/idlehiss")
	if err != nil {
		return err
	}
	for _, l := range mods {
		name, folder, _ := strings.Cut(l, "|")
		all = append(all, shipped{name, folder})
	}
	root, err := lines("go", "env", "GOROOT")
	if err != nil {
		return err
	}
	version, err := lines("go", "env", "GOVERSION")
	if err != nil {
		return err
	}
	all = append(all, shipped{"the Go standard library, " + version[0], root[0]})
	// What the page is built from, and the two whose own code ends up in it.
	folders, err := lines("npm", "ls", "--prefix", "ui", "--omit=dev", "--all", "--parseable")
	if err != nil {
		return err
	}
	folders = append(folders[1:], "ui/node_modules/svelte", "ui/node_modules/tailwindcss")
	for _, f := range folders {
		s, err := npm(f)
		if err != nil {
			return err
		}
		all = append(all, s)
	}
	slices.SortFunc(all, func(a, b shipped) int { return strings.Compare(strings.ToLower(a.name), strings.ToLower(b.name)) })
	all = slices.CompactFunc(all, func(a, b shipped) bool { return a.name == b.name })
	fmt.Printf("What ships inside Idle Hiss, and its licences.\n")
	for _, s := range all {
		text, err := licence(s.folder)
		if err != nil {
			return fmt.Errorf("%s: %w", s.name, err)
		}
		fmt.Printf("\n%s\n%s\n\n%s\n", strings.Repeat("=", 72), s.name, strings.TrimSpace(text))
	}
	return nil
}

func lines(name string, args ...string) ([]string, error) {
	cmd := exec.Command(name, args...)
	cmd.Stderr = os.Stderr
	out, err := cmd.Output()
	if err != nil {
		return nil, fmt.Errorf("%s: %w", name, err)
	}
	l := strings.Split(strings.TrimSpace(string(out)), "\n")
	slices.Sort(l)
	return slices.Compact(l), nil
}

func npm(folder string) (shipped, error) {
	raw, err := os.ReadFile(filepath.Join(folder, "package.json"))
	if err != nil {
		return shipped{}, err
	}
	var p struct{ Name, Version string }
	err = json.Unmarshal(raw, &p)
	return shipped{p.Name + " " + p.Version, folder}, err
}

// licence finds the licence's text; a package that ships none is said by what its
// description declares.
func licence(folder string) (string, error) {
	entries, err := os.ReadDir(folder)
	if err != nil {
		return "", err
	}
	for _, e := range entries {
		name := strings.ToUpper(e.Name())
		if !e.IsDir() && (strings.HasPrefix(name, "LICEN") || strings.HasPrefix(name, "COPYING")) {
			raw, err := os.ReadFile(filepath.Join(folder, e.Name()))
			return strings.ReplaceAll(string(raw), "\r\n", "\n"), err
		}
	}
	raw, err := os.ReadFile(filepath.Join(folder, "package.json"))
	if err != nil {
		return "", fmt.Errorf("no licence in %s", folder)
	}
	var p struct {
		License string
		Author  any
	}
	if err := json.Unmarshal(raw, &p); err != nil || p.License == "" {
		return "", fmt.Errorf("no licence in %s", folder)
	}
	return fmt.Sprintf("Licence as declared by the package: %s. Author: %v", p.License, p.Author), nil
}
