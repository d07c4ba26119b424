package page_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"velvetroad/core/job"
	"velvetroad/demo"
	"velvetroad/demo/demotest"
	"velvetroad/web/page"
)

func TestWhereAChangeIsSeen(t *testing.T) {
	d := demotest.Unsigned(t, demo.Heron())
	k := d.Controllers()[0]
	for _, c := range []struct {
		change    job.Change
		stage, id string
	}{
		{job.Change{Do: "change_panel", ID: "p"}, "roof", "p"}, {job.Change{Do: "remove_hole", ID: "h"}, "holes", "h"}, {job.Change{Do: "set_rig"}, "survey", ""},
		{job.Change{Do: "set_job", Fields: job.Fields("wind", 1)}, "roof", ""}, {job.Change{Do: "set_job", Fields: job.Fields("place", "x")}, "survey", ""}, {job.Change{Do: "set_job", Fields: job.Fields("option", nil)}, "strings", ""},
		{job.Change{Do: "change_equipment", ID: k.ID}, "controllers", k.ID}, {job.Change{Do: "change_equipment", ID: "a battery"}, "survey", "a battery"},
		{job.Change{Do: "reopen"}, "record", ""}, {job.Change{Do: "carry_part"}, "", ""}, {job.Change{Do: "add_accepted"}, "", ""},
	} {
		stage, id := page.Where([]job.Change{{Do: "carry_part"}, c.change}, d)
		assert.Equal(t, []string{c.stage, c.id}, []string{stage, id}, c.change.Do)
	}
	for _, kind := range job.Kinds { // a new list is put somewhere
		if noun := kind.Noun(); noun != "accepted" && noun != "equipment" {
			stage, _ := page.Where([]job.Change{{Do: "change_" + noun, ID: "x"}}, d)
			assert.NotEmpty(t, stage, noun)
		}
	}
}
