package web

import (
	"cmp"
	"context"
	"fmt"
	"slices"
	"sync"
	"time"
)

// queue gives a few places to those who wait, in the order in which they came.
type queue struct {
	mu    sync.Mutex
	free  int
	under int // how many have a place
	line  []*waiter
}

// waiter is one who waits. Who was away for a moment, because no request waits for ever, has their place in the line
// again when they ask again in time.
type waiter struct {
	who   string
	turn  chan struct{} // closed when the place is theirs
	moved chan struct{} // has one in it when somebody before them went
	left  time.Time     // zero: they are here
}

// mostInLine limits the line: who comes then is sent away at once.
const mostInLine = 200

// returning holds how long the place in the line of one who is away is kept.
const returning = 5 * time.Second

func newQueue(places int) *queue { return &queue{free: max(1, places)} }

// errTurn holds how many are before one who waited as long as a request may.
type errTurn struct{ Before int }

func (e *errTurn) Error() string {
	if e.Before == 0 {
		return "yours is next on this server: ask again in a moment"
	}
	return waiting(e.Before) + " on this server: ask again in a moment"
}

// waiting says how many searches are before one.
func waiting(before int) string {
	if before == 1 {
		return "1 search is before yours"
	}
	return fmt.Sprintf("%d searches are before yours", before)
}

// enter waits for a place for as long as patience, 0 for as long as the context. Tell hears how many are before,
// whenever it changes; it may be nil, and who it tells no more by returning false gives up. Done gives the place
// back. Errors: *errTurn, or the context's.
func (q *queue) enter(ctx context.Context, who string, patience time.Duration, tell func(before int) bool) (done func(), err error) {
	q.mu.Lock()
	if q.free > 0 && q.before(nil) == 0 {
		q.free--
		q.under++
		q.line = slices.DeleteFunc(q.line, func(w *waiter) bool { return w.who == who })
		q.mu.Unlock()
		return q.leave, nil
	}
	if len(q.line) >= mostInLine {
		q.mu.Unlock()
		return nil, &errTurn{mostInLine}
	}
	w := q.join(who)
	before, told := q.before(w), -1
	q.mu.Unlock()
	var late <-chan time.Time
	if patience > 0 {
		late = time.After(patience)
	}
	for {
		if tell != nil && before != told && !tell(before) {
			return nil, q.away(w, false, context.Canceled)
		}
		told = before
		select {
		case <-w.turn:
			return q.leave, nil
		case <-w.moved:
			q.mu.Lock()
			if slices.Contains(q.line, w) { // else it is their turn
				before = q.before(w)
			}
			q.mu.Unlock()
		case <-ctx.Done():
			return nil, q.away(w, false, ctx.Err())
		case <-late:
			return nil, q.away(w, true, nil)
		}
	}
}

// join puts somebody in the line: where they were, if they come back in time, else at its end.
func (q *queue) join(who string) *waiter {
	now := time.Now()
	q.line = slices.DeleteFunc(q.line, func(w *waiter) bool { return !w.left.IsZero() && now.Sub(w.left) > returning })
	for _, w := range q.line {
		if w.who == who && !w.left.IsZero() {
			w.left = time.Time{}
			return w
		}
	}
	w := &waiter{who: who, turn: make(chan struct{}), moved: make(chan struct{}, 1)}
	q.line = append(q.line, w)
	return w
}

// before counts those in the line before one, who are here or may come back; of nil all who are here.
func (q *queue) before(w *waiter) (n int) {
	for _, o := range q.line {
		if o == w {
			return n
		}
		if w != nil || o.left.IsZero() {
			n++
		}
	}
	return n
}

// away takes somebody out of the line, or keeps their place for a moment. Whoever had been given a place in the same
// instant hands it on.
func (q *queue) away(w *waiter, back bool, err error) error {
	q.mu.Lock()
	defer q.mu.Unlock()
	select {
	case <-w.turn:
		q.give()
		return cmp.Or[error](err, &errTurn{})
	default:
	}
	before := q.before(w)
	if back {
		w.left = time.Now()
	} else {
		q.line = slices.DeleteFunc(q.line, func(o *waiter) bool { return o == w })
		q.move()
	}
	return cmp.Or[error](err, &errTurn{before})
}

// leave gives a place back.
func (q *queue) leave() {
	q.mu.Lock()
	defer q.mu.Unlock()
	q.give()
}

// give hands a place to the first in the line who is here, or keeps it free.
func (q *queue) give() {
	at := slices.IndexFunc(q.line, func(w *waiter) bool { return w.left.IsZero() })
	if at < 0 {
		q.free++
		q.under--
		return
	}
	w := q.line[at]
	q.line = slices.Delete(q.line, at, at+1)
	close(w.turn)
	q.move()
}

// move tells those in the line that somebody before them may have gone.
func (q *queue) move() {
	for _, w := range q.line {
		select {
		case w.moved <- struct{}{}:
		default: // they have not heard of the last one yet
		}
	}
}

// others gives a search's place to whoever waits longest for one, and takes one again after them: a search of a
// minute does not keep one of a second out.
func (q *queue) others() {
	q.mu.Lock()
	if q.before(nil) == 0 {
		q.mu.Unlock()
		return
	}
	q.give()
	w := &waiter{turn: make(chan struct{}), moved: make(chan struct{}, 1)}
	q.line = append(q.line, w)
	q.mu.Unlock()
	<-w.turn
}

// count returns how many have a place, and how many wait for one.
func (q *queue) count() (under, waiting int) {
	q.mu.Lock()
	defer q.mu.Unlock()
	return q.under, q.before(nil)
}
