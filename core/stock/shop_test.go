package stock_test

import (
	"fmt"
	"math"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
	"pgregory.net/rapid"

	"velvetroad/core/cut"
	"velvetroad/core/shelf"
	"velvetroad/core/stock"
	"velvetroad/core/units"
)

// Days counted on the calendar of May 2027, whose first is a Saturday.
func TestWhenAnOrderComes(t *testing.T) {
	for _, c := range []struct {
		lead     int
		on, come string
	}{{0, "2027-05-03", "2027-05-03"}, {0, "2027-05-01", "2027-05-03"}, {1, "2027-05-03", "2027-05-04"}, {2, "2027-05-06", "2027-05-10"}, {5, "2027-05-03", "2027-05-10"}, {1, "2027-05-01", "2027-05-03"}} {
		on, _ := time.Parse(time.DateOnly, c.on)
		assert.Equal(t, c.come, stock.Supplier{Lead: c.lead}.Comes(on).Format(time.DateOnly), "%d working days from %s", c.lead, c.on)
	}
}

// By hand: job 7 lacks three of ten fuses, which come in fours; below the mark of six it is filled to
// twelve. Nails that nobody needs are not ordered, and what comes already is not ordered twice.
func TestWhatIsOrdered(t *testing.T) {
	const today = "2027-05-03"
	book := stock.Of([]stock.Move{
		{Kind: stock.Receipt, Item: "fuse", Place: "Shop", Quantity: 7}, {Kind: stock.Receipt, Item: "nail", Place: "Shop", Quantity: 2},
		{Kind: stock.Receipt, Item: "tape", Place: "Shop", Quantity: 1}, {Kind: stock.Order, Item: "tape", Quantity: 9, Due: "2027-05-10", Supplier: "Harbour Parts"}, {Kind: stock.Receipt, Item: "wipe", Place: "Shop", Quantity: 3},
	})
	shop := stock.Shop{Suppliers: []stock.Supplier{{Name: "Harbour Parts", Lead: 3}}, Cards: map[string]stock.Card{
		"fuse": {Item: "fuse", Supplier: "Harbour Parts", Low: 6, Full: 12, Pack: 4}, "tape": {Item: "tape", Supplier: "Harbour Parts", Low: 5}, "wipe": {Item: "wipe", Supplier: "Harbour Parts", Low: 4},
	}}
	shares := shop.Ask(book.Shares([]stock.Need{{Job: 7, Day: "2027-05-05", Item: "fuse", Quantity: 10}, {Job: 8, Item: "lamp", Quantity: 2}}, today), today)
	assert.Equal(t, []stock.Proposal{
		{Supplier: shop.Suppliers[0], Comes: "2027-05-06", Buys: []stock.Buy{
			{Item: "fuse", Quantity: 16, Jobs: []int{7}, Needed: "2027-05-05", Free: -3, Low: 6, Late: true},
			{Item: "wipe", Quantity: 1, Free: 3, Low: 4},
		}},
		{Buys: []stock.Buy{{Item: "lamp", Quantity: 2, Jobs: []int{8}, Free: -2}}},
	}, book.Propose(shares, today, shop))

	// As soon as the order has come nothing is lacking and nothing is low.
	after := stock.Of([]stock.Move{{Kind: stock.Receipt, Item: "fuse", Place: "Shop", Quantity: 7 + 16}, {Kind: stock.Receipt, Item: "wipe", Place: "Shop", Quantity: 4}, {Kind: stock.Receipt, Item: "tape", Place: "Shop", Quantity: 10}})
	assert.Empty(t, after.Propose(after.Shares([]stock.Need{{Job: 7, Day: "2027-05-05", Item: "fuse", Quantity: 10}}, today), today, shop))
}

