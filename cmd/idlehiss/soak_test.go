package main

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"flag"
	"fmt"
	"io"
	"math"
	"math/rand/v2"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"
	"sync/atomic"
	"syscall"
	"testing"
	"time"

	"idlehiss/core/runsheet"
	"idlehiss/core/terms"
	"idlehiss/desk"
	"idlehiss/jobs"
	"idlehiss/kit"
	"idlehiss/logbook"
)

// soak is how often the program is killed; make soak says fifty.
var soak = flag.Int("soak", 3, "rounds of kills")

// asProgram makes this test the program itself, so that it can be killed.
const asProgram = "HISS_TEST_IS_THE_PROGRAM"

func TestMain(m *testing.M) {
	if os.Getenv(asProgram) != "" {
		os.Exit(run(os.Args[1:], outside{os.Stdin, os.Stdout, os.Stderr}))
	}
	os.Exit(m.Run())
}

// killable is the program at work on a folder.
type killable struct {
	t   *testing.T
	url string
	cmd *exec.Cmd
}

func begin(t *testing.T, data string, args ...string) *killable {
	t.Helper()
	k := &killable{t: t, cmd: exec.Command(os.Args[0], append([]string{"serve", "--data", data, "--addr", "127.0.0.1:0"}, args...)...)}
	k.cmd.Env = append(os.Environ(), asProgram+"=1")
	var log bytes.Buffer
	k.cmd.Stderr = &log
	out, err := k.cmd.StdoutPipe()
	if err != nil {
		t.Fatal(err)
	}
	if err := k.cmd.Start(); err != nil {
		t.Fatal(err)
	}
	line, err := bufio.NewReader(out).ReadString('\n')
	_, url, ok := strings.Cut(line, "http://")
	if err != nil || !ok {
		k.kill()
		t.Fatalf("it does not start by itself: %q %v\n%s", line, err, log.String())
	}
	k.url = "http://" + strings.TrimSpace(url)
	return k
}

func (k *killable) kill() {
	_ = k.cmd.Process.Signal(syscall.SIGKILL)
	_ = k.cmd.Wait()
}

// send posts; ok is false where no answer came, and then it may be in the book or not.
func (k *killable) send(path string, body any) (answer []byte, status int, ok bool) {
	raw, err := json.Marshal(body)
	if err != nil {
		panic(err)
	}
	r, err := http.Post(k.url+path, "application/json", bytes.NewReader(raw))
	if err != nil {
		return nil, 0, false
	}
	defer r.Body.Close()
	answer, err = io.ReadAll(r.Body)
	return answer, r.StatusCode, err == nil
}

func sent[T any](k *killable, path string, body any) (v T) {
	k.t.Helper()
	answer, status, ok := k.send(path, body)
	if !ok || status != http.StatusOK {
		k.t.Fatalf("%s: %d %s", path, status, answer)
	}
	if err := json.Unmarshal(answer, &v); err != nil {
		k.t.Fatal(err)
	}
	return v
}

// entered is a write as it is sent, again and again until it is answered.
type entered struct {
	path  string
	body  map[string]any
	hold  string // of a reading
	n     int    // of it: kPa over 100, in thousandths; no other has the same
	text  string // of a remark, a finding or a press; no other has the same
	acked bool
}

const gaugesAtOnce = 12

// writer is one gauge or one hand.
type writer struct {
	gauge, hold, job string
	all              []*entered
	done             atomic.Int64 // acknowledged
}

func stamped(by string, more map[string]any) map[string]any {
	out := map[string]any{"id": desk.NewID(), "by": by, "device": "soak"}
	for k, v := range more {
		out[k] = v
	}
	return out
}

// Killed again and again under twelve gauges and a hand at every job, the program loses nothing that was acknowledged,
// keeps nothing twice that was sent again, and starts each time by itself.
func TestKillsLoseNothing(t *testing.T) {
	data := t.TempDir()
	k := begin(t, data, "--keep", "0")
	defer func() { k.kill() }()
	var ws []*writer
	for i := range gaugesAtOnce {
		ws = append(ws, k.writer(i+1))
	}
	backedUp(t, data, k, ws)
	r := rand.New(rand.NewPCG(16, 16))
	acked := 0
	for round := range *soak {
		ctx, stop := context.WithCancel(t.Context())
		var all sync.WaitGroup
		for _, w := range ws {
			all.Go(func() { w.write(ctx, k) })
		}
		pause := time.NewTimer(time.Duration(200+r.IntN(1200)) * time.Millisecond)
		<-pause.C
		k.kill() // while they write
		stop()
		all.Wait()
		acked = inTheBook(t, data, round, ws)
		k = begin(t, data, "--keep", "0")
	}
	t.Logf("%d kills: %d entries acknowledged, 0 lost, 0 doubled, 0 starts that needed help", *soak, acked)
	if acked < 20**soak {
		t.Errorf("only %d entries were acknowledged", acked)
	}
}

