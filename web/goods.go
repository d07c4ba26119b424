package web

import (
	"bytes"
	"encoding/csv"
	"errors"
	"fmt"
	"io"
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
	"velvetroad/core/plan"
	"velvetroad/core/pull"
	"velvetroad/core/shelf"
	"velvetroad/core/stock"
	"velvetroad/core/units"
	"velvetroad/store"
	"velvetroad/web/page"
	"velvetroad/web/page/diary"
	"velvetroad/web/page/goods"
)

// shownLevels is how many rows of the stock a page has.
const shownLevels = 100

var moveKinds = []goods.Kind{{Value: "receipt", Text: "came in"}, {Value: "use", Text: "used"}, {Value: "back", Text: "came back from a job"}, {Value: "carry", Text: "carried to another place"}, {Value: "count", Text: "counted: there are"}, {Value: "lost", Text: "broken, lost or out of date"}, {Value: "order", Text: "ordered"}}

func amount(n float64, unit string) string {
	out := units.Num(n, 2)
	if unit != "" {
		out += " " + unit
	}
	return out
}

// mostLines is for how many jobs their lines are kept.
const mostLines = 300

// linesKey is a job as it was when its lines were worked out.
type linesKey struct {
	job      string
	revision int
}

// taken are the lines that a job takes. They are worked out once for a revision; what of them the
// shelf says (prices, what is on hand) is not looked at here.
func (s *Server) taken(now store.Current) []pull.Line {
	key := linesKey{now.Document.ID, now.Revision}
	if lines, ok := s.lines.Get(key); ok {
		return lines
	}
	lines := pull.Of(now.Document, plan.Of(now.Document, shelf.Shelf{}), shelf.Shelf{}).Lines
	s.lines.Add(key, lines)
	return lines
}

// needs are what booked jobs still take: what was written down as used for a job is not needed
// again.
func (s *Server) needs(booked []store.Current, moves []stock.Move) (out []stock.Need) {
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
		day := d.Day
		for _, slot := range d.Schedule {
			if from, _, ok := slot.Span(); ok {
				if on := from.In(days.Zone(d)).Format(time.DateOnly); day == "" || on < day {
					day = on
				}
			}
		}
		for _, l := range s.taken(now) {
			if n := l.Need - used[of{d.Number, l.Name}]; n > 0 {
				out = append(out, stock.Need{Job: d.Number, Day: day, Item: l.Name, Unit: l.Unit, Quantity: math.Round(n*100) / 100})
			}
		}
	}
	return out
}

// missing is what booked jobs lack, and others that are asked for; nothing for a crew that keeps
// no book.
func (s *Server) missing(c *gin.Context, others ...store.Current) ([]stock.Short, error) {
	now, err := s.crew(c).Stock(c.Request.Context())
	if err != nil || len(now.Moves) == 0 {
		return nil, err
	}
	booked, err := s.crew(c).Booked(c.Request.Context())
	for _, other := range others {
		if !slices.ContainsFunc(booked, func(b store.Current) bool { return b.Document.ID == other.Document.ID }) {
			booked = append(booked, other)
		}
	}
	return now.Book.Missing(s.needs(booked, now.Moves)), err
}

// stockPage is the page of the stock.
func (s *Server) stockPage(c *gin.Context) { s.goods(c, http.StatusOK, goods.Stock{}) }

