package web

import (
	"encoding/json"
	"reflect"
	"slices"
	"strings"

	"github.com/danielgtaylor/huma/v2"
)

// described completes the types as the library describes them: a typed word lists its
// values, and what Go writes as null may be null.
func described(reg huma.Registry, prefix string) {
	for name, schema := range reg.Map() {
		t := reg.TypeFromRef(prefix + name)
		if t == nil || t.Kind() != reflect.Struct {
			continue
		}
		for _, f := range reflect.VisibleFields(t) {
			tag, rest, _ := strings.Cut(f.Tag.Get("json"), ",")
			p := schema.Properties[tag]
			if p == nil {
				continue
			}
			enumerate(p, f.Type)
			if f.Type.Kind() == reflect.Pointer && !strings.Contains(rest, "omitempty") {
				schema.Properties[tag] = orNull(p)
			}
		}
		schema.PrecomputeMessages()
	}
}

// enumerate lists the values of a typed word, or of a list of such.
func enumerate(p *huma.Schema, t reflect.Type) {
	if t.Kind() == reflect.Pointer {
		t = t.Elem()
	}
	if t.Kind() == reflect.Slice && p.Items != nil {
		enumerate(p.Items, t.Elem())
		return
	}
	words, ok := reflect.Zero(t).Interface().(interface{ Values() []string })
	if !ok || t.Kind() != reflect.String || len(p.Enum) > 0 {
		return
	}
	for _, w := range words.Values() {
		p.Enum = append(p.Enum, w)
	}
}

// orNull is a pointer to a struct, or to one of a few words. Huma writes the first as a
// plain reference and leaves null out of the words, so that the generated types would
// promise what is not there.
func orNull(p *huma.Schema) *huma.Schema {
	if p.Ref != "" {
		return &huma.Schema{OneOf: []*huma.Schema{{Ref: p.Ref}, {Type: "null"}}}
	}
	if len(p.Enum) > 0 && !slices.Contains(p.Enum, nil) {
		p.Enum = append(p.Enum, nil)
	}
	return p
}

// Schema is the JSON Schema of a document that a command prints.
func Schema(document any) ([]byte, error) {
	const prefix = "#/$defs/"
	huma.DefaultArrayNullable = false
	reg := huma.NewMapRegistry(prefix, huma.DefaultSchemaNamer)
	root := reg.Schema(reflect.TypeOf(document), true, "Document")
	described(reg, prefix)
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