// backedUp makes a backup while all write, restores it elsewhere, and holds it against what had been acknowledged: of
// each writer it has all up to one entry, and none after it.
func backedUp(t *testing.T, data string, k *killable, ws []*writer) {
	t.Helper()
	ctx, stop := context.WithCancel(t.Context())
	var all sync.WaitGroup
	for _, w := range ws {
		all.Go(func() { w.write(ctx, k) })
	}
	for _, w := range ws {
		for w.done.Load() < 20 && !t.Failed() {
			time.Sleep(time.Millisecond)
		}
	}
	var before []int64
	for _, w := range ws {
		before = append(before, w.done.Load())
	}
	file, elsewhere := filepath.Join(t.TempDir(), "kept.db"), filepath.Join(t.TempDir(), "shop")
	code, _, errs := idlehiss("", "backup", file, "--data", data)
	var after []int64
	for _, w := range ws {
		after = append(after, w.done.Load())
	}
	stop()
	all.Wait()
	if code != 0 {
		t.Fatal(errs)
	}
	if code, _, errs = idlehiss("", "restore", file, "--data", elsewhere); code != 0 {
		t.Fatal(errs)
	}
	b, err := logbook.Open(context.Background(), elsewhere)
	if err != nil {
		t.Fatal(err)
	}
	defer b.Close()
	went := int64(0)
	for i, w := range ws {
		values, texts := inBook(t, b, w)
		n := 0
		for n < len(w.all) && w.all[n].times(values, texts) == 1 {
			n++
		}
		if int64(n) < before[i] || int64(n) > after[i]+1 || len(values)+len(texts) != n {
			t.Errorf("%d in the backup, %d of them one after the other; %d were acknowledged before it and %d after", len(values)+len(texts), n, before[i], after[i])
		}
		went += after[i] - before[i]
	}
	if went == 0 {
		t.Error("nobody wrote while the backup was made")
	}
}

// writer is a gauge on a hold, with a hand at its job.
func (k *killable) writer(n int) *writer {
	g := sent[kit.Gauge](k, "/api/kit/gauges", stamped("Maren", map[string]any{"name": fmt.Sprintf("logger %d", n), "kind": "digital", "read": 0, "class": 1, "posted": true,
		"rings": []runsheet.Ring{{Unit: "kPa", To: 250, Division: 0.001, Numbered: 50}}}))
	j := sent[desk.Receipt](k, "/api/jobs", stamped("Maren", map[string]any{"machine": fmt.Sprintf("Bin carrier %d", n), "complaint": "routine", "mark": "16"}))
	for _, s := range fetched[jobs.JobView](k, "/api/jobs/"+j.Of).Stages {
		for _, x := range s.Ticks {
			if x.Must && s.ID == "make-safe" {
				sent[desk.Receipt](k, "/api/jobs/"+j.Of+"/ticks", stamped("Maren", map[string]any{"item": x.ID, "on": true}))
			}
		}
	}
	sent[desk.Receipt](k, "/api/jobs/"+j.Of+"/plan", stamped("Maren", map[string]any{"school": "exactly", "gauge": g.ID, "ring": 0, "allowance": "typed", "allowance_text": "5 kPa/min"}))
	h := sent[desk.Receipt](k, "/api/jobs/"+j.Of+"/holds", stamped("Maren", map[string]any{"purpose": "test"}))
	sent[desk.Receipt](k, "/api/holds/"+h.Of+"/events", stamped("Maren", map[string]any{"kind": "isolate"}))
	return &writer{gauge: g.ID, hold: h.Of, job: j.Of}
}

