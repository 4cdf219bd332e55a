package demo

import (
	"context"
	"database/sql"
	"database/sql/driver"
	"fmt"
	"go/ast"
	"go/parser"
	"go/token"
	"maps"
	"os"
	"path/filepath"
	"regexp"
	"slices"
	"strconv"
	"strings"
	"sync"
	"testing"

	"idlehiss/bundle"
	"idlehiss/holds"
	"idlehiss/jobs"
	"idlehiss/logbook"
)

// asked are the statements that books were asked while a test listened, with the arguments of the first time.
var asked = struct {
	sync.Mutex
	by map[string][]driver.NamedValue
}{by: map[string][]driver.NamedValue{}}

func note(query string, args []driver.NamedValue) {
	asked.Lock()
	defer asked.Unlock()
	if had, ok := asked.by[query]; !ok || had == nil {
		asked.by[query] = args
	}
}

type listening struct{ driver.Driver }

func (l listening) Open(name string) (driver.Conn, error) {
	c, err := l.Driver.Open(name)
	return listener{c}, err
}

type listener struct{ driver.Conn }

func (l listener) QueryContext(ctx context.Context, query string, args []driver.NamedValue) (driver.Rows, error) {
	note(query, args)
	return l.Conn.(driver.QueryerContext).QueryContext(ctx, query, args)
}

func (l listener) ExecContext(ctx context.Context, query string, args []driver.NamedValue) (driver.Result, error) {
	note(query, args)
	return l.Conn.(driver.ExecerContext).ExecContext(ctx, query, args)
}

func (l listener) PrepareContext(ctx context.Context, query string) (driver.Stmt, error) {
	note(query, nil)
	return l.Conn.(driver.ConnPrepareContext).PrepareContext(ctx, query)
}

func (l listener) BeginTx(ctx context.Context, opts driver.TxOptions) (driver.Tx, error) {
	return l.Conn.(driver.ConnBeginTx).BeginTx(ctx, opts)
}

// listen has the books of a test noted.
func listen(t *testing.T) {
	t.Helper()
	was := logbook.Driver
	db, err := sql.Open(was, "")
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	sql.Register("listening", listening{db.Driver()})
	logbook.Driver = "listening"
	t.Cleanup(func() { logbook.Driver = was })
}

// large matches a statement on a table that grows with the years.
var large = regexp.MustCompile(`\b(FROM|JOIN|INTO|UPDATE) (job|reading|fact|call|job_words|packed)\b`)

// No statement reads one of the large tables from end to end, or sorts what it has read: what is asked of a book takes no
// longer when it has grown. Every statement of the book's source is among those that are looked at, except what reads a
// book through on purpose: its check, its backup, and saving what can be read of a damaged one.
func TestNoStatementReadsAWholeTable(t *testing.T) {
	empty := opens(t, t.TempDir())
	empty.shut() // it is up to date
	folder := t.TempDir()
	made, err := logbook.Open(context.Background(), folder)
	if err != nil {
		t.Fatal(err)
	}
	if err := made.Close(); err != nil {
		t.Fatal(err)
	}
	listen(t)
	if err := fill(folder); err != nil {
		t.Fatal(err)
	}
	use(t, opens(t, folder), empty.book.Folder())
	db, err := sql.Open("sqlite", "file:"+filepath.Join(folder, logbook.File))
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	asked.Lock()
	defer asked.Unlock()
	all := slices.Sorted(maps.Keys(asked.by))
	looked := 0
	for _, query := range all {
		if large.MatchString(query) && !strings.HasPrefix(query, "CREATE") && !strings.Contains(query, "goose") {
			looked++
			explain(t, db, query, asked.by[query])
		}
	}
	if looked < 30 {
		t.Errorf("only %d statements were looked at", looked)
	}
	for _, text := range written(t) {
		if !slices.ContainsFunc(all, func(q string) bool { return strings.Contains(q, text) }) {
			t.Errorf("never asked: %s", text)
		}
	}
}

