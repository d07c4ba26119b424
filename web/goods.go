package web

import (
	"errors"
	"fmt"
	"math"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"velvetroad/core/days"
	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/pull"
	"velvetroad/core/shelf"
	"velvetroad/core/stock"
	"velvetroad/core/units"
	"velvetroad/core/work"
	"velvetroad/store"
	"velvetroad/web/page"
	"velvetroad/web/page/goods"
)

// namedJobs are named of those that lack an item.
const namedJobs = 6

// shownLevels is how many rows of the stock a page has.
const shownLevels = 100

var moveKinds = []goods.Kind{{Value: "receipt", Text: "came in"}, {Value: "use", Text: "used"}, {Value: "back", Text: "came back from a job"}, {Value: "carry", Text: "carried to another place"}, {Value: "count", Text: "counted: there are"}, {Value: "lost", Text: "broken, lost or out of date"}, {Value: "order", Text: "ordered"}, {Value: "cancel", Text: "ordered, and does not come"}}

func amount(n float64, unit string) string {
	out := units.Num(n, 2)
	if unit != "" {
		out += " " + unit
	}
	return out
}

// mostLines is for how many jobs it is kept what they take.
const mostLines = 300

// mostShares is for how many states of a stock it is kept what each job gets of it.
const mostShares = 24

// linesKey is a job as it was when it was worked out what it takes.
type linesKey struct {
	crew     int64
	job      string
	revision int
}

// takes is what a job takes, and for which of its tasks.
type takes struct {
	pull.List
	by days.Takers
}

// taken is what a job takes. It is worked out once for a revision; what of it the shelf says
// (prices, what is on hand) is not looked at here.
func (s *Server) taken(crew int64, now store.Current) takes {
	key := linesKey{crew, now.Document.ID, now.Revision}
	if had, ok := s.lines.Get(key); ok {
		return had
	}
	p := plan.Of(now.Document, shelf.Shelf{})
	out := takes{List: pull.Of(now.Document, p, shelf.Shelf{})}
	tasks, _ := work.Of(now.Document, p, work.Carried(now.Document)) // a circle of own tasks is said at Build
	out.by = days.TakersOf(now.Document, tasks, out.Lines)
	s.lines.Add(key, out)
	return out
}

// first is the day on which work at a job begins: its own, or its plan's where that is earlier.
func first(d job.Document) string {
	day := d.Day
	for _, slot := range d.Schedule {
		if from, _, ok := slot.Span(); ok {
			if on := from.In(days.Zone(d)).Format(time.DateOnly); day == "" || on < day {
				day = on
			}
		}
	}
	return day
}

// needs are what booked jobs still take: what was written down as used for a job is not needed
// again.
func (s *Server) needs(crew int64, booked []store.Current, moves []stock.Move) (out []stock.Need) {
	type of struct {
		job  int
		item string
	}
	used := map[of]float64{}
	for _, m := range moves {
		switch {
		case m.Kind == stock.Use && m.Job > 0:
			used[of{m.Job, m.Item}] += m.Quantity
		case m.Kind == stock.Back && m.Job > 0:
			used[of{m.Job, m.Item}] -= m.Quantity
		}
	}
	for _, now := range booked {
		d := now.Document
		list := s.taken(crew, now)
		day := first(d)
		for _, l := range list.Lines {
			gone := used[of{d.Number, l.Name}]
			if l.Need-gone <= 0 {
				continue
			}
			n := stock.Need{Job: d.Number, Day: day, Item: l.Name, Unit: l.Unit, Quantity: math.Round((l.Need-gone)*1000) / 1000}
			if gone <= 0 && l.Unit != "" { // when some is cut nobody knows which pieces
				for _, k := range list.Cables {
					if k.Part.Name == l.Name {
						n.Pieces = append(n.Pieces, k.Pieces...)
					}
				}
			}
			out = append(out, n)
		}
	}
	return out
}

// looked is the crew's stock with what booked jobs get of it.
type looked struct {
	store.Stocked
	shop   stock.Shop
	booked []store.Current
	shares []stock.Share // none for a crew that keeps no book
	today  string
}