func (s *Server) goods(c *gin.Context, status int, m goods.Stock) {
	ctx := c.Request.Context()
	now, err := s.crew(c).Stock(ctx)
	if err != nil {
		s.fail(c, err)
		return
	}
	booked, err := s.crew(c).Booked(ctx)
	if err != nil {
		s.fail(c, err)
		return
	}
	m.Text, m.Place, m.Kinds = c.Query("q"), c.Query("place"), moveKinds
	if m.Typed == nil {
		m.Typed = map[string]string{"place": "Shop"}
	}
	links := map[int]string{}
	for _, b := range booked {
		links[b.Document.Number] = "/jobs/" + b.Document.ID + "/materials"
	}
	wanted := s.needs(booked, now.Moves)
	for _, l := range now.Book.Levels {
		if !slices.Contains(m.Places, l.Place) {
			m.Places = append(m.Places, l.Place)
		}
		if !slices.Contains(m.Items, l.Item) && len(m.Items) < shownLevels {
			m.Items = append(m.Items, l.Item)
		}
		if !strings.Contains(strings.ToLower(l.Item), strings.ToLower(m.Text)) || m.Place != "" && m.Place != l.Place {
			continue
		}
		if len(m.Levels) == shownLevels {
			m.More = true
			continue
		}
		m.Levels = append(m.Levels, level(l))
	}
	for _, n := range wanted {
		if !slices.Contains(m.Items, n.Item) && len(m.Items) < 2*shownLevels {
			m.Items = append(m.Items, n.Item)
		}
	}
	slices.Sort(m.Places)
	slices.Sort(m.Items)
	if len(now.Moves) > 0 { // a crew that keeps no book misses nothing in it
		lacks := map[string]float64{}
		for _, short := range now.Book.Missing(wanted) { // by item, as it is ordered; by the day on which it is needed first
			at := slices.IndexFunc(m.Missing, func(o goods.Missing) bool { return o.Item == short.Item })
			if at < 0 {
				m.Missing, at = append(m.Missing, goods.Missing{Item: short.Item, Day: short.Day, Comes: short.Comes}), len(m.Missing)
			}
			one := &m.Missing[at]
			lacks[short.Item] += short.Missing
			one.Lacks, one.Late = amount(lacks[short.Item], short.Unit), one.Late || short.Late
			if short.Comes == "" {
				one.Comes = ""
			}
			const named = 6
			if len(one.Jobs) < named {
				one.Jobs = append(one.Jobs, goods.For{Number: short.Job, Link: links[short.Job]})
			} else {
				one.More++
			}
		}
	}
	for _, o := range now.Book.Ordered {
		m.Ordered = append(m.Ordered, goods.Ordered{Item: o.Item, Quantity: amount(o.Quantity, o.Unit), Due: o.Due, Supplier: o.Supplier})
	}
	out, soon := now.Book.Old(s.Now().UTC().Truncate(24 * time.Hour))
	for says, list := range map[string][]stock.Level{"out of date": out, "within a month": soon} {
		for _, l := range list {
			one := level(l)
			one.Says = says
			m.Old = append(m.Old, one)
		}
	}
	slices.SortFunc(m.Old, func(a, b goods.Level) int { return strings.Compare(a.BestBefore+a.Item, b.BestBefore+b.Item) })
	s.render(c, status, "stock", &page.View{Title: "Stock", Given: m})
}

func level(l stock.Level) goods.Level {
	out := goods.Level{Item: l.Item, Place: l.Place, Lot: l.Lot, Quantity: amount(l.Quantity, l.Unit), BestBefore: l.BestBefore}
	if l.Made > l.Quantity && l.Unit == "m" {
		out.Quantity += " of " + amount(l.Made, l.Unit)
	}
	return out
}

