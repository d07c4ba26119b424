package web

import (
	"bytes"
	"fmt"
	"maps"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"velvetroad/core/sheet"
	"velvetroad/core/shelf"
	"velvetroad/core/stock"
	"velvetroad/core/units"
	"velvetroad/web/page"
	"velvetroad/web/page/goods"
)

// mostCounted is how many rows a count as a table has.
const mostCounted = 10_000

// stockHeads are the columns of the stock as a table, in which a count comes in too. Those from
// supplier on are the item's card.
var stockHeads = []string{"item", "unit", "place", "lot", "colour", "quantity", "best_before", "supplier", "low", "full", "pack", "bin", "van"}

// countStock takes a count in as a table (CSV or XLSX), all of it or none.
func (s *Server) countStock(c *gin.Context) {
	refuse := func(says string) {
		s.goods(c, http.StatusUnprocessableEntity, goods.Stock{Says: []string{says}})
	}
	file, name, ok := s.upload(c, refuse)
	if !ok {
		return
	}
	defer func() { _ = file.Close() }()
	var table sheet.Sheet
	var problems []shelf.Problem
	if strings.HasSuffix(strings.ToLower(name), ".xlsx") {
		table, problems = workbook(file, mostCounted)
	} else {
		table, problems = sheet.ReadCSV(file, mostCounted)
	}
	if len(problems) > 0 {
		refuse(fmt.Sprintf("%s: %s. Nothing was taken in.", name, problems[0].Error()))
		return
	}
	shop, err := s.crew(c).Shop(c.Request.Context())
	if err != nil {
		s.fail(c, err)
		return
	}
	moves, cards, err := Counted(table, shop.Cards, s.who(c).Name, s.Now())
	if err != nil {
		refuse(name + ": " + err.Error() + ". Nothing was taken in.")
		return
	}
	all := func(says string) { refuse(name + ": " + says + " Nothing was taken in.") }
	for _, card := range cards {
		if why := card.Wrong(); why != "" {
			all(card.Item + ": " + why + ".")
			return
		}
	}
	if s.moved(c, all, moves...) && s.kept(c, all, s.crew(c).SetCards(c.Request.Context(), cards...)) {
		c.Redirect(http.StatusSeeOther, "/stock")
	}
}

// Counted reads a count as a table, with the cards of its items where it has their columns: what it
// has no column for stays as it was on their cards. The error says in which row something is wrong;
// the first row are the headings.
func Counted(table sheet.Sheet, were map[string]stock.Card, by string, at time.Time) (out []stock.Move, cards []stock.Card, err error) {
	columns := map[string]int{}
	for i, name := range table.Heads {
		columns[strings.ToLower(strings.TrimSpace(name))] = i
	}
	for _, need := range []string{"item", "place", "quantity"} {
		if _, has := columns[need]; !has {
			return nil, nil, fmt.Errorf("its first line has no %q; the columns are %s", need, strings.Join(stockHeads, ", "))
		}
	}
	carded := slices.ContainsFunc(stockHeads[7:], func(key string) bool { _, has := columns[key]; return has })
	had := map[string]bool{}
	for n, row := range table.Rows {
		cell := func(key string) string {
			if i, has := columns[key]; has && i < len(row) {
				return strings.TrimSpace(row[i])
			}
			return ""
		}
		figure := func(key string) (q float64) {
			var wrong error
			if q, wrong = number(cell(key)); wrong != nil && err == nil {
				err = fmt.Errorf("row %d, %s: %s: %w", n+2, cell("item"), key, wrong)
			}
			return q
		}
		if cell("quantity") != "" || !carded { // a row without a quantity is a card alone
			if cell("quantity") == "" {
				return nil, nil, fmt.Errorf(`row %d, %s: quantity: "" is no number`, n+2, cell("item"))
			}
			out = append(out, stock.Move{ID: uuid.NewString(), Kind: stock.Count, Item: cell("item"), Unit: cell("unit"), Place: cell("place"), Lot: cell("lot"), Colour: cell("colour"), Quantity: figure("quantity"), BestBefore: cell("best_before"), By: by, At: at.UTC().Format(time.RFC3339)})
		}
		if item := cell("item"); carded && !had[item] {
			had[item] = true
			card := were[item]
			card.Item = item
			for key, into := range map[string]*string{"supplier": &card.Supplier, "bin": &card.Bin, "van": &card.Van} {
				if _, has := columns[key]; has {
					*into = cell(key)
				}
			}
			for _, one := range []struct {
				key  string
				into *float64
			}{{"low", &card.Low}, {"full", &card.Full}, {"pack", &card.Pack}} {
				if _, has := columns[one.key]; has {
					*one.into = figure(one.key)
				}
			}
			cards = append(cards, card)
		}
		if err != nil {
			return nil, nil, err
		}
	}
	return out, cards, nil
}

