package job

import (
	"strings"

	"bytes"
	"encoding/json"
	"slices"

	"velvetroad/core/rig"
)

// Kept is a rig of the crew's collection, to start jobs from: the vehicle, its
// bank and the equipment that is in it.
type Kept struct {
	ID        string      `json:"id"`
	Rig       rig.Rig     `json:"rig"`
	Bank      Bank        `json:"bank"`
	Equipment []Equipment `json:"equipment"`
	From      string      `json:"from"` // which job it was measured on
}

func (k Kept) Key() string { return k.ID }

// Keep makes a rig for the collection of a job's.
func (d Document) Keep(id, from string) Kept {
	return Kept{ID: id, Rig: d.Rig, Bank: d.bankAlone(), Equipment: d.inTheRig(), From: from}
}

// OpenKept reads a rig of the collection that this program or an older one kept.
func OpenKept(text []byte) (k Kept, err error) {
	doc, err := object(text)
	if err != nil {
		return k, err
	}
	if _, ok := doc["bank"]; !ok { // kept before the bank had a place of its own
		id, _ := doc["id"].(string)
		if g, ok := doc["rig"].(map[string]any); ok {
			bank, equipment := rigToBank(id, g)
			doc["bank"], doc["equipment"] = bank, equipment
		}
	}
	return k, decode(Raw(doc), &k)
}

// StartFrom gives the document with a kept rig in place of its own. Everything in
// it gets an ID of its own from fresh.
func (d Document) StartFrom(k Kept, fresh func() string) Document {
	out := d
	out.Rig, out.Bank, out.Equipment, out.RigFrom = k.Rig, k.Bank, slices.Clone(k.Equipment), k.ID
	out.Rig.Obstructions = renewed(k.Rig.Obstructions, func(o *rig.Obstruction) { o.ID = fresh() })
	out.Rig.Cupboards = renewed(k.Rig.Cupboards, func(c *rig.Cupboard) { c.ID = fresh() })
	out.Rig.Levels = renewed(k.Rig.Levels, func(l *rig.Level) { l.ID = fresh() })
	out.Rig.Walkways = renewed(k.Rig.Walkways, func(w *rig.Walkway) { w.ID = fresh() })
	out.Rig.Zones = renewed(k.Rig.Zones, func(z *rig.Zone) { z.ID = fresh() })
	out.Rig.Bulkheads = renewed(k.Rig.Bulkheads, func(b *rig.Bulkhead) { b.ID = fresh() })
	spaces := map[string]string{}
	out.Rig.Spaces = renewed(k.Rig.Spaces, func(s *rig.Space) {
		spaces[s.ID] = fresh()
		s.ID = spaces[s.ID]
	})
	out.Equipment = renewed(k.Equipment, func(e *Equipment) {
		e.ID = fresh()
		if e.At != nil && e.At.Space != "" {
			at := *e.At
			at.Space, e.At = spaces[at.Space], &at
		}
	})
	if _, ok := out.Battery(); !ok { // every job has the battery that its circuits lead to
		battery, _ := d.Battery()
		out.Equipment = append(out.Equipment, battery)
	}
	return out
}

// Copied is a new job with this one's rig, parts and plan, for the next rig of the
// same kind: without its day, its record, its photos, what was accepted in it, and what was promised and came of it.
func (d Document) Copied(id string) Document {
	d.ID, d.Number, d.Day = id, 0, ""
	d.Title = strings.TrimSpace(d.Title + " (copy)")
	d.Record, d.Photos, d.Accepted = Record{Built: []Built{}, Readings: []Reading{}}, nil, nil
	d.Promise, d.Feedback, d.Upkeep, d.Schedule, d.Forecast = nil, nil, nil, nil, nil
	d.Crew, d.Rates = nil, nil
	d.VisitOf, d.Why = "", "" // another rig
	return d
}

func renewed[T any](items []T, renew func(*T)) []T {
	out := slices.Clone(items)
	for i := range out {
		renew(&out[i])
	}
	return out
}

// Differences names what the job has otherwise than the kept rig, in words.
func (k Kept) Differences(d Document) []string {
	out := rig.Differences(k.Rig, d.Rig)
	if !bytes.Equal(Raw(k.Bank), Raw(d.bankAlone())) {
		out = append(out, "bank")
	}
	battery := func(e Equipment) bool { return e.Kind == "battery" }
	mine := d.inTheRig()
	if !slices.ContainsFunc(k.Equipment, battery) { // the job has one all the same: see StartFrom
		mine = slices.DeleteFunc(mine, battery)
	}
	if !bytes.Equal(nameless(k.Equipment), nameless(mine)) {
		out = append(out, "equipment")
	}
	return out
}

// nameless is equipment without what differs from job to job: IDs.
func nameless(all []Equipment) json.RawMessage {
	return Raw(renewed(all, func(e *Equipment) {
		e.ID = ""
		if e.At != nil {
			at := *e.At
			at.Space, e.At = "", &at
		}
	}))
}

// bankAlone is the bank without the IDs of a job's batteries.
func (d Document) bankAlone() Bank {
	out := d.Bank
	out.Batteries, out.TakeOff = nil, nil
	return out
}

// inTheRig is the equipment that was there before the job, without its parts: their data is
// the job's.
func (d Document) inTheRig() []Equipment {
	out := []Equipment{}
	for _, e := range d.Equipment {
		if of := KindOfEquipment(e.Kind).Part; of == "battery" || of == "device" {
			e.Part = ""
		}
		if e.Status == StatusExisting && e.Part == "" && e.Settings.plain() {
			out = append(out, e)
		}
	}
	return out
}

// plain tells whether settings name no part of the job.
func (s *Settings) plain() bool { return s == nil || s.StringFuse == "" }
