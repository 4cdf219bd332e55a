package quantity

import (
	"fmt"
	"math"
	"strconv"
	"strings"
	"unicode"
	"unicode/utf8"
)

// Show writes an SI value in a unit with as many decimals as digit (SI, the
// smallest step worth showing) deserves: Show(110316, psi, 3447) is "16.0 psi",
// and a quarter of that step is shown as 16.12.
func (u Unit) Show(si, digit float64) string {
	return u.Figure(si, digit) + " " + u.Symbol
}

// Figure is Show without the unit.
func (u Unit) Figure(si, digit float64) string {
	decimals := 0
	if d := u.Of(math.Abs(digit)); d > 0 && d < 1 {
		decimals = int(math.Ceil(-math.Log10(d) - 1e-9))
		// A step such as 0.25 needs one more than its size says.
		if n := d * math.Pow10(decimals); math.Abs(n-math.Round(n)) > 1e-6 {
			decimals++
		}
	}
	return Fixed(u.Of(si), decimals)
}

// Fixed writes a number with a true minus sign and without a negative zero.
func Fixed(v float64, decimals int) string {
	s := strconv.FormatFloat(v, 'f', decimals, 64)
	if strings.Trim(s, "-0.") == "" {
		s = strings.TrimPrefix(s, "-")
	}
	return strings.Replace(s, "-", "−", 1)
}

// Significant writes a number with n significant digits, never in exponent form.
func Significant(v float64, n int) string {
	if v == 0 || math.IsNaN(v) || math.IsInf(v, 0) {
		return Fixed(0, 0)
	}
	decimals := n - 1 - int(math.Floor(math.Log10(math.Abs(v))))
	// 99.97 to three digits is 100, not 100.0.
	if scale := math.Pow(10, float64(decimals)); math.Round(math.Abs(v)*scale) >= math.Pow(10, float64(n)) {
		decimals--
	}
	if decimals < 0 {
		scale := math.Pow(10, float64(-decimals))
		return Fixed(math.Round(v/scale)*scale, 0)
	}
	return Fixed(v, decimals)
}

// Clock writes seconds as a shop says them: "0:45", "4:10", "1:02:03".
func Clock(seconds float64) string {
	s := int(math.Round(math.Max(0, seconds)))
	two := func(n int) string {
		if n < 10 {
			return "0" + strconv.Itoa(n)
		}
		return strconv.Itoa(n)
	}
	if s >= 3600 {
		return strconv.Itoa(s/3600) + ":" + two(s/60%60) + ":" + two(s%60)
	}
	return strconv.Itoa(s/60) + ":" + two(s%60)
}

// Rate writes a change over time in a unit, per minute or per hour: whichever gives a
// figure of at least 0.1. The change is SI per second.
func (u Unit) Rate(siPerS float64, digits int) string {
	scale, per := u.per(siPerS)
	return Significant(siPerS*scale, digits) + per
}

// RateBetween is Rate with its range, all three per the same time: "2.4 kPa/min (2.2 to 2.6)".
func (u Unit) RateBetween(siPerS, low, high float64, digits int) string {
	scale, _ := u.per(siPerS)
	return fmt.Sprintf("%s (%s to %s)", u.Rate(siPerS, digits), Significant(low*scale, digits), Significant(high*scale, digits))
}

// per is what turns a change, SI per second, into the figure of a rate, and what follows the figure.
func (u Unit) per(siPerS float64) (scale float64, says string) {
	perMin := 60 / u.Factor
	if v := math.Abs(siPerS * perMin); v < leastPerMinute && v != 0 {
		return perMin * 60, " " + u.Symbol + "/h"
	}
	return perMin, " " + u.Symbol + "/min"
}

const leastPerMinute = 0.1

// Duration writes seconds as a length of time, so that it never looks like a time of
// day: "45 s", "4 min 10 s", "1 h 2 min".
func Duration(seconds float64) string {
	s := int(math.Round(math.Max(0, seconds)))
	with := func(big int, bigUnit string, small int, smallUnit string) string {
		if small == 0 {
			return strconv.Itoa(big) + " " + bigUnit
		}
		return strconv.Itoa(big) + " " + bigUnit + " " + strconv.Itoa(small) + " " + smallUnit
	}
	switch {
	case s < 60:
		return strconv.Itoa(s) + " s"
	case s < 3600:
		return with(s/60, "min", s%60, "s")
	}
	return with(s/3600, "h", s/60%60, "min")
}

// Lower puts a text inside a sentence: its first letter small, unless it begins with
// an abbreviation such as "EGR".
func Lower(s string) string {
	first, n := utf8.DecodeRuneInString(s)
	if second, _ := utf8.DecodeRuneInString(s[n:]); n == 0 || unicode.IsUpper(second) {
		return s
	}
	return string(unicode.ToLower(first)) + s[n:]
}

// Capital puts a text at the beginning of a sentence.
func Capital(s string) string {
	first, n := utf8.DecodeRuneInString(s)
	if n == 0 {
		return s
	}
	return string(unicode.ToUpper(first)) + s[n:]
}

// TenDigits is a figure as it was read, without the dust of conversion.
func TenDigits(v float64) float64 {
	if v == 0 {
		return 0
	}
	scale := math.Pow(10, 9-math.Floor(math.Log10(math.Abs(v))))
	return math.Round(v*scale) / scale
}
