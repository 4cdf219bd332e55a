package web

import (
	"net/http"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"
)

// A trace file takes memory and a processor for longer than a moment, so a few are read at a time; whoever comes when
// all are taken waits, and is then told when to come again.
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
