package roof_test

import (
	"testing"

	"github.com/stretchr/testify/assert"

	"velvetroad/core/rig"
	"velvetroad/core/roof"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
)

func on(g rig.Rig, p roof.Panel, sun roof.Stand, strips int) roof.Light {
	return roof.LightOn(g, g.Standing(), p, sun, strips)
}

// By hand: a box 300 mm higher than the panel throws a shadow of 300 / tan 30° =
// 519.6 mm. A panel 900 by 600, three strips of 200 across, 400 mm from it:
// with the sun behind the box the shadow reaches 119.6 mm onto the panel, and
// only over the box's own width.
func TestShadowsFallWhereGeometryHasThem(t *testing.T) {
	p := roof.Panel{Part: shelf.Panel{Length: 900, Width: 600, Thickness: 30}, Mount: shelf.Mount{Height: 20}, X: 1000, Y: 1000}
	box := func(x, y, l, w units.Millimetre) rig.Rig {
		return rig.Rig{Length: 6000, Width: 2500, Obstructions: []rig.Obstruction{{ID: "t", Label: "Box", Shape: "rectangle", X: x, Y: y, Length: l, Width: w, Height: 350, Shades: true}}}
	}
	nose, curb, tail := roof.Stand{High: 30, From: 0}, roof.Stand{High: 30, From: 90}, roof.Stand{High: 30, From: 180}
	before := box(400, 1000, 200, 190) // towards the nose, over the first strip's width
	light := on(before, p, nose, 3)
	assert.Equal(t, []float64{0.2, 1, 1}, light.Shares)
	assert.Equal(t, "Box", light.By)
	assert.Zero(t, on(before, p, tail, 3).Shaded, "the sun on the other side")
	assert.Zero(t, on(before, p, curb, 3).Shaded)
	assert.Zero(t, on(box(300, 1000, 170, 190), p, nose, 3).Shaded, "530 mm away: beyond 519.6")
	assert.Equal(t, 1, on(box(300, 1000, 205, 190), p, nose, 3).Shaded, "495 mm away")
	assert.Zero(t, on(before, p, roof.Stand{High: 50, From: 0}, 3).Shaded, "300 / tan 50° is 252 mm")
	beside := box(1200, 1700, 300, 200) // 100 mm to the curb side: 419.6 mm deep, over two strips and a bit
	assert.Equal(t, []float64{1, 0.2, 0.2}, on(beside, p, curb, 3).Shares)
	flat := before
	flat.Obstructions = append([]rig.Obstruction{}, before.Obstructions...)
	flat.Obstructions[0].Height = 50
	assert.Zero(t, on(flat, p, nose, 3).Shaded, "no higher than the panel's top")
	round := rig.Rig{Length: 6000, Width: 2500, Obstructions: []rig.Obstruction{{ID: "t", Label: "Mast", Shape: "round", X: 800, Y: 1300, Length: 60, Width: 60, Height: 1050, Shades: true}}}
	assert.Equal(t, []float64{1, 0.2, 1}, on(round, p, nose, 3).Shares, "a mast's shadow is as narrow as it is")
}

// By hand: on a gable 50 mm high over a half width of 1250 the slope is 4 %, and
// a panel facing the street side with the sun 30° high there gets (sin 30 + 0.04
// · cos 30) / (√(1 + 0.04²) · sin 30) = 1.0684 of the flat roof's beam; one facing away 0.9299.
func TestPanelsOnBothSidesOfTheCrownFaceUnlike(t *testing.T) {
	g := rig.Rig{Length: 6000, Width: 2500, Crown: 50, CrownForm: rig.Gable}
	p := roof.Panel{Part: shelf.Panel{Length: 900, Width: 600, Thickness: 30}, X: 1000, Y: 200}
	street := on(g, p, roof.Stand{High: 30, From: 270}, 1)
	assert.InDelta(t, 0.2+0.8*1.06843, street.Shares[0], 1e-4)
	assert.InDelta(t, 2.29, street.Tilt, 0.01)
	p.Y = 1700
	assert.InDelta(t, 0.2+0.8*0.92998, on(g, p, roof.Stand{High: 30, From: 270}, 1).Shares[0], 1e-4)
}
