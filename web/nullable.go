package web

import (
	"reflect"
	"strings"

	"github.com/danielgtaylor/huma/v2"
)

// nullable marks in the described interface what Go writes as null: a pointer to
// a struct. Huma writes such a field as a plain reference, so that the generated
// types would promise what is not there.
func nullable(api huma.API) {
	reg := api.OpenAPI().Components.Schemas
	for name, schema := range reg.Map() {
		t := reg.TypeFromRef("#/components/schemas/" + name)
		if t == nil || t.Kind() != reflect.Struct {
			continue
		}
		for _, f := range reflect.VisibleFields(t) {
			tag, rest, _ := strings.Cut(f.Tag.Get("json"), ",")
			if f.Type.Kind() != reflect.Pointer || strings.Contains(rest, "omitempty") {
				continue
			}
			if p := schema.Properties[tag]; p != nil && p.Ref != "" {
				schema.Properties[tag] = &huma.Schema{OneOf: []*huma.Schema{{Ref: p.Ref}, {Type: "null"}}}
			}
		}
	}
}
