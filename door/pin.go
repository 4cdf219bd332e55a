package door

import (
	"regexp"
	"strings"
	"unicode/utf8"

	"idlehiss/desk"
)

// What a PIN or phrase has to be: as many digits, or letters as well and a few more. bcrypt looks at no more than its
// first 72 bytes.
const (
	fewestDigits = 6
	fewestSigns  = 10 // of a phrase
	mostBytes    = 72
)

var allDigits = regexp.MustCompile(`^[0-9]+$`)

// common are PINs and phrases that are tried first: those of one digit, of steps and of repeated parts are found by
// rule.
var common = map[string]bool{
	"159753": true, "246810": true, "135791": true, "147258": true, "147852": true, "258456": true, "789456": true, "741852": true, "963852": true,
	"102030": true, "112358": true, "314159": true, "271828": true, "141421": true, "142536": true, "987456": true,
	"password": true, "passwordpassword": true, "letmein": true, "letmeinplease": true, "workshop": true, "theworkshop": true,
	"idlehiss": true, "idlehissidlehiss": true, "openthedoor": true, "opensesame": true, "qwertyuiop": true, "qwertzuiop": true, "iloveyou": true,
}

// good refuses a PIN that would be guessed soon.
func good(field, pin string) error {
	const want = "a PIN is six digits or more, or a phrase of ten letters or more"
	switch n := utf8.RuneCountInString(pin); {
	case len(pin) > mostBytes:
		return desk.Refuse(field, "that is longer than %d letters: a shorter phrase will do", mostBytes)
	case allDigits.MatchString(pin) && n < fewestDigits, !allDigits.MatchString(pin) && n < fewestSigns:
		return desk.Refuse(field, "too short: %s", want)
	case guessable(pin):
		return desk.Refuse(field, "that one is tried first by whoever guesses: no single digit, step, year or repeated part")
	}
	return nil
}

// guessable reports whether a PIN is one of those that are tried first.
func guessable(pin string) bool {
	plain := strings.ToLower(strings.Join(strings.Fields(pin), ""))
	if common[plain] {
		return true
	}
	for part := 1; part <= len(plain)/2; part++ { // 111111, 121212, 123123
		if len(plain)%part == 0 && strings.Repeat(plain[:part], len(plain)/part) == plain {
			return true
		}
	}
	step, steady := 0, true // 123456, 987654, 24681012 no
	for i := 1; i < len(plain); i++ {
		d := int(plain[i]) - int(plain[i-1])
		if i == 1 {
			step = d
		}
		steady = steady && (d == step || plain[i] == '0' && plain[i-1] == '9' && step == 1)
	}
	if steady && (step >= -2 && step <= 2) {
		return true
	}
	for i := 0; i+1 < len(plain); i += 2 { // 112233
		if plain[i] != plain[i+1] {
			return dated(plain)
		}
	}
	return allDigits.MatchString(plain) || dated(plain)
}

// dated reports whether six or eight digits are a day, month and year, as birthdays are.
var date = regexp.MustCompile(`^((0[1-9]|[12][0-9]|3[01])(0[1-9]|1[0-2])((19|20)[0-9]{2})|((19|20)[0-9]{2})(0[1-9]|1[0-2])(0[1-9]|[12][0-9]|3[01]))$`)

func dated(plain string) bool { return date.MatchString(plain) }
