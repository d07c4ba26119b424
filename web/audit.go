package web

import (
	"context"
	"errors"
	"fmt"
	"net/http"
	"strconv"
	"time"

	"github.com/gin-gonic/gin"

	"velvetroad/store"
	"velvetroad/web/page"
	pages "velvetroad/web/page/people"
)

// noted holds the addresses whose use stands in the crew's audit list, and what it is called there: coming in, who may,
// what is taken out and brought in. What somebody is refused stands there wherever it was.
var noted = map[string]string{
	"POST /sign-in": "sign in", "POST /sign-in/demo": "sign in by one touch", "POST /sign-in/first": "set up the crew", "POST /join/:token": "join by a link", "POST /sign-out": "sign out",
	"POST /people": "invite somebody", "POST /people/:person/:do": "change a person",
	"POST /jobs/import": "import a job", "POST /shelf": "import a shelf", "POST /shelf/sheet": "import a table of parts", "POST /shelf/prices": "import prices", "POST /stock/csv": "import a count", "POST /days/off.ics": "import days off",
	"GET /jobs/:id/export": "export a job", "GET /jobs/:id/archive.zip": "export a job's archive", "GET /jobs/:id/data": "export a customer's data", "GET /shelf.json": "export the shelf", "GET /register.csv": "export the register",
	"GET /stock.csv": "export the stock", "GET /stock.xlsx": "export the stock", "GET /stock-book.csv": "export the book of stock", "GET /people/audit.csv": "export this list",
	"POST /jobs/:id/share": "give the customer a link", "POST /jobs/:id/withdraw": "withdraw the customer's link", "POST /jobs/:id/erase": "erase a customer's data or a job",
}

// done returns in words how an act went, by its answer's status.
func done(status int, act string) string {
	switch {
	case status < http.StatusBadRequest:
		return "done"
	case status == http.StatusForbidden:
		return "refused"
	case status == http.StatusTooManyRequests:
		return "too many attempts"
	case act == "sign in" && status == http.StatusUnprocessableEntity:
		return "wrong name or password"
	case status < http.StatusInternalServerError:
		return "not done"
	}
	return "failed"
}

// audit notes what stands in the audit list once it was answered.
func (s *Server) audit(c *gin.Context) {
	c.Next()
	status := c.Writer.Status()
	act := noted[c.Request.Method+" "+c.FullPath()]
	if act == "" && status != http.StatusForbidden {
		return
	}
	// Whoever went away meanwhile did it all the same.
	ctx := context.WithoutCancel(c.Request.Context())
	if _, entered := c.Get("entered"); !entered && c.FullPath() == "/sign-in" {
		// Beside the answer: a name that somebody has takes no longer than one that nobody has.
		go s.tried(ctx, c.PostForm("name"), store.Noted{At: s.Now().UTC(), Act: act, Outcome: done(status, act), Address: c.ClientIP()})
		return
	}
	ctx, cancel := context.WithTimeout(ctx, timeLimit)
	defer cancel()
	who, crew, known := s.actor(c)
	if !known {
		return
	}
	n := store.Noted{At: s.Now().UTC(), PersonID: &who.ID, Who: who.Name, Act: act, Outcome: done(status, act), Address: c.ClientIP()}
	if refused := c.GetString("refused"); refused != "" {
		n.Act = refused
	}
	if n.Act == "" {
		n.Act = c.Request.Method + " " + c.FullPath()
	}
	if id := c.Param("id"); id != "" {
		if number, err := crew.NumberOf(ctx, id); err == nil && number > 0 {
			n.About = fmt.Sprint("job ", number)
		}
	}
	if do := c.Param("do"); do != "" {
		n.Act += ": " + do
	}
	if id, err := strconv.ParseInt(c.Param("person"), 10, 64); err == nil {
		if p, err := s.db.Someone(ctx, id); err == nil && p.CrewID == crew.ID() {
			n.About = p.Name
		}
	}
	if act == "invite somebody" {
		name := []rune(c.PostForm("name"))
		n.About = string(name[:min(len(name), 100)])
	}
	if err := crew.Note(ctx, n); err != nil {
		s.log(c).Error("the audit list was not written", "act", n.Act, "error", err)
	}
}

// actor returns who asks: who is signed in, or has just come in.
func (s *Server) actor(c *gin.Context) (who page.Person, crew store.Crew, known bool) {
	if in, ok := c.Value("crew").(store.Crew); ok {
		return s.who(c), in, true
	}
	p, ok := c.Value("entered").(store.Person)
	return page.Person{ID: p.ID, Name: p.Name}, s.db.Crew(p.CrewID), ok
}

// tried notes that somebody tried to sign in by a name, where somebody has it.
func (s *Server) tried(ctx context.Context, name string, n store.Noted) {
	ctx, cancel := context.WithTimeout(ctx, timeLimit)
	defer cancel()
	p, err := s.db.Named(ctx, name)
	if err == nil {
		n.PersonID, n.Who = &p.ID, p.Name
		err = s.db.Crew(p.CrewID).Note(ctx, n)
	}
	if err != nil && !errors.Is(err, store.ErrNotFound) {
		s.Log.Error("the audit list was not written", "act", n.Act, "error", err)
	}
}

// shownNotes holds how many lines the page of the audit list has; the file has all.
const shownNotes = 500

// auditPage shows the newest lines.
func (s *Server) auditPage(c *gin.Context) {
	all, err := s.crew(c).Audit(c.Request.Context(), shownNotes)
	if err != nil {
		s.fail(c, err)
		return
	}
	given := pages.Audit{}
	for _, n := range all {
		given.Rows = append(given.Rows, pages.Noted{At: n.At.UTC().Format("2006-01-02 15:04"), Who: n.Who, Act: n.Act, About: n.About, Outcome: n.Outcome, Address: n.Address})
	}
	s.render(c, http.StatusOK, "audit", &page.View{Title: "Audit list", Given: given})
}

// auditCSV gives all lines.
func (s *Server) auditCSV(c *gin.Context) {
	all, err := s.crew(c).Audit(c.Request.Context(), store.MostNotes)
	if err != nil {
		s.fail(c, err)
		return
	}
	rows := [][]string{{"at", "who", "what", "about", "outcome", "address"}}
	for _, n := range all {
		rows = append(rows, []string{n.At.UTC().Format(time.RFC3339), n.Who, n.Act, n.About, n.Outcome, n.Address})
	}
	s.table(c, "audit.csv", rows)
}
