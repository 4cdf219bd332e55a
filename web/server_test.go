package web

import (
	"bufio"
	"context"
	"crypto/tls"
	"encoding/json"
	"fmt"
	"io"
	"net"
	"net/http"
	"os"
	"slices"
	"strconv"
	"strings"
	"testing"
	"time"

	"idlehiss/holds"
)

// Five hundred clients that send half a body hold up nobody: the shop's page and bench are answered meanwhile.
func TestHalfSentBodiesHoldUpNobody(t *testing.T) {
	srv := serve(t)
	at := srv.Listener.Addr().String()
	for i := range 500 {
		c, err := net.Dial("tcp", at)
		if err != nil {
			t.Fatal(err)
		}
		defer c.Close()
		path := []string{"/api/jobs", "/api/door", "/api/jobs/x/traces", "/api/meant"}[i%4]
		fmt.Fprintf(c, "POST %s HTTP/1.1\r\nHost: %s\r\nContent-Type: application/json\r\nContent-Length: 4000\r\n\r\n{\"id\": ", path, at)
	}
	var took []time.Duration
	for range 20 {
		for _, path := range []string{"/", "/api/bench"} {
			begun := time.Now()
			answer, err := http.Get(srv.URL + path)
			if err != nil {
				t.Fatal(err)
			}
			_, err = io.Copy(io.Discard, answer.Body)
			answer.Body.Close()
			if err != nil || answer.StatusCode != http.StatusOK {
				t.Fatalf("%s: %d %v", path, answer.StatusCode, err)
			}
			took = append(took, time.Since(begun))
		}
	}
	slices.Sort(took)
	t.Logf("of %d answers the middle one took %v, the slowest %v", len(took), took[len(took)/2], took[len(took)-1])
	if took[len(took)/2] > 5*time.Second { // a body that is waited for takes as long
		t.Errorf("the middle one took %v", took[len(took)/2])
	}
}

// Over TLS the shop's own certificate is made once; whoever comes without is told where to come and nothing else.
func TestOverTLSNothingIsAnsweredInTheOpen(t *testing.T) {
	_, h := serving(t, Options{Secure: true})
	folder := t.TempDir()
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	write := func(path string, content []byte) error { return os.WriteFile(path, content, 0o600) }
	own, err := OwnCertificate(folder, l.Addr(), write)
	if err != nil {
		t.Fatal(err)
	}
	again, err := OwnCertificate(folder, l.Addr(), write)
	if err != nil || string(again.Certificate[0]) != string(own.Certificate[0]) {
		t.Fatal("it is made a second time", err)
	}
	ctx, stop := context.WithCancel(t.Context())
	defer stop()
	server := &http.Server{Handler: h, ReadHeaderTimeout: HeadersIn}
	go server.Serve(OverTLS(ctx, l, own)) //nolint:errcheck // it ends with the test
	defer server.Close()
	silent, err := net.Dial("tcp", l.Addr().String()) // one that says nothing holds up nobody
	if err != nil {
		t.Fatal(err)
	}
	defer silent.Close()
	client := &http.Client{Transport: &http.Transport{TLSClientConfig: &tls.Config{InsecureSkipVerify: true}}, CheckRedirect: func(*http.Request, []*http.Request) error { return http.ErrUseLastResponse }}
	answer, err := client.Get("https://" + l.Addr().String() + "/api/book")
	if err != nil {
		t.Fatal(err)
	}
	defer answer.Body.Close()
	if answer.StatusCode != http.StatusOK || string(answer.TLS.PeerCertificates[0].Raw) != string(own.Certificate[0]) {
		t.Errorf("over TLS: %d", answer.StatusCode)
	}
	plain, err := client.Get("http://" + l.Addr().String() + "/api/book?q=x")
	if err != nil {
		t.Fatal(err)
	}
	defer plain.Body.Close()
	if to := plain.Header.Get("Location"); plain.StatusCode != http.StatusPermanentRedirect || !strings.HasPrefix(to, "https://") || !strings.HasSuffix(to, "/api/book?q=x") {
		t.Errorf("without: %d to %q", plain.StatusCode, to)
	}
}

// far is a connection that says it comes from another computer.
type far struct {
	net.Conn
	from string
}

func (f far) RemoteAddr() net.Addr {
	at, err := net.ResolveTCPAddr("tcp", f.from)
	if err != nil {
		panic(err)
	}
	return at
}

// lined hands out connections that were made beforehand.
type lined struct {
	net.Listener
	conns chan net.Conn
}

func (l lined) Accept() (net.Conn, error) { return <-l.conns, nil }

