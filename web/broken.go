package web

import (
	"errors"
	"log/slog"
	"net/http"
	"runtime/debug"
	"sync/atomic"

	"github.com/danielgtaylor/huma/v2"
	"github.com/gin-gonic/gin"

	"idlehiss/desk"
	"idlehiss/logbook"
)

// broken answers an error that is no refusal: what it means for the person, and where the log has the rest. What a
// driver says goes no further than the log.
func broken(err error) error {
	if errors.Is(err, logbook.ErrCannotKeep) {
		return huma.NewError(http.StatusServiceUnavailable, "this was not kept: "+logbook.Plain(err)+". What is on the page can still be read; try again when there is room")
	}
	says := logbook.Plain(err)
	if says == "" {
		says = "the book could not be read or written: nothing was written. Try again. If it stays so, look at the disk"
	}
	return huma.Error500InternalServerError(says + ". Reference " + logged(err))
}

// logged writes an error to the log and gives the reference under which it stands there.
func logged(err error) string {
	ref := desk.NewID()[:8]
	slog.Error("a request failed", "reference", ref, "error", err)
	return ref
}

// Panics counts what the program itself did wrong; it stays at 0.
var Panics atomic.Int64

// recovered answers a request whose work broke off in a panic.
func recovered(c *gin.Context) {
	defer func() {
		p := recover()
		if p == nil {
			return
		}
		if err, ok := p.(error); ok && errors.Is(err, http.ErrAbortHandler) {
			panic(p) // the way in which the standard library drops a connection
		}
		Panics.Add(1)
		ref := desk.NewID()[:8]
		slog.Error("a request broke off", "reference", ref, "path", c.Request.URL.Path, "panic", p, "stack", string(debug.Stack()))
		if !c.Writer.Written() {
			refused(c, http.StatusInternalServerError, "the program broke off at this, and nothing was written. Reference "+ref+", under which its log has more")
		}
		c.Abort()
	}()
	c.Next()
}
