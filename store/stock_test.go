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
