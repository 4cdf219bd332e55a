package trace

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
	"math"
	"math/rand/v2"
	"reflect"
	"slices"
	"strconv"
	"strings"
	"testing"

	"idlehiss/core/quantity"
)

func read(t *testing.T, text string) *Trace {
	t.Helper()
	tr, err := ReadCSV(strings.NewReader(text), quantity.StandardAtmosphere)
	if err != nil {
		t.Fatalf("%v in\n%s", err, text)
	}
	return tr
}

func TestReadEveryDialect(t *testing.T) {
	want := []float64{110000, 109000, 108500}
	for name, text := range map[string]string{
		"comma":      "# a note\ntime [s],pressure [kPa]\n0,110\n30,109\n60,108.5\n",
		"semicolon":  "time [s];pressure [kPa];event\r\n0;110,0;isolate\r\n30;109,0;\r\n60;108,5;\r\n",
		"tab, bom":   "\ufefftime [min]\tpressure [bar]\n0\t1.10\n0.5\t1.09\n1\t1,085\n",
		"clock":      "time,pressure [kPa]\n00:00,110\n00:30,109\n01:00,108.5\n",
		"moment":     "time,pressure [kPa]\n2026-05-04T10:00:00Z,110\n2026-05-04T10:00:30Z,109\n2026-05-04T12:01:00+02:00,108.5\n",
		"absolute":   "time [s],pressure [kPa abs],ambient [kPa]\n0,210,100\n30,209,100\n60,208.5,100\n",
		"extra, own": "time [s],who,pressure [kPa],pressure 2 [bar]\n0,Ada,110,1.1\n30,,109,\n60,,108.5,\n",
	} {
		tr := read(t, text)
		if len(tr.Readings) != 3 {
			t.Fatalf("%s: %d readings", name, len(tr.Readings))
		}
		for i, r := range tr.Readings {
			if math.Abs(r.GaugePa-want[i]) > 1e-6 || math.Abs(r.AtS-float64(30*i)) > 1e-9 {
				t.Errorf("%s: reading %d is %v", name, i, r)
			}
		}
	}
	vac := read(t, "time [s],pressure [inHg vac]\n0,12\n5,11.5\n9,11\n")
	if math.Abs(vac.Readings[0].GaugePa+12*3386.389) > 1e-6 {
		t.Errorf("vacuum read as %v", vac.Readings[0])
	}
}

func TestFaultsNameThePlace(t *testing.T) {
	for name, c := range map[string]struct {
		text         string
		line, column int
		says         string
	}{
		"empty":            {"", 0, 0, "first row names the columns"},
		"no pressure":      {"time [s],temperature [°C]\n0,20\n", 1, 0, "pressure [unit]"},
		"no time":          {"pressure [kPa]\n0\n", 1, 0, "time [s]"},
		"no unit":          {"time [s],pressure\n0,1\n", 1, 10, "brackets"},
		"unknown unit":     {"time [s],pressure [pis]\n0,1\n", 1, 10, "psi"},
		"text for number":  {"time [s],pressure [kPa]\n0,110\n5,about 9\n", 3, 3, "number"},
		"backwards":        {"time [s],pressure [kPa]\n0,110\n5,109\n4,108\n", 4, 1, "backwards"},
		"two readings":     {"time [s],pressure [kPa]\n0,110\n5,109\n", 0, 0, "at least 3"},
		"ragged":           {"time [s],pressure [kPa]\n0,110\n5\n", 3, 1, "number of fields"},
		"minus in vacuum":  {"time [s],pressure [inHg vac]\n0,-7\n", 2, 3, "without one"},
		"below zero":       {"time [s],pressure [bar]\n0,-1.2\n", 2, 3, "absolute zero"},
		"how":              {"time [s],pressure [kPa],how\n0,1,guess\n", 2, 5, "read, mark or camera"},
		"two pressures":    {"time [s],pressure [kPa],pressure [bar]\n0,1,1\n", 1, 25, "pressure 2"},
		"not a time":       {"time,pressure [kPa]\n99,1\n", 2, 1, "mm:ss"},
		"infinite":         {"time [s],pressure [kPa]\n0,inf\n", 2, 3, "number"},
		"after a comment":  {"# note\n\ntime [s],pressure [kPa]\n0,x\n", 4, 3, "number"},
		"ambient of moon":  {"time [s],pressure [kPa],ambient [kPa]\n0,1,1\n", 2, 5, "ambient"},
		"unclosed quote":   {"time [s],pressure [kPa]\n0,\"1\n", 2, 0, ""},
		"temperature in X": {"time [s],pressure [kPa],temperature [°X]\n0,1,1\n", 1, 25, "°C"},
		"temperature bare": {"time [s],pressure [kPa],Temp\n0,1,1\n", 1, 25, "temperature [°C]"},
		"one of two ways":  {"time [s],pressure [Pa]\n0,\"110,000\"\n5,\"109,500\"\n", 2, 3, "\"110,000\" can be 110000 or 110.000"},
		"tab, one of two":  {"time [s]\tpressure [Pa]\n0\t110,000\n5\t109,500\n", 2, 3, "can be 110000 or 110.000"},
		"one with a point": {"time [s];pressure [mbar]\n0;1.100,5\n5;1.100\n9;1.099,5\n", 3, 3, "\"1.100\" can be 1100 or 1.100"},
		"mixed commas":     {"time [s],pressure [Pa]\n0,\"1,110,000\"\n5,\"109,5\"\n", 3, 3, "between thousands"},
	} {
		_, err := ReadCSV(strings.NewReader(c.text), quantity.StandardAtmosphere)
		var f *Fault
		if !errors.As(err, &f) {
			t.Errorf("%s: %v", name, err)
			continue
		}
		if f.Line != c.line || (c.column != 0 && f.Column != c.column) || !strings.Contains(f.Error(), c.says) {
			t.Errorf("%s: %v (line %d, column %d)", name, f, f.Line, f.Column)
		}
	}
}