func TestCardsThatCannotBe(t *testing.T) {
	for says, card := range map[string]stock.Card{
		"say of what":                        {Low: 2},
		"a low mark is 0 to a million":       {Item: "fuse", Low: -1},
		"full is not less than low: 3 and 5": {Item: "fuse", Low: 5, Full: 3},
	} {
		assert.Contains(t, card.Wrong(), says)
	}
	assert.Empty(t, stock.Card{Item: "fuse", Low: 5}.Wrong())
	assert.Contains(t, stock.Supplier{Name: "Harbour Parts", Lead: -1}.Wrong(), "0 to 250 working days, not -1")
	assert.Contains(t, stock.Supplier{}.Wrong(), "a name")
}

// What the book says there is stands on the shelf; what it does not know stays as it was written there.
func TestTheShelfIsCountedByTheBook(t *testing.T) {
	was := shelf.Shelf{
		Panels: []shelf.Panel{{Name: "first", OnHand: 9}, {Name: "second", OnHand: 4}, {Name: "third", OnHand: 2}},
		Cables: []shelf.Cable{{Name: "thin", Spools: []shelf.Spool{{Metres: 80}}}, {Name: "thick", Spools: []shelf.Spool{{Metres: 7}}}},
	}
	book := stock.Of([]stock.Move{
		{Kind: stock.Receipt, Item: "second", Place: "Shop", Quantity: 5}, {Kind: stock.Receipt, Item: "second", Place: "Van 1", Quantity: 1}, {Kind: stock.Receipt, Item: "third", Place: "Shop", Quantity: 1}, {Kind: stock.Use, Item: "third", Place: "Shop", Quantity: 1},
		{Kind: stock.Receipt, Item: "thin", Unit: "m", Place: "Shop", Lot: "1", Colour: "red", Quantity: 12}, {Kind: stock.Receipt, Item: "thin", Unit: "m", Place: "Van 1", Lot: "2", Quantity: 3},
	})
	is := book.OnShelf(was)
	assert.Equal(t, []float64{9, 6, 0}, []float64{is.Panels[0].OnHand, is.Panels[1].OnHand, is.Panels[2].OnHand})
	assert.Equal(t, []shelf.Spool{{Metres: 12, Colour: "red"}, {Metres: 3}}, is.Cables[0].Spools)
	assert.Equal(t, []shelf.Spool{{Metres: 7}}, is.Cables[1].Spools)
	assert.Equal(t, 4.0, was.Panels[1].OnHand, "the shelf itself is as it was")
	assert.Equal(t, was, stock.Book{}.OnShelf(was), "a crew that keeps no book has its shelf")
}

// shopping is a chance book with what jobs need of it: pieces of fuses, and cable to be cut.
func shopping(t *rapid.T) (moves []stock.Move, needs []stock.Need) {
	for n := range rapid.IntRange(0, 6).Draw(t, "receipts") {
		m := stock.Move{Kind: stock.Receipt, Item: rapid.SampledFrom([]string{"fuse", "lug"}).Draw(t, "item"), Place: rapid.SampledFrom([]string{"Shop", "Van 1"}).Draw(t, "place"), Quantity: float64(rapid.IntRange(1, 9).Draw(t, "quantity"))}
		if rapid.Bool().Draw(t, "cable") {
			m.Item, m.Unit, m.Lot = "cable", "m", fmt.Sprint("spool ", n)
			m.Colour = rapid.SampledFrom([]string{"", "red", "black"}).Draw(t, "colour")
		}
		moves = append(moves, m)
	}
	for range rapid.IntRange(0, 3).Draw(t, "orders") {
		moves = append(moves, stock.Move{Kind: stock.Order, Item: "fuse", Quantity: float64(rapid.IntRange(1, 6).Draw(t, "ordered")), Due: rapid.SampledFrom([]string{"2027-05-01", "2027-05-12"}).Draw(t, "due")})
	}
	for job := range rapid.IntRange(0, 4).Draw(t, "jobs") {
		day := rapid.SampledFrom([]string{"", "2027-05-05", "2027-05-20"}).Draw(t, "day")
		for _, item := range []string{"fuse", "lug"} {
			needs = append(needs, stock.Need{Job: job + 1, Day: day, Item: item, Quantity: float64(rapid.IntRange(1, 8).Draw(t, "needed"))})
		}
		cable := stock.Need{Job: job + 1, Day: day, Item: "cable", Unit: "m"}
		for range rapid.IntRange(1, 3).Draw(t, "pieces") {
			piece := cut.Piece{Length: units.Millimetre(rapid.IntRange(200, 6_000).Draw(t, "length")), Colour: rapid.SampledFrom([]string{"red", "black"}).Draw(t, "of")}
			cable.Pieces, cable.Quantity = append(cable.Pieces, piece), cable.Quantity+float64(piece.Length)/1000
		}
		needs = append(needs, cable)
	}
	return moves, needs
}

