package job

import (
	"time"

	"velvetroad/core/array"
	"velvetroad/core/energy"
	"velvetroad/core/shelf"
)

// What the document says in the terms of the rooms that need it.

// ChargedBank is the bank as controllers see it.
func (d Document) ChargedBank() array.Bank {
	return array.Bank{Rest: d.Bank.Rest(), Charging: d.Bank.Charging()}
}

// Climate is what the job's strings must suit.
func (d Document) Climate() array.Climate {
	c := array.Climate{Units: d.Units, Coldest: d.Rig.Cold(), Hottest: d.Rig.Hot()}
	if d.Season != nil {
		c.Usual = d.Season.Air
	}
	return c
}

// Camps is where and when the customer camps; nil where it is not known.
func (d Document) Camps() *energy.Season {
	s := d.Season
	if s == nil || s.Latitude == nil || s.Month == 0 {
		return nil
	}
	out := energy.Season{Latitude: *s.Latitude, Month: time.Month(s.Month), Clear: energy.UsualClear, Air: energy.UsualAir}
	if s.Clear > 0 {
		out.Clear = s.Clear / 100
	}
	if s.Air != nil {
		out.Air = *s.Air
	}
	return &out
}

// Overcurrent is a fuse, breaker or disconnect that the job carries; nil for none.
func (d Document) Overcurrent(id string) *shelf.Overcurrent {
	if part, ok := shelf.Find(d.Parts.Overcurrent, id); ok {
		return &part
	}
	return nil
}
