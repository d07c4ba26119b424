package stock_test

import (
	"fmt"
	"math"
	"slices"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"pgregory.net/rapid"

	"velvetroad/core/cut"
	"velvetroad/core/stock"
)

// Whatever is moved: what cannot be is refused, nothing is ever negative, what is carried is
// neither more nor less, and the sum of the movements is the count.
func TestTheSumOfTheMovementsIsTheCount(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		var moves []stock.Move
		mine := map[string]float64{} // by item and place, kept apart from the book
		for range rapid.IntRange(1, 40).Draw(t, "moves") {
			m := stock.Move{Kind: rapid.SampledFrom(stock.Kinds).Draw(t, "kind"), Item: rapid.SampledFrom([]string{"fuse", "lug"}).Draw(t, "item"), Place: rapid.SampledFrom([]string{"Shop", "Van"}).Draw(t, "place"),
				To: rapid.SampledFrom([]string{"Shop", "Van", ""}).Draw(t, "to"), Quantity: float64(rapid.IntRange(-2, 9).Draw(t, "quantity")), Due: "2027-05-01"}
			at, to := m.Item+m.Place, m.Item+m.To
			book := stock.Of(moves)
			if book.Refuse(m) != "" {
				continue
			}
			moves = append(moves, m)
			switch m.Kind {
			case stock.Receipt, stock.Back:
				mine[at] += m.Quantity
			case stock.Use, stock.Lost:
				mine[at] -= m.Quantity
			case stock.Carry:
				mine[at] -= m.Quantity
				mine[to] += m.Quantity
			case stock.Count:
				mine[at] = m.Quantity
			}
		}
		book := stock.Of(moves)
		for _, item := range []string{"fuse", "lug"} {
			sum := 0.0
			for _, place := range []string{"Shop", "Van"} {
				has := book.At(item, place, "")
				assert.GreaterOrEqual(t, has, 0.0)
				assert.Equal(t, mine[item+place], has)
				sum += has
			}
			assert.Equal(t, sum, book.Has(item))
		}
	})
}

func TestMovementsThatCannotBe(t *testing.T) {
	book := stock.Of([]stock.Move{
		{Kind: stock.Receipt, Item: "cable 6 mm²", Unit: "m", Place: "Shop", Lot: "spool 4", Quantity: 30},
		{Kind: stock.Use, Item: "cable 6 mm²", Unit: "m", Place: "Shop", Lot: "spool 4", Quantity: 12.5},
		{Kind: stock.Receipt, Item: "fuse 60 A", Place: "Van 1", Quantity: 3},
	})
	for says, m := range map[string]stock.Move{
		"how many is more than 0, not −5":                        {Kind: stock.Receipt, Item: "fuse 60 A", Place: "Van 1", Quantity: -5},
		"there are 3 of fuse 60 A at Van 1: take that":           {Kind: stock.Use, Item: "fuse 60 A", Place: "Van 1", Quantity: 4},
		"there are 0 of fuse 60 A at Shop":                       {Kind: stock.Carry, Item: "fuse 60 A", Place: "Shop", To: "Van 1", Quantity: 1},
		"say to which other place":                               {Kind: stock.Carry, Item: "fuse 60 A", Place: "Van 1", To: "Van 1", Quantity: 1},
		"spool 4 was 30 m when it was new, and cannot be 45 m":   {Kind: stock.Count, Item: "cable 6 mm²", Unit: "m", Place: "Shop", Lot: "spool 4", Quantity: 45},
		"spool 4 was 30 m when it was new, and cannot be 37.5 m": {Kind: stock.Back, Item: "cable 6 mm²", Unit: "m", Place: "Shop", Lot: "spool 4", Quantity: 20},
		"cable 6 mm² is counted in m":                            {Kind: stock.Receipt, Item: "cable 6 mm²", Place: "Shop", Quantity: 1},
		"pieces are whole, not 1.5":                              {Kind: stock.Receipt, Item: "fuse 60 A", Place: "Shop", Quantity: 1.5},
		"a count is 0 or more":                                   {Kind: stock.Count, Item: "fuse 60 A", Place: "Shop", Quantity: -1},
		"a day is written as 2027-04-18":                         {Kind: stock.Receipt, Item: "sealant", Place: "Shop", Quantity: 1, BestBefore: "May"},
		"say on which day it comes":                              {Kind: stock.Order, Item: "sealant", Quantity: 1},
		"say what it is":                                         {Kind: stock.Receipt, Place: "Shop", Quantity: 1},
		"say where it is":                                        {Kind: stock.Receipt, Item: "fuse 60 A", Quantity: 1},
		"write how many":                                         {Kind: stock.Receipt, Item: "fuse 60 A", Place: "Shop", Quantity: math.NaN()},
		`there is no movement "gift"`:                            {Kind: "gift", Item: "fuse 60 A", Place: "Shop", Quantity: 1},
	} {
		assert.Contains(t, book.Refuse(m), says)
	}
	assert.Empty(t, book.Refuse(stock.Move{Kind: stock.Count, Item: "cable 6 mm²", Unit: "m", Place: "Shop", Lot: "spool 4", Quantity: 17}))
	assert.Equal(t, 17.5, book.At("cable 6 mm²", "Shop", "spool 4"))
}

