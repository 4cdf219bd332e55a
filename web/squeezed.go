package web

import (
	"io/fs"
	"net/http"

	"github.com/klauspost/compress/gzhttp"
	"github.com/vearutop/statigz"
	"github.com/vearutop/statigz/brotli"
)

// least is the shortest answer that is compressed, bytes: a shorter one fits one packet anyhow.
const least = 1200

// squeezed compresses the answers to whoever takes that. The event stream goes as it is: each of its news is short, and
// has to leave at once.
func squeezed(h http.Handler) http.Handler {
	wrap, err := gzhttp.NewWrapper(gzhttp.MinSize(least), gzhttp.ExceptContentTypes([]string{"text/event-stream"}))
	if err != nil {
		panic(err) // the settings above
	}
	with := wrap(h)
	return http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		if r.URL.Path == eventsPath {
			h.ServeHTTP(w, r)
			return
		}
		with.ServeHTTP(w, r)
	})
}

// files serves the built page, which was compressed when it was built.
func files(ui fs.ReadDirFS) http.Handler { return statigz.FileServer(ui, brotli.AddEncoding) }
