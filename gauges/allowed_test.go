package gauges

import (
	"context"
	"net"
	"testing"
)

// Nobody who may add a gauge makes this computer knock at doors of its own or of the network.
func TestGaugesAreAskedOnlyWhereTheyMayBe(t *testing.T) {
	ctx := context.Background()
	own := []string{"127.0.0.1:502", "127.9.9.9:502", "[::1]:502", "localhost:502", "0.0.0.0:502", "[::]:502", "169.254.169.254:502", "[fe80::1]:502", "224.0.0.1:502", "255.255.255.255:502", "[::ffff:127.0.0.1]:502", "[::ffff:169.254.1.1]:502"}
	addrs, err := net.InterfaceAddrs()
	if err != nil {
		t.Fatal(err)
	}
	for _, a := range addrs {
		if n, ok := a.(*net.IPNet); ok {
			own = append(own, net.JoinHostPort(n.IP.String(), "502"))
		}
	}
	for _, at := range append(own, "192.0.2.40:22", "192.0.2.40:80", "192.0.2.40:8340", "192.0.2.40", "nowhere.invalid:502") {
		if place, err := (Allowed{}).Place(ctx, at); err == nil {
			t.Errorf("%s is asked, at %s", at, place)
		}
	}
	if place, err := (Allowed{}).Place(ctx, "192.0.2.40:502"); err != nil || place != "192.0.2.40:502" {
		t.Errorf("%s %v", place, err)
	}
	for _, c := range []struct {
		a  Allowed
		at string
		ok bool
	}{
		{Allowed{"127.0.0.1:5020"}, "127.0.0.1:5020", true}, {Allowed{"127.0.0.1:5020"}, "127.0.0.1:5021", false}, {Allowed{"127.0.0.1:5020"}, "127.0.0.2:5020", false},
		{Allowed{"127.0.0.1"}, "127.0.0.1:40111", true}, {Allowed{":5020"}, "192.0.2.40:5020", true}, {Allowed{":5020"}, "127.0.0.1:5020", false}, {Allowed{"::1"}, "[::1]:9", true},
	} {
		if _, err := c.a.Place(ctx, c.at); (err == nil) != c.ok || c.a.Check() != nil {
			t.Errorf("%v, %s: %v %v", c.a, c.at, err, c.a.Check())
		}
	}
	if (Allowed{"a:b:c"}).Check() == nil || (Allowed{""}).Check() == nil {
		t.Error("nonsense is taken")
	}
}
