package shop

import (
	"time"

	"golang.org/x/sys/unix"
)

// sinceBoot measures from now on by the clock that runs on while the computer sleeps and that nobody sets.
func sinceBoot() func() time.Duration {
	begun := bootTime()
	return func() time.Duration { return bootTime() - begun }
}

func bootTime() time.Duration {
	var t unix.Timespec
	if err := unix.ClockGettime(unix.CLOCK_BOOTTIME, &t); err != nil {
		panic(err) // every kernel since 2.6.39 has it
	}
	return time.Duration(t.Nano())
}
