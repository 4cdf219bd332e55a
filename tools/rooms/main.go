// Command rooms looks whether the files of each room can be read downwards: whether what a
// file uses of its own package stands in files that do not use it in turn. It names every
// circle with what closes it, and fails where there is one.
package main

import (
	"fmt"
	"go/ast"
	"go/types"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"golang.org/x/tools/go/packages"
)

func main() {
	cfg := &packages.Config{Mode: packages.NeedName | packages.NeedFiles | packages.NeedSyntax | packages.NeedTypes | packages.NeedTypesInfo | packages.NeedImports | packages.NeedDeps, Dir: "..", BuildFlags: []string{"-tags", "nomsgpack"}}
	rooms, err := packages.Load(cfg, os.Args[1:]...)
	if err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
	if packages.PrintErrors(rooms) > 0 {
		os.Exit(1)
	}
	circles := 0
	for _, room := range rooms {
		uses := usesOf(room)
		for _, c := range circlesOf(uses) {
			circles++
			fmt.Printf("%s: %s use each other\n", room.PkgPath, strings.Join(c, ", "))
			for _, from := range c {
				for _, to := range c {
					if names := uses[from][to]; from != to && len(names) > 0 {
						fmt.Printf("  %s uses of %s: %s\n", from, to, strings.Join(slices.Compact(slices.Sorted(slices.Values(names))), ", "))
					}
				}
			}
		}
	}
	if circles > 0 {
		os.Exit(1)
	}
}

// usesOf is, by file, what each uses of every other file of its package.
func usesOf(room *packages.Package) map[string]map[string][]string {
	fileOf := func(o types.Object) string { return filepath.Base(room.Fset.Position(o.Pos()).Filename) }
	uses := map[string]map[string][]string{}
	for _, f := range room.Syntax {
		from := filepath.Base(room.Fset.Position(f.Pos()).Filename)
		uses[from] = map[string][]string{}
		ast.Inspect(f, func(n ast.Node) bool {
			id, ok := n.(*ast.Ident)
			if !ok {
				return true
			}
			o := room.TypesInfo.Uses[id]
			if o == nil || o.Pkg() != room.Types || o.Parent() != nil && o.Parent() != room.Types.Scope() {
				return true
			}
			if v, ok := o.(*types.Var); ok && v.IsField() {
				return true // of a type that is counted where it is named
			}
			if to := fileOf(o); to != from {
				uses[from][to] = append(uses[from][to], o.Name())
			}
			return true
		})
	}
	return uses
}

// circlesOf are the groups of files that use each other (Tarjan's algorithm).
func circlesOf(uses map[string]map[string][]string) [][]string {
	index, low, on := map[string]int{}, map[string]int{}, map[string]bool{}
	var stack []string
	var out [][]string
	var visit func(string)
	visit = func(f string) {
		index[f] = len(index) + 1
		low[f] = index[f]
		stack, on[f] = append(stack, f), true
		for to := range uses[f] {
			if index[to] == 0 {
				visit(to)
				low[f] = min(low[f], low[to])
			} else if on[to] {
				low[f] = min(low[f], index[to])
			}
		}
		if low[f] != index[f] {
			return
		}
		at := slices.Index(stack, f)
		c := slices.Clone(stack[at:])
		stack = stack[:at]
		for _, x := range c {
			on[x] = false
		}
		if len(c) > 1 {
			slices.Sort(c)
			out = append(out, c)
		}
	}
	for _, f := range slices.Sorted(mapKeys(uses)) {
		if index[f] == 0 {
			visit(f)
		}
	}
	return out
}

func mapKeys(m map[string]map[string][]string) func(func(string) bool) {
	return func(yield func(string) bool) {
		for k := range m {
			if !yield(k) {
				return
			}
		}
	}
}
