package browser

import (
	"net/http"
	"strings"
	"sync/atomic"
	"testing"
)

// A dialog that cannot be fetched does not keep the keys that were meant for it.
func TestKeysOutliveADialogThatDoesNotCome(t *testing.T) {
	t.Parallel()
	s := serve(t, "serve", "--data", t.TempDir())
	var asked atomic.Bool
	front := inFront(t, s, func(w http.ResponseWriter, r *http.Request, behind http.Handler) {
		if strings.HasPrefix(r.URL.Path, "/assets/later-") {
			asked.Store(true)
			http.NotFound(w, r)
			return
		}
		behind.ServeHTTP(w, r)
	})
	p := open(t, front, 1280, 800)
	p.until("the bench", benchStands)
	p.wait("the dialogs to be asked for", asked.Load)
	p.press("/")
	p.wait("the book by its key", func() bool {
		p.press("o")
		return p.is(`document.querySelector('[data-view=book]')`)
	})
}