// use does with a shop whatever asks a statement that its story has not asked.
func use(t *testing.T, o *opened, empty string) {
	t.Helper()
	ctx := context.Background()
	for path, is := range o.screens() {
		if strings.HasPrefix(is, "5") {
			t.Errorf("%s: %s", path, is)
		}
	}
	o.get("/api/book?q=leak&next=" + strconv.Itoa(1<<60))
	for _, asked := range []string{"only=open", "only=unproved", "only=due", "hands=Ilse", "family=cooling", "only=open,unproved,due&hands=Ilse&family=cooling&q=bin"} {
		o.get("/api/book?" + asked)
	}
	ids, err := o.book.JobIDs(ctx, "Bin carrier 2")
	if err != nil || len(ids) == 0 {
		t.Fatal(ids, err)
	}
	raw := o.bundle(bundle.What{Of: bundle.OfBook})
	other := opens(t, empty)
	if _, err := other.take(raw); err != nil {
		t.Fatal(err)
	}
	running, err := o.book.RunningHolds(ctx)
	if err != nil || len(running) == 0 {
		t.Fatal(running, err)
	}
	p := player{ctx, o.Shop, nil, "plans", new(int)}
	h := running[0]
	write := func() (w holds.Undo) { w.Write = p.write("Ilse"); w.ID = "plans-" + w.ID; return w }
	begun, err := o.Jobs.Begin(ctx, jobs.StartJob{Write: write().Write, From: h.JobID, Circuit: "cooling-header-tank"})
	if err != nil {
		t.Fatal(err)
	}
	var long strings.Builder
	long.WriteString("time [s],pressure [kPa]\n")
	for i := range 3000 { // more than go into one pack
		fmt.Fprintf(&long, "%d,%.1f\n", i, 110-float64(i)/1000)
	}
	dropped := jobs.Dropped{Write: write().Write, Name: "hour.csv", Text: long.String()}
	if _, err := o.Jobs.Drop(ctx, begun.Of, dropped); err != nil {
		t.Fatal(err)
	}
	if _, err := o.Holds.Undo(ctx, h.ID, holds.Undo{Write: write().Write, Seq: 3}); err != nil {
		t.Fatal(err)
	}
	for _, id := range []string{h.JobID, begun.Of} {
		o.get("/api/jobs/" + id)
	}
	if err := o.book.TakeBack(ctx, "nothing"); err != nil {
		t.Fatal(err)
	}
	if _, err := o.book.Latest(ctx); err != nil {
		t.Fatal(err)
	}
}

// explain fails where a statement scans a table or an index of it, or sorts.
func explain(t *testing.T, db *sql.DB, query string, args []driver.NamedValue) {
	t.Helper()
	n := strings.Count(query, "?")
	with := make([]any, 0, n)
	for _, a := range args {
		with = append(with, a.Value)
	}
	for args == nil && len(with) < n {
		with = append(with, nil)
	}
	rows, err := db.Query("EXPLAIN QUERY PLAN "+query, with...)
	if err != nil {
		t.Errorf("%s: %v", query, err)
		return
	}
	defer rows.Close()
	made := map[string]bool{} // what the statement itself makes
	for rows.Next() {
		var id, parent, unused int
		var does string
		if err := rows.Scan(&id, &parent, &unused, &does); err != nil {
			t.Fatal(err)
		}
		words := strings.Fields(does)
		switch {
		case words[0] == "CO-ROUTINE" || words[0] == "MATERIALIZE":
			made[words[1]] = true
		case words[0] == "SCAN" && !made[words[1]] && words[1] != "CONSTANT" && !few.MatchString(does), strings.Contains(does, "TEMP B-TREE"):
			t.Errorf("%s\n\t%s", query, does)
		}
	}
	if err := rows.Err(); err != nil {
		t.Fatal(err)
	}
}

// few matches a scan of what stays few: a virtual table by an index of its own, a list that the statement brings along,
// what is open or running by the index that has nothing else.
var few = regexp.MustCompile(`^SCAN \w+( EXISTS)? (VIRTUAL TABLE INDEX \d+:.*M|VIRTUAL TABLE INDEX 1:$|USING INDEX (job_open|hold_running)$)`)

// written are the statements on large tables, or the parts of them, that stand in the book's source.
func written(t *testing.T) (out []string) {
	t.Helper()
	files, err := filepath.Glob("../logbook/*.go")
	if err != nil {
		t.Fatal(err)
	}
	for _, name := range files {
		base := filepath.Base(name)
		if strings.HasSuffix(base, "_test.go") || slices.Contains([]string{"check.go", "save.go", "backup.go"}, base) {
			continue
		}
		raw, err := os.ReadFile(name)
		if err != nil {
			t.Fatal(err)
		}
		f, err := parser.ParseFile(token.NewFileSet(), name, raw, 0)
		if err != nil {
			t.Fatal(err)
		}
		ast.Inspect(f, func(n ast.Node) bool {
			if lit, ok := n.(*ast.BasicLit); ok && lit.Kind == token.STRING {
				if text, err := strconv.Unquote(lit.Value); err == nil && large.MatchString(text) {
					out = append(out, text)
				}
			}
			return true
		})
	}
	if len(out) < 20 {
		t.Fatalf("only %d statements were found in the source", len(out))
	}
	return out
}