// stockRows are what there is, as the table that a count comes in by.
func (l looked) stockRows() (rows [][]any) {
	carded := map[string]bool{}
	row := func(item, unit, place, lot, colour string, quantity any, best string) {
		card := l.shop.Cards[item]
		some := func(n float64) any {
			if n == 0 {
				return ""
			}
			return n
		}
		carded[item] = true
		rows = append(rows, []any{item, unit, place, lot, colour, quantity, best, card.Supplier, some(card.Low), some(card.Full), some(card.Pack), card.Bin, card.Van})
	}
	for _, v := range l.Book.Levels {
		row(v.Item, v.Unit, v.Place, v.Lot, v.Colour, v.Quantity, v.BestBefore)
	}
	var none []string // that have a card, and of which there is nothing
	for item := range l.shop.Cards {
		if !carded[item] {
			none = append(none, item)
		}
	}
	slices.Sort(none)
	for _, item := range none {
		row(item, l.Book.Units[item], "Shop", "", "", 0.0, "")
	}
	return rows
}

// stockTable is what there is, as CSV or as a workbook.
func (s *Server) stockTable(xlsx bool) gin.HandlerFunc {
	return func(c *gin.Context) {
		l, err := s.look(c)
		if err != nil {
			s.fail(c, err)
			return
		}
		rows := l.stockRows()
		if !xlsx {
			out := [][]string{stockHeads}
			for _, row := range rows {
				out = append(out, textsOf(row))
			}
			s.table(c, "stock.csv", out)
			return
		}
		heads := make([]any, len(stockHeads))
		for i, h := range stockHeads {
			heads[i] = h
		}
		var b bytes.Buffer
		if err := writeBook(&b, tab{"Stock", []float64{48, 6, 14, 14, 10, 10, 14, 24}, append([][]any{heads}, rows...)}); err != nil {
			s.fail(c, err)
			return
		}
		attach(c, "stock.xlsx")
		c.Data(http.StatusOK, "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet", b.Bytes())
	}
}

// shownCounts is how many rows the page of a count has.
const shownCounts = 150

// countPage is for counting what lies at a place, or in one bin of it.
func (s *Server) countPage(c *gin.Context) {
	s.counts(c, http.StatusOK, c.Query("place"), c.Query("bin"), nil)
}