// A comma means in a column what one number shows that can be read in one way only, or what
// a test can meet.
func TestACommaIsReadAsItsColumnShows(t *testing.T) {
	for name, c := range map[string]struct {
		text string
		pa   float64
	}{
		"thousands, as a spreadsheet writes":  {"time [s],pressure [Pa]\n0,\"110,000\"\n5,\"109,500.5\"\n9,\"109,000\"\n", 110000},
		"semicolons, all with three":          {"time [s];pressure [Pa]\n0,000;110,250\n5,000;109,125\n9,000;108,500\n", 110.25},
		"decimals, three of them":             {"time [s];pressure [Pa]\n0;110,250\n5;99,125\n9;0,500\n", 110.25},
		"both, the decimals of the continent": {"time [s];pressure [Pa]\n0;110.250,5\n5;109.000,0\n9;108.000,25\n", 110250.5},
		"no test meets it otherwise":          {"time [s];pressure [bar]\n0;1,100\n5;1,095\n9;1,090\n", 110000},
	} {
		if tr := read(t, c.text); math.Abs(tr.Readings[0].GaugePa-c.pa) > 1e-6 {
			t.Errorf("%s: %v Pa", name, tr.Readings[0].GaugePa)
		}
	}
}

// What loggers and spreadsheet programs make of a file is read as it was meant, and a
// column that is not used is named.
func TestFilesAsOtherProgramsSaveThem(t *testing.T) {
	tr := read(t, "\"# judge: --limit '10kPa in 2min' --gas '0,45L'\",,,\n# exported,,,\nElapsed time (s),Pressure (kPa),Temp [°F],Flow [L/min],\n0,110,68,1,\n30,109,68,1,\n60,108.5,70.7,1,\n")
	if tr.Settings != "--limit '10kPa in 2min' --gas '0,45L'" || len(tr.Readings) != 3 || len(tr.Temperature) != 3 || tr.Temperature[0].Value != 20 || tr.Temperature[2].Value != 21.5 {
		t.Errorf("%q, %+v", tr.Settings, tr.Temperature)
	}
	if len(tr.Unused) != 1 || tr.Unused[0] != "Flow [L/min]" {
		t.Errorf("unused: %q", tr.Unused)
	}
	if tr = read(t, "# judge: --limit 10kPa\t;;\ntime [s];pressure [kPa];\n0;110;\n30;109;\n60;108,5;\n"); tr.Settings != "--limit 10kPa" || len(tr.Unused) != 0 {
		t.Errorf("%q, %q", tr.Settings, tr.Unused)
	}
}

// rows is a file that grows as it is read.
type rows struct{ n, max int }

func (r *rows) Read(p []byte) (int, error) {
	if r.n > r.max {
		return 0, io.EOF
	}
	line := "time [s],pressure [kPa]\n"
	if r.n > 0 {
		line = fmt.Sprintf("%d,110\n", r.n)
	}
	r.n++
	return copy(p, line), nil
}

func TestThreeMillionRowsAreRefused(t *testing.T) {
	if testing.Short() {
		t.Skip("long: it runs without the race detector")
	}
	_, err := ReadCSV(&rows{max: 3_000_000}, quantity.StandardAtmosphere)
	var f *Fault
	if !errors.As(err, &f) || !strings.Contains(f.Problem, "every tenth") || f.Line != MaxRows+2 {
		t.Fatal(err)
	}
}

