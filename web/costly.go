package web

import (
	"bytes"
	"context"
	"errors"
	"io"
	"net/http"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"idlehiss/desk"
	"idlehiss/holds"
	"idlehiss/shop"
)

// A trace file takes memory and a processor for longer than a moment, so a few are read at a time; whoever comes when
// all are taken waits, and is then told when to come again.
const (
	costlyAtOnce = 4
	costlyAgain  = 5 // s
	traceIn      = time.Minute
)

var costlyWait = 30 * time.Second // a test does not wait as long

// isCostly reports whether a request reads a whole trace file.
func isCostly(r *http.Request) bool {
	rest, job := strings.CutPrefix(r.URL.Path, "/api/jobs/")
	_, what, _ := strings.Cut(rest, "/")
	return job && what == "traces"
}

// costly also counts everybody else, for whom such a file gives way.
func costly(s *shop.Shop) gin.HandlerFunc {
	taken, most := make(chan struct{}, costlyAtOnce), costlyWait
	return func(c *gin.Context) {
		if !isCostly(c.Request) {
			if c.Request.URL.Path != eventsPath { // which are never answered
				defer s.Others().In()()
				c.Next()
			}
			return
		}
		wait := time.NewTimer(most)
		defer wait.Stop()
		select {
		case taken <- struct{}{}:
			defer func() { <-taken }()
			if thin(c, s.Others()) {
				c.Next()
			}
		case <-wait.C:
			c.Header("Retry-After", strconv.Itoa(costlyAgain))
			refused(c, http.StatusTooManyRequests, "the shop's computer has as much to work out as it can just now: try again in a moment")
		case <-c.Request.Context().Done():
			c.Abort()
		}
	}
}

// mostLines is as many as a trace file may have that goes into the book: its readings, and its events and comments.
const mostLines = holds.MostInFile + 20_000

// errTooLong ends the reading of a trace file at the first line too many.
var errTooLong = errors.New("too many lines")

// lines counts the ends of lines in a JSON text that goes by.
type lines struct {
	io.Reader
	n       int
	escaped bool
}

func (l *lines) Read(p []byte) (int, error) {
	n, err := l.Reader.Read(p)
	for _, c := range p[:n] {
		if l.escaped && c == 'n' {
			l.n++
		}
		l.escaped = c == '\\' && !l.escaped
	}
	if l.n > mostLines {
		return 0, errTooLong
	}
	return n, err
}

// thin reads a trace file in, and refuses one that is too long before the rest of it is read.
func thin(c *gin.Context, others *desk.Others) bool {
	conn := http.NewResponseController(c.Writer)
	_ = conn.SetReadDeadline(time.Now().Add(traceIn)) // a recorder has none
	defer func() { _ = conn.SetReadDeadline(time.Time{}) }()
	body := http.MaxBytesReader(c.Writer, c.Request.Body, largestTrace)
	var whole bytes.Buffer
	whole.Grow(int(min(max(c.Request.ContentLength, 0), largestTrace)))
	_, err := whole.ReadFrom(&lines{Reader: others.Reading(body)})
	var large *http.MaxBytesError
	switch {
	case errors.Is(err, errTooLong):
		_, _ = io.Copy(io.Discard, body) // a page reads no answer before it has sent everything
		refuse(c, desk.Refuse("text", "the file has more than %d readings, and no more go into the book: thin it, one reading a second is plenty", holds.MostInFile))
	case errors.As(err, &large):
		refused(c, http.StatusRequestEntityTooLarge, "the file is larger than 32 MB: thin it, one reading a second is plenty")
	case err != nil:
		refused(c, http.StatusBadRequest, "the file did not arrive whole: send it again")
	}
	if err != nil {
		c.Abort()
		return false
	}
	others.GiveWay()
	small, text := apart(whole.Bytes(), others)
	if text != "" {
		c.Request = c.Request.WithContext(context.WithValue(c.Request.Context(), textOf{}, text))
	}
	c.Request.Body = io.NopCloser(bytes.NewReader(small))
	return true
}

// textOf is where the request's context has the text of a trace file.
type textOf struct{}
