package web

import (
	"context"
	"crypto/tls"
	"net"
	"net/netip"
	"sync"
	"sync/atomic"
)

// mostUnknown is how many connections an address may hold that have not come in: a browser that asks for the PIN needs
// six.
const mostUnknown = 32

// Crowd is a listener that one address cannot fill: of those that have not come in it holds a few, and shuts the others
// at once. This computer is not counted, so that nobody on it locks it out.
type Crowd struct {
	net.Listener

	mu      sync.Mutex
	unknown map[netip.Addr]int
}

// NewCrowd guards a listener.
func NewCrowd(l net.Listener) *Crowd { return &Crowd{Listener: l, unknown: map[netip.Addr]int{}} }

// Accept waits for one of whom there are not too many.
func (w *Crowd) Accept() (net.Conn, error) {
	for {
		c, err := w.Listener.Accept()
		if err != nil {
			return nil, err
		}
		at, err := netip.ParseAddrPort(c.RemoteAddr().String())
		if err != nil || at.Addr().Unmap().IsLoopback() {
			return c, nil
		}
		one := &counted{Conn: c, of: w, from: at.Addr().Unmap().WithZone("")}
		if w.add(one.from, 1) > mostUnknown {
			w.add(one.from, -1)
			c.Close()
			continue
		}
		return one, nil
	}
}

func (w *Crowd) add(from netip.Addr, n int) int {
	w.mu.Lock()
	defer w.mu.Unlock()
	w.unknown[from] += n
	left := w.unknown[from]
	if left == 0 {
		delete(w.unknown, from)
	}
	return left
}

// counted is a connection that has not come in.
type counted struct {
	net.Conn
	of   *Crowd
	from netip.Addr
	gone atomic.Bool // it has come in, or is shut
}

func (c *counted) leave() {
	if c.gone.CompareAndSwap(false, true) {
		c.of.add(c.from, -1)
	}
}

func (c *counted) Close() error {
	c.leave()
	return c.Conn.Close()
}

type connection struct{}

// Context keeps with each request the connection it came by, for a server's ConnContext.
func Context(ctx context.Context, c net.Conn) context.Context {
	if t, ok := c.(*tls.Conn); ok {
		c = t.NetConn()
	}
	if b, ok := c.(begun); ok {
		c = b.Conn
	}
	if one, ok := c.(*counted); ok {
		return context.WithValue(ctx, connection{}, one)
	}
	return ctx
}

// known tells that whoever a request comes from has come in.
func known(ctx context.Context) {
	if c, ok := ctx.Value(connection{}).(*counted); ok {
		c.leave()
	}
}