// write sends what was not answered once more, and then new readings and remarks, until the program is killed.
func (w *writer) write(ctx context.Context, k *killable) {
	for _, e := range w.all {
		if !e.acked && !w.deliver(k, e) {
			return
		}
	}
	for ctx.Err() == nil {
		if !w.deliver(k, w.next()) {
			return
		}
	}
}

// next is what is sent next: as a rule a reading of the gauge; else a remark, what was found at a part, or a press.
func (w *writer) next() *entered {
	n := len(w.all) + 1
	e := &entered{hold: w.hold, n: n, path: "/api/gauges/" + w.gauge + "/readings"}
	e.body = stamped("logger", map[string]any{"readings": []map[string]any{{"value": 100 + float64(n)*1e-3, "unit": "kPa"}}})
	text := fmt.Sprintf("seen %d", n)
	switch n % 9 {
	case 3:
		e = &entered{text: text, path: "/api/jobs/" + w.job + "/remarks", body: stamped("Tomas", map[string]any{"stage": "hold", "text": text})}
	case 5:
		e = &entered{text: text, path: "/api/jobs/" + w.job + "/looks", body: stamped("Tomas", map[string]any{"part": "radiator", "method": "wet-hand", "seen": false, "note": text})}
	case 7:
		e = &entered{text: text, path: "/api/holds/" + w.hold + "/events", body: stamped("Tomas", map[string]any{"kind": text})}
	}
	w.all = append(w.all, e)
	return e
}

func (w *writer) deliver(k *killable, e *entered) bool {
	answer, status, ok := k.send(e.path, e.body)
	if !ok {
		return false
	}
	if status != http.StatusOK {
		k.t.Errorf("%s: %d %s", e.path, status, answer)
		return false
	}
	e.acked = true
	w.done.Add(1)
	return true
}

// inTheBook holds what was acknowledged against the book, and gives how much that was.
func inTheBook(t *testing.T, data string, round int, ws []*writer) (acked int) {
	t.Helper()
	ctx := context.Background()
	if r, err := logbook.Check(ctx, filepath.Join(data, logbook.File)); err != nil || !r.Sound() {
		t.Fatalf("round %d: %+v %v", round, r, err)
	}
	b, err := logbook.Open(ctx, data)
	if err != nil {
		t.Fatal(err)
	}
	defer b.Close()
	for _, w := range ws {
		values, texts := inBook(t, b, w)
		for _, e := range w.all {
			kept := e.times(values, texts)
			if e.acked {
				acked++
			}
			if e.acked && kept != 1 || kept > 1 {
				t.Fatalf("round %d: %s %v %s acknowledged %v, in the book %d times", round, e.path, e.n, e.text, e.acked, kept)
			}
		}
	}
	return acked
}

func fetched[T any](k *killable, path string) (v T) {
	k.t.Helper()
	r, err := http.Get(k.url + path)
	if err != nil {
		k.t.Fatal(err)
	}
	defer r.Body.Close()
	if err := json.NewDecoder(r.Body).Decode(&v); err != nil || r.StatusCode != http.StatusOK {
		k.t.Fatalf("%s: %d %v", path, r.StatusCode, err)
	}
	return v
}

// inBook is how often each reading, and each remark, finding and press of a writer is in a book.
func inBook(t *testing.T, b *logbook.Book, w *writer) (values map[int]int, texts map[string]int) {
	t.Helper()
	values, texts = map[int]int{}, map[string]int{}
	for x, err := range b.Readings(context.Background(), w.hold) {
		if err != nil {
			t.Fatal(err)
		}
		values[int(math.Round((x.Value-100)*1e3))]++
	}
	facts, err := b.Facts(context.Background(), w.job)
	if err != nil {
		t.Fatal(err)
	}
	for _, f := range facts {
		if f.Subject == terms.AboutRemark {
			texts[f.Sentence]++
		}
	}
	looks, err := b.Observations(context.Background(), w.job)
	if err != nil {
		t.Fatal(err)
	}
	for _, o := range looks {
		texts[o.Note]++
	}
	events, err := b.Events(context.Background(), w.hold)
	if err != nil {
		t.Fatal(err)
	}
	for _, e := range events {
		if strings.HasPrefix(e.Kind, "seen ") {
			texts[e.Kind]++
		}
	}
	return values, texts
}

func (e *entered) times(values map[int]int, texts map[string]int) int {
	if e.text != "" {
		return texts[e.text]
	}
	return values[e.n]
}
