package quantity

import (
	"errors"
	"fmt"
	"math"
	"regexp"
	"strconv"
	"strings"
)

// StandardAtmosphere is 101.325 kPa, the reference for standard flow and the
// ambient where none is known.
const StandardAtmosphere = 101325.0

// Value is a quantity as somebody wrote it, in SI. A single figure has
// Low == High. Pressures are gauge: relative to ambient, vacuum negative.
type Value struct {
	Low, High float64 // SI; Pa gauge for pressures
	SE        float64 // the doubt written after ±, SI; 0 where none was
	Unit      Unit
	Bare      bool // no unit was written: Unit is the default
	// Digit is the size of the last digit written, in SI: 0.1 bar for "1.1 bar".
	Digit float64
}

// Mid is the middle of a band, or the figure itself.
func (v Value) Mid() float64 { return (v.Low + v.High) / 2 }

// Band says whether two different figures were written.
func (v Value) Band() bool { return v.Low != v.High }

var (
	number   = `[+\-−]?(?:\d+(?:[.,]\d*)?|[.,]\d+)`
	bandForm = regexp.MustCompile(`^(` + number + `)(?:\s*[-–—]\s*(\d+(?:[.,]\d*)?|[.,]\d+))?(?:\s*±\s*(\d+(?:[.,]\d*)?|[.,]\d+)([^±]*))?$`)
	headForm = regexp.MustCompile(`^` + number)
	nextForm = regexp.MustCompile(`^\s*[-–—]\s*(?:\d+(?:[.,]\d*)?|[.,]\d+)`)
)

// Parse reads a quantity as a person types it: "16", "16 psi", "1,1 bar",
// "-7 inHg", "7 inHg vac", "200 kPa abs", "13-15 psi", "0.45L ± 0.03L".
// A bare number takes def. Ambient (Pa absolute) turns absolute pressures into
// gauge ones and bounds vacuum.
func Parse(text string, kind Kind, def Unit, ambientPa float64) (Value, error) {
	s := strings.TrimSpace(strings.ReplaceAll(text, "\u00a0", " "))
	if s == "" {
		return Value{}, fmt.Errorf("nothing was typed; a %s such as %s is wanted", kind, Example(kind))
	}
	if kind == Time && strings.Contains(s, ":") {
		return clock(s)
	}
	figures, unitText, errText := split(s)
	if figures == "" {
		return Value{}, fmt.Errorf("%q is not a number; a %s such as %s is wanted", text, kind, Example(kind))
	}
	v := Value{Unit: def, Bare: true}
	vacuum, absolute := false, false
	if unitText != "" {
		name := unitText
		if kind == Pressure {
			name, vacuum = cutWord(name, "vac", "vacuum")
			if !vacuum {
				name, absolute = cutWord(name, "abs", "absolute")
			}
			name, _ = cutWord(name, "gauge", "g")
		}
		if name != "" {
			u, err := Named(name, kind)
			if err != nil {
				return Value{}, err
			}
			v.Unit, v.Bare = u, false
		}
	}
	m := bandForm.FindStringSubmatch(figures)
	if m == nil {
		return Value{}, fmt.Errorf("%q is not a number; a %s such as %s is wanted", text, kind, Example(kind))
	}
	low, digit, err := Number(m[1])
	if err != nil {
		return Value{}, err
	}
	high := low
	if m[2] != "" {
		var d2 float64
		if high, d2, err = Number(m[2]); err != nil {
			return Value{}, err
		}
		digit = math.Max(digit, d2)
		if high < low {
			return Value{}, fmt.Errorf("%q runs downwards; write the lower figure first, as in %s-%s", text, m[2], m[1])
		}
	}
	if (vacuum || absolute) && low < 0 {
		word := map[bool]string{true: "vacuum is counted positive downward", false: "an absolute pressure is never negative"}[vacuum]
		return Value{}, fmt.Errorf("%q has a minus sign, but %s; leave the sign out", text, word)
	}
	v.Low, v.High, v.Digit = v.Unit.SI(low), v.Unit.SI(high), v.Unit.SI(digit)-v.Unit.SI(0)
	if vacuum {
		v.Low, v.High = -v.High, -v.Low
	}
	if absolute {
		v.Low, v.High = v.Low-ambientPa, v.High-ambientPa
	}
	if errText != "" {
		e, err := Parse(errText, kind, v.Unit, ambientPa)
		if err != nil {
			return Value{}, fmt.Errorf("the doubt after ±: %w", err)
		}
		v.SE = e.Low
	}
	return v, v.check(text, kind, ambientPa)
}

func (v Value) check(text string, kind Kind, ambientPa float64) error {
	if err := v.possible(text, kind); err != nil {
		return err
	}
	switch kind {
	case Pressure:
		// Compared with a hair's breadth: 760 mmHg of vacuum is not below zero.
		if v.Low < -ambientPa*(1+1e-6) {
			return fmt.Errorf("%q lies below absolute zero pressure: at most %.4g %s of vacuum is possible here", text, v.Unit.Of(ambientPa), v.Unit.Symbol)
		}
	case Altitude:
	case Warmth:
		if v.Low < 0 {
			return fmt.Errorf("%q lies below absolute zero", text)
		}
	default:
		if v.Low < 0 || (v.Low == 0 && kind == Volume) {
			return fmt.Errorf("%q: a %s must be positive", text, kind)
		}
	}
	return nil
}

