package demo

import (
	"context"
	"fmt"
	"slices"
	"time"

	"idlehiss/core/terms"
	"idlehiss/desk"
	"idlehiss/kit"
	"idlehiss/record"
	"idlehiss/shop"
)

// outliving is what outlives the jobs of the story.
type outliving struct {
	Sets []struct {
		Whole   string
		Members []string
		Dated   `yaml:",inline"`
	}
	Cases []struct {
		Name, From, Deposit string
		Due                 int // in so many days from now
		Pieces, Missing     []string
		Dated               `yaml:",inline"`
	}
	TopUps []struct {
		Machine, Added, What string
		Dated                `yaml:",inline"`
	} `yaml:"top_ups"`
	Passed []struct {
		Machine, To, Note string
		Dated             `yaml:",inline"`
	}
	Checks []struct {
		On          string
		Of          terms.NoteKind
		DaysBetween int `yaml:"days_between"`
		Uses        int
		Dated       `yaml:",inline"`
	}
	Note struct {
		Text  string
		Dated `yaml:",inline"`
	}
}

// outlive tells it, each at its day.
func (k outliving) outlive(ctx context.Context, s *shop.Shop, clock *past, now time.Time) error {
	n := 0
	on := func(d Dated) desk.Write {
		n++
		clock.set(time.Date(now.Year(), now.Month(), now.Day()-d.Days, 6, 30+n, 0, 0, time.UTC))
		return desk.Write{ID: fmt.Sprintf("demo-record-%02d", n), By: d.By, Device: "bench"}
	}
	for _, x := range k.Sets {
		if _, err := s.Record.SetOf(ctx, record.NewSet{Write: on(x.Dated), Whole: x.Whole, Members: x.Members}); err != nil {
			return err
		}
	}
	for _, x := range k.Cases {
		in := kit.NewCase{Write: on(x.Dated), Name: x.Name, From: x.From, Due: now.AddDate(0, 0, x.Due).Format(time.DateOnly), Deposit: x.Deposit, Pieces: x.Pieces, Missing: x.Missing}
		if _, err := s.Kit.Borrow(ctx, in); err != nil {
			return err
		}
	}
	for _, x := range k.TopUps {
		if _, err := s.Record.TopUp(ctx, record.NewTopUp{Write: on(x.Dated), Machine: x.Machine, Added: x.Added, What: x.What}); err != nil {
			return err
		}
	}
	for _, x := range k.Passed {
		m, err := s.Record.Machine(ctx, x.Machine)
		if err != nil {
			return err
		}
		if _, err := s.Record.Pass(ctx, m.Visits[0].ID, record.Passed{Write: on(x.Dated), To: x.To, Note: x.Note}); err != nil {
			return err
		}
	}
	for _, x := range k.Checks {
		list, err := s.Kit.List(ctx)
		if err != nil {
			return err
		}
		i := slices.IndexFunc(list.Items, func(it kit.ItemView) bool { return it.Name == x.On })
		if i < 0 {
			return fmt.Errorf("there is no piece %q", x.On)
		}
		if _, err := s.Kit.Note(ctx, list.Items[i].ID, kit.NewNote{Write: on(x.Dated), Kind: terms.CheckDue, Of: x.Of, Days: x.DaysBetween, Uses: x.Uses}); err != nil {
			return err
		}
	}
	_, err := s.Record.SetNote(ctx, record.NewShiftNote{Write: on(k.Note.Dated), Text: k.Note.Text})
	return err
}
