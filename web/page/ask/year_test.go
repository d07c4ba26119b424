package ask

import (
	"testing"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/demo"
	"velvetroad/demo/demotest"
	"velvetroad/web/page"
)

// A year is worked out once for all plans that come to the same setup, and again for whatever it depends on.
func TestAYearIsKnownAgain(t *testing.T) {
	of := func(change func(*job.Document)) *page.View {
		d := demotest.Document(t, demo.Heron())
		require.NotEmpty(t, d.Stays)
		change(&d)
		return &page.View{Doc: d, Crew: demo.Shelf(), Plan: plan.Of(d, demo.Shelf())}
	}
	first, whole := known(of(func(*job.Document) {}), nil)
	require.True(t, whole)
	require.NotNil(t, first.look, first.why)
	again, _ := known(of(func(d *job.Document) { d.Contact, d.Title, d.Tasks = "by the gate", "another title", nil }), nil)
	assert.Same(t, first.look, again.look)
	for name, change := range map[string]func(*job.Document){
		"shade":  func(d *job.Document) { d.Stays[0].Shade += 10 },
		"charge": func(d *job.Document) { d.Bank.ChargeMost = 17 }, "panel": func(d *job.Document) { d.Panels[0].X += 40 },
		"thing on the roof": func(d *job.Document) { d.Rig.Obstructions[0].Height += 50 },
	} {
		other, whole := known(of(change), nil)
		assert.True(t, whole)
		assert.NotSame(t, first.look, other.look, name)
	}
}
