package web

import (
	"net/http"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"
)

// What takes a processor for longer than a moment is done a few at a time, so that a page or a press never waits
// behind it; whoever comes when all are taken waits a little, and is then told when to come again.
const (
	costlyAtOnce = 2
	costlyWait   = 3 * time.Second
	costlyAgain  = 2 // s
)

// isCostly reports whether a request reads a trace file, plans a hold, fits one again or draws a whole paper.
func isCostly(r *http.Request) bool {
	rest, job := strings.CutPrefix(r.URL.Path, "/api/jobs/")
	if _, what, ok := strings.Cut(rest, "/"); job && ok {
		switch what {
		case "traces", "hold-plan", "paper":
			return true
		}
	}
	rest, hold := strings.CutPrefix(r.URL.Path, "/api/holds/")
	_, what, _ := strings.Cut(rest, "/")
	return hold && (what == "why" || what == "trace.csv") || r.URL.Path == "/api/compare"
}

func costly() gin.HandlerFunc {
	taken := make(chan struct{}, costlyAtOnce)
	return func(c *gin.Context) {
		if !isCostly(c.Request) {
			return
		}
		wait := time.NewTimer(costlyWait)
		defer wait.Stop()
		select {
		case taken <- struct{}{}:
			defer func() { <-taken }()
			c.Next()
		case <-wait.C:
			c.Header("Retry-After", strconv.Itoa(costlyAgain))
			refused(c, http.StatusTooManyRequests, "the shop's computer has as much to work out as it can just now: try again in a moment")
		case <-c.Request.Context().Done():
			c.Abort()
		}
	}
}
