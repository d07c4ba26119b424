package web

import (
	"bytes"
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"
	"github.com/google/uuid"

	"velvetroad/core/stock"
	"velvetroad/core/units"
	"velvetroad/store"
	"velvetroad/web/drawing"
	"velvetroad/web/page"
	"velvetroad/web/page/goods"
)

// shownMoves is how many of an item's movements its page shows.
const shownMoves = 60

// number reads a typed quantity; empty text is 0.
func number(text string) (float64, error) {
	text = strings.Replace(strings.TrimSpace(text), ",", ".", 1)
	if text == "" {
		return 0, nil
	}
	n, err := units.Number(text)
	if err != nil {
		return 0, fmt.Errorf("%q is no number", text)
	}
	return n, nil
}

// plainNumber is a quantity as it is typed; empty for 0.
func plainNumber(n float64) string {
	if n == 0 {
		return ""
	}
	return strconv.FormatFloat(n, 'f', -1, 64)
}

// moved writes movements and tells why they cannot be; false: the answer is given.
func (s *Server) moved(c *gin.Context, refuse func(says string), moves ...stock.Move) bool {
	return s.kept(c, refuse, s.crew(c).Move(c.Request.Context(), moves...))
}

// kept answers where something could not be kept: with the reason, or that it failed.
func (s *Server) kept(c *gin.Context, refuse func(says string), err error) bool {
	switch {
	case errors.Is(err, store.ErrMove):
		refuse(units.Capital(strings.TrimPrefix(err.Error(), store.ErrMove.Error()+": ")) + ".")
	case err != nil:
		s.fail(c, err)
	default:
		return true
	}
	return false
}

// itemPage is the page of one item.
func (s *Server) itemPage(c *gin.Context) { s.item(c, http.StatusOK, c.Query("item"), goods.Item{}) }

func (s *Server) item(c *gin.Context, status int, item string, m goods.Item) {
	l, err := s.look(c)
	if err != nil {
		s.fail(c, err)
		return
	}
	unit, known := l.Book.Units[item]
	card, carded := l.shop.Cards[item]
	m.Item, m.Unit, m.Link, m.ID, m.Kinds, m.Places = item, unit, itemLink(item), uuid.NewString(), moveKinds, l.places()
	for _, v := range l.Book.Levels {
		if v.Item == item {
			one := level(v)
			one.Bin = l.bin(v.Item, v.Place)
			m.Levels = append(m.Levels, one)
			if v.Lot != "" && !slices.Contains(m.Lots, v.Lot) {
				m.Lots = append(m.Lots, v.Lot)
			}
		}
	}
	links := l.links()
	taken := 0.0
	for _, share := range l.shares {
		if share.Item != item {
			if !slices.Contains(m.Names, share.Item) {
				m.Names = append(m.Names, share.Item)
			}
			continue
		}
		known, unit = true, share.Unit
		taken += share.Quantity
		one := goods.Share{Number: share.Job, Link: links[share.Job], Day: share.Day, Takes: amount(share.Quantity, share.Unit)}
		switch {
		case share.Missing <= 0:
			one.Says = "there"
		case share.Comes != "":
			one.Says = fmt.Sprintf("%s there, the rest comes on %s", amount(share.Has, share.Unit), share.Comes)
		default:
			one.Says = fmt.Sprintf("%s there, %s not ordered", amount(share.Has, share.Unit), amount(share.Missing, share.Unit))
		}
		if share.Late && share.Missing > 0 && share.Comes != "" {
			one.Says += ": too late"
		}
		if len(share.Pieces) > 0 && share.Missing > 0 && l.Book.Has(item) >= share.Quantity {
			one.Says += "; the rests are too short for its pieces"
		}
		one.Short = share.Missing > 0
		m.Shares = append(m.Shares, one)
	}
	if !known && !carded {
		s.fail(c, errNoSuch)
		return
	}
	m.Has, m.Free = amount(l.Book.Has(item), unit), amount(l.Book.Has(item)-taken, unit)
	for i := len(l.Moves) - 1; i >= 0 && len(m.Moves) < shownMoves; i-- {
		if v := l.Moves[i]; v.Item == item {
			m.Moves = append(m.Moves, movement(v))
		}
	}
	for _, by := range l.shop.Suppliers {
		m.Suppliers = append(m.Suppliers, by.Name)
	}
	if card.Supplier != "" && !slices.Contains(m.Suppliers, card.Supplier) {
		m.Suppliers = append(m.Suppliers, card.Supplier)
	}
	if m.Typed == nil {
		m.Typed = map[string]string{"supplier": card.Supplier, "low": plainNumber(card.Low), "full": plainNumber(card.Full), "pack": plainNumber(card.Pack), "bin": card.Bin, "van": card.Van}
	}
	s.render(c, status, "item", &page.View{Title: item, Given: m})
}