func TestWrittenTraceReadsBackTheSame(t *testing.T) {
	psi := quantity.MustNamed("psi", quantity.Pressure)
	in := &Trace{Unit: psi, Settings: "--limit '10kPa in 2min' --division 0.5psi"}
	for i, v := range []float64{15.875, 15.5, 15, 14.75} {
		how := Read
		switch i {
		case 2:
			how = Mark
		case 3:
			how = Camera
		}
		in.Readings = append(in.Readings, Reading{AtS: float64(7654321*i) / 1e6, GaugePa: psi.SI(v), How: how})
	}
	in.Events = []Event{{0, Isolate}, {8.25, "moved"}, {30, Release}}
	var b bytes.Buffer
	if err := in.WriteCSV(&b, "Hollowell Orchards, simulated"); err != nil {
		t.Fatal(err)
	}
	out := read(t, b.String())
	if !reflect.DeepEqual(in.Readings, out.Readings) || !reflect.DeepEqual(in.Events, out.Events) || in.Settings != out.Settings {
		t.Errorf("came back as %+v\nfrom\n%s", out, b.String())
	}
}

func TestPhases(t *testing.T) {
	tr := read(t, "time [s],pressure [kPa],event\n0,0,\n2,40,stroke\n4,80,stroke\n6,110,stroke\n7,109,isolate\n20,108,\n40,107,\n41,60,release\n45,0,\n")
	var got []string
	for _, p := range tr.Phases(nil) {
		got = append(got, fmt.Sprintf("%s %g-%g %d", p.Kind, p.FromS, p.ToS, len(tr.In(p))))
	}
	want := []string{"pump 0-7 4", "hold 7-40 3", "release 41-45 2"}
	if !reflect.DeepEqual(got, want) {
		t.Errorf("%q, want %q", got, want)
	}
	from := 20.0
	if p := tr.Phases(&from)[1]; len(tr.In(p)) != 2 {
		t.Errorf("hold from 20 s has %d readings", len(tr.In(p)))
	}
}

func TestThinKeepsTheExtremes(t *testing.T) {
	var r []Reading
	for i := range 10_000 {
		r = append(r, Reading{AtS: float64(i), GaugePa: math.Sin(float64(i) / 500)})
	}
	r[4321].GaugePa = 99
	thin := Thin(r, 400)
	peak := 0.0
	for _, x := range thin {
		peak = math.Max(peak, x.GaugePa)
	}
	if len(thin) > 400 || peak != 99 || thin[0] != r[0] || thin[len(thin)-1] != r[len(r)-1] {
		t.Errorf("%d points, peak %v", len(thin), peak)
	}
}

// A screen gets what a person took, and the extremes of what stands and of what does not, however long each is.
func TestThinNotedKeepsWhatAPersonTook(t *testing.T) {
	var all []Noted
	for i := range 20_000 {
		n := Noted{AtS: float64(i), GaugePa: 110e3, Seq: int32(i + 1), Is: Own}
		if i >= 5000 && i < 12_000 {
			n.Why = 1 // a gauge that stuck
		}
		all = append(all, n)
	}
	all[3000].GaugePa, all[7000].GaugePa = 1, 2
	for _, i := range []int{17, 6000, 15_000} {
		all[i].Is = 0
	}
	thin := ThinNoted(all, 400)
	has := map[int32]bool{}
	for _, n := range thin {
		has[n.Seq] = true
	}
	for _, seq := range []int32{1, 18, 3001, 6001, 7001, 15_001, 20_000} {
		if !has[seq] {
			t.Errorf("reading %d is not shown", seq)
		}
	}
	if len(thin) > 2*400+3 {
		t.Errorf("%d points", len(thin))
	}
}

// Rows of plain digits are read as they lie; with a blank before each figure they are read as any row is. Both give the
// same, whatever the figures are, and refuse the same.
func TestPlainRowsReadAlike(t *testing.T) {
	figures := []string{"0", "1", "2.5", "-3", "-0", "4.", ".5", "-.5", "110.25", "123456789012345", "1234567890123456", "0.000000000000001", "1e3", "", "+7", "1.2.3", "--1", "200000000", "1_0", "NaN", "٣", "-200"}
	for _, unit := range []string{"kPa", "psi", "kPa abs", "inHg vac"} {
		for i, a := range figures {
			for _, end := range []string{"\n", "\r\n"} {
				var plain, spaced strings.Builder
				for _, w := range []*strings.Builder{&plain, &spaced} {
					w.WriteString("time [s],pressure [" + unit + "]" + end)
				}
				for k, b := range []string{a, "1", figures[(i+7)%len(figures)], "2", "3"} {
					plain.WriteString(strconv.Itoa(k) + "," + b + end)
					spaced.WriteString(" " + strconv.Itoa(k) + ", " + b + end)
				}
				x, e1 := ReadCSV(strings.NewReader(plain.String()), quantity.StandardAtmosphere)
				y, e2 := ReadCSV(strings.NewReader(spaced.String()), quantity.StandardAtmosphere)
				var f1, f2 *Fault
				if errors.As(e1, &f1) && errors.As(e2, &f2) {
					if f1.Problem != f2.Problem || f1.Line != f2.Line {
						t.Errorf("%q: %v, with blanks %v", a, e1, e2)
					}
				} else if e1 != nil || e2 != nil || !reflect.DeepEqual(x, y) {
					t.Errorf("%q in %s: %+v %v, with blanks %+v %v", a, unit, x, e1, y, e2)
				}
			}
		}
	}
}

