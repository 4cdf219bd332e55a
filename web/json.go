package web

import (
	"bytes"
	"encoding/json"
	"io"
	"net/http"

	"github.com/danielgtaylor/huma/v2"
)

// wholeJSON writes an answer only once all of it is JSON. A view that cannot be
// written is a 500 with a problem answer, never a 200 with half a body.
var wholeJSON = huma.Format{
	Marshal: func(w io.Writer, v any) error {
		var whole bytes.Buffer
		e := json.NewEncoder(&whole)
		e.SetEscapeHTML(false)
		if err := e.Encode(v); err != nil {
			return unwritable(w, err)
		}
		_, err := whole.WriteTo(w)
		return err
	},
	Unmarshal: json.Unmarshal,
}

// unwritable answers in place of a view that is no JSON. The status is still open:
// gin sends it with the first byte.
func unwritable(w io.Writer, err error) error {
	r, ok := w.(http.ResponseWriter)
	if !ok {
		return err
	}
	raw, perr := json.Marshal(huma.Error500InternalServerError("this cannot be shown: one of its figures is no number. Nothing was lost; the other pages go on. Reference " + logged(err)))
	if perr != nil {
		return perr
	}
	r.Header().Set("Content-Type", "application/problem+json")
	r.WriteHeader(http.StatusInternalServerError)
	_, werr := r.Write(raw)
	return werr
}