func movement(v stock.Move) goods.Moved {
	out := goods.Moved{By: v.By, At: v.At, Quantity: amount(v.Quantity, v.Unit), Place: v.Place, Lot: v.Lot, Note: v.Note}
	if at, err := time.Parse(time.RFC3339, v.At); err == nil {
		out.At = at.Format("2 Jan 2006 15:04") + " UTC"
	}
	at := slices.IndexFunc(moveKinds, func(k goods.Kind) bool { return k.Value == string(v.Kind) })
	if at >= 0 {
		out.Kind = moveKinds[at].Text
	}
	if v.To != "" {
		out.Place += " to " + v.To
	}
	if v.Due != "" {
		out.Place = strings.TrimSpace(out.Place + " for " + v.Due)
	}
	if v.Job > 0 {
		out.Note = strings.TrimSpace(fmt.Sprintf("job %d ", v.Job) + out.Note)
	}
	return out
}

// rename puts what there is of an item under another name, lot by lot: it is counted
// as none under the one and as more under the other.
func (s *Server) rename(c *gin.Context) {
	item, name := c.PostForm("item"), strings.TrimSpace(c.PostForm("name"))
	refuse := func(says string) {
		s.item(c, http.StatusUnprocessableEntity, item, goods.Item{Says: []string{says}})
	}
	l, err := s.look(c)
	if err != nil {
		s.fail(c, err)
		return
	}
	if name == "" || name == item {
		refuse("Write the other name.")
		return
	}
	id := uuid.MustParse(sentID(c))
	by, at := s.who(c).Name, s.Now().UTC().Format(time.RFC3339)
	var moves []stock.Move
	for _, v := range l.Book.Levels {
		if v.Item != item {
			continue
		}
		if v.Quantity < 0 {
			refuse(fmt.Sprintf("Count it at %s first.", v.Place))
			return
		}
		one := stock.Move{Kind: stock.Count, Item: item, Unit: v.Unit, Place: v.Place, Lot: v.Lot, By: by, At: at, Note: "called " + name}
		one.ID = uuid.NewSHA1(id, []byte("out "+v.Place+" "+v.Lot)).String()
		in := stock.Move{Kind: stock.Count, Item: name, Unit: v.Unit, Place: v.Place, Lot: v.Lot, Colour: v.Colour, Quantity: v.Quantity + l.Book.At(name, v.Place, v.Lot), BestBefore: v.BestBefore, By: by, At: at, Note: "was called " + item}
		in.ID = uuid.NewSHA1(id, []byte("in "+v.Place+" "+v.Lot)).String()
		moves = append(moves, one, in)
	}
	for _, o := range l.Book.Ordered {
		if o.Item == item {
			refuse(fmt.Sprintf("%s of it are ordered for %s: say first that they came, or do not come.", amount(o.Quantity, o.Unit), o.Due))
			return
		}
	}
	card := l.shop.Cards[item]
	if had := l.shop.Cards[name]; had != (stock.Card{}) {
		card = had
	}
	card.Item = name
	if s.moved(c, refuse, moves...) && s.kept(c, refuse, s.crew(c).SetCards(c.Request.Context(), card, stock.Card{Item: item})) {
		c.Redirect(http.StatusSeeOther, itemLink(name))
	}
}

// setCard keeps an item's card.
func (s *Server) setCard(c *gin.Context) {
	item := c.PostForm("item")
	typed := map[string]string{}
	for _, key := range []string{"supplier", "low", "full", "pack", "bin", "van"} {
		typed[key] = strings.TrimSpace(c.PostForm(key))
	}
	refuse := func(says string) {
		s.item(c, http.StatusUnprocessableEntity, item, goods.Item{Says: []string{units.Capital(says)}, Typed: typed})
	}
	card := stock.Card{Item: item, Supplier: typed["supplier"], Bin: typed["bin"], Van: typed["van"]}
	for key, into := range map[string]*float64{"low": &card.Low, "full": &card.Full, "pack": &card.Pack} {
		n, err := number(typed[key])
		if err != nil {
			refuse(key + ": " + err.Error() + ".")
			return
		}
		*into = n
	}
	if s.kept(c, refuse, s.crew(c).SetCards(c.Request.Context(), card)) {
		c.Redirect(http.StatusSeeOther, itemLink(item)+"#card")
	}
}