func (s *Server) counts(c *gin.Context, status int, place, bin string, typed map[string]string, says ...string) {
	l, err := s.look(c)
	if err != nil {
		s.fail(c, err)
		return
	}
	m := goods.Counts{Says: says, ID: uuid.NewString(), Place: orElse(place, "Shop"), Bin: bin, Places: l.places(), Done: status == http.StatusOK && c.Query("done") != ""}
	m.Key = "count " + m.Place + " " + m.Bin
	add := func(v stock.Level) {
		in := l.bin(v.Item, m.Place)
		if in != "" && !slices.Contains(m.Bins, in) {
			m.Bins = append(m.Bins, in)
		}
		if m.Bin != "" && in != m.Bin {
			return
		}
		at := slices.IndexFunc(m.Groups, func(g goods.CountGroup) bool { return g.Bin == in })
		if at < 0 {
			m.Groups, at = append(m.Groups, goods.CountGroup{Bin: in}), len(m.Groups)
		}
		row := goods.CountRow{ID: anchor("n", v.Item, v.Lot), Item: v.Item, Lot: v.Lot, Unit: v.Unit, Was: strconv.FormatFloat(v.Quantity, 'f', -1, 64), Book: amount(v.Quantity, v.Unit), BestBefore: v.BestBefore}
		row.Typed = typed[row.Item+"\n"+row.Lot]
		m.Groups[at].Rows = append(m.Groups[at].Rows, row)
		m.Rows++
	}
	there := map[string]bool{}
	for _, v := range l.Book.Levels {
		if v.Place == m.Place {
			there[v.Item] = true
			add(v)
		}
	}
	for _, item := range slices.Sorted(maps.Keys(l.shop.Cards)) { // what should lie here and does not, by the book
		if !there[item] && l.bin(item, m.Place) != "" && (m.Bin != "" || m.Place == "Shop") {
			add(stock.Level{Item: item, Unit: l.Book.Units[item], Place: m.Place})
		}
	}
	slices.Sort(m.Bins)
	slices.SortStableFunc(m.Groups, func(a, b goods.CountGroup) int {
		return strings.Compare(orElse(a.Bin, "\U0010ffff"), orElse(b.Bin, "\U0010ffff"))
	})
	if m.Rows > shownCounts {
		m.Over = m.Rows - shownCounts
		left := shownCounts
		for i := range m.Groups {
			g := &m.Groups[i]
			g.Rows = g.Rows[:min(len(g.Rows), left)]
			left -= len(g.Rows)
		}
		m.Groups = slices.DeleteFunc(m.Groups, func(g goods.CountGroup) bool { return len(g.Rows) == 0 })
	}
	s.render(c, status, "count", &page.View{Title: "Count: " + m.Place, Given: m})
}

// count writes what was counted: what was typed alone, all of it or none. What changed since the
// page was made is counted again.
func (s *Server) count(c *gin.Context) {
	place, bin := orElse(c.PostForm("place"), "Shop"), c.PostForm("bin")
	items, lots, kinds, was, counted := c.PostFormArray("item"), c.PostFormArray("lot"), c.PostFormArray("unit"), c.PostFormArray("was"), c.PostFormArray("counted")
	typed := map[string]string{}
	refuse := func(says ...string) { s.counts(c, http.StatusUnprocessableEntity, place, bin, typed, says...) }
	if len(items) != len(lots) || len(items) != len(kinds) || len(items) != len(was) || len(items) != len(counted) {
		refuse("The page is old: look again.")
		return
	}
	for i := range items {
		typed[items[i]+"\n"+lots[i]] = counted[i]
	}
	now, err := s.crew(c).Stock(c.Request.Context())
	if err != nil {
		s.fail(c, err)
		return
	}
	id := uuid.MustParse(sentID(c))
	sent := slices.ContainsFunc(now.Moves, func(m stock.Move) bool { return m.Note == "count "+id.String() })
	var moves []stock.Move
	var wrong []string
	for i, item := range items {
		if strings.TrimSpace(counted[i]) == "" || sent {
			continue
		}
		named := strings.TrimSuffix(item+", "+lots[i], ", ")
		n, err := number(counted[i])
		here := now.Book.At(item, place, lots[i])
		switch {
		case err != nil:
			wrong = append(wrong, units.Capital(named)+": "+err.Error()+".")
			continue
		case was[i] != strconv.FormatFloat(here, 'f', -1, 64):
			wrong = append(wrong, fmt.Sprintf("%s: since this page was opened something was moved; by the book there are %s now, not %s. Count it again.", units.Capital(named), amount(here, kinds[i]), was[i]))
			delete(typed, item+"\n"+lots[i])
			continue
		}
		moves = append(moves, stock.Move{ID: uuid.NewSHA1(id, []byte(item+"\n"+lots[i])).String(), Kind: stock.Count, Item: item, Unit: kinds[i], Place: place, Lot: lots[i], Quantity: n, Note: "count " + id.String(), By: s.who(c).Name, At: s.Now().UTC().Format(time.RFC3339)})
	}
	if len(wrong) > 0 {
		refuse(append(wrong, "Nothing was written.")...)
		return
	}
	if !s.moved(c, func(says string) { refuse(says, "Nothing was written.") }, moves...) {
		return
	}
	c.Redirect(http.StatusSeeOther, "/stock/count?"+url.Values{"place": {place}, "bin": {bin}, "done": {units.Count(len(moves), "thing")}}.Encode())
}
