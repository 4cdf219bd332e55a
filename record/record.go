// Package record is what outlives a job: the book, a machine's page, sets of machines, what was topped up, a job that is passed
// on, the end of a shift, the calendar. Its state is the book's; it asks jobs and kit, and neither knows of it.
package record

import (
	"idlehiss/core/asked"
	"idlehiss/core/circuit"
	"idlehiss/desk"
	"idlehiss/holds"
	"idlehiss/jobs"
	"idlehiss/kit"
	"idlehiss/library"
	"idlehiss/logbook"
)

// Room is the record of a shop.
type Room struct {
	desk  *desk.Desk
	kit   *kit.Room
	jobs  *jobs.Room
	holds *holds.Room
	words asked.Vocabulary
}

// New opens the room.
func New(d *desk.Desk, k *kit.Room, j *jobs.Room, h *holds.Room) (*Room, error) {
	words, err := library.BookWords()
	return &Room{desk: d, kit: k, jobs: j, holds: h, words: words}, err
}

// visited is a job with what it was done by.
type visited struct {
	logbook.Job
	circuit *circuit.Circuit
	things  []string // that it went round, by name
}
