package web

import (
	"bytes"
	"context"
	"encoding/json"
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

// atOnce is how much of a file is read before others get their turn, bytes.
const atOnce = 1 << 20

// errTooLong ends the reading of a trace file at the first line too many.
var errTooLong = errors.New("too many lines")

// lines counts the ends of lines in a JSON text that goes by.
type lines struct {
	io.Reader
	others  *desk.Others
	n       int
	past    int // bytes since others had their turn
	escaped bool
}

func (l *lines) Read(p []byte) (int, error) {
	n, err := l.Reader.Read(p)
	if l.past += n; l.past > atOnce {
		l.past = 0
		l.others.GiveWay()
	}
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
	_, err := whole.ReadFrom(&lines{Reader: body, others: others})
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
	c.Request.Body = io.NopCloser(bytes.NewReader(apart(c, whole.Bytes())))
	return true
}

// textOf is where the request's context has the text of a trace file.
type textOf struct{}

// apart takes the text of a trace file out of a body, which without it is checked like every other: a text of 32 MB
// would be read and copied several times, and everybody waits for memory.
func apart(c *gin.Context, body []byte) []byte {
	var in map[string]json.RawMessage
	var text string
	if json.Unmarshal(body, &in) != nil || in["text"] == nil || json.Unmarshal(in["text"], &text) != nil || text == "" {
		return body // its fault is found where every body's is
	}
	in["text"] = json.RawMessage(`"apart"`)
	small, err := json.Marshal(in)
	if err != nil {
		return body
	}
	c.Request = c.Request.WithContext(context.WithValue(c.Request.Context(), textOf{}, text))
	return small
}
