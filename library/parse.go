package library

import (
	"errors"
	"fmt"
	"slices"
	"sort"
	"strings"
	"sync"

	"github.com/goccy/go-yaml"
	"github.com/goccy/go-yaml/ast"
	"github.com/goccy/go-yaml/parser"
	"github.com/santhosh-tekuri/jsonschema/v6"
	"golang.org/x/text/language"
	"golang.org/x/text/message"

	"idlehiss/core/circuit"
	"idlehiss/core/passages"
	"idlehiss/core/runsheet"
)

// FileFault is one thing wrong with a file, and on which line.
type FileFault struct {
	Line int    `json:"line"` // 1 is the first; 0 where it is of the whole file
	Says string `json:"says"`
}

// FileFaults is everything wrong with a file: it is refused whole.
type FileFaults []FileFault

func (f FileFaults) Error() string {
	var lines []string
	for _, x := range f {
		if x.Line > 0 {
			lines = append(lines, fmt.Sprintf("line %d: %s", x.Line, x.Says))
		} else {
			lines = append(lines, x.Says)
		}
	}
	return strings.Join(lines, "\n")
}

// ParseCircuit reads a circuit file and refuses it whole, every fault with its
// line (FileFaults), when anything in it is wrong.
func ParseCircuit(raw []byte) (circuit.Circuit, error) {
	var c circuit.Circuit
	file, err := parser.ParseBytes(raw, 0)
	if err != nil {
		return c, unreadable(err)
	}
	if len(file.Docs) != 1 || file.Docs[0].Body == nil {
		return c, FileFaults{{0, "a circuit file holds one document: its first line is id: and the circuit's id"}}
	}
	body := file.Docs[0].Body
	var doc any
	if err := yaml.NodeToValue(body, &doc); err != nil {
		return c, unreadable(err)
	}
	if faults := againstSchema(file, doc); len(faults) > 0 {
		return c, faults
	}
	if err := yaml.NodeToValue(body, &c, yaml.Strict()); err != nil {
		f := unreadable(err)
		if f[0].Line == 0 {
			f[0].Line = saidOn(file, f[0].Says)
		}
		return c, f
	}
	var faults FileFaults
	for _, f := range c.Faults() {
		faults = append(faults, FileFault{lineOf(file, f.Path), f.Says})
	}
	if len(faults) > 0 {
		sort.SliceStable(faults, func(i, j int) bool { return faults[i].Line < faults[j].Line })
		return c, faults
	}
	return c, nil
}

// FileFinding is what a reader of the trade would correct in a file, and on which line.
type FileFinding struct {
	Line int          `json:"line"`
	Rule circuit.Rule `json:"rule"`
	Of   string       `json:"of"` // the part, port, step or hazard, by id; empty: the whole
	Says string       `json:"says"`
}

// Review reads a circuit file and looks at it as a reader of the trade would. A file with
// findings is used; one with faults is not, and has no findings.
func Review(raw []byte) (circuit.Circuit, []FileFinding, error) {
	c, err := ParseCircuit(raw)
	if err != nil {
		return c, nil, err
	}
	file, err := parser.ParseBytes(raw, 0)
	if err != nil {
		return c, nil, unreadable(err)
	}
	schools, err := Schools()
	if err != nil {
		return c, nil, err
	}
	out := []FileFinding{}
	for _, f := range slices.Concat(c.Findings(), runsheet.Findings(&c, schools), passages.Findings(&c)) {
		out = append(out, FileFinding{lineOf(file, f.Path), f.Rule, f.Of, f.Says})
	}
	sort.SliceStable(out, func(i, j int) bool { return out[i].Line < out[j].Line })
	return c, out, nil
}

// Schools are the schools of practice that ship.
func Schools() (s runsheet.Schools, err error) {
	if s.Target, err = TargetSchools(); err != nil {
		return s, err
	}
	s.Hold, err = HoldSchools()
	return s, err
}

// unreadable is a file that is no YAML, or holds a quantity that cannot be read.
func unreadable(err error) FileFaults {
	var placed yaml.Error
	if errors.As(err, &placed) && placed.GetToken() != nil {
		return FileFaults{{placed.GetToken().Position.Line, placed.GetMessage()}}
	}
	return FileFaults{{0, yaml.FormatError(err, false, false)}}
}

// saidOn finds the line of the value that a message quotes first: a quantity's own
// errors know no line.
func saidOn(file *ast.File, says string) int {
	quoted := strings.Split(says, `"`)
	if len(quoted) < 3 {
		return 0
	}
	find := &finder{word: quoted[1]}
	for _, doc := range file.Docs {
		ast.Walk(find, doc.Body)
	}
	return find.line
}

type finder struct {
	word string
	line int
}

func (f *finder) Visit(n ast.Node) ast.Visitor {
	if s, ok := n.(*ast.StringNode); ok && f.line == 0 && strings.Contains(s.Value, f.word) {
		f.line = s.GetToken().Position.Line
	}
	return f
}

// lineOf finds the line of a YAML path, or of what stands nearest above it.
func lineOf(file *ast.File, path string) int {
	for path != "" {
		if p, err := yaml.PathString(path); err == nil {
			if n, err := p.FilterFile(file); err == nil && n != nil && n.GetToken() != nil {
				return n.GetToken().Position.Line
			}
		}
		cut := strings.LastIndexAny(path, ".[")
		if cut < 0 {
			break
		}
		path = path[:cut]
	}
	return 1
}

var compiled = sync.OnceValues(func() (*jsonschema.Schema, error) {
	parsed, err := jsonschema.UnmarshalJSON(strings.NewReader(CircuitSchema))
	if err != nil {
		return nil, err
	}
	compiler := jsonschema.NewCompiler()
	if err := compiler.AddResource("idlehiss:circuit", parsed); err != nil {
		return nil, err
	}
	return compiler.Compile("idlehiss:circuit")
})

func againstSchema(file *ast.File, doc any) FileFaults {
	schema, err := compiled()
	if err != nil {
		return FileFaults{{0, err.Error()}}
	}
	err = schema.Validate(doc)
	var bad *jsonschema.ValidationError
	if err == nil {
		return nil
	}
	if !errors.As(err, &bad) {
		return FileFaults{{0, err.Error()}}
	}
	var out FileFaults
	english := message.NewPrinter(language.English)
	var walk func(*jsonschema.ValidationError)
	walk = func(e *jsonschema.ValidationError) {
		if len(e.Causes) == 0 {
			says := e.ErrorKind.LocalizedString(english)
			if strings.Contains(says, "does not match pattern") && strings.Contains(says, "[0-9]") || says == "got number, want string" {
				says += ": a quantity is written with its unit, such as '7 L' or '120 kPa'"
			}
			out = append(out, FileFault{lineOf(file, yamlPath(e.InstanceLocation)), "/" + strings.Join(e.InstanceLocation, "/") + ": " + says})
		}
		for _, x := range e.Causes {
			walk(x)
		}
	}
	walk(bad)
	sort.SliceStable(out, func(i, j int) bool { return out[i].Line < out[j].Line })
	return out
}

// yamlPath writes a place in a document as a YAML path.
func yamlPath(place []string) string {
	path := "$"
	for _, p := range place {
		if strings.Trim(p, "0123456789") == "" {
			path += "[" + p + "]"
		} else {
			path += "." + p
		}
	}
	return path
}