// look reads the stock, for booked jobs and others that are asked for.
func (s *Server) look(c *gin.Context, others ...store.Current) (l looked, err error) {
	ctx := c.Request.Context()
	if l.Stocked, err = s.crew(c).Stock(ctx); err != nil {
		return l, err
	}
	if l.booked, err = s.crew(c).Booked(ctx); err != nil {
		return l, err
	}
	if l.shop, err = s.crew(c).Shop(ctx); err != nil {
		return l, err
	}
	for _, other := range others {
		if !slices.ContainsFunc(l.booked, func(b store.Current) bool { return b.Document.ID == other.Document.ID }) {
			l.booked = append(l.booked, other)
		}
	}
	l.today = s.Now().In(s.zone(c)).Format(time.DateOnly)
	if len(l.Moves) == 0 {
		return l, nil
	}
	crew := s.who(c).Crew
	key := fmt.Sprint(crew, l.Last, l.today)
	for _, b := range l.booked {
		key += fmt.Sprint(" ", b.Document.ID, b.Revision)
	}
	shares, had := s.shares.Get(key)
	if !had {
		shares = l.Book.Shares(s.needs(crew, l.booked, l.Moves), l.today)
		s.shares.Add(key, shares)
	}
	l.shares = l.shop.Ask(shares, l.today)
	return l, nil
}

// shortOf is what a job lacks beside what booked ones take before it.
func (s *Server) shortOf(c *gin.Context, now store.Current) (out []stock.Share, err error) {
	short, err := s.missing(c, now)
	for _, one := range short {
		if one.Job == now.Document.Number {
			one.Pieces = nil // how long they are the list of materials says
			out = append(out, one)
		}
	}
	return out, err
}

// missing is what booked jobs lack, and others that are asked for; nothing for a crew that keeps
// no book.
func (s *Server) missing(c *gin.Context, others ...store.Current) ([]stock.Share, error) {
	l, err := s.look(c, others...)
	return stock.Lacking(l.shares), err
}

// stockPage is the page of the stock.
func (s *Server) stockPage(c *gin.Context) { s.goods(c, http.StatusOK, goods.Stock{}) }

func (s *Server) goods(c *gin.Context, status int, m goods.Stock) {
	l, err := s.look(c)
	if err != nil {
		s.fail(c, err)
		return
	}
	m.Text, m.Place, m.Kinds, m.ID = c.Query("q"), c.Query("place"), moveKinds, uuid.NewString()
	if m.Typed == nil {
		m.Typed = map[string]string{"place": "Shop"}
	}
	links := l.links()
	m.Places = l.places()
	for _, v := range l.Book.Levels {
		if !slices.Contains(m.Items, v.Item) && len(m.Items) < shownLevels {
			m.Items = append(m.Items, v.Item)
		}
		if text := strings.ToLower(m.Text); !strings.Contains(strings.ToLower(v.Item), text) && !strings.Contains(strings.ToLower(v.Lot), text) || m.Place != "" && m.Place != v.Place {
			continue
		}
		if len(m.Levels) == shownLevels {
			m.More = true
			continue
		}
		one := level(v)
		one.Bin = l.bin(v.Item, v.Place)
		m.Levels = append(m.Levels, one)
	}
	for _, n := range l.shares {
		if !slices.Contains(m.Items, n.Item) && len(m.Items) < 2*shownLevels {
			m.Items = append(m.Items, n.Item)
		}
	}
	slices.Sort(m.Items)
	lacks := map[string]float64{}
	for _, short := range stock.Lacking(l.shares) { // by item, as it is ordered; by the day on which it is needed first
		at := slices.IndexFunc(m.Missing, func(o goods.Missing) bool { return o.Item == short.Item })
		if at < 0 {
			m.Missing, at = append(m.Missing, goods.Missing{Item: short.Item, Link: itemLink(short.Item), Day: short.Day, Comes: short.Comes, Could: short.Could}), len(m.Missing)
		}
		one := &m.Missing[at]
		lacks[short.Item] += short.Missing
		one.Lacks, one.Late = amount(lacks[short.Item], short.Unit), one.Late || short.Late
		if short.Comes == "" {
			one.Comes = ""
		}
		if len(one.Jobs) < namedJobs {
			one.Jobs = append(one.Jobs, goods.For{Number: short.Job, Link: links[short.Job]})
		} else {
			one.More++
		}
	}
	for _, p := range l.Book.Propose(l.shares, l.today, l.shop) {
		m.Orders += len(p.Buys)
		for _, b := range p.Buys {
			if b.Low > 0 {
				m.Low = append(m.Low, goods.Low{Item: b.Item, Link: itemLink(b.Item), Free: amount(b.Free, b.Unit), Mark: amount(b.Low, b.Unit)})
			}
		}
	}
	orders := map[string]int{}
	for _, move := range l.Moves {
		if move.Kind == stock.Order {
			orders[move.Item]++
		}
	}
	for _, o := range l.Book.Ordered {
		// By the order's line and what of it is still to come: pressed twice, in one tab or two, it comes once.
		id := lineID("ordered", o.Item, o.Due, o.Supplier, strconv.Itoa(orders[o.Item]), strconv.FormatFloat(o.Quantity, 'g', -1, 64))
		m.Ordered = append(m.Ordered, goods.Ordered{ID: id, Item: o.Item, Unit: o.Unit, Number: strconv.FormatFloat(o.Quantity, 'f', -1, 64), Quantity: amount(o.Quantity, o.Unit), Due: o.Due, Supplier: o.Supplier, Over: o.Due < l.today})
	}
	out, soon := l.Book.Old(s.Now().UTC().Truncate(24 * time.Hour))
	for says, list := range map[string][]stock.Level{"out of date": out, "within a month": soon} {
		for _, v := range list {
			one := level(v)
			one.Says = says
			m.Old = append(m.Old, one)
		}
	}
	slices.SortFunc(m.Old, func(a, b goods.Level) int { return strings.Compare(a.BestBefore+a.Item, b.BestBefore+b.Item) })
	s.render(c, status, "stock", &page.View{Title: "Stock", Given: m})
}

