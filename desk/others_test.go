package desk

import (
	"bytes"
	"io"
	"slices"
	"testing"
	"testing/synctest"
	"time"
)

// Whatever takes long waits while others are answered, a while at a time and no longer, and not at all for nobody.
func TestLongWorkGivesWay(t *testing.T) {
	synctest.Test(t, func(t *testing.T) {
		var o Others
		took := func(work func()) time.Duration {
			began := time.Now()
			work()
			return time.Since(began)
		}
		pieces := func(n int) func() {
			return func() {
				if got, err := io.Copy(io.Discard, o.Reading(bytes.NewReader(make([]byte, n*2*atOnce)))); err != nil || got != int64(n*2*atOnce) {
					t.Error(got, err)
				}
			}
		}
		all := func() {
			n := 0
			for range Giving(&o, slices.Values(make([]int, 3*aWhile+1))) {
				n++
			}
			if n != 3*aWhile+1 {
				t.Errorf("%d of %d went through", n, 3*aWhile+1)
			}
		}
		if d := took(o.GiveWay) + took(pieces(2)) + took(all); d != 0 {
			t.Errorf("it waited %v for nobody", d)
		}
		first, second := o.In(), o.In()
		if d := took(o.GiveWay); d != giveWay {
			t.Errorf("it waited %v for two who are never answered", d)
		}
		first()
		if d := took(all); d != 3*giveWay {
			t.Errorf("a list of three whiles waited %v", d)
		}
		if d := took(pieces(2)); d < 2*giveWay || d > 4*giveWay {
			t.Errorf("a stream of four pieces waited %v", d)
		}
		time.AfterFunc(2*time.Millisecond, second)
		if d := took(o.GiveWay); d < 2*time.Millisecond || d >= giveWay {
			t.Errorf("it waited %v for one who was answered after 2 ms", d)
		}
	})
}
