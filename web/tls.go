package web

import (
	"bufio"
	"context"
	"crypto/ecdsa"
	"crypto/elliptic"
	"crypto/rand"
	"crypto/tls"
	"crypto/x509"
	"crypto/x509/pkix"
	"encoding/pem"
	"errors"
	"math/big"
	"net"
	"net/http"
	"os"
	"path/filepath"
	"time"
)

// The certificate that is made for --tls self, with its key, beside the book.
const (
	certificateFile = "certificate.pem"
	keyFile         = "certificate-key.pem"
	goodFor         = 10 * 365 * 24 * time.Hour // it is compared by hand, not trusted by whoever signed it
)

// OwnCertificate is the shop's own certificate, made where there is none yet; write writes a file whole or not at all,
// for its owner alone.
func OwnCertificate(folder string, at net.Addr, write func(path string, content []byte) error) (tls.Certificate, error) {
	cert, key := filepath.Join(folder, certificateFile), filepath.Join(folder, keyFile)
	if c, err := tls.LoadX509KeyPair(cert, key); !errors.Is(err, os.ErrNotExist) {
		return c, err
	}
	private, err := ecdsa.GenerateKey(elliptic.P256(), rand.Reader)
	if err != nil {
		return tls.Certificate{}, err
	}
	serial, err := rand.Int(rand.Reader, new(big.Int).Lsh(big.NewInt(1), 120))
	if err != nil {
		return tls.Certificate{}, err
	}
	now := time.Now()
	c := x509.Certificate{SerialNumber: serial, Subject: pkix.Name{CommonName: "Idle Hiss"}, NotBefore: now.Add(-24 * time.Hour), NotAfter: now.Add(goodFor),
		KeyUsage: x509.KeyUsageDigitalSignature, ExtKeyUsage: []x509.ExtKeyUsage{x509.ExtKeyUsageServerAuth}, BasicConstraintsValid: true,
		DNSNames: []string{"localhost"}, IPAddresses: addresses(at)}
	if name, err := os.Hostname(); err == nil {
		c.DNSNames = append(c.DNSNames, name, name+".local")
	}
	raw, err := x509.CreateCertificate(rand.Reader, &c, &c, private.Public(), private)
	if err != nil {
		return tls.Certificate{}, err
	}
	secret, err := x509.MarshalPKCS8PrivateKey(private)
	if err != nil {
		return tls.Certificate{}, err
	}
	// The key first: a certificate without it would not be made again.
	err = errors.Join(
		write(key, pem.EncodeToMemory(&pem.Block{Type: "PRIVATE KEY", Bytes: secret})),
		write(cert, pem.EncodeToMemory(&pem.Block{Type: "CERTIFICATE", Bytes: raw})))
	if err != nil {
		return tls.Certificate{}, err
	}
	return tls.LoadX509KeyPair(cert, key)
}

// addresses are those by which this computer may be asked.
func addresses(at net.Addr) []net.IP {
	out := []net.IP{net.IPv4(127, 0, 0, 1), net.IPv6loopback}
	if a, ok := at.(*net.TCPAddr); ok && !a.IP.IsUnspecified() && !a.IP.IsLoopback() {
		return append(out, a.IP)
	}
	all, err := net.InterfaceAddrs()
	for _, a := range all {
		if n, ok := a.(*net.IPNet); ok && err == nil && n.IP.IsGlobalUnicast() {
			out = append(out, n.IP)
		}
	}
	return out
}

// What a client may send as headers, bytes, and how long it may take over them.
const (
	MostHeaders = 64 << 10
	HeadersIn   = 10 * time.Second
)

// OverTLS listens for TLS. Whoever comes without is told where to come: nothing is answered in the open.
func OverTLS(ctx context.Context, l net.Listener, c tls.Certificate) net.Listener {
	s := &sorted{Listener: l, secure: make(chan net.Conn), plain: make(chan net.Conn), done: make(chan struct{})}
	go s.accept()
	redirect := &http.Server{ReadHeaderTimeout: HeadersIn, ReadTimeout: HeadersIn, WriteTimeout: HeadersIn, MaxHeaderBytes: MostHeaders, Handler: http.HandlerFunc(func(w http.ResponseWriter, r *http.Request) {
		w.Header().Set("Connection", "close")
		http.Redirect(w, r, "https://"+r.Host+r.URL.RequestURI(), http.StatusPermanentRedirect)
	})}
	go redirect.Serve(one{s, s.plain}) //nolint:errcheck // it ends with its listener
	context.AfterFunc(ctx, func() { redirect.Close() })
	return tls.NewListener(one{s, s.secure}, &tls.Config{Certificates: []tls.Certificate{c}, MinVersion: tls.VersionTLS12, NextProtos: []string{"h2", "http/1.1"}})
}

// sorted tells connections apart by their first byte.
type sorted struct {
	net.Listener
	secure, plain chan net.Conn
	done          chan struct{}
	why           error // set before done is closed
}

// helloByte begins a TLS connection; no request begins so.
const helloByte = 0x16

func (s *sorted) accept() {
	for {
		c, err := s.Listener.Accept()
		if err != nil {
			s.why = err
			close(s.done)
			return
		}
		go func() {
			b := bufio.NewReader(c)
			_ = c.SetReadDeadline(time.Now().Add(HeadersIn))
			first, err := b.Peek(1)
			if err != nil {
				c.Close()
				return
			}
			_ = c.SetReadDeadline(time.Time{})
			into := s.plain
			if first[0] == helloByte {
				into = s.secure
			}
			select {
			case into <- begun{c, b}:
			case <-s.done:
				c.Close()
			}
		}()
	}
}

// begun is a connection whose first byte was looked at.
type begun struct {
	net.Conn
	from *bufio.Reader
}

func (b begun) Read(p []byte) (int, error) { return b.from.Read(p) }

// one is a listener for one kind.
type one struct {
	*sorted
	conns chan net.Conn
}

func (o one) Accept() (net.Conn, error) {
	select {
	case c := <-o.conns:
		return c, nil
	case <-o.done:
		return nil, o.why
	}
}
