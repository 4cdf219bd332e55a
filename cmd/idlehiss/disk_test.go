//go:build linux

package main

import (
	"bufio"
	"fmt"
	"io"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"syscall"
	"testing"
	"time"

	"idlehiss/shop"
)

// smallDisk is a disk of its own for the program, in memory, which can be filled and made read-only. It is seen by
// nobody else, so that nobody else runs out of room.
type smallDisk struct {
	t   *testing.T
	at  string
	in  io.Writer
	out *bufio.Reader
}

// diskScript obeys line by line; every answer is a line.
const diskScript = `mount -t tmpfs -o size=9m none "$AT" || exit 97
mkdir "$AT/shop"; echo ready
while read -r c; do eval "$c"; done`

func newSmallDisk(t *testing.T) *smallDisk {
	t.Helper()
	d := &smallDisk{t: t, at: t.TempDir()}
	c := exec.Command("sh", "-c", diskScript)
	c.Env = append(os.Environ(), asProgram+"=1", "AT="+d.at, "PROGRAM="+os.Args[0])
	c.SysProcAttr = &syscall.SysProcAttr{Setpgid: true, Pdeathsig: syscall.SIGKILL, Cloneflags: syscall.CLONE_NEWUSER | syscall.CLONE_NEWNS,
		UidMappings: []syscall.SysProcIDMap{{HostID: os.Getuid(), Size: 1}}, GidMappings: []syscall.SysProcIDMap{{HostID: os.Getgid(), Size: 1}}}
	in, errIn := c.StdinPipe()
	out, errOut := c.StdoutPipe()
	if errIn != nil || errOut != nil {
		t.Fatal(errIn, errOut)
	}
	if err := c.Start(); err != nil {
		t.Skipf("no disk can be made here: %v", err)
	}
	t.Cleanup(func() {
		_ = syscall.Kill(-c.Process.Pid, syscall.SIGKILL)
		_ = c.Wait()
	})
	d.in, d.out = in, bufio.NewReader(out)
	if line, err := d.out.ReadString('\n'); err != nil {
		t.Skipf("no disk can be made here: %q %v", line, err)
	}
	return d
}

// do obeys a command and gives the last line that it says.
func (d *smallDisk) do(command string) string {
	d.t.Helper()
	if _, err := fmt.Fprintln(d.in, command); err != nil {
		d.t.Fatal(err)
	}
	line, err := d.out.ReadString('\n')
	if err != nil {
		d.t.Fatalf("%s: %q %v", command, line, err)
	}
	if line = strings.TrimSpace(line); line == "failed" {
		d.t.Fatal(command)
	}
	return line
}

func (d *smallDisk) serve() *killable {
	d.t.Helper()
	said := d.do(`"$PROGRAM" serve --data "$AT/shop" --addr 127.0.0.1:0 --keep 0 & P=$!`)
	_, url, ok := strings.Cut(said, "http://")
	if !ok {
		d.t.Fatalf("it does not start by itself: %q", said)
	}
	return &killable{t: d.t, url: "http://" + url}
}

// kept waits until the page is told that entries are kept, or that none is.
func (k *killable) kept(want bool) {
	k.t.Helper()
	for give := time.Now().Add(time.Minute); ; time.Sleep(20 * time.Millisecond) {
		if v := fetched[shop.KeepView](k, "/api/keep"); v.Stuck != want {
			return
		} else if time.Now().After(give) {
			k.t.Fatalf("it is told that %+v", v)
		}
	}
}

// refuses sends what the disk cannot take: none of it is acknowledged, and what is in the book can be read.
func (k *killable) refuses(w *writer) {
	k.t.Helper()
	for range 12 {
		e := w.next()
		if answer, status, ok := k.send(e.path, e.body); !ok || status != http.StatusServiceUnavailable && status != http.StatusOK {
			k.t.Errorf("%s: %d %s", e.path, status, answer)
		} else {
			e.acked = status == http.StatusOK // there may have been room for one more
		}
	}
	k.kept(false)
	if e := w.all[len(w.all)-1]; e.acked {
		k.t.Error("the last entry was acknowledged on a disk that takes nothing")
	}
	fetched[any](k, "/api/book")
	fetched[any](k, "/api/jobs/"+w.job)
}

// again sends what was refused, now that there is room.
func (k *killable) again(w *writer) {
	k.t.Helper()
	k.kept(true)
	for _, e := range w.all {
		if !e.acked && !w.deliver(k, e) {
			k.t.Fatal("no answer")
		}
	}
}

// On a disk that fills up under the program, is full when it starts, or can only be read then, nothing that was acknowledged is
// lost, what is in the book is read, and entries are taken again as soon as there is room, without help.
func TestAFullOrReadOnlyDiskLosesNothing(t *testing.T) {
	d := newSmallDisk(t)
	k := d.serve()
	w := k.writer(1)
	for range 40 {
		w.deliver(k, w.next())
	}
	const (
		fill  = `dd if=/dev/zero of="$AT/fill" bs=1k 2>/dev/null; echo full`
		empty = `rm "$AT/fill"; echo room`
		kill  = `kill -9 $P; wait $P 2>/dev/null; echo gone`
		only  = `mount -o remount,ro "$AT" && echo read-only || echo failed`
		both  = `mount -o remount,rw "$AT" && echo writable || echo failed`
	)
	for _, way := range []struct{ shut, open string }{{fill, empty}, {only, both}} {
		if way.shut == fill { // a disk on which something is open for writing cannot be made read-only
			d.do(way.shut)
			k.refuses(w)
			d.do(way.open)
			k.again(w)
		}
		d.do(kill)
		d.do(way.shut)
		k = d.serve()
		k.refuses(w)
		d.do(way.open)
		k.again(w)
	}
	d.do(kill)
	out := filepath.Join(t.TempDir(), "shop")
	d.do(`cp -r "$AT/shop" ` + out + `; echo copied`)
	acked := inTheBook(t, out, 0, []*writer{w})
	if t.Logf("%d entries acknowledged, 0 lost, 0 doubled, 0 starts that needed help", acked); acked != len(w.all) {
		t.Errorf("%d of %d", acked, len(w.all))
	}
}
