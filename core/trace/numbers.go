package trace

import (
	"bytes"
	"io"
	"math"
	"regexp"
	"strconv"
	"strings"

	"idlehiss/core/quantity"
)

// A comma in a number is a decimal mark to some programs and divides thousands for others.
// A whole column is written by one program in one way: one number that can be read in one
// way only decides for all of it.
type commas int

const (
	unknown   commas = iota
	decimals         // 109,95
	thousands        // 1,234,567 or 1,234.5
)

var (
	twoWays      = regexp.MustCompile(`^[1-9]\d{0,2},\d{3}$`)
	inThousands  = regexp.MustCompile(`^[1-9]\d{0,2}(,\d{3})+(\.\d+)?$`)
	dotThousands = regexp.MustCompile(`^[1-9]\d{0,2}(\.\d{3})+(,\d+)?$`)
)

// written is how the commas of a number are meant, if that number alone shows it.
func written(s string) commas {
	switch s = strings.TrimLeft(s, "-−+"); {
	case !strings.Contains(s, ","), twoWays.MatchString(s):
		return unknown
	case inThousands.MatchString(s):
		return thousands
	}
	return decimals
}

// commasOf looks through a file whose numbers may hold commas, and gives what they mean in
// each column. Semicolons part the fields where a comma is the decimal mark: what stays open
// there is a decimal. It reads no further than the first row that cannot be read: that is found
// again, and named, when the file is taken.
func commasOf(raw []byte, comma rune, cols []column) []commas {
	out := make([]commas, len(cols))
	if !bytes.ContainsRune(raw, ',') || comma == ',' && !bytes.ContainsRune(raw, '"') {
		return out // there is none within a field
	}
	c := open(raw, comma)
	for first := true; ; first = false {
		row, err := c.Read()
		if err == io.EOF || err != nil && len(row) == 0 {
			break
		}
		if first {
			continue
		}
		for i := range min(len(row), len(out)) {
			if out[i] == unknown && cols[i].role != ignored {
				out[i] = written(strings.TrimSpace(row[i]))
			}
		}
	}
	for i := range out {
		if out[i] == unknown && comma == ';' {
			out[i] = decimals
		}
	}
	return out
}

// lastDigits are the sizes of the last digit by decimal places; more than a float64 holds tell nothing.
var lastDigits = func() (d [18]float64) {
	for i := range d {
		d[i] = math.Pow(10, -float64(i))
	}
	return d
}()

// bare reads a number that is nothing else, as digits does, and tells where its point is; below zero where it has none.
func bare(s string) (v float64, dot int, ok bool) {
	v, dot, at, ok := digits(s, 0)
	return v, dot, ok && at == len(s)
}

// digits reads a number of nothing but digits with a minus sign and a point, as most are, from a place on: its value, where its
// point is (below zero: nowhere), and the place after it. With so few digits the quotient is the nearest number there is: both its
// sides are exact.
func digits[T string | []byte](raw T, from int) (v float64, point, at int, ok bool) {
	minus := from < len(raw) && raw[from] == '-'
	if at = from; minus {
		at++
	}
	first, mantissa := at, int64(0)
	point = -1
	for ; at < len(raw); at++ {
		if c := raw[at] - '0'; c <= 9 {
			mantissa = mantissa*10 + int64(c)
		} else if raw[at] == '.' && point < 0 && at > from {
			point = at
		} else {
			break
		}
		if at-first > exactDigits {
			return 0, point, at, false
		}
	}
	n, places := at-first, 0
	if point >= 0 {
		n, places = n-1, at-1-point
	}
	if n == 0 || n > exactDigits {
		return 0, point, at, false
	}
	if v = float64(mantissa); places > 0 {
		v /= tens[places]
	}
	if minus {
		v = -v
	}
	return v, point, at, true
}

// exactDigits is how many decimal digits a number holds exactly.
const exactDigits = 15

// tens are the powers of ten up to that.
var tens = func() (t [exactDigits + 1]float64) {
	t[0] = 1
	for i := 1; i < len(t); i++ {
		t[i] = 10 * t[i-1]
	}
	return t
}()

// number reads a number of a column; digit is the size of its last digit.
func (rd *reader) number(i int, text string) (v, digit float64, err error) {
	if v, dot, ok := bare(text); ok && (dot < 0 || rd.commas[i] != decimals) {
		if dot < 0 {
			return v, 1, nil
		}
		return v, lastDigits[len(text)-1-dot], nil
	}
	s, err := rd.plain(i, strings.ReplaceAll(text, "−", "-"))
	if err != nil {
		return 0, 0, err
	}
	v, err = strconv.ParseFloat(s, 64)
	if err != nil || math.IsNaN(v) || math.IsInf(v, 0) || strings.ContainsAny(s, "xXpP_") {
		return 0, 0, rd.fault(i, "%q stands where a number belongs", text)
	}
	digit = 1
	if dot := strings.IndexByte(s, '.'); dot >= 0 {
		if places := len(s) - dot - 1; places < len(lastDigits) && !strings.ContainsAny(s[dot:], "eE") {
			digit = lastDigits[places]
		}
	}
	return v, digit, nil
}

// plain is a number with a decimal point and nothing between its digits.
func (rd *reader) plain(i int, s string) (string, error) {
	digits := strings.TrimLeft(s, "-+")
	switch how := rd.commas[i]; {
	case !strings.Contains(s, ",") && !(how == decimals && dotThousands.MatchString(digits)):
		return s, nil
	case how == decimals && !strings.Contains(s, ","):
		return "", rd.twoWays(i, s, strings.ReplaceAll(s, ".", ""), s)
	case how == decimals && dotThousands.MatchString(digits):
		return strings.Replace(strings.ReplaceAll(s, ".", ""), ",", ".", 1), nil
	case how == decimals:
		return strings.Replace(s, ",", ".", 1), nil
	case how == thousands && inThousands.MatchString(digits):
		return strings.ReplaceAll(s, ",", ""), nil
	case how == thousands:
		return "", rd.fault(i, "%q stands where a number belongs: other numbers of this column have a comma between thousands", s)
	}
	whole, part := strings.ReplaceAll(s, ",", ""), strings.Replace(s, ",", ".", 1)
	if v, err := strconv.ParseFloat(whole, 64); err == nil && !rd.cols[i].meets(v) {
		return part, nil // the other way no test can meet it
	}
	return "", rd.twoWays(i, s, whole, part)
}

// meets reports whether a test can meet such a figure in a column.
func (c column) meets(v float64) bool {
	switch c.role {
	case pressureCol, secondCol:
		return math.Abs(c.unit.SI(v)) <= mostPa
	case temperatureCol:
		return quantity.PossibleCelsius(celsius(v, c.unit))
	case ambientCol:
		return quantity.PossibleAmbient(c.unit.SI(v))
	}
	return true
}

// twoWays refuses a number that can be read in two ways, with both.
func (rd *reader) twoWays(i int, s, whole, part string) error {
	return rd.fault(i, "%q can be %s or %s: write it without a mark between thousands, and with a point before decimals", s, whole, part)
}
