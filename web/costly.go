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
	costlyAtOnce = 4
	costlyWait   = 30 * time.Second
	costlyAgain  = 5 // s
)

// isCostly reports whether a request reads a whole trace file.
func isCostly(r *http.Request) bool {
	rest, job := strings.CutPrefix(r.URL.Path, "/api/jobs/")
	_, what, _ := strings.Cut(rest, "/")
	return job && what == "traces"
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