// links are the lists of booked jobs by their numbers.
func (l looked) links() map[int]string {
	out := map[int]string{}
	for _, b := range l.booked {
		out[b.Document.Number] = "/jobs/" + b.Document.ID + "/materials"
	}
	return out
}

// places are where there is something, with the shop among them.
func (l looked) places() []string {
	out := []string{"Shop"}
	for _, v := range l.Book.Levels {
		if !slices.Contains(out, v.Place) {
			out = append(out, v.Place)
		}
	}
	slices.Sort(out[1:])
	return out
}

// bin is where an item lies at a place.
func (l looked) bin(item, place string) string {
	if card := l.shop.Cards[item]; isVan(place) {
		return card.Van
	} else {
		return card.Bin
	}
}

// isVan tells whether a place is a van: it is called so.
func isVan(place string) bool { return strings.Contains(strings.ToLower(place), "van") }

func itemLink(item string) string { return "/stock/item?item=" + url.QueryEscape(item) }

func level(l stock.Level) goods.Level {
	out := goods.Level{Item: l.Item, Link: itemLink(l.Item), Place: l.Place, Lot: l.Lot, Quantity: amount(l.Quantity, l.Unit), BestBefore: l.BestBefore}
	if l.Made > l.Quantity && l.Unit == "m" {
		out.Quantity += " of " + amount(l.Made, l.Unit)
	}
	if l.Offcut() {
		out.Says = "offcut"
	}
	if l.Colour != "" {
		out.Lot = strings.TrimSpace(out.Lot + ", " + l.Colour)
	}
	return out
}

// lineID is the same ID for the same words: what is written down of the same line twice is there once.
func lineID(of ...string) string {
	return uuid.NewSHA1(uuid.NameSpaceOID, []byte(strings.Join(of, "\x00"))).String()
}

// sentID is the ID with which a page was made: what it sends twice is there once.
func sentID(c *gin.Context) string {
	if id, err := uuid.Parse(c.PostForm("id")); err == nil {
		return id.String()
	}
	return uuid.NewString()
}

// moveStock writes a movement.
func (s *Server) moveStock(c *gin.Context) {
	typed := map[string]string{}
	for _, key := range []string{"kind", "item", "unit", "place", "to", "lot", "colour", "quantity", "best_before", "due", "supplier", "job", "note"} {
		typed[key] = strings.TrimSpace(c.PostForm(key))
	}
	refuse := func(says string) {
		s.goods(c, http.StatusUnprocessableEntity, goods.Stock{Says: []string{units.Capital(says) + "."}, Typed: typed})
	}
	n, err := units.Number(strings.Replace(typed["quantity"], ",", ".", 1))
	if err != nil {
		refuse(fmt.Sprintf("write how many as a number, not %q", typed["quantity"]))
		return
	}
	number, err := strconv.Atoi(typed["job"])
	if typed["job"] != "" && err != nil {
		refuse(fmt.Sprintf("a job has a number, not %q", typed["job"]))
		return
	}
	m := stock.Move{ID: sentID(c), Kind: stock.Kind(typed["kind"]), Item: typed["item"], Unit: typed["unit"], Place: typed["place"], To: typed["to"], Lot: typed["lot"], Colour: typed["colour"], Quantity: n,
		BestBefore: typed["best_before"], Due: typed["due"], Supplier: typed["supplier"], Job: number, Note: typed["note"], By: s.who(c).Name, At: s.Now().UTC().Format(time.RFC3339)}
	if err := s.crew(c).Move(c.Request.Context(), m); err != nil {
		if errors.Is(err, store.ErrMove) {
			refuse(strings.TrimPrefix(err.Error(), store.ErrMove.Error()+": "))
			return
		}
		s.fail(c, err)
		return
	}
	if c.PostForm("then") == "item" {
		c.Redirect(http.StatusSeeOther, itemLink(m.Item))
		return
	}
	c.Redirect(http.StatusSeeOther, "/stock?q="+url.QueryEscape(m.Item))
}

