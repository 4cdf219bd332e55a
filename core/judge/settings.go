package judge

import (
	"fmt"
	"slices"
	"strings"

	"idlehiss/core/quantity"
	"idlehiss/core/trace"
)

// Flag is the name of one of the judge's settings, as the command line and the
// "# judge:" line of a trace file write it.
type Flag string

// The settings of the judge (docs/CLI.md).
const (
	FlagLimit        Flag = "limit"
	FlagLimitFlow    Flag = "limit-flow"
	FlagGas          Flag = "gas"
	FlagByStrokes    Flag = "by-strokes"
	FlagLiquid       Flag = "liquid"
	FlagWarmthUnread Flag = "warmth-unread"
	FlagStroke       Flag = "stroke"
	FlagClass        Flag = "class"
	FlagDivision     Flag = "division"
	FlagDigital      Flag = "digital"
	FlagRead         Flag = "read"
	FlagFriction     Flag = "friction"
	FlagAmbient      Flag = "ambient"
	FlagRig          Flag = "rig"
	FlagRigVolume    Flag = "rig-volume"
	FlagAt           Flag = "at"
	FlagHoldFrom     Flag = "hold-from"
	FlagLive         Flag = "live"
)

// settingsOrder is the order in which settings are written.
var settingsOrder = []Flag{FlagLimit, FlagLimitFlow, FlagAmbient, FlagAt, FlagGas, FlagByStrokes, FlagLiquid, FlagWarmthUnread, FlagStroke, FlagDivision,
	FlagDigital, FlagRead, FlagFriction, FlagClass, FlagRig, FlagRigVolume, FlagHoldFrom, FlagLive}

// alone are the settings that take no value.
var alone = []Flag{FlagByStrokes, FlagWarmthUnread, FlagLive}

// either are pairs of settings that answer one question: of two lists the one that has
// either decides it.
var either = [][2]Flag{{FlagLimit, FlagLimitFlow}, {FlagDivision, FlagDigital}}

// Settings are what a trace is judged by, each as it was written, with its unit.
type Settings map[Flag]string

// ParseSettings reads a "# judge:" line: --name value, --name=value, quotes about what
// has spaces.
func ParseSettings(line string) (Settings, error) {
	words, err := splitWords(line)
	if err != nil {
		return nil, err
	}
	out := Settings{}
	for i := 0; i < len(words); i++ {
		name, ok := strings.CutPrefix(words[i], "--")
		if !ok {
			return nil, fmt.Errorf("%q stands where a flag such as --limit belongs", words[i])
		}
		name, value, has := strings.Cut(name, "=")
		f := Flag(name)
		switch {
		case !slices.Contains(settingsOrder, f):
			return nil, fmt.Errorf("there is no flag --%s", name)
		case out.Has(f):
			return nil, fmt.Errorf("--%s is there twice", name)
		case slices.Contains(alone, f):
			if has && value != "true" {
				return nil, fmt.Errorf("--%s takes no value", name)
			}
		case !has && i+1 < len(words):
			i++
			value = words[i]
		case !has:
			return nil, fmt.Errorf("--%s needs a value", name)
		}
		out[f] = value
	}
	return out, nil
}

// splitWords splits at spaces outside quotes.
func splitWords(line string) (words []string, err error) {
	var word strings.Builder
	var quote rune
	open := false
	for _, r := range line {
		switch {
		case quote != 0 && r == quote:
			quote = 0
		case quote != 0:
			word.WriteRune(r)
		case r == '\'' || r == '"':
			quote, open = r, true
		case r == ' ' || r == '\t':
			if open {
				words = append(words, word.String())
				word.Reset()
				open = false
			}
		default:
			word.WriteRune(r)
			open = true
		}
	}
	if quote != 0 {
		return nil, fmt.Errorf("the quote %c is not closed", quote)
	}
	if open {
		words = append(words, word.String())
	}
	return words, nil
}

// String writes the settings as ParseSettings reads them.
func (s Settings) String() string {
	var out []string
	for _, f := range settingsOrder {
		value, ok := s[f]
		switch {
		case !ok:
		case slices.Contains(alone, f):
			out = append(out, "--"+string(f))
		case strings.ContainsAny(value, " \t"):
			out = append(out, fmt.Sprintf("--%s '%s'", f, value))
		case strings.HasPrefix(value, "-"):
			out = append(out, fmt.Sprintf("--%s=%s", f, value))
		default:
			out = append(out, "--"+string(f)+" "+value)
		}
	}
	return strings.Join(out, " ")
}