// ordersPage is what has to be ordered, by supplier.
func (s *Server) ordersPage(c *gin.Context) { s.orders(c, http.StatusOK) }

func (s *Server) orders(c *gin.Context, status int, says ...string) {
	l, err := s.look(c)
	if err != nil {
		s.fail(c, err)
		return
	}
	m := goods.Orders{Says: says, Today: l.today, Suppliers: l.shop.Suppliers}
	links := l.links()
	for _, p := range l.Book.Propose(l.shares, l.today, l.shop) {
		one := goods.Order{ID: uuid.NewString(), Supplier: p.Supplier.Name, Due: p.Comes, To: p.Supplier.To}
		if one.Supplier != "" {
			one.Lead = units.Count(p.Supplier.Lead, "working day")
		}
		text := []string{"Please send us:"}
		for _, b := range p.Buys {
			line := goods.Buy{Item: b.Item, Link: itemLink(b.Item), Unit: b.Unit, Number: plainNumber(b.Quantity), Needed: b.Needed, Late: b.Late}
			for _, n := range b.Jobs[:min(len(b.Jobs), namedJobs)] {
				line.Jobs = append(line.Jobs, goods.For{Number: n, Link: links[n]})
			}
			line.More = len(b.Jobs) - len(line.Jobs)
			if b.Low > 0 {
				line.Low = fmt.Sprintf("%s free, low is %s", amount(b.Free, b.Unit), amount(b.Low, b.Unit))
			}
			one.Buys = append(one.Buys, line)
			text = append(text, amount(b.Quantity, b.Unit)+" x "+b.Item)
		}
		one.Text = strings.Join(text, "\n")
		m.Orders = append(m.Orders, one)
	}
	s.render(c, status, "orders", &page.View{Title: "To order", Given: m})
}

// order writes what was ordered from a supplier into the book, all of it or none.
func (s *Server) order(c *gin.Context) {
	items, counts, kinds := c.PostFormArray("item"), c.PostFormArray("quantity"), c.PostFormArray("unit")
	refuse := func(says string) { s.orders(c, http.StatusUnprocessableEntity, says) }
	if len(items) != len(counts) || len(items) != len(kinds) {
		refuse("The page is old: look again.")
		return
	}
	due := strings.TrimSpace(c.PostForm("due"))
	if today := s.Now().In(s.zone(c)).Format(time.DateOnly); due < today {
		refuse(fmt.Sprintf("It comes on %q: choose a day from today on.", due))
		return
	}
	var moves []stock.Move
	for i, item := range items {
		n, err := number(counts[i])
		if err != nil {
			refuse(item + ": " + err.Error() + ".")
			return
		}
		if n == 0 {
			continue // left out of this order
		}
		moves = append(moves, stock.Move{ID: uuid.NewSHA1(uuid.MustParse(sentID(c)), []byte(item)).String(), Kind: stock.Order, Item: item, Unit: kinds[i], Quantity: n, Due: due, Supplier: c.PostForm("supplier"), By: s.who(c).Name, At: s.Now().UTC().Format(time.RFC3339)})
	}
	if !s.moved(c, refuse, moves...) {
		return
	}
	shop, err := s.crew(c).Shop(c.Request.Context())
	if err != nil {
		s.fail(c, err)
		return
	}
	var cards []stock.Card // who has it is remembered
	for _, m := range moves {
		if card := shop.Cards[m.Item]; m.Supplier != "" && card.Supplier == "" {
			card.Item, card.Supplier = m.Item, m.Supplier
			cards = append(cards, card)
		}
	}
	if s.kept(c, refuse, s.crew(c).SetCards(c.Request.Context(), cards...)) {
		c.Redirect(http.StatusSeeOther, "/stock#way")
	}
}

// ordered is what happens with something that is on its way: it came, comes on another day, or
// does not come.
func (s *Server) ordered(c *gin.Context) {
	refuse := func(says string) { s.goods(c, http.StatusUnprocessableEntity, goods.Stock{Says: []string{says}}) }
	n, err := number(c.PostForm("quantity"))
	if err != nil {
		refuse(units.Capital(err.Error()) + ".")
		return
	}
	of := stock.Move{ID: sentID(c), Kind: stock.Cancel, Item: c.PostForm("item"), Unit: c.PostForm("unit"), Quantity: n, Due: c.PostForm("due"), Supplier: c.PostForm("supplier"), By: s.who(c).Name, At: s.Now().UTC().Format(time.RFC3339)}
	moves := []stock.Move{of}
	switch c.PostForm("do") {
	case "came":
		of.Kind, of.Place, of.Lot, of.BestBefore = stock.Receipt, orElse(c.PostForm("place"), "Shop"), strings.TrimSpace(c.PostForm("lot")), c.PostForm("best_before")
		moves = []stock.Move{of}
	case "later":
		again := of
		if day, today := c.PostForm("new_due"), s.Now().In(s.zone(c)).Format(time.DateOnly); day < today || len(day) != len(today) {
			refuse(fmt.Sprintf("It comes on %q: choose a day from today on.", day))
			return
		}
		again.ID, again.Kind, again.Due = uuid.NewSHA1(uuid.MustParse(of.ID), []byte("again")).String(), stock.Order, c.PostForm("new_due")
		moves = append(moves, again)
	}
	if s.moved(c, refuse, moves...) {
		c.Redirect(http.StatusSeeOther, "/stock#way")
	}
}

