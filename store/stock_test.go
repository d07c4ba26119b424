package store_test

import (
	"sync"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/stock"
	"velvetroad/store"
	"velvetroad/store/storetest"
)

// Of four fuses two people each take three at the same moment: one of them is told that there are
// not so many, and the book never goes below nothing. What is sent twice is there once, rows of
// which one cannot be are all left out, and another crew has a book of its own.
func TestStockIsTakenOneAfterTheOther(t *testing.T) {
	s := storetest.New(t)
	c, _ := storetest.CrewIn(t, s, "One")
	ctx := t.Context()
	in := stock.Move{ID: uuid.NewString(), Kind: stock.Receipt, Item: "fuse", Place: "Shop", Quantity: 4}
	require.NoError(t, c.Move(ctx, in))
	require.NoError(t, c.Move(ctx, in))
	take := func() stock.Move {
		return stock.Move{ID: uuid.NewString(), Kind: stock.Use, Item: "fuse", Place: "Shop", Quantity: 3}
	}
	var wait sync.WaitGroup
	wrong := make([]error, 2)
	for i := range wrong {
		wait.Go(func() { wrong[i] = c.Move(ctx, take()) })
	}
	wait.Wait()
	if wrong[0] == nil {
		wrong[0], wrong[1] = wrong[1], wrong[0]
	}
	assert.ErrorIs(t, wrong[0], store.ErrMove)
	assert.ErrorContains(t, wrong[0], "there are 1 of fuse at Shop")
	assert.NoError(t, wrong[1])
	now, err := c.Stock(ctx)
	require.NoError(t, err)
	assert.Equal(t, 1.0, now.Book.At("fuse", "Shop", ""))
	assert.Len(t, now.Moves, 2)

	err = c.Move(ctx, stock.Move{ID: uuid.NewString(), Kind: stock.Receipt, Item: "lug", Place: "Shop", Quantity: 9}, take())
	assert.ErrorContains(t, err, "row 2: there are 1 of fuse at Shop")
	again, err := c.Stock(ctx)
	require.NoError(t, err)
	assert.Equal(t, now, again)
	other, _ := storetest.CrewIn(t, s, "Another crew")
	theirs, err := other.Stock(ctx)
	require.NoError(t, err)
	assert.Empty(t, theirs.Moves)
}

// Cards and suppliers are kept by their names, all or none, and are a crew's own; a card that says
// nothing goes, and items keep the name of a supplier that went.
func TestCardsAndSuppliersAreACrewsOwn(t *testing.T) {
	s := storetest.New(t)
	ours, _ := storetest.CrewIn(t, s, "One")
	theirs, _ := storetest.CrewIn(t, s, "Two")
	ctx := t.Context()
	fuse := stock.Card{Item: "fuse", Supplier: "Harbour Parts", Low: 4, Full: 10, Bin: "Drawer 4"}
	require.NoError(t, ours.SetCards(ctx, fuse, stock.Card{Item: "lug", Van: "Left"}))
	require.NoError(t, ours.SetSupplier(ctx, stock.Supplier{Name: "Harbour Parts", Lead: 2}))
	require.NoError(t, theirs.SetCards(ctx, stock.Card{Item: "fuse", Low: 1}))
	require.NoError(t, theirs.SetSupplier(ctx, stock.Supplier{Name: "Harbour Parts", Lead: 9}))
	shop, err := ours.Shop(ctx)
	require.NoError(t, err)
	assert.Equal(t, stock.Shop{Cards: map[string]stock.Card{"fuse": fuse, "lug": {Item: "lug", Van: "Left"}}, Suppliers: []stock.Supplier{{Name: "Harbour Parts", Lead: 2}}}, shop)

	err = ours.SetCards(ctx, stock.Card{Item: "lug", Van: "Right"}, stock.Card{Item: "fuse", Low: 4, Full: 2})
	assert.ErrorIs(t, err, store.ErrMove)
	assert.ErrorContains(t, err, "row 2: full is not less than low: 2 and 4")
	again, err := ours.Shop(ctx)
	require.NoError(t, err)
	assert.Equal(t, shop, again, "none of them is kept")

	require.NoError(t, ours.SetCards(ctx, stock.Card{Item: "lug"}))
	require.NoError(t, ours.DropSupplier(ctx, "Harbour Parts"))
	assert.ErrorIs(t, ours.SetSupplier(ctx, stock.Supplier{Name: "Harbour Parts", Lead: -1}), store.ErrMove)
	shop, err = ours.Shop(ctx)
	require.NoError(t, err)
	assert.Equal(t, stock.Shop{Cards: map[string]stock.Card{"fuse": fuse}}, shop)
	shop, err = theirs.Shop(ctx)
	require.NoError(t, err)
	assert.Equal(t, stock.Shop{Cards: map[string]stock.Card{"fuse": {Item: "fuse", Low: 1}}, Suppliers: []stock.Supplier{{Name: "Harbour Parts", Lead: 9}}}, shop)
}
