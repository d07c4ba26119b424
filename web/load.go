package web

import (
	"crypto/sha256"
	"encoding/hex"
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

	"velvetroad/core/cut"
	"velvetroad/core/job"
	"velvetroad/core/stock"
	"velvetroad/core/units"
	"velvetroad/store"
	"velvetroad/web/page"
	"velvetroad/web/page/diary"
	"velvetroad/web/page/goods"
)

// enough is less than anybody measures.
const enough = 0.005

// loadPage is what a van takes along for the jobs of a day.
func (s *Server) loadPage(c *gin.Context) {
	s.load(c, http.StatusOK, c.Query("day"), c.Query("van"), c.Query("from"))
}

// on tells whether work is planned at a job on a day, as 2027-04-18, somewhere.
func on(d job.Document, day string, zone *time.Location) bool {
	if len(d.Schedule) == 0 {
		return d.Day == day
	}
	return slices.ContainsFunc(d.Schedule, func(slot job.Slot) bool {
		at, _, ok := slot.Span()
		return ok && at.In(zone).Format(time.DateOnly) == day
	})
}

// pool is what is at a place, of which one job after the other takes.
type pool map[string][]stock.Level

func poolOf(b stock.Book, place string) pool {
	out := pool{}
	for _, v := range b.Levels {
		if v.Place == place && v.Quantity > 0 {
			out[v.Item] = append(out[v.Item], v)
		}
	}
	return out
}

// take takes what there is of a need, and gives how much that was and the pieces for which no
// spool is long enough.
func (p pool) take(item string, n float64, pieces []cut.Piece) (has float64, left []cut.Piece, from []stock.Level) {
	levels := p[item]
	if len(pieces) > 0 {
		plan, metres := stock.Cuts(levels, pieces)
		for i, m := range metres {
			if m > 0 {
				from = append(from, levels[i])
			}
			levels[i].Quantity -= m
			has += m
		}
		for _, k := range plan.Missing {
			left = append(left, pieces[k])
		}
		return has, left, from
	}
	slices.SortStableFunc(levels, func(a, b stock.Level) int {
		return strings.Compare(orElse(a.BestBefore, "9999"), orElse(b.BestBefore, "9999"))
	})
	for i := range levels {
		take := min(levels[i].Quantity, n-has)
		if take > 0 {
			from = append(from, levels[i])
		}
		levels[i].Quantity -= take
		has += take
	}
	return has, nil, from
}

func (s *Server) load(c *gin.Context, status int, day, van, from string, says ...string) {
	zone := s.zone(c)
	l, err := s.look(c)
	if err != nil {
		s.fail(c, err)
		return
	}
	when, err := time.ParseInLocation(time.DateOnly, day, zone)
	if err != nil {
		when = diary.Midnight(s.Now(), zone).AddDate(0, 0, 1)
	}
	m := goods.Load{Says: says, Day: when.Format(time.DateOnly), Title: "Load for " + when.Format("Monday 2 January"), Van: orElse(van, "Van 1"), From: orElse(from, "Shop"), Places: l.places()}
	if !slices.Contains(m.Places, m.Van) {
		m.Places = append(m.Places, m.Van)
	}
	link := func(t time.Time) string {
		return "/load?" + url.Values{"day": {t.Format(time.DateOnly)}, "van": {m.Van}, "from": {m.From}}.Encode()
	}
	m.Before, m.After = link(when.AddDate(0, 0, -1)), link(when.AddDate(0, 0, 1))
	inVan, here := poolOf(l.Book, m.Van), poolOf(l.Book, m.From)
	for _, b := range l.booked {
		d := b.Document
		if !on(d, m.Day, zone) {
			continue
		}
		m.Jobs = append(m.Jobs, goods.LoadJob{Name: fmt.Sprintf("Job %d, %s", d.Number, d.Customer), Number: d.Number, Link: "/jobs/" + d.ID + "/materials"})
		list := s.taken(s.who(c).Crew, b)
		groups := map[string]string{}
		for _, x := range list.Lines {
			groups[x.Name] = x.Group
		}
		for _, n := range s.needs(s.who(c).Crew, []store.Current{b}, l.Moves) {
			m.Add(l.shop.Cards[n.Item].Van, loadLine(l, n, groups[n.Item], m.Van, m.From, inVan, here))
		}
	}
	slices.SortStableFunc(m.Bins, func(a, b goods.LoadBin) int {
		return strings.Compare(orElse(a.Name, "\U0010ffff"), orElse(b.Name, "\U0010ffff"))
	})
	s.render(c, status, "load", &page.View{Title: m.Title, Given: m})
}

// anchor is a name in a page for something that is called so: the same each time it is made.
func anchor(of string, names ...string) string {
	sum := sha256.Sum256([]byte(strings.Join(names, "\n")))
	return of + "-" + hex.EncodeToString(sum[:6])
}