// One address holds a few connections that have not come in; those that have are not counted, nor is this computer.
func TestOneAddressDoesNotFillTheServer(t *testing.T) {
	l := lined{conns: make(chan net.Conn, 1)}
	crowd := NewCrowd(l)
	arrive := func(from string) (net.Conn, bool) {
		near, other := net.Pipe()
		t.Cleanup(func() { near.Close(); other.Close() })
		l.conns <- far{other, from}
		got := make(chan net.Conn)
		go func() {
			c, _ := crowd.Accept()
			got <- c
		}()
		shut := make(chan bool)
		go func() {
			_, err := near.Read(make([]byte, 1))
			shut <- err != nil
		}()
		select {
		case c := <-got:
			return c, true
		case <-shut:
			l.conns <- far{other, "127.0.0.1:1"} // lets the accept go
			<-got
			return nil, false
		}
	}
	var first net.Conn
	for i := range mostUnknown {
		c, ok := arrive("192.0.2.7:4000")
		if !ok {
			t.Fatalf("number %d was shut out", i+1)
		}
		first = c
	}
	if _, ok := arrive("192.0.2.7:4001"); ok {
		t.Error("one more was let in")
	}
	if _, ok := arrive("192.0.2.8:4000"); !ok {
		t.Error("another address was shut out")
	}
	for range 2 * mostUnknown {
		if _, ok := arrive("127.0.0.1:4000"); !ok {
			t.Fatal("this computer was shut out")
		}
	}
	known(Context(context.Background(), begun{Conn: first}))
	first.Close() // twice gone is gone once
	if _, ok := arrive("192.0.2.7:4002"); !ok {
		t.Error("shut out after one had come in")
	}
	if _, ok := arrive("192.0.2.7:4003"); ok {
		t.Error("one that came in and closed made room for two")
	}
}

// A trace file with a line too many is refused as it comes, at its field; one that is not is taken.
func TestATraceWithALineTooManyIsRefused(t *testing.T) {
	srv := serve(t)
	send(t, srv.URL+"/api/jobs", begin)
	drop := func(rows int) (int, map[string]any) {
		var text strings.Builder
		text.WriteString(`time [s],pressure [kPa]\n`)
		for i := range rows {
			fmt.Fprintf(&text, `%d,110\n`, i)
		}
		return send(t, srv.URL+"/api/jobs/first-write-1/traces", `{"id": "trace-write-`+strconv.Itoa(rows)+`", "by": "Maren", "device": "test", "name": "logger.csv", "text": "`+text.String()+`"}`)
	}
	if status, v := drop(1000); status != http.StatusOK || v["hold_id"] == "" {
		t.Errorf("%d %v", status, v)
	}
	for _, rows := range []int{holds.MostInFile + 1, mostLines + 1, 3 * mostLines} {
		status, v := drop(rows)
		where, _ := json.Marshal(v["errors"])
		if status != http.StatusUnprocessableEntity || !strings.Contains(string(where), "body.text") {
			t.Errorf("%d rows: %d %v", rows, status, v)
		}
	}
}

// Who sends a trace when as many as can be are on their way is told when to come again, and everything else goes on.
func TestAFifthTraceIsToldToWait(t *testing.T) {
	was := costlyWait
	costlyWait = 50 * time.Millisecond
	srv := serve(t)
	costlyWait = was
	send(t, srv.URL+"/api/jobs", begin)
	drop := func(n int) (int, map[string]any) {
		return send(t, srv.URL+"/api/jobs/first-write-1/traces", fmt.Sprintf(`{"id": "trace-write-%d", "by": "", "device": "", "name": "a.csv", "text": "time [s],pressure [kPa]\n0,%d\n1,110\n2,110\n3,110\n"}`, n, 100+n))
	}
	// Twice as many as can be send half a body: one half of them stays, the other is told to wait.
	var half []net.Conn
	told := make(chan string, 2*costlyAtOnce)
	for range 2 * costlyAtOnce {
		c, err := net.Dial("tcp", srv.Listener.Addr().String())
		if err != nil {
			t.Fatal(err)
		}
		defer c.Close()
		fmt.Fprintf(c, "POST /api/jobs/first-write-1/traces HTTP/1.1\r\nHost: 127.0.0.1\r\nConnection: close\r\nContent-Type: application/json\r\nContent-Length: 1000\r\n\r\n{")
		half = append(half, c)
		go func() {
			line, _ := bufio.NewReader(c).ReadString('\n') // nothing where it is closed first
			told <- line
		}()
	}
	for range costlyAtOnce {
		if line := <-told; !strings.Contains(line, "429") {
			t.Errorf("told %q", line)
		}
	}
	if status, v := drop(1); status != http.StatusTooManyRequests {
		t.Errorf("one more: %d %v", status, v)
	}
	r, err := http.Get(srv.URL + "/api/bench")
	if err != nil || r.StatusCode != http.StatusOK {
		t.Fatalf("the bench: %v %v", r, err)
	}
	r.Body.Close()
	for _, c := range half {
		c.Close()
	}
	status, v := http.StatusTooManyRequests, map[string]any{}
	for n := 0; n < 200 && status == http.StatusTooManyRequests; n++ { // until it is seen that they are gone
		status, v = drop(1000 + n)
	}
	if status != http.StatusOK {
		t.Errorf("when they are gone: %d %v", status, v)
	}
}