// setSupplier keeps a supplier, or lets go of it.
func (s *Server) setSupplier(c *gin.Context) {
	name := strings.TrimSpace(c.PostForm("name"))
	refuse := func(says string) { s.orders(c, http.StatusUnprocessableEntity, says) }
	if c.PostForm("remove") != "" {
		if s.kept(c, refuse, s.crew(c).DropSupplier(c.Request.Context(), name)) {
			c.Redirect(http.StatusSeeOther, "/stock/orders#suppliers")
		}
		return
	}
	lead, err := strconv.Atoi(strings.TrimSpace(c.PostForm("lead")))
	if err != nil {
		refuse(fmt.Sprintf("Write how many working days it takes as a whole number, not %q.", c.PostForm("lead")))
		return
	}
	if s.kept(c, refuse, s.crew(c).SetSupplier(c.Request.Context(), stock.Supplier{Name: name, Lead: lead, To: strings.TrimSpace(c.PostForm("to"))})) {
		c.Redirect(http.StatusSeeOther, "/stock/orders#suppliers")
	}
}

// mostLabels is how many labels one file has.
const mostLabels = 600

// stockLabels is a sheet of labels with codes: of what lies at a place (its bins and spools), or of
// one item. A code opens the item's page, or the count of the bin.
func (s *Server) stockLabels(c *gin.Context) {
	l, err := s.look(c)
	if err != nil {
		s.fail(c, err)
		return
	}
	item, place := c.Query("item"), orElse(c.Query("place"), "Shop")
	if item != "" {
		place = c.Query("place")
	}
	var out []drawing.StockLabel
	bins := map[string]bool{}
	for _, v := range l.Book.Levels {
		if place != "" && v.Place != place || item != "" && v.Item != item {
			continue
		}
		bin := l.bin(v.Item, v.Place)
		if bin != "" && !bins[v.Place+bin] && item == "" {
			bins[v.Place+bin] = true
			out = append(out, drawing.StockLabel{Head: bin, Lines: []string{v.Place, "count what lies here"}, Link: s.address(c) + countLink(v.Place, bin)})
		}
		if v.Lot != "" || item != "" {
			label := drawing.StockLabel{Head: v.Item, Link: s.address(c) + itemLink(v.Item), Lines: []string{strings.TrimPrefix(v.Place+", "+bin, ", ")}}
			if v.Lot != "" {
				label.Lines = append([]string{v.Lot}, label.Lines...)
			}
			if v.Made > 0 && v.Unit != "" {
				label.Lines = append(label.Lines, "new: "+amount(v.Made, v.Unit))
			}
			if v.BestBefore != "" {
				label.Lines = append(label.Lines, "best before "+v.BestBefore)
			}
			out = append(out, label)
		}
	}
	if len(out) > mostLabels {
		s.goods(c, http.StatusUnprocessableEntity, goods.Stock{Says: []string{fmt.Sprintf("That would be %d labels; up to %d are made at once: choose a place or an item.", len(out), mostLabels)}})
		return
	}
	if len(out) == 0 {
		s.goods(c, http.StatusUnprocessableEntity, goods.Stock{Says: []string{"There is nothing to label there: give items their place in the shop or van on their pages, or write spools and batches down."}})
		return
	}
	slices.SortStableFunc(out, func(a, b drawing.StockLabel) int { return strings.Compare(a.Head, b.Head) })
	var b bytes.Buffer
	if err := drawing.StockLabelsPDF(&b, out); err != nil {
		s.fail(c, err)
		return
	}
	attach(c, "stock-labels.pdf")
	c.Data(http.StatusOK, "application/pdf", b.Bytes())
}

func countLink(place, bin string) string {
	return "/stock/count?" + url.Values{"place": {place}, "bin": {bin}}.Encode()
}