// moveStock writes a movement.
func (s *Server) moveStock(c *gin.Context) {
	typed := map[string]string{}
	for _, key := range []string{"kind", "item", "unit", "place", "to", "lot", "quantity", "best_before", "due", "supplier", "job", "note"} {
		typed[key] = strings.TrimSpace(c.PostForm(key))
	}
	refuse := func(says string) {
		s.goods(c, http.StatusUnprocessableEntity, goods.Stock{Says: []string{page.Capital(says) + "."}, Typed: typed})
	}
	n, err := strconv.ParseFloat(strings.Replace(typed["quantity"], ",", ".", 1), 64)
	if err != nil {
		refuse(fmt.Sprintf("write how many as a number, not %q", typed["quantity"]))
		return
	}
	number, err := strconv.Atoi(typed["job"])
	if typed["job"] != "" && err != nil {
		refuse(fmt.Sprintf("a job has a number, not %q", typed["job"]))
		return
	}
	m := stock.Move{ID: uuid.NewString(), Kind: stock.Kind(typed["kind"]), Item: typed["item"], Unit: typed["unit"], Place: typed["place"], To: typed["to"], Lot: typed["lot"], Quantity: n,
		BestBefore: typed["best_before"], Due: typed["due"], Supplier: typed["supplier"], Job: number, Note: typed["note"], By: s.who(c).Name, At: s.Now().UTC().Format(time.RFC3339)}
	if err := s.crew(c).Move(c.Request.Context(), m); err != nil {
		if errors.Is(err, store.ErrMove) {
			refuse(strings.TrimPrefix(err.Error(), store.ErrMove.Error()+": "))
			return
		}
		s.fail(c, err)
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
	var moves []stock.Move
	var left []string
	for _, n := range s.needs([]store.Current{full}, now.Moves) {
		need := math.Ceil(n.Quantity*100) / 100
		for _, l := range lotsOf(now.Book, n.Item, place) {
			if take := min(need, l.Quantity); take > 0 {
				need -= take
				moves = append(moves, stock.Move{ID: uuid.NewString(), Kind: stock.Use, Item: n.Item, Unit: n.Unit, Place: place, Lot: l.Lot, Quantity: take, Job: n.Job, By: s.who(c).Name, At: s.Now().UTC().Format(time.RFC3339)})
			}
		}
		if need > 0.005 {
			left = append(left, amount(need, n.Unit)+" of "+n.Item)
		}
	}
	if err := s.crew(c).Move(ctx, moves...); err != nil {
		if errors.Is(err, store.ErrMove) {
			refuse(page.Capital(strings.TrimPrefix(err.Error(), store.ErrMove.Error()+": ")) + ".")
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

// mostCounted is how many rows a count as a table has.
const mostCounted = 10_000

// countStock takes a count in as a table, all of it or none.
func (s *Server) countStock(c *gin.Context) {
	refuse := func(says string) {
		s.goods(c, http.StatusUnprocessableEntity, goods.Stock{Says: []string{says}})
	}
	file, name, ok := s.upload(c, refuse)
	if !ok {
		return
	}
	defer func() { _ = file.Close() }()
	text, err := io.ReadAll(io.LimitReader(file, mostLog))
	if err != nil {
		s.fail(c, err)
		return
	}
	moves, err := Counted(string(text), s.who(c).Name, s.Now())
	if err == nil {
		err = s.crew(c).Move(c.Request.Context(), moves...)
		if err != nil && !errors.Is(err, store.ErrMove) {
			s.fail(c, err)
			return
		}
	}
	if err != nil {
		refuse(name + ": " + strings.TrimPrefix(err.Error(), store.ErrMove.Error()+": ") + ". Nothing was taken in.")
		return
	}
	c.Redirect(http.StatusSeeOther, "/stock")
}

// Counted reads a count as a table. The error says in which row something is wrong.
func Counted(text, by string, at time.Time) (out []stock.Move, err error) {
	r := csv.NewReader(strings.NewReader(strings.TrimPrefix(text, "\ufeff")))
	if head, _, _ := strings.Cut(text, "\n"); strings.Count(head, ";") > strings.Count(head, ",") {
		r.Comma = ';'
	}
	r.FieldsPerRecord, r.TrimLeadingSpace = -1, true
	rows, err := r.ReadAll()
	if err != nil {
		return nil, err
	}
	if len(rows) == 0 {
		return nil, errors.New("it is empty")
	}
	at0 := map[string]int{}
	for i, name := range rows[0] {
		at0[strings.ToLower(strings.TrimSpace(name))] = i
	}
	for _, need := range []string{"item", "place", "quantity"} {
		if _, has := at0[need]; !has {
			return nil, fmt.Errorf("its first line has no %q; the columns are item, unit, place, lot, quantity and best_before", need)
		}
	}
	if len(rows) > mostCounted {
		return nil, fmt.Errorf("it has %d rows; up to %d are taken in at once", len(rows), mostCounted)
	}
	for n, row := range rows[1:] {
		cell := func(key string) string {
			if i, has := at0[key]; has && i < len(row) {
				return strings.TrimSpace(row[i])
			}
			return ""
		}
		q, err := strconv.ParseFloat(strings.Replace(cell("quantity"), ",", ".", 1), 64)
		if err != nil {
			return nil, fmt.Errorf("row %d: %q is no number", n+2, cell("quantity"))
		}
		m := stock.Move{ID: uuid.NewString(), Kind: stock.Count, Item: cell("item"), Unit: cell("unit"), Place: cell("place"), Lot: cell("lot"), Quantity: q, BestBefore: cell("best_before"), By: by, At: at.UTC().Format(time.RFC3339)}
		out = append(out, m)
	}
	return out, nil
}

// stockCSV is what there is, as the table that a count comes in by.
func (s *Server) stockCSV(c *gin.Context) {
	now, err := s.crew(c).Stock(c.Request.Context())
	if err != nil {
		s.fail(c, err)
		return
	}
	rows := [][]string{{"item", "unit", "place", "lot", "quantity", "best_before"}}
	for _, l := range now.Book.Levels {
		rows = append(rows, []string{harmless(l.Item), l.Unit, harmless(l.Place), harmless(l.Lot), strconv.FormatFloat(l.Quantity, 'f', -1, 64), l.BestBefore})
	}
	s.table(c, "stock.csv", rows)
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
		rows = append(rows, []string{m.At, harmless(m.By), string(m.Kind), harmless(m.Item), m.Unit, harmless(m.Place), harmless(m.To), harmless(m.Lot), strconv.FormatFloat(m.Quantity, 'f', -1, 64), number, harmless(m.Supplier), m.Due, harmless(m.Note)})
	}
	s.table(c, "stock-book.csv", rows)
}

func (s *Server) table(c *gin.Context, name string, rows [][]string) {
	var b bytes.Buffer
	_ = csv.NewWriter(&b).WriteAll(rows) // a buffer takes all
	attach(c, name)
	c.Data(http.StatusOK, "text/csv; charset=utf-8", b.Bytes())
}

// loadPage is what a van takes along for the jobs of a day.
func (s *Server) loadPage(c *gin.Context) {
	s.load(c, http.StatusOK, c.Query("day"), c.Query("van"), c.Query("from"))
}

func (s *Server) load(c *gin.Context, status int, day, van, from string, says ...string) {
	ctx, zone := c.Request.Context(), s.zone(c)
	now, err := s.crew(c).Stock(ctx)
	if err != nil {
		s.fail(c, err)
		return
	}
	booked, err := s.crew(c).Booked(ctx)
	if err != nil {
		s.fail(c, err)
		return
	}
	on, err := time.ParseInLocation(time.DateOnly, day, zone)
	if err != nil {
		on = diary.Midnight(s.Now(), zone).AddDate(0, 0, 1)
	}
	m := goods.Load{Says: says, Day: on.Format(time.DateOnly), Title: "Load for " + on.Format("Monday 2 January"), Van: orElse(van, "Van 1"), From: orElse(from, "Shop")}
	for _, l := range now.Book.Levels {
		if !slices.Contains(m.Places, l.Place) {
			m.Places = append(m.Places, l.Place)
		}
	}
	slices.Sort(m.Places)
	link := func(t time.Time) string {
		return "/load?" + url.Values{"day": {t.Format(time.DateOnly)}, "van": {m.Van}, "from": {m.From}}.Encode()
	}
	m.Before, m.After = link(on.AddDate(0, 0, -1)), link(on.AddDate(0, 0, 1))
	for _, b := range booked {
		d := b.Document
		is := d.Day == m.Day
		for _, slot := range d.Schedule {
			if at, _, ok := slot.Span(); ok && at.In(zone).Format(time.DateOnly) == m.Day {
				is = true
			}
		}
		if !is {
			continue
		}
		one := goods.Job{Name: fmt.Sprintf("Job %d, %s", d.Number, d.Customer), Number: d.Number, Link: "/jobs/" + d.ID + "/materials"}
		for _, l := range s.taken(b) {
			loaded := 0.0
			for _, mv := range now.Moves {
				if mv.Kind != stock.Carry || mv.Job != d.Number || mv.Item != l.Name {
					continue
				}
				switch m.Van {
				case mv.To:
					loaded += mv.Quantity
				case mv.Place:
					loaded -= mv.Quantity
				}
			}
			here := 0.0
			for _, lv := range now.Book.Levels {
				if lv.Item == l.Name && lv.Place == m.From {
					here += lv.Quantity
				}
			}
			need := math.Ceil(l.Need*100) / 100
			line := goods.Line{ID: uuid.NewString(), Group: l.Group, Item: l.Name, Unit: l.Unit, Need: amount(need, l.Unit), Loaded: amount(loaded, l.Unit), Here: amount(here, l.Unit) + " at " + m.From, Done: loaded >= need-0.005}
			if left := math.Round((need-loaded)*100) / 100; left > 0 {
				if here <= 0 {
					line.Short = "None at " + m.From + "."
				} else {
					line.Take = strconv.FormatFloat(min(left, here), 'f', -1, 64)
					if here < left {
						line.Short = fmt.Sprintf("Only %s at %s.", amount(here, l.Unit), m.From)
					}
				}
			}
			if loaded > 0 {
				line.Back = strconv.FormatFloat(loaded, 'f', -1, 64)
			}
			one.Lines = append(one.Lines, line)
		}
		m.Jobs = append(m.Jobs, one)
	}
	s.render(c, status, "load", &page.View{Title: m.Title, Given: m})
}

func orElse(text, otherwise string) string {
	if text = strings.TrimSpace(text); text != "" {
		return text
	}
	return otherwise
}

// loadOne carries something into the van, or back out of it: from the lots that are best before
// the others.
func (s *Server) loadOne(c *gin.Context) {
	ctx := c.Request.Context()
	now, err := s.crew(c).Stock(ctx)
	if err != nil {
		s.fail(c, err)
		return
	}
	day, van, from := c.PostForm("day"), orElse(c.PostForm("van"), "Van 1"), orElse(c.PostForm("from"), "Shop")
	refuse := func(says string) { s.load(c, http.StatusUnprocessableEntity, day, van, from, page.Capital(says)+".") }
	n, err := strconv.ParseFloat(strings.Replace(strings.TrimSpace(c.PostForm("quantity")), ",", ".", 1), 64)
	if err != nil || n <= 0 {
		refuse(fmt.Sprintf("write how many as a number, not %q", c.PostForm("quantity")))
		return
	}
	number, err := strconv.Atoi(c.PostForm("job"))
	if _, wrong := uuid.Parse(c.PostForm("id")); err != nil || wrong != nil {
		refuse("the page is old: look again")
		return
	}
	place, to := from, van
	if c.PostForm("do") == "back" {
		place, to = van, from
	}
	lots := lotsOf(now.Book, c.PostForm("item"), place)
	var moves []stock.Move
	left := n
	for i, l := range lots {
		take := min(left, l.Quantity)
		if i == len(lots)-1 {
			take = left // what is too much is refused with how many there are
		}
		if take <= 0 {
			continue
		}
		left -= take
		moves = append(moves, stock.Move{ID: uuid.NewSHA1(uuid.MustParse(c.PostForm("id")), []byte(l.Lot)).String(), Kind: stock.Carry, Item: l.Item, Unit: l.Unit, Place: place, To: to, Lot: l.Lot, Quantity: take, Job: number, By: s.who(c).Name, At: s.Now().UTC().Format(time.RFC3339)})
	}
	if len(moves) == 0 {
		refuse(fmt.Sprintf("there is no %s at %s", c.PostForm("item"), place))
		return
	}
	if err := s.crew(c).Move(ctx, moves...); err != nil {
		if errors.Is(err, store.ErrMove) {
			refuse(strings.TrimPrefix(err.Error(), store.ErrMove.Error()+": "))
			return
		}
		s.fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/load?"+url.Values{"day": {day}, "van": {van}, "from": {from}}.Encode())
}