// loadLine is one thing that a job takes, as it lies in the van or is still to be loaded.
func loadLine(l looked, n stock.Need, group, van, from string, inVan, here pool) goods.Line {
	line := goods.Line{ID: uuid.NewString(), Anchor: anchor("l", strconv.Itoa(n.Job), n.Item), Group: group, Item: n.Item, Unit: n.Unit, Job: n.Job}
	need := math.Ceil(n.Quantity*100) / 100
	has, pieces, _ := inVan.take(n.Item, need, n.Pieces)
	line.Need = amount(need, n.Unit)
	line.Done = has >= need-enough || len(n.Pieces) > 0 && len(pieces) == 0
	back := 0.0
	for _, v := range l.Moves {
		switch {
		case v.Kind != stock.Carry || v.Job != n.Job || v.Item != n.Item:
		case v.To == van:
			back += v.Quantity
		case v.Place == van:
			back -= v.Quantity
		}
	}
	if back = min(back, l.at(n.Item, van)); back > enough {
		line.Back = strconv.FormatFloat(math.Round(back*1000)/1000, 'f', -1, 64)
	}
	if line.Done {
		return line
	}
	missing := need - has
	if has > enough {
		line.Loaded = amount(has, n.Unit)
	}
	fresh := slices.Clone(here[n.Item])
	got, short, lots := here.take(n.Item, missing, pieces)
	take := math.Round(got*100) / 100
	if n.Unit == "m" { // whole spools go into the van, those from which it is cut
		take = 0
		for _, v := range lots {
			at := slices.IndexFunc(fresh, func(o stock.Level) bool { return o.Lot == v.Lot })
			take += fresh[at].Quantity
			line.Lots = append(line.Lots, orElse(v.Lot, "the metres without a name")+", "+amount(fresh[at].Quantity, n.Unit))
			line.Spools = append(line.Spools, v.Lot)
		}
		take = math.Round(take*1000) / 1000
	} else {
		for _, v := range lots {
			if v.Lot != "" {
				line.Lots = append(line.Lots, v.Lot)
			}
		}
	}
	if got > enough {
		line.Take = strconv.FormatFloat(take, 'f', -1, 64)
		if bin := l.bin(n.Item, from); bin != "" {
			line.Lots = append(line.Lots, "from "+bin)
		}
	}
	switch {
	case got <= enough && len(n.Pieces) > 0:
		line.Short = fmt.Sprintf("No spool at %s is long enough for %s.", from, units.Count(len(short), "piece"))
	case got <= enough:
		line.Short = "None at " + from + "."
	case len(short) > 0:
		line.Short = fmt.Sprintf("%d of %s can be cut from what is at %s.", len(pieces)-len(short), units.Count(len(pieces), "piece"), from)
	case got < missing-enough && len(n.Pieces) == 0:
		line.Short = fmt.Sprintf("Only %s at %s.", amount(got, n.Unit), from)
	}
	if at := slices.IndexFunc(l.shares, func(o stock.Share) bool { return o.Job == n.Job && o.Item == n.Item && o.Comes != "" }); at >= 0 && line.Short != "" {
		line.Short += " More comes on " + l.shares[at].Comes + "."
	}
	return line
}

// at is how much of an item is at a place, of all lots.
func (l looked) at(item, place string) (sum float64) {
	for _, v := range l.Book.Levels {
		if v.Item == item && v.Place == place {
			sum += v.Quantity
		}
	}
	return sum
}

func orElse(text, otherwise string) string {
	if text = strings.TrimSpace(text); text != "" {
		return text
	}
	return otherwise
}

// loadOne carries something into the van, or back out of it: the spools that are named, else from
// the lots that are best before the others. What came back used up in part is a use of the job.
func (s *Server) loadOne(c *gin.Context) {
	now, err := s.crew(c).Stock(c.Request.Context())
	if err != nil {
		s.fail(c, err)
		return
	}
	day, van, from := c.PostForm("day"), orElse(c.PostForm("van"), "Van 1"), orElse(c.PostForm("from"), "Shop")
	refuse := func(says string) { s.load(c, http.StatusUnprocessableEntity, day, van, from, units.Capital(says)) }
	n, err := number(c.PostForm("quantity"))
	if err != nil || n <= 0 {
		refuse(fmt.Sprintf("write how many as a number, not %q.", c.PostForm("quantity")))
		return
	}
	job, err := strconv.Atoi(c.PostForm("job"))
	id, wrong := uuid.Parse(c.PostForm("id"))
	if err != nil || wrong != nil {
		refuse("the page is old: look again.")
		return
	}
	place, to := from, van
	if c.PostForm("do") == "back" {
		place, to = van, from
	}
	lots := lotsOf(now.Book, c.PostForm("item"), place)
	if spools := c.PostFormArray("spool"); len(spools) > 0 && place == from {
		lots = slices.DeleteFunc(lots, func(v stock.Level) bool { return !slices.Contains(spools, v.Lot) })
	}
	if len(lots) == 0 {
		refuse(fmt.Sprintf("there is no %s at %s.", c.PostForm("item"), place))
		return
	}
	var moves []stock.Move
	left := n
	for i, v := range lots {
		take := min(left, v.Quantity)
		if i == len(lots)-1 {
			take = left // what is too much is refused with how many there are
		}
		if take <= 0 {
			continue
		}
		left -= take
		moves = append(moves, stock.Move{ID: uuid.NewSHA1(id, []byte(v.Lot)).String(), Kind: stock.Carry, Item: v.Item, Unit: v.Unit, Place: place, To: to, Lot: v.Lot, Quantity: math.Round(take*1000) / 1000, Job: job, By: s.who(c).Name, At: s.Now().UTC().Format(time.RFC3339)})
	}
	if s.moved(c, refuse, moves...) {
		c.Redirect(http.StatusSeeOther, "/load?"+url.Values{"day": {day}, "van": {van}, "from": {from}}.Encode()+"#"+c.PostForm("anchor"))
	}
}