// usedStock takes off the stock what a job's record says was built. What is not at the place is
// said, and not taken.
func (s *Server) usedStock(c *gin.Context) {
	ctx := c.Request.Context()
	refuse := func(says ...string) { s.goods(c, http.StatusUnprocessableEntity, goods.Stock{Says: says}) }
	place := strings.TrimSpace(c.PostForm("place"))
	jobs, err := s.crew(c).Jobs(ctx, "")
	if err != nil {
		s.fail(c, err)
		return
	}
	at := slices.IndexFunc(jobs, func(j store.Job) bool { return strconv.Itoa(j.Number) == strings.TrimSpace(c.PostForm("job")) })
	if at < 0 {
		refuse(fmt.Sprintf("There is no job %q.", c.PostForm("job")))
		return
	}
	full, err := s.crew(c).Job(ctx, jobs[at].ID, 0)
	if err != nil {
		s.fail(c, err)
		return
	}
	if len(full.Document.Record.Built) == 0 {
		refuse(fmt.Sprintf("Nothing is recorded as built in job %d yet.", jobs[at].Number))
		return
	}
	now, err := s.crew(c).Stock(ctx)
	if err != nil {
		s.fail(c, err)
		return
	}
	full.Document, full.Revision = full.Document.AsBuilt(), -full.Revision // other lines than the plan's
	before := 0                                                            // lines that were taken off for the job: pressed twice, it is the same
	for _, m := range now.Moves {
		if (m.Kind == stock.Use || m.Kind == stock.Back) && m.Job == jobs[at].Number {
			before++
		}
	}
	var moves []stock.Move
	var left []string
	for _, n := range s.needs(s.who(c).Crew, []store.Current{full}, now.Moves) {
		need := math.Ceil(n.Quantity*100) / 100
		lots := lotsOf(now.Book, n.Item, place)
		if _, metres := stock.Cuts(lots, n.Pieces); len(n.Pieces) > 0 { // each piece in one
			for i := range lots {
				lots[i].Quantity = math.Ceil(metres[i]*1000) / 1000
			}
		}
		for _, l := range lots {
			if take := min(need, l.Quantity); take > 0 {
				need -= take
				moves = append(moves, stock.Move{ID: lineID("used", jobs[at].ID, n.Item, l.Lot, strconv.Itoa(before)), Kind: stock.Use, Item: n.Item, Unit: n.Unit, Place: place, Lot: l.Lot, Quantity: take, Job: n.Job, By: s.who(c).Name, At: s.Now().UTC().Format(time.RFC3339)})
			}
		}
		if need > 0.005 {
			left = append(left, amount(need, n.Unit)+" of "+n.Item)
		}
	}
	if err := s.crew(c).Move(ctx, moves...); err != nil {
		if errors.Is(err, store.ErrMove) {
			refuse(units.Capital(strings.TrimPrefix(err.Error(), store.ErrMove.Error()+": ")) + ".")
			return
		}
		s.fail(c, err)
		return
	}
	says := []string{fmt.Sprintf("%s taken off for job %d.", units.Count(len(moves), "thing"), jobs[at].Number)}
	if len(left) > 0 {
		says = append(says, fmt.Sprintf("Not at %s, so not taken off: %s.", place, strings.Join(left, "; ")))
	}
	s.goods(c, http.StatusOK, goods.Stock{Says: says})
}

// lotsOf are the lots of an item at a place, what is best before the others first.
func lotsOf(b stock.Book, item, place string) (lots []stock.Level) {
	for _, l := range b.Levels {
		if l.Item == item && l.Place == place {
			lots = append(lots, l)
		}
	}
	slices.SortStableFunc(lots, func(a, b stock.Level) int {
		return strings.Compare(orElse(a.BestBefore, "9999"), orElse(b.BestBefore, "9999"))
	})
	return lots
}

// bookCSV are all movements.
func (s *Server) bookCSV(c *gin.Context) {
	now, err := s.crew(c).Stock(c.Request.Context())
	if err != nil {
		s.fail(c, err)
		return
	}
	rows := [][]string{{"at", "by", "kind", "item", "unit", "place", "to", "lot", "quantity", "job", "supplier", "due", "note"}}
	for _, m := range now.Moves {
		number := ""
		if m.Job > 0 {
			number = strconv.Itoa(m.Job)
		}
		rows = append(rows, []string{m.At, m.By, string(m.Kind), m.Item, m.Unit, m.Place, m.To, m.Lot, strconv.FormatFloat(m.Quantity, 'f', -1, 64), number, m.Supplier, m.Due, m.Note})
	}
	s.table(c, "stock-book.csv", rows)
}
