package stock_test

import (
	"testing"
	"time"

	"github.com/stretchr/testify/assert"

	"velvetroad/core/shelf"
	"velvetroad/core/stock"
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
