package logbook

import (
	"context"
	"database/sql"
	"database/sql/driver"
	"fmt"
	"maps"
	"math/rand/v2"
	"os"
	"path/filepath"
	"sync"
	"testing"
	"time"
	"unsafe"

	"modernc.org/libc"
	"modernc.org/sqlite"
	sqlite3 "modernc.org/sqlite/lib"
)

// disk remembers of every file what would be on the disk if the power went now: all that was synced, and of what was
// written since, nobody knows which sectors.
type disk struct {
	mu    sync.Mutex
	files map[string]*onDisk
	at    map[uintptr]string // open files

	keep []any // what only the database points to
}

type onDisk struct {
	synced []byte
	since  []change
}

// change is a write, or a cut to a length.
type change struct {
	at   int64
	data []byte
	cut  bool
}

const sector = 512

func (c change) on(b []byte) []byte {
	end := c.at + int64(len(c.data))
	for int64(len(b)) < end {
		b = append(b, make([]byte, end-int64(len(b)))...)
	}
	if c.cut {
		return b[:c.at]
	}
	copy(b[c.at:end], c.data)
	return b
}

// cut is a folder's files after a power cut: of what was not synced each sector came through or not.
func (d *disk) cut(r *rand.Rand) map[string][]byte {
	d.mu.Lock()
	defer d.mu.Unlock()
	out := map[string][]byte{}
	for path, f := range d.files {
		b := append([]byte{}, f.synced...)
		for _, c := range f.since {
			if c.cut {
				if r.IntN(2) == 0 {
					b = c.on(b)
				}
				continue
			}
			for from := 0; from < len(c.data); from += sector {
				if r.IntN(2) == 0 {
					b = change{c.at + int64(from), c.data[from:min(from+sector, len(c.data))], false}.on(b)
				}
			}
		}
		out[filepath.Base(path)] = b
	}
	return out
}

func (d *disk) note(file uintptr, c change) {
	d.mu.Lock()
	defer d.mu.Unlock()
	if f := d.files[d.at[file]]; f != nil {
		f.since = append(f.since, c)
	}
}

func (d *disk) sync(file uintptr) {
	d.mu.Lock()
	defer d.mu.Unlock()
	f := d.files[d.at[file]]
	if f == nil {
		return
	}
	for _, c := range f.since {
		f.synced = c.on(f.synced)
	}
	f.since = nil
}

// at is what lies at an address of the database's own memory.
func at[T any](p uintptr) *T { return *(**T)(unsafe.Pointer(&p)) }

// called is the function behind one of the database's pointers, as its translated code calls it.
func called[F any](p uintptr) F { return *(*F)(unsafe.Pointer(&struct{ uintptr }{p})) }

// pointer is a function as such a pointer.
func pointer[F any](d *disk, f F) uintptr {
	d.keep = append(d.keep, f)
	return *(*uintptr)(unsafe.Pointer(&f))
}

type (
	openFile  = func(tls *libc.TLS, vfs, name, file uintptr, flags int32, out uintptr) int32
	writeFile = func(tls *libc.TLS, file, buf uintptr, n int32, at int64) int32
	cutFile   = func(tls *libc.TLS, file uintptr, to int64) int32
	syncFile  = func(tls *libc.TLS, file uintptr, flags int32) int32

	removeFile = func(tls *libc.TLS, vfs, path uintptr, dir int32) int32
)

