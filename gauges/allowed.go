package gauges

import (
	"context"
	"fmt"
	"net"
	"net/netip"
	"slices"
	"strings"
	"time"
)

// Allowed is where gauges may be asked beside what is always allowed: a host, a port as ":5020", or both, as whoever
// starts the shop names them. Without it a gauge is asked at port 502 of another computer, so that nobody who may add a
// gauge can make this one knock at doors of its own or of the network.
type Allowed []string

// usual is the port of Modbus TCP.
const usual = "502"

// Check says what is wrong with an entry.
func (a Allowed) Check() error {
	for _, x := range a {
		if host, port, err := split(x); err != nil || host == "" && port == "" {
			return fmt.Errorf("%q: a host, a port such as :5020, or both", x)
		}
	}
	return nil
}

func split(entry string) (host, port string, err error) {
	if ip, bad := netip.ParseAddr(entry); bad == nil {
		return ip.String(), "", nil
	}
	if !strings.Contains(entry, ":") {
		return entry, "", nil
	}
	return net.SplitHostPort(entry)
}

// lookUpIn is how long a gauge's name may take to be found.
const lookUpIn = 2 * time.Second

// Place is where an address leads, as a number that no name can change any more, or why it is not asked there.
func (a Allowed) Place(ctx context.Context, address string) (string, error) {
	host, port, err := net.SplitHostPort(address)
	if err != nil {
		return "", err
	}
	named := func(h, p string) bool {
		return slices.ContainsFunc(a, func(x string) bool {
			xh, xp, err := split(x)
			return err == nil && strings.EqualFold(xh, h) && xp == p
		})
	}
	place, there := named(host, port) || named(host, ""), named("", port) || port == usual
	if !place && !there {
		return "", fmt.Errorf("port %s is not allowed for gauges: they are asked at port %s, or where the shop was started with --gauge-at %s", port, usual, address)
	}
	ctx, stop := context.WithTimeout(ctx, lookUpIn)
	defer stop()
	ips, err := net.DefaultResolver.LookupNetIP(ctx, "ip", host)
	if err != nil || len(ips) == 0 {
		return "", fmt.Errorf("no computer is called %s", host)
	}
	for _, ip := range ips {
		if !place && !elsewhere(ip) {
			return "", fmt.Errorf("%s is this computer, or no address on a network: a gauge is asked there only where the shop was started with --gauge-at %s", host, address)
		}
	}
	return net.JoinHostPort(ips[0].Unmap().String(), port), nil
}

// elsewhere reports whether an address is that of another computer.
func elsewhere(ip netip.Addr) bool {
	ip = ip.Unmap().WithZone("")
	if ip.IsLoopback() || ip.IsLinkLocalUnicast() || ip.IsUnspecified() || ip.IsMulticast() || ip == netip.AddrFrom4([4]byte{255, 255, 255, 255}) {
		return false
	}
	own, err := net.InterfaceAddrs()
	return err == nil && !slices.ContainsFunc(own, func(a net.Addr) bool {
		n, ok := a.(*net.IPNet)
		if !ok {
			return false
		}
		mine, ok := netip.AddrFromSlice(n.IP)
		return ok && mine.Unmap() == ip
	})
}
