package web

import (
	"encoding/json"
	"fmt"
	"net/http"
	"slices"
	"time"

	"github.com/gin-gonic/gin"

	"idlehiss/desk"
	"idlehiss/door"
	"idlehiss/shop"
)

// breath is how often a stream is told that it is alive; the page takes it for lost after two of them without a word.
const breath = 15 * time.Second

// eventsPath is where they come from.
const eventsPath = "/api/events"

// stream sends the page's events until it leaves. A page that comes back names
// the last one it saw and is sent the rest, or told to start over.
func stream(c *gin.Context, s *shop.Shop) {
	last := c.GetHeader("Last-Event-ID")
	if last == "" {
		last = c.Query("after")
	}
	device := visiting(c).device
	missed, page, done := s.Stream(last)
	defer done()
	h := c.Writer.Header()
	h.Set("Content-Type", "text/event-stream")
	h.Set("Cache-Control", "no-store")
	h.Set("X-Accel-Buffering", "no")
	c.Status(http.StatusOK)
	rc := http.NewResponseController(c.Writer)
	if err := rc.SetWriteDeadline(time.Time{}); err != nil {
		return
	}
	send := func(m shop.Message) error {
		if _, err := fmt.Fprintf(c.Writer, "id: %s\nevent: %s\ndata: %s\n\n", m.ID, m.Kind, m.Body); err != nil {
			return err
		}
		return rc.Flush()
	}
	if _, err := fmt.Fprint(c.Writer, "retry: 600\n\n"); err != nil {
		return
	}
	if err := rc.Flush(); err != nil {
		return
	}
	for _, m := range missed {
		if send(m) != nil {
			return
		}
	}
	alive := time.NewTicker(breath)
	defer alive.Stop()
	for {
		select {
		case <-c.Request.Context().Done():
			return
		case m, ok := <-page:
			if !ok || shutsOut(m, device) {
				return
			}
			if m.Kind != desk.DoorNews && send(m) != nil {
				return
			}
		case <-alive.C:
			if _, err := fmt.Fprint(c.Writer, "event: here\ndata: {}\n\n"); err != nil || rc.Flush() != nil {
				return
			}
		}
	}
}

// shutsOut reports whether a message signs the device out whose page this is.
func shutsOut(m shop.Message, d *door.DeviceView) bool {
	if m.Kind != desk.DoorNews || d == nil {
		return false
	}
	var which desk.Changed
	return json.Unmarshal(m.Body, &which) == nil && (which.ID == d.ID || which.ID == "" && slices.Contains(which.Changed, string(d.Role)))
}