// register puts the disk under a database's file layer, by a name.
func (d *disk) register(name string) {
	tls := libc.NewTLS()
	vfs := *at[sqlite3.Tsqlite3_vfs](sqlite3.Xsqlite3_vfs_find(tls, 0))
	title := append([]byte(name), 0)
	vfs.FzName, vfs.FpNext = uintptr(unsafe.Pointer(&title[0])), 0
	open := called[openFile](vfs.FxOpen)
	methods := map[uintptr]*sqlite3.Tsqlite3_io_methods{}
	vfs.FxOpen = pointer(d, func(tls *libc.TLS, v, path, file uintptr, flags int32, out uintptr) int32 {
		rc := open(tls, v, path, file, flags, out)
		f := at[sqlite3.Tsqlite3_file](file)
		if rc != sqlite3.SQLITE_OK || path == 0 || f.FpMethods == 0 {
			return rc
		}
		d.mu.Lock()
		defer d.mu.Unlock()
		where := libc.GoString(path)
		d.at[file] = where
		if d.files[where] == nil {
			was, _ := os.ReadFile(where)
			d.files[where] = &onDisk{synced: was}
		}
		m := methods[f.FpMethods]
		if m == nil {
			own := *at[sqlite3.Tsqlite3_io_methods](f.FpMethods)
			m = &own
			write, cut, sync := called[writeFile](own.FxWrite), called[cutFile](own.FxTruncate), called[syncFile](own.FxSync)
			m.FxWrite = pointer(d, func(tls *libc.TLS, file, buf uintptr, n int32, to int64) int32 {
				d.note(file, change{to, append([]byte{}, unsafe.Slice(at[byte](buf), n)...), false})
				return write(tls, file, buf, n, to)
			})
			m.FxTruncate = pointer(d, func(tls *libc.TLS, file uintptr, to int64) int32 {
				d.note(file, change{at: to, cut: true})
				return cut(tls, file, to)
			})
			m.FxSync = pointer(d, func(tls *libc.TLS, file uintptr, flags int32) int32 {
				rc := sync(tls, file, flags)
				if rc == sqlite3.SQLITE_OK {
					d.sync(file)
				}
				return rc
			})
			methods[f.FpMethods] = m
		}
		f.FpMethods = uintptr(unsafe.Pointer(m))
		return rc
	})
	remove := called[removeFile](vfs.FxDelete)
	vfs.FxDelete = pointer(d, func(tls *libc.TLS, v, path uintptr, dir int32) int32 {
		d.mu.Lock()
		delete(d.files, libc.GoString(path))
		d.mu.Unlock()
		return remove(tls, v, path, dir)
	})
	d.keep = append(d.keep, title, methods, &vfs)
	sqlite3.Xsqlite3_vfs_register(tls, uintptr(unsafe.Pointer(&vfs)), 0)
}

// through opens connections over the disk.
type through struct{ sqlite.Driver }

func (d *through) Open(name string) (driver.Conn, error) { return d.Driver.Open(name + "&vfs=power") }

// cuttable is the disk of these tests, and the driver that goes over it.
var cuttable = &disk{files: map[string]*onDisk{}, at: map[uintptr]string{}}

const cuttableName = "sqlite over a disk that loses power"

func init() {
	cuttable.register("power")
	sql.Register(cuttableName, &through{})
}

// A power cut at any moment loses nothing that was acknowledged and leaves a sound book, whichever sectors of what was
// not synced came through.
func TestAPowerCutLosesNothing(t *testing.T) {
	ctx := context.Background()
	was := Driver
	Driver = cuttableName
	defer func() { Driver = was }()
	b := open(t, t.TempDir())
	filled(t, b)
	var mu sync.Mutex
	acked := map[string]bool{}
	run, stop := context.WithCancel(ctx)
	var all sync.WaitGroup
	for w := range 4 {
		all.Go(func() {
			for i := 0; run.Err() == nil; i++ {
				id := fmt.Sprintf("w%d-%d", w, i)
				_, err := b.Write(ctx, stamp(id), nil, func(tx *Tx) (any, error) {
					return id, tx.AddReadings(Reading{HoldID: "h1", Gauge: w, Seq: i + 1, At: start, Value: float64(i), Unit: "kPa", How: "read"})
				})
				if err != nil {
					t.Error(err)
					return
				}
				mu.Lock()
				acked[id] = true
				mu.Unlock()
			}
		})
	}
	r := rand.New(rand.NewPCG(5, 16))
	entries := 0
	const cuts = 12
	for range cuts {
		wait := time.NewTimer(time.Duration(5+r.IntN(60)) * time.Millisecond)
		<-wait.C
		mu.Lock()
		before := maps.Clone(acked)
		mu.Unlock()
		after := t.TempDir()
		for name, raw := range cuttable.cut(r) {
			if err := os.WriteFile(filepath.Join(after, name), raw, 0o644); err != nil {
				t.Fatal(err)
			}
		}
		Driver = was
		report, err := Check(ctx, filepath.Join(after, File))
		if err != nil || !report.Sound() {
			t.Fatalf("after a cut: %+v %v", report, err)
		}
		c, err := Open(ctx, after)
		if err != nil {
			t.Fatal(err)
		}
		for id := range before {
			if has, err := c.Has(ctx, id); err != nil || !has {
				t.Fatalf("%s was acknowledged and is gone: %v", id, err)
			}
		}
		entries = len(before)
		if err := c.Close(); err != nil {
			t.Fatal(err)
		}
		Driver = cuttableName
	}
	stop()
	all.Wait()
	if entries < 100 {
		t.Errorf("only %d entries", entries)
	}
	t.Logf("%d power cuts, %d entries acknowledged before the last, 0 lost", cuts, entries)
}