// Whatever there is and whoever needs it: nobody gets more than they need, all together no more than
// there is, and of pieces nobody lacks any while some are left; what is not late has come in time.
func TestSharesAreWhatThereIs(t *testing.T) {
	rapid.Check(t, func(t *rapid.T) {
		moves, needs := shopping(t)
		book := stock.Of(moves)
		shares := book.Shares(needs, "2027-05-03")
		require.Len(t, shares, len(needs))
		has, missing := map[string]float64{}, map[string]float64{}
		for _, s := range shares {
			assert.InDelta(t, s.Quantity, s.Has+s.Missing, 1e-6)
			assert.GreaterOrEqual(t, s.Has, -1e-6)
			assert.GreaterOrEqual(t, s.Missing, 0.0)
			has[s.Item] += s.Has
			missing[s.Item] += s.Missing
			switch {
			case s.Missing == 0:
				assert.False(t, s.Late)
			case s.Comes == "":
				assert.True(t, s.Late)
			default:
				assert.GreaterOrEqual(t, s.Comes, "2027-05-03", "what should have come is not counted on")
				assert.Equal(t, s.Day != "" && s.Comes > s.Day, s.Late)
			}
		}
		for item, n := range has {
			assert.LessOrEqual(t, n, book.Has(item)+1e-6, item)
			if item != "cable" && missing[item] > 0 {
				assert.Equal(t, book.Has(item), n, "%s lacks some while some are left", item)
			}
		}
	})
}

// Whatever is proposed: ordered, and come in as one spool, nobody lacks anything and nothing is low.
func TestWhatIsProposedIsEnough(t *testing.T) {
	const today = "2027-05-03"
	shop := stock.Shop{Suppliers: []stock.Supplier{{Name: "Harbour Parts", Lead: 2}}, Cards: map[string]stock.Card{"fuse": {Item: "fuse", Supplier: "Harbour Parts", Low: 5, Full: 11, Pack: 4}, "lug": {Item: "lug", Low: 3}}}
	rapid.Check(t, func(t *rapid.T) {
		moves, needs := shopping(t)
		book := stock.Of(moves)
		for _, o := range book.Ordered { // what is on its way comes first
			moves = append(moves, stock.Move{Kind: stock.Receipt, Item: o.Item, Unit: o.Unit, Place: "Shop", Quantity: o.Quantity, Due: o.Due})
		}
		book = stock.Of(moves)
		require.Empty(t, book.Ordered)
		for n, p := range book.Propose(shop.Ask(book.Shares(needs, today), today), today, shop) {
			for _, b := range p.Buys {
				assert.Positive(t, b.Quantity)
				assert.Equal(t, shop.Cards[b.Item].Supplier, p.Supplier.Name)
				if pack := shop.Cards[b.Item].Pack; pack > 0 {
					assert.Zero(t, math.Mod(b.Quantity, pack), "whole packs")
				}
				m := stock.Move{Kind: stock.Receipt, Item: b.Item, Unit: b.Unit, Place: "Shop", Quantity: b.Quantity}
				if b.Unit == "m" {
					m.Lot = fmt.Sprint("new ", n)
				}
				require.Empty(t, stock.Of(moves).Refuse(m))
				moves = append(moves, m)
			}
		}
		after := stock.Of(moves)
		shares := after.Shares(needs, today)
		assert.Empty(t, stock.Lacking(shares))
		assert.Empty(t, after.Propose(shares, today, shop))
	})
}
