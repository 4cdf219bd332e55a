package shop

import (
	"encoding/json"
	"fmt"
	"strconv"
	"strings"
	"sync"
	"time"

	"idlehiss/desk"
)

// Message is one line of the event stream. Its id lets a page resume.
type Message struct {
	ID   string
	Kind desk.Topic
	Body json.RawMessage
}

// bus sends messages to every open page and keeps the latest for those that
// come back. Pages that fall behind are told to start over.
type bus struct {
	mu    sync.Mutex
	boot  string
	n     int
	list  int // of the last message that was about more than a hold
	kept  []Message
	bytes int // of what is kept
	pages map[chan Message]bool
}

// A page that was away longer than this is told to start over, which is cheaper than
// all that it missed.
const (
	busKeeps = 4 << 20 // bytes
	pageRoom = 1024    // messages
)

func newBus() *bus {
	return &bus{boot: strconv.FormatInt(time.Now().UnixNano(), 36), pages: map[chan Message]bool{}}
}

func (b *bus) send(kind desk.Topic, body any) {
	raw, err := json.Marshal(body)
	if err != nil {
		// What cannot be written is not passed over in silence: the pages ask for it,
		// and are answered with the fault.
		kind, raw = desk.ResetNews, json.RawMessage("{}")
	}
	b.mu.Lock()
	defer b.mu.Unlock()
	b.n++
	if kind != desk.HoldNews {
		b.list = b.n
	}
	m := Message{ID: b.id(), Kind: kind, Body: raw}
	b.kept, b.bytes = append(b.kept, m), b.bytes+len(raw)
	if b.bytes > 2*busKeeps {
		from := 0
		for ; b.bytes > busKeeps && from < len(b.kept)-1; from++ {
			b.bytes -= len(b.kept[from].Body)
		}
		b.kept = append([]Message(nil), b.kept[from:]...)
	}
	for page := range b.pages {
		select {
		case page <- m:
		default:
			delete(b.pages, page)
			close(page)
		}
	}
}

// at is the id of the last message, and the number of the last that was about more than a hold.
func (b *bus) at() (id string, list int) {
	b.mu.Lock()
	defer b.mu.Unlock()
	return b.id(), b.list
}

func (b *bus) id() string { return fmt.Sprintf("%s-%d", b.boot, b.n) }

// open gives a page's channel, first what it missed since the id it last saw.
func (b *bus) open(last string) (missed []Message, page chan Message, done func()) {
	b.mu.Lock()
	defer b.mu.Unlock()
	page = make(chan Message, pageRoom)
	b.pages[page] = true
	done = func() {
		b.mu.Lock()
		defer b.mu.Unlock()
		if b.pages[page] {
			delete(b.pages, page)
			close(page)
		}
	}
	boot, num, _ := strings.Cut(last, "-")
	seen, err := strconv.Atoi(num)
	first := b.n - len(b.kept)
	switch {
	case last == "":
	case err != nil || boot != b.boot || seen < first || seen > b.n:
		missed = []Message{{ID: b.id(), Kind: desk.ResetNews, Body: json.RawMessage("{}")}}
	default:
		missed = append(missed, b.kept[seen-first:]...)
	}
	return missed, page, done
}
