package board_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"velvetroad/core/board"
	"velvetroad/core/finding"
	"velvetroad/core/units"
)

func worst(found []finding.Finding) map[string]finding.Grade {
	out := map[string]finding.Grade{}
	for _, f := range found {
		out[f.Code] = max(out[f.Code], f.Grade)
	}
	return out
}

// Common practice, no source: an inverter has 200 mm of free air; a controller stands
// upright; a 12 mm cable bends in 8 of its diameters, 96 mm.
func TestWhatTheBoardAllows(t *testing.T) {
	inverter := board.Item{ID: "i", Label: "Inverter", Length: 300, Height: 200, Clear: 200, Warm: true, Placed: true, X: 250, Y: 250, Cable: 12}
	bus := board.Item{ID: "b", Label: "Plus bus", Length: 150, Height: 50, Placed: true, X: 800, Y: 300}
	check := func(change func(a, b *board.Item)) map[string]finding.Grade {
		a, b := inverter, bus
		change(&a, &b)
		return worst(board.Check([]board.Item{a, b}, 1000, 700, units.Metric))
	}
	for code, g := range check(func(a, b *board.Item) {}) {
		assert.Equal(t, finding.Fine, g, code)
	}
	assert.Equal(t, finding.Watch, check(func(a, b *board.Item) { b.X = 740 })["board.apart"], "190 mm from the inverter")
	assert.Equal(t, finding.Stop, check(func(a, b *board.Item) { b.X = 540 })["board.apart"])
	assert.Equal(t, finding.Stop, check(func(a, b *board.Item) { b.X = 860 })["board.inside"], "10 mm past the edge")
	assert.Equal(t, finding.Watch, check(func(a, b *board.Item) { b.X, b.Y = 300, 120 })["board.heat"], "80 mm above it")
	assert.Equal(t, finding.Fine, check(func(a, b *board.Item) { b.X, b.Y = 300, 0 })["board.heat"], "200 mm above it")
	assert.Equal(t, finding.Watch, check(func(a, b *board.Item) { b.X, b.Y = 300, 540 })["board.access"], "90 mm below it")
	assert.Equal(t, finding.Watch, check(func(a, b *board.Item) { a.Upright, a.Turn = true, 90 })["board.upright"])
	assert.Equal(t, finding.Watch, check(func(a, b *board.Item) { b.Height = 0 })["board.size"])
	assert.Empty(t, board.Check([]board.Item{inverter}, 0, 0, units.Metric), "the board is not measured")
}

// What the program arranges breaks no rule of its own, whatever the board and what is on
// it.
func TestWhatIsArrangedPasses(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		mm := func(low, high int, what string) units.Millimetre {
			return units.Millimetre(rapid.IntRange(low, high).Draw(t, what))
		}
		var items []board.Item
		for n := range rapid.IntRange(0, 12).Draw(t, "items") {
			items = append(items, board.Item{ID: fmt.Sprint(n), Label: fmt.Sprint(n), Length: mm(40, 400, "l"), Height: mm(40, 300, "h"), Clear: mm(0, 200, "air"), Cable: mm(0, 16, "cable"), Warm: rapid.Bool().Draw(t, "warm"), Upright: true})
		}
		length, height := mm(300, 1500, "length"), mm(300, 1200, "height")
		placed, ok := board.Arrange(items, length, height, 5)
		n := 0
		for _, i := range placed {
			if i.Placed {
				n++
			}
		}
		assert.Equal(t, ok, n == len(items))
		for _, f := range board.Check(placed, length, height, units.Metric) {
			if f.Code == "board.access" { // the last row is led in from the side where the board ends
				continue
			}
			assert.Equal(t, finding.Fine, f.Grade, f.Says)
		}
	})
}