// Has reports whether a setting was made.
func (s Settings) Has(f Flag) bool { _, ok := s[f]; return ok }

// Over lays these settings over others, which fill what is left open.
func (s Settings) Over(others Settings) Settings {
	out := Settings{}
	for f, v := range others {
		out[f] = v
	}
	for _, pair := range either {
		if s.Has(pair[0]) || s.Has(pair[1]) {
			delete(out, pair[0])
			delete(out, pair[1])
		}
	}
	for f, v := range s {
		out[f] = v
	}
	return out
}

// Figure reads a quantity; ok is false where it was not set. The unit must be written.
func (s Settings) Figure(f Flag, kind quantity.Kind) (v quantity.Value, ok bool, err error) {
	text, ok := s[f]
	if !ok {
		return v, false, nil
	}
	v, err = quantity.Parse(text, kind, quantity.Unit{}, quantity.StandardAtmosphere)
	if err == nil && v.Bare {
		err = noUnit(text, kind)
	}
	if err != nil {
		return v, false, fmt.Errorf("--%s: %w", f, err)
	}
	return v, true, nil
}

func noUnit(text string, kind quantity.Kind) error {
	return fmt.Errorf("%q has no unit; type it, such as %s", text, quantity.Example(kind))
}

// Rate reads a loss, Pa/s, with what was written after ±.
func (s Settings) Rate(f Flag) (paPerS, se float64, ok bool, err error) {
	text, ok := s[f]
	if !ok {
		return 0, 0, false, nil
	}
	rate, fall, over, err := quantity.ParseRate(text, quantity.Unit{}, quantity.StandardAtmosphere)
	if err == nil && fall.Bare {
		err = noUnit(text, quantity.Pressure)
	}
	if err != nil {
		return 0, 0, false, fmt.Errorf("--%s: %w", f, err)
	}
	return rate, fall.SE / over.Low, true, nil
}

// Number reads a bare figure.
func (s Settings) Number(f Flag) (v float64, ok bool, err error) {
	text, ok := s[f]
	if !ok {
		return 0, false, nil
	}
	if v, _, err = quantity.Number(text); err != nil {
		return 0, false, fmt.Errorf("--%s: %w", f, err)
	}
	return v, true, nil
}

// AmbientPa is the air pressure around, Pa absolute: as set, else standard.
func (s Settings) AmbientPa() (float64, error) {
	v, ok, err := s.Figure(FlagAmbient, quantity.Pressure)
	if err != nil || !ok {
		return quantity.StandardAtmosphere, err
	}
	return v.Low, nil
}

