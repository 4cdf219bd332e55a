package web

import (
	"encoding/json"
	"reflect"
	"slices"
	"strings"

	"github.com/danielgtaylor/huma/v2"
)

// nullable marks in described types what Go writes as null: a pointer to a struct,
// or to one of a few words. Huma writes the first as a plain reference and leaves
// null out of the words, so that the generated types would promise what is not there.
func nullable(reg huma.Registry, prefix string) {
	for name, schema := range reg.Map() {
		t := reg.TypeFromRef(prefix + name)
		if t == nil || t.Kind() != reflect.Struct {
			continue
		}
		for _, f := range reflect.VisibleFields(t) {
			tag, rest, _ := strings.Cut(f.Tag.Get("json"), ",")
			if f.Type.Kind() != reflect.Pointer || strings.Contains(rest, "omitempty") {
				continue
			}
			switch p := schema.Properties[tag]; {
			case p == nil:
			case p.Ref != "":
				schema.Properties[tag] = &huma.Schema{OneOf: []*huma.Schema{{Ref: p.Ref}, {Type: "null"}}}
			case len(p.Enum) > 0 && !slices.Contains(p.Enum, nil):
				p.Enum = append(p.Enum, nil)
			}
		}
	}
}

// Schema is the JSON Schema of a document that a command prints.
func Schema(document any) ([]byte, error) {
	const prefix = "#/$defs/"
	huma.DefaultArrayNullable = false
	reg := huma.NewMapRegistry(prefix, huma.DefaultSchemaNamer)
	root := reg.Schema(reflect.TypeOf(document), true, "Document")
	nullable(reg, prefix)
	raw, err := json.Marshal(root)
	if err != nil {
		return nil, err
	}
	out := map[string]any{"$schema": "https://json-schema.org/draft/2020-12/schema", "$defs": reg.Map()}
	if err := json.Unmarshal(raw, &out); err != nil {
		return nil, err
	}
	return json.MarshalIndent(out, "", "  ")
}