// split cuts "0.45L ± 0.03L" into figures, unit and the text of the doubt.
func split(s string) (figures, unit, doubt string) {
	s = strings.ReplaceAll(s, "+/-", "±")
	if head, tail, ok := strings.Cut(s, "±"); ok {
		s, doubt = strings.TrimSpace(head), strings.TrimSpace(tail)
	}
	end := len(headForm.FindString(s))
	if end == 0 {
		return "", "", ""
	}
	rest := s[end:]
	if m := nextForm.FindString(rest); m != "" {
		end += len(m)
	}
	return strings.TrimSpace(s[:end]), strings.TrimSpace(s[end:]), doubt
}

func cutWord(s string, words ...string) (string, bool) {
	f := strings.Fields(s)
	if len(f) == 0 {
		return s, false
	}
	last := strings.ToLower(strings.Trim(f[len(f)-1], "()."))
	for _, w := range words {
		if last == w {
			return strings.Join(f[:len(f)-1], " "), true
		}
	}
	return s, false
}

// ErrAmbiguous is wrapped by the refusal of "1,234", which some read as one
// thousand two hundred and thirty-four.
var ErrAmbiguous = errors.New("ambiguous comma")

// Number reads one figure with a point or a comma as decimal mark and gives the
// size of its last digit.
func Number(s string) (value, lastDigit float64, err error) {
	t := strings.ReplaceAll(strings.TrimSpace(s), "−", "-")
	if whole, frac, ok := strings.Cut(t, ","); ok {
		if len(frac) == 3 && strings.Trim(whole, "+-0") != "" {
			return 0, 0, fmt.Errorf("%q can be read as %s.%s or as %s%s: write the one you mean with a point, or without the comma (%w)", s, whole, frac, whole, frac, ErrAmbiguous)
		}
		t = whole + "." + frac
	}
	if strings.ContainsAny(t, "eExXpPnNiI_") {
		return 0, 0, fmt.Errorf("%q is not a number", s)
	}
	value, err = strconv.ParseFloat(t, 64)
	if err != nil || math.IsInf(value, 0) || math.IsNaN(value) {
		return 0, 0, fmt.Errorf("%q is not a number", s)
	}
	lastDigit = 1
	if _, frac, ok := strings.Cut(t, "."); ok {
		lastDigit = math.Pow(10, -float64(len(frac)))
	}
	return value, lastDigit, nil
}

// clock reads a time as a shop says it, 1:25 or 1:02:03: good to a second.
func clock(s string) (Value, error) {
	parts := strings.Split(s, ":")
	total := 0.0
	for i, p := range parts {
		v, digit, err := Number(p)
		if err != nil || v < 0 || len(parts) > 3 || i > 0 && (v >= 60 || digit != 1 || len(p) != 2) || digit != 1 {
			return Value{}, fmt.Errorf("%q is no time; write it as 1:25, 1:02:03, or with its unit, such as %s", s, Example(Time))
		}
		total = total*60 + v
	}
	return Value{Low: total, High: total, Digit: 1, Unit: MustNamed("s", Time)}, nil
}

// Example is a quantity of the kind as a person would write it.
func Example(kind Kind) string {
	switch kind {
	case Pressure:
		return "16 psi or 1.1 bar"
	case Volume:
		return "0.45 L"
	case Torque:
		return "20 N·m"
	case Time:
		return "90 s or 2 min"
	case Flow:
		return "3 cm³/min"
	case Area:
		return "5 cm²"
	case Altitude:
		return "640 m"
	case Warmth:
		return "20 °C"
	default:
		return "12 mm"
	}
}

// ParseRate reads an allowance of the form "10 kPa in 2 min" as Pa/s. A doubt may
// follow, as a rate too: "0.2 kPa/min ± 0.05 kPa/min"; it is given as the fall's.
func ParseRate(text string, def Unit, ambientPa float64) (paPerS float64, fall, over Value, err error) {
	if head, doubt, ok := strings.Cut(text, "±"); ok && isRate(head) && isRate(doubt) {
		if paPerS, fall, over, err = ParseRate(strings.TrimSpace(head), def, ambientPa); err != nil {
			return 0, fall, over, err
		}
		se, of, _, err := ParseRate(strings.TrimSpace(doubt), def, ambientPa)
		if err != nil {
			return 0, fall, over, fmt.Errorf("the doubt after ±: %w", err)
		}
		fall.SE, fall.Bare = se*over.Low, fall.Bare || of.Bare
		return paPerS, fall, over, nil
	}
	a, b, ok := strings.Cut(text, " in ")
	if !ok {
		if a, b, ok = strings.Cut(text, "/"); !ok {
			return 0, fall, over, fmt.Errorf("%q is no allowance: write a fall and its time, such as '10 kPa in 2 min'", text)
		}
		b = "1 " + strings.TrimSpace(b)
	}
	if fall, err = Parse(a, Pressure, def, ambientPa); err != nil {
		return 0, fall, over, err
	}
	if over, err = Parse(b, Time, MustNamed("s", Time), 0); err != nil {
		return 0, fall, over, err
	}
	if fall.Low < 0 || over.Low <= 0 {
		return 0, fall, over, fmt.Errorf("%q: a fall is counted positive and its time is longer than nothing", text)
	}
	return fall.Low / over.Low, fall, over, nil
}

func isRate(text string) bool { return strings.Contains(text, " in ") || strings.Contains(text, "/") }
