package web_test

import (
	"context"
	"sync"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/web"
)

// Twenty who want the same place get it in the order in which they came, and each hears how many are before them.
func TestALineIsServedInItsOrder(t *testing.T) {
	q := web.NewQueue(1)
	first, err := q.Enter(t.Context(), "first", 0, nil)
	require.NoError(t, err)
	var mu sync.Mutex
	var order []int
	heard := make([][]int, 20)
	var all sync.WaitGroup
	for n := range 20 {
		stands := make(chan bool, 1)
		all.Go(func() {
			done, err := q.Enter(t.Context(), "somebody", 0, func(before int) bool {
				mu.Lock()
				defer mu.Unlock()
				heard[n] = append(heard[n], before)
				select {
				case stands <- true:
				default:
				}
				return true
			})
			if !assert.NoError(t, err) {
				return
			}
			mu.Lock()
			order = append(order, n)
			mu.Unlock()
			done()
		})
		<-stands
	}
	first()
	all.Wait()
	for n := range 20 {
		assert.Equal(t, n, order[n])
		assert.Equal(t, n, heard[n][0], "so many came before")
		assert.IsDecreasing(t, append([]int{1000}, heard[n]...))
	}
	under, waiting := q.Count()
	assert.Equal(t, []int{0, 0}, []int{under, waiting})
}

// Who waited as long as a request may has their place in the line when they ask again; who goes away for good is
// not waited for, and nobody hands a place to one who has gone.
func TestAPlaceInTheLineIsKept(t *testing.T) {
	q := web.NewQueue(1)
	first, err := q.Enter(t.Context(), "first", 0, nil)
	require.NoError(t, err)
	_, err = q.Enter(t.Context(), "early", time.Millisecond, nil)
	assert.EqualError(t, err, "yours is next on this server: ask again in a moment")
	_, err = q.Enter(t.Context(), "late", time.Millisecond, nil)
	assert.EqualError(t, err, "1 search is before yours on this server: ask again in a moment")
	gone, leave := context.WithCancel(t.Context())
	leave()
	_, err = q.Enter(gone, "gone", 0, nil)
	assert.ErrorIs(t, err, context.Canceled)

	got := make(chan string, 2)
	for _, who := range []string{"late", "early"} { // they ask again the other way round
		stands := make(chan bool, 1)
		go func() {
			done, err := q.Enter(t.Context(), who, 0, func(int) bool {
				select {
				case stands <- true:
				default:
				}
				return true
			})
			if err == nil {
				got <- who
				done()
			}
		}()
		<-stands
	}
	first()
	assert.Equal(t, "early", <-got)
	assert.Equal(t, "late", <-got)

	// A place that is free is had at once, though somebody who went may still come back.
	first, err = q.Enter(t.Context(), "first", 0, nil)
	require.NoError(t, err)
	_, err = q.Enter(t.Context(), "away", time.Millisecond, nil)
	require.Error(t, err)
	first()
	done, err := q.Enter(t.Context(), "other", time.Millisecond, nil)
	require.NoError(t, err)
	done()
	q.Others() // nobody waits: nothing is given away
	under, waiting := q.Count()
	assert.Equal(t, []int{0, 0}, []int{under, waiting})
}
