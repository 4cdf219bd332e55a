package web

import (
	"context"
	"net"
	"net/http"
	"net/netip"
	"slices"
	"strings"

	"github.com/gin-gonic/gin"

	"idlehiss/core/terms"
	"idlehiss/door"
	"idlehiss/shop"
)

// Options are what the outside decides of who is let in.
type Options struct {
	LocalPin bool           // this computer is asked for a PIN as every other is
	Proxies  []netip.Prefix // addresses of proxies whose word on where a request comes from is taken
	Secure   bool           // all of it goes over TLS

	Certificate []byte // under TLS, as it is sent
}

// Cookies carry a device's token; a script sends it as a bearer token. The name of the one under TLS makes a browser
// hold it to this host, this path and TLS.
const (
	doorCookie   = "hiss_door"
	secureCookie = "__Host-hiss_door"
)

func (o Options) cookie() string {
	if o.Secure {
		return secureCookie
	}
	return doorCookie
}

// visitor is who a request comes from.
type visitor struct {
	here   bool             // this computer, of which no PIN is asked
	from   string           // the address that wrong PINs are counted by
	device *door.DeviceView // nil where none is signed in
}

func (v visitor) in() bool { return v.here || v.device != nil }

// owner reports whether the owner's actions are this visitor's: of this computer while there is no PIN at all.
func (v visitor) owner(pins map[terms.Role]bool) bool {
	if v.device != nil && v.device.Role == terms.Owner {
		return true
	}
	return v.here && !pins[terms.Owner] && !pins[terms.Hand]
}

// visitorKey is where a request keeps its visitor.
const visitorKey = "visitor"

type visitorOf struct{}

func visiting(c *gin.Context) visitor {
	v, _ := c.Get(visitorKey)
	who, _ := v.(visitor)
	return who
}

// look finds out who a request comes from.
func (o Options) look(c *gin.Context, s *shop.Shop) visitor {
	v := visitor{here: !o.LocalPin && thisComputer(c.Request) && !o.proxied(c.Request), from: o.address(c.Request)}
	if v.here {
		v.from = door.Here
	}
	token, _ := strings.CutPrefix(c.GetHeader("Authorization"), "Bearer ")
	if token == "" {
		token, _ = c.Cookie(o.cookie())
	}
	if token != "" {
		if d, ok := s.Door.Known(c.Request.Context(), token); ok {
			v.device = &d
		}
	}
	c.Set(visitorKey, v)
	c.Request = c.Request.WithContext(context.WithValue(c.Request.Context(), visitorOf{}, v))
	return v
}

func peer(r *http.Request) netip.Addr {
	at, err := netip.ParseAddrPort(r.RemoteAddr)
	if err != nil {
		return netip.Addr{}
	}
	return at.Addr().Unmap()
}

// proxied reports whether a request's packets come from a proxy that is named.
func (o Options) proxied(r *http.Request) bool {
	at := peer(r)
	return at.IsValid() && slices.ContainsFunc(o.Proxies, func(p netip.Prefix) bool { return p.Contains(at) })
}

// address is where a request comes from: where its packets come from, or what a proxy that is named says.
func (o Options) address(r *http.Request) string {
	if o.proxied(r) {
		all := strings.Split(strings.Join(r.Header.Values("X-Forwarded-For"), ","), ",")
		if ip, err := netip.ParseAddr(strings.TrimSpace(all[len(all)-1])); err == nil {
			return ip.Unmap().String()
		}
	}
	if at := peer(r); at.IsValid() {
		return at.String()
	}
	return r.RemoteAddr
}

// forwarding are the headers that whoever passes a request on adds to it.
var forwarding = []string{"Forwarded", "Via", "X-Forwarded-For", "X-Forwarded-Host", "X-Forwarded-Proto", "X-Forwarded-Server", "X-Real-Ip",
	"X-Client-Ip", "X-Original-Host", "X-Original-Forwarded-For", "X-Cluster-Client-Ip", "True-Client-Ip", "Cf-Connecting-Ip", "Fastly-Client-Ip", "Client-Ip", "Proxy-Connection"}

// thisComputer reports whether a request comes from a page of the computer that serves it: from it, asked for by its
// own name, and passed on by nobody. One that anybody passed on is a stranger's, wherever its packets come from.
func thisComputer(r *http.Request) bool {
	return peer(r).IsLoopback() && ownName(r.Host) && r.URL.Host == "" &&
		!slices.ContainsFunc(forwarding, func(h string) bool { return len(r.Header.Values(h)) > 0 })
}

// ownName reports whether a request asks for this computer by a name that means itself on every computer.
func ownName(host string) bool {
	if h, _, err := net.SplitHostPort(host); err == nil {
		host = h
	}
	host = strings.Trim(host, "[]")
	ip, err := netip.ParseAddr(host)
	return host == "localhost" || err == nil && ip.Unmap().IsLoopback()
}