func FuzzReadCSV(f *testing.F) {
	f.Add("time [s],pressure [kPa]\n0,110\n1,109\n2,108\n")
	f.Add("time;pressure [psi vac];event\n00:01;1,5;stroke\n")
	f.Fuzz(func(t *testing.T, text string) {
		tr, err := ReadCSV(strings.NewReader(text), quantity.StandardAtmosphere)
		if err != nil {
			return
		}
		for i, r := range tr.Readings {
			if math.IsNaN(r.GaugePa) || i > 0 && r.AtS < tr.Readings[i-1].AtS {
				t.Errorf("reading %d is %v", i, r)
			}
		}
	})
}

// What is cut where it lies is cut as a reader of CSV would: rows, fields and their places.
func TestRowsWithoutQuotesAreCutAsCSV(t *testing.T) {
	for _, file := range []string{
		"time [s],pressure [kPa]\n0,1\n# a remark, with a comma\n\n1,2\n2,3",
		"a;b;c\r\n1,5;  2;\r\n;;\r\n3;4;5\r\n",
		"a\tb\n 1\t\t\n1\t 2\n",
		"a,b\n1,2,3\n4,5\n",
		"a,b\n1\n",
		"# only remarks\n",
		"",
		" a , b \n 1 , 2 \r\n",
		"é,ü\n1,2\n",
	} {
		for _, comma := range []rune{',', ';', '\t'} {
			want := csv.NewReader(strings.NewReader(file))
			want.Comment, want.Comma, want.TrimLeadingSpace = '#', comma, comma != '\t'
			got := open([]byte(file), comma)
			if _, ok := got.(*plainRows); !ok {
				t.Fatalf("%q is not cut where it lies", file)
			}
			for {
				a, errA := want.Read()
				b, errB := got.Read()
				if fmt.Sprint(errA) != fmt.Sprint(errB) || errA == nil && !slices.Equal(a, b) {
					t.Fatalf("%q by %q: %q %v, want %q %v", file, comma, b, errB, a, errA)
				}
				if errA != nil {
					break
				}
				for i := range a {
					lineA, colA := want.FieldPos(i)
					if lineB, colB := got.FieldPos(i); lineA != lineB || colA != colB {
						t.Errorf("%q by %q: field %d at %d:%d, want %d:%d", file, comma, i, lineB, colB, lineA, colA)
					}
				}
			}
		}
	}
}

// A long file as a logger writes it.
func BenchmarkReadCSV1000000(b *testing.B) {
	var file bytes.Buffer
	file.WriteString("time [s],pressure [kPa]\n")
	for i := range 1_000_000 {
		fmt.Fprintf(&file, "%.2f,%.2f\n", float64(i)/100, 110-float64(i)/2e5)
	}
	b.SetBytes(int64(file.Len()))
	for b.Loop() {
		tr, err := ReadCSV(bytes.NewReader(file.Bytes()), quantity.StandardAtmosphere)
		if err != nil || len(tr.Readings) != 1_000_000 {
			b.Fatal(err)
		}
	}
}

// The short way to read a number gives what the long way gives, to the last bit.
func TestAPlainNumberIsReadExactly(t *testing.T) {
	noise := rand.New(rand.NewPCG(3, 5))
	for range 20000 {
		text := strconv.FormatFloat((noise.Float64()-0.3)*math.Pow(10, float64(noise.IntN(9))), 'f', noise.IntN(9), 64)
		want, err := strconv.ParseFloat(text, 64)
		if got, _, ok := bare(text); err != nil || ok && math.Float64bits(got) != math.Float64bits(want) || !ok && len(text) <= exactDigits {
			t.Fatalf("%s: %v, %v, want %v", text, got, ok, want)
		}
	}
	for _, text := range []string{"", "-", ".", "-.", "1e3", "+4", "1,5", "1.2.3", "0x10", "1234567890123456"} {
		if v, _, ok := bare(text); ok {
			t.Errorf("%q is read as %v", text, v)
		}
	}
}