// Question is what the settings ask of a trace.
func (s Settings) Question(tr *trace.Trace) (Question, error) {
	r := settingsReader{s: s}
	var q Question
	q.AmbientPa = quantity.StandardAtmosphere
	if v, ok := r.figure(FlagAmbient, quantity.Pressure); ok {
		q.AmbientPa = v.Low
	} else if len(tr.Ambient) > 0 {
		q.AmbientPa = tr.Ambient[0].Value
	}
	if s.Has(FlagLimit) && s.Has(FlagLimitFlow) {
		return q, fmt.Errorf("--limit and --limit-flow both set the limit: give one")
	}
	q.LimitPaPerS, _ = r.rate(FlagLimit)
	if v, ok := r.figure(FlagLimitFlow, quantity.Flow); ok {
		q.LimitFlow = v.Low
	}
	if v, ok := r.figure(FlagGas, quantity.Volume); ok {
		q.GasM3, q.GasSE = v.Mid(), v.SE
	}
	q.WarmthUnread, q.GasByStrokes = s.Has(FlagWarmthUnread), s.Has(FlagByStrokes)
	if v, ok := r.figure(FlagStroke, quantity.Volume); ok {
		q.StrokeM3 = v.Mid()
	}
	if v, ok := r.figure(FlagLiquid, quantity.Volume); ok {
		if !s.Has(FlagGas) {
			return q, fmt.Errorf("--liquid needs --gas beside it, such as '0.6L'")
		}
		q.LiquidM3 = v.Mid()
	}
	q.Gauge.ClassPercent, q.Gauge.ReadFraction = r.number(FlagClass), r.number(FlagRead)
	if v, ok := r.figure(FlagDivision, quantity.Pressure); ok {
		q.Gauge.DivisionPa = v.Low
	}
	if v, ok := r.figure(FlagDigital, quantity.Pressure); ok {
		q.Gauge.DigitalPa = v.Low
	}
	if v, ok := r.figure(FlagFriction, quantity.Pressure); ok {
		q.Gauge.FrictionPa = v.Low
	}
	if v, ok := r.figure(FlagAt, quantity.Pressure); ok {
		q.AtPa = new(v.Mid())
	}
	if v, ok := r.figure(FlagHoldFrom, quantity.Time); ok {
		q.HoldFrom = new(v.Low)
	}
	q.RigPaPerS, q.RigSE = r.rate(FlagRig)
	if v, ok := r.figure(FlagRigVolume, quantity.Volume); ok {
		if !s.Has(FlagRig) || q.GasM3 <= 0 {
			return q, fmt.Errorf("--rig-volume scales --rig to this system and needs both --rig and --gas")
		}
		q.RigPaPerS, q.RigSE = OnSystem(q.RigPaPerS, q.RigSE, v.Low, v.SE, q.GasM3, q.GasSE)
	}
	if r.err != nil {
		return q, r.err
	}
	return q, q.Check()
}

// settingsReader keeps the first fault.
type settingsReader struct {
	s   Settings
	err error
}

func (r *settingsReader) keep(err error) {
	if r.err == nil {
		r.err = err
	}
}

func (r *settingsReader) figure(f Flag, kind quantity.Kind) (quantity.Value, bool) {
	v, ok, err := r.s.Figure(f, kind)
	r.keep(err)
	return v, ok
}

func (r *settingsReader) rate(f Flag) (paPerS, se float64) {
	paPerS, se, _, err := r.s.Rate(f)
	r.keep(err)
	return paPerS, se
}

func (r *settingsReader) number(f Flag) float64 {
	v, _, err := r.s.Number(f)
	r.keep(err)
	return v
}

// SettingsOf writes what was asked of a hold, so that a file of its trace is judged
// alike. Figures have ten digits: what was reckoned with, without the dust of
// conversion.
func SettingsOf(q Question) Settings {
	num := func(v float64) string { return fmt.Sprintf("%.10g", v) }
	out := Settings{FlagLimit: num(q.LimitPaPerS*60/1e3) + "kPa in 1min", FlagAmbient: num(q.AmbientPa/1e3) + "kPa", FlagLive: ""}
	if q.AtPa != nil {
		out[FlagAt] = num(*q.AtPa/1e3) + "kPa"
	}
	if q.GasM3 > 0 {
		out[FlagGas] = num(q.GasM3*1e3) + "L"
		if q.GasSE > 0 {
			out[FlagGas] += " ± " + num(q.GasSE*1e3) + "L"
		}
		if q.GasByStrokes {
			out[FlagByStrokes] = ""
		}
		if q.LiquidM3 > 0 {
			out[FlagLiquid] = num(q.LiquidM3*1e3) + "L"
		}
	}
	if q.WarmthUnread {
		out[FlagWarmthUnread] = ""
	}
	if q.StrokeM3 > 0 {
		out[FlagStroke] = num(q.StrokeM3*1e6) + "cm3"
	}
	if d := q.Gauge.DivisionPa; d > 0 {
		out[FlagDivision] = num(d/1e3) + "kPa"
	} else {
		out[FlagDigital] = num(q.Gauge.DigitalPa/1e3) + "kPa"
	}
	if f := q.Gauge.FrictionPa; f > 0 {
		out[FlagFriction] = num(f/1e3) + "kPa"
	}
	if c := q.Gauge.ClassPercent; c > 0 {
		out[FlagClass] = num(c)
	}
	if q.RigPaPerS != 0 {
		out[FlagRig] = num(q.RigPaPerS*60/1e3) + "kPa/min"
		if q.RigSE > 0 {
			out[FlagRig] += " ± " + num(q.RigSE*60/1e3) + "kPa/min"
		}
	}
	return out
}
