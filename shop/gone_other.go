//go:build !linux

package shop

import "time"

// sinceBoot measures from now on by the clock that nobody sets. On some systems it stands still while the computer
// sleeps.
func sinceBoot() func() time.Duration {
	begun := time.Now()
	return func() time.Duration { return time.Since(begun) }
}