// Two jobs want five fuses each; there are six, and four come. By hand: the first has its five, the
// second one and four that come on the 12th, in time for the 14th and late for the 10th.
func TestWhatIsMissing(t *testing.T) {
	const today = "2027-05-01"
	moves := []stock.Move{{Kind: stock.Receipt, Item: "fuse", Place: "Shop", Quantity: 6}, {Kind: stock.Order, Item: "fuse", Quantity: 4, Due: "2027-05-12", Supplier: "Harbour Parts"}}
	need := func(job int, day string) stock.Need { return stock.Need{Job: job, Day: day, Item: "fuse", Quantity: 5} }
	book := stock.Of(moves)
	shares := book.Shares([]stock.Need{need(8, "2027-05-14"), need(7, "2027-05-03")}, today)
	assert.Equal(t, []stock.Share{{Need: need(7, "2027-05-03"), Has: 5}, {Need: need(8, "2027-05-14"), Has: 1, Missing: 4, Comes: "2027-05-12"}}, shares)
	assert.Equal(t, shares[1:], stock.Lacking(shares))
	assert.True(t, book.Shares([]stock.Need{need(8, "2027-05-10"), need(7, "2027-05-03")}, today)[1].Late)
	none := stock.Lacking(book.Shares([]stock.Need{need(7, "2027-05-03"), need(8, "2027-05-14"), need(9, "")}, today))
	assert.Equal(t, 9, none[1].Job, "without a day it comes last")
	assert.Empty(t, none[1].Comes)
	over := book.Shares([]stock.Need{need(8, "2027-05-14"), need(7, "2027-05-03")}, "2027-05-13")
	assert.Empty(t, over[1].Comes, "what should have come on the 12th has not: nobody knows")
	assert.True(t, over[1].Late)

	// What was ordered and came, or does not come, is not on its way any more.
	came := append(slices.Clip(moves), stock.Move{Kind: stock.Receipt, Item: "fuse", Place: "Shop", Quantity: 4})
	assert.Empty(t, stock.Of(came).Ordered)
	assert.Empty(t, stock.Lacking(stock.Of(came).Shares([]stock.Need{need(8, "2027-05-14"), need(7, "2027-05-03")}, today)))
	never := stock.Move{Kind: stock.Cancel, Item: "fuse", Quantity: 4, Due: "2027-05-12", Supplier: "Harbour Parts"}
	assert.Empty(t, book.Refuse(never))
	assert.Empty(t, stock.Of(append(slices.Clip(moves), never)).Ordered)
	never.Quantity = 5
	assert.Equal(t, "4 of fuse are ordered for that day, not 5", book.Refuse(never))
}

// Twelve metres on three rests of four are no cable of five metres. By hand: two pieces of 3.5 m come
// from two rests; the shortest rest that does serves a piece of 1 m; a red rest serves no black piece.
func TestCableIsCutFromSpoolsThatAreLongEnough(t *testing.T) {
	rest := func(lot, colour string, metres float64) stock.Move {
		return stock.Move{Kind: stock.Receipt, Item: "cable", Unit: "m", Place: "Shop", Lot: lot, Colour: colour, Quantity: metres}
	}
	need := func(job int, pieces ...cut.Piece) stock.Need {
		n := stock.Need{Job: job, Day: "2027-05-03", Item: "cable", Unit: "m", Pieces: pieces}
		for _, p := range pieces {
			n.Quantity += float64(p.Length) / 1000
		}
		return n
	}
	book := stock.Of([]stock.Move{rest("a", "", 4), rest("b", "", 4), rest("c", "", 4)})
	shares := book.Shares([]stock.Need{need(7, cut.Piece{Length: 3_500}, cut.Piece{Length: 3_500}), need(8, cut.Piece{Length: 5_000}, cut.Piece{Length: 1_000})}, "2027-05-01")
	assert.Zero(t, shares[0].Missing)
	assert.InDelta(t, 5, shares[1].Missing, 1e-9, "4 m and two rests of 0.5 m are left: they do for one metre alone")
	assert.InDelta(t, 1, shares[1].Has, 1e-9)

	levels := stock.Of([]stock.Move{rest("long", "", 30), rest("rest", "", 1.2), rest("red", "red", 9)}).Levels
	_, metres := stock.Cuts(levels, []cut.Piece{{Length: 1_000, Colour: "black"}})
	for i, l := range levels {
		assert.Equal(t, map[string]float64{"long": 0, "rest": 1, "red": 0}[l.Lot], metres[i], l.Lot)
		assert.Equal(t, l.Lot == "rest", l.Offcut(), l.Lot)
	}
}

func TestSealantGoesOutOfDate(t *testing.T) {
	var moves []stock.Move
	for i, best := range []string{"2027-04-30", "2027-05-20", "2027-09-01"} {
		moves = append(moves, stock.Move{Kind: stock.Receipt, Item: "sealant", Place: "Shop", Lot: fmt.Sprint("batch ", i), Quantity: 2, BestBefore: best})
	}
	out, soon := stock.Of(moves).Old(time.Date(2027, 5, 1, 0, 0, 0, 0, time.UTC))
	if assert.Len(t, out, 1) && assert.Len(t, soon, 1) {
		assert.Equal(t, []string{"batch 0", "batch 1"}, []string{out[0].Lot, soon[0].Lot})
	}
}

// What is sent twice is the same line whoever sends it; another count or place is another, but of what is carried or used
// the batches are worked out again.
func TestLinesThatAreTheSame(t *testing.T) {
	m := stock.Move{ID: "a", Kind: stock.Receipt, Item: "lug", Place: "Shop", Quantity: 4, By: "Ada", At: "2027-01-01T08:00:00Z"}
	o := m
	o.By, o.At = "Bo", "2027-01-01T08:00:09Z"
	assert.True(t, m.Same(o))
	o.Quantity = 5
	assert.False(t, m.Same(o))
	for _, kind := range []stock.Kind{stock.Carry, stock.Use} {
		m.Kind, o.Kind = kind, kind
		assert.True(t, m.Same(o), "%s", kind)
		o.Place = "Van 1"
		assert.False(t, m.Same(o))
		o.Place = "Shop"
	}
}
