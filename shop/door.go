package shop

import (
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"errors"
	"fmt"
	"regexp"
	"strings"
	"time"

	"golang.org/x/crypto/bcrypt"

	"idlehiss/logbook"
)

// The door: this computer is always let in, any other device with the shop's PIN.
const pinSetting = "pin"

var pinForm = regexp.MustCompile(`^[0-9]{4,12}$`)

// DeviceView is another device that is let in.
type DeviceView struct {
	ID    string    `json:"id"`
	Name  string    `json:"name"`
	Since time.Time `json:"since"`
	Seen  time.Time `json:"seen"`
}

// DoorView is who may come in.
type DoorView struct {
	PinSet  bool         `json:"pin_set"`
	Devices []DeviceView `json:"devices"`
}

// tries counts wrong PINs of one address in a row.
type tries struct {
	wrong int
	until time.Time
}

const (
	freeTries = 5
	firstWait = time.Minute
	longWait  = time.Hour
)

// SetPin sets the shop's PIN, which signs every other device out. An empty one
// takes it away: then only this computer is served.
func SetPin(ctx context.Context, book *logbook.Book, pin string, now time.Time) error {
	hash := ""
	if pin != "" {
		if !pinForm.MatchString(pin) {
			return refuse("pin", "a PIN is 4 to 12 digits")
		}
		raw, err := bcrypt.GenerateFromPassword([]byte(pin), bcrypt.DefaultCost)
		if err != nil {
			return err
		}
		hash = string(raw)
	}
	return book.Batch(ctx, func(tx *logbook.Tx) error {
		return errors.Join(tx.SetSetting(pinSetting, hash), tx.SignOut("", now))
	})
}

// HasPin tells whether other devices could be let in.
func HasPin(ctx context.Context, book *logbook.Book) (bool, error) {
	hash, err := book.Setting(ctx, pinSetting)
	return hash != "", err
}

// SetPin is SetPin while the shop is open.
func (s *Shop) SetPin(ctx context.Context, pin string) (DoorView, error) {
	if err := SetPin(ctx, s.book, pin, s.clock.Now()); err != nil {
		return DoorView{}, err
	}
	s.bus.send("door", map[string]string{"id": ""})
	return s.Door(ctx)
}

// Door shows who may come in.
func (s *Shop) Door(ctx context.Context) (DoorView, error) {
	v := DoorView{Devices: []DeviceView{}}
	var err error
	if v.PinSet, err = HasPin(ctx, s.book); err != nil {
		return v, err
	}
	ds, err := s.book.Devices(ctx)
	for _, d := range ds {
		v.Devices = append(v.Devices, deviceView(d))
	}
	return v, err
}

func deviceView(d logbook.Device) DeviceView { return DeviceView{d.ID, d.Name, d.Since, d.Seen} }

// Enter lets a device in that knows the PIN and gives the token it is known by
// from then on. Wrong ones from one address are answered ever later.
func (s *Shop) Enter(ctx context.Context, from, pin, name string) (token string, v DeviceView, err error) {
	name = strings.TrimSpace(name)
	if name == "" {
		return "", v, refuse("name", "give this device a name, such as 'Ilse's phone', so that it can be signed out again")
	}
	hash, err := s.book.Setting(ctx, pinSetting)
	if err != nil {
		return "", v, err
	}
	if hash == "" {
		return "", v, conflict("this shop has no PIN yet: set one on its own computer, under Devices")
	}
	s.doorMu.Lock()
	defer s.doorMu.Unlock()
	now, t := time.Now(), s.tries[from]
	if wait := t.until.Sub(now); wait > 0 {
		return "", v, &Refusal{Field: "pin", Says: fmt.Sprintf("too many wrong PINs from here: try again in %s", wait.Round(time.Second)), Kind: TooMany}
	}
	if bcrypt.CompareHashAndPassword([]byte(hash), []byte(pin)) != nil {
		if t.wrong++; t.wrong >= freeTries {
			t.until = now.Add(min(longWait, firstWait<<min(t.wrong-freeTries, 10)))
		}
		s.tries[from] = t
		return "", v, refuse("pin", "that is not the shop's PIN")
	}
	delete(s.tries, from)
	raw := make([]byte, 32)
	if _, err := rand.Read(raw); err != nil {
		return "", v, err
	}
	token = base64.RawURLEncoding.EncodeToString(raw)
	at := s.clock.Now()
	d := logbook.Device{ID: newID(), Name: name, Since: at, Seen: at}
	err = s.book.Batch(ctx, func(tx *logbook.Tx) error { return tx.AddDevice(d, tokenHash(token)) })
	return token, deviceView(d), err
}

func tokenHash(token string) []byte {
	h := sha256.Sum256([]byte(token))
	return h[:]
}

// seenEvery is how exactly it is kept when a device was last there.
const seenEvery = time.Minute

// Known finds the device that a token stands for.
func (s *Shop) Known(ctx context.Context, token string) (DeviceView, bool) {
	d, err := s.book.DeviceOf(ctx, tokenHash(token))
	if err != nil {
		return DeviceView{}, false
	}
	if now := s.clock.Now(); now.Sub(d.Seen) > seenEvery {
		// Only for the list of devices: that it could not be kept shuts nobody out.
		_ = s.book.Batch(ctx, func(tx *logbook.Tx) error { return tx.SeeDevice(d.ID, now) })
	}
	return deviceView(d), true
}

// SignOut lets a device in no more.
func (s *Shop) SignOut(ctx context.Context, id string) (DoorView, error) {
	err := s.book.Batch(ctx, func(tx *logbook.Tx) error { return tx.SignOut(id, s.clock.Now()) })
	if errors.Is(err, logbook.ErrNotFound) {
		return DoorView{}, &Refusal{Says: err.Error(), Kind: Missing}
	}
	if err != nil {
		return DoorView{}, err
	}
	s.bus.send("door", map[string]string{"id": id})
	return s.Door(ctx)
}
