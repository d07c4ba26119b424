package web

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"net/http"
	"net/url"
	"slices"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"velvetroad/core/people"
	"velvetroad/core/units"
	"velvetroad/store"
	"velvetroad/web/page"
	pages "velvetroad/web/page/people"
	"velvetroad/web/reply"
)

// sessionLasts is when somebody has to sign in again: a phone goes days without a
// connection, and blocking somebody ends their sessions at once.
const sessionLasts = 30 * 24 * time.Hour

// inside lets those in who are signed in. Who is not goes to the sign-in page and comes
// back from there.
func (s *Server) inside(c *gin.Context) {
	p, err := s.signedIn(c)
	if err != nil {
		s.fail(c, err)
		return
	}
	if p.ID == 0 {
		if strings.HasPrefix(c.Request.URL.Path, "/api/") {
			c.AbortWithStatusJSON(http.StatusUnauthorized, reply.Answer{Error: &reply.Wrong{Says: "You are not signed in any more. Sign in again; what you typed is kept on this device."}})
			return
		}
		to := "/"
		if c.Request.Method == http.MethodGet {
			to = c.Request.URL.RequestURI()
		}
		c.Redirect(http.StatusSeeOther, "/sign-in?to="+url.QueryEscape(to))
		c.Abort()
		return
	}
	c.Set("person", page.Person{ID: p.ID, Crew: p.CrewID, Name: p.Name, Role: string(p.Role)})
	c.Set("crew", s.db.Crew(p.CrewID))
	if by := c.PostForm("made_by"); by != "" && by != strconv.FormatInt(p.ID, 10) {
		if mode := c.GetHeader("Sec-Fetch-Mode"); mode == "" || mode == "navigate" {
			s.render(c, http.StatusForbidden, "error", &page.View{Title: "Another person's page", Says: fmt.Sprintf("The form was another person's, and %s is signed in now. Nothing was done in their name, and the form was not kept: fill it in again as %s, or let its maker sign in.", p.Name, p.Name)})
		} else {
			c.JSON(http.StatusForbidden, reply.Answer{Error: &reply.Wrong{Says: s.other(c), Other: true}})
		}
		c.Abort()
	}
}

// signedIn gives whose session the request has; nobody where there is none, it has ended,
// or they were blocked.
func (s *Server) signedIn(c *gin.Context) (p store.Person, err error) {
	cookie, err := c.Cookie(s.sessions.Cookie.Name)
	if err != nil {
		return p, nil
	}
	ctx, err := s.sessions.Load(c.Request.Context(), cookie)
	if err != nil {
		return p, err
	}
	c.Request = c.Request.WithContext(ctx)
	id := s.sessions.GetInt64(ctx, "person")
	if id == 0 {
		return p, nil
	}
	p, err = s.db.Someone(ctx, id)
	if errors.Is(err, store.ErrNotFound) || err == nil && (p.Blocked || p.Epoch != s.sessions.GetInt(ctx, "epoch")) {
		return store.Person{}, nil
	}
	return p, err
}

// enter starts a session. The token is new, whatever the browser had before.
func (s *Server) enter(c *gin.Context, p store.Person, to string) {
	ctx, err := s.sessions.Load(c.Request.Context(), "")
	if err == nil {
		s.sessions.Put(ctx, "person", p.ID)
		s.sessions.Put(ctx, "epoch", p.Epoch)
		err = s.commit(ctx, c)
	}
	if err != nil {
		s.fail(c, err)
		return
	}
	c.Set("entered", p)
	s.log(c).Info("signed in", "person", p.ID, "crew", p.CrewID)
	c.Redirect(http.StatusSeeOther, inward(to))
}

func (s *Server) commit(ctx context.Context, c *gin.Context) error {
	token, expiry, err := s.sessions.Commit(ctx)
	if err == nil {
		s.sessions.WriteSessionCookie(ctx, c.Writer, token, expiry)
	}
	return err
}

// inward keeps a way back to this program's own pages.
func inward(to string) string {
	if u, err := url.Parse(to); err != nil || u.Host != "" || u.Scheme != "" || !strings.HasPrefix(to, "/") || strings.HasPrefix(to, "//") || strings.HasPrefix(to, `/\`) {
		return "/"
	}
	return to
}

// who is signed in, and their crew's part of the database.
func (s *Server) who(c *gin.Context) page.Person {
	p, _ := c.Value("person").(page.Person) // nobody outside of inside
	return p
}

func (s *Server) crew(c *gin.Context) store.Crew { return c.MustGet("crew").(store.Crew) }

// may lets those on whose role allows an act; the others are told who may.
func (s *Server) may(act people.Act) gin.HandlerFunc {
	return func(c *gin.Context) {
		if !people.Role(s.who(c).Role).May(act) {
			refusal := &people.Refusal{Act: act}
			refusal.Names, _ = s.crew(c).Leads(c.Request.Context()) // without names it says enough
			s.fail(c, refusal)
		}
	}
}

// door is the sign-in page as it is for this request.
func (s *Server) door(c *gin.Context, status int, given pages.SignIn, problems ...string) {
	given.To = inward(given.To)
	crews, err := s.db.Crews(c.Request.Context())
	if err != nil {
		s.fail(c, err)
		return
	}
	for _, crew := range crews {
		if !crew.Demo || !s.here(c) {
			continue
		}
		given.DemoCrew = crew.Name
		all, err := s.db.Crew(crew.ID).People(c.Request.Context())
		if err != nil {
			s.fail(c, err)
			return
		}
		for _, p := range all {
			if !p.Blocked {
				given.Demo = append(given.Demo, page.Person{ID: p.ID, Name: p.Name, Role: string(p.Role)})
			}
		}
	}
	slices.SortStableFunc(given.Demo, func(a, b page.Person) int {
		return cmp.Compare(slices.Index(people.Roles, people.Role(a.Role)), slices.Index(people.Roles, people.Role(b.Role)))
	})
	settled, err := s.db.Settled(c.Request.Context())
	if err != nil {
		s.fail(c, err)
		return
	}
	given.First, given.Settled = s.here(c) && !settled, settled
	s.render(c, status, "sign-in", &page.View{Title: "Sign in", Given: given, Problems: problems})
}

func (s *Server) signInPage(c *gin.Context) {
	s.door(c, http.StatusOK, pages.SignIn{To: c.Query("to")})
}

func (s *Server) signIn(c *gin.Context) {
	name, to := c.PostForm("name"), c.PostForm("to")
	p, err := s.db.SignIn(c.Request.Context(), name, c.PostForm("password"), c.ClientIP(), s.Now())
	var many *store.TooMany
	switch {
	case errors.As(err, &many):
		s.log(c).Warn("too many attempts to sign in", "address", c.ClientIP())
		s.door(c, http.StatusTooManyRequests, pages.SignIn{To: to, Name: name}, units.Capital(err.Error())+".")
	case errors.Is(err, store.ErrSignIn):
		s.door(c, http.StatusUnprocessableEntity, pages.SignIn{To: to, Name: name}, units.Capital(err.Error())+". A lead can give you a new link.")
	case err != nil:
		s.fail(c, err)
	default:
		s.enter(c, p, to)
	}
}

// signInDemo signs in as one of the demo's people, on this machine alone.
func (s *Server) signInDemo(c *gin.Context) {
	id, _ := strconv.ParseInt(c.PostForm("person"), 10, 64) // 0: nobody
	p, err := s.db.Someone(c.Request.Context(), id)
	if err != nil {
		s.fail(c, err)
		return
	}
	about, err := s.db.Crew(p.CrewID).About(c.Request.Context())
	if err == nil && (!about.Demo || !s.here(c) || p.Blocked) {
		err = store.ErrNotFound
	}
	if err != nil {
		s.fail(c, err)
		return
	}
	s.enter(c, p, c.PostForm("to"))
}

// first makes the first lead, while nobody can sign in, on this machine alone.
func (s *Server) first(c *gin.Context) {
	settled, err := s.db.Settled(c.Request.Context())
	if err == nil && (settled || !s.here(c)) {
		err = store.ErrNotFound
	}
	if err != nil {
		s.fail(c, err)
		return
	}
	given := pages.SignIn{Crew: strings.TrimSpace(c.PostForm("crew")), Lead: strings.TrimSpace(c.PostForm("person")), Name: c.PostForm("name")}
	if given.Crew == "" || given.Lead == "" {
		s.door(c, http.StatusUnprocessableEntity, given, "Give the crew a name, and yours.")
		return
	}
	ctx := c.Request.Context()
	p, err := s.db.FirstLead(ctx)
	if err == nil {
		err = s.db.Crew(p.CrewID).Rename(ctx, given.Crew)
	}
	if err == nil {
		err = s.db.Crew(p.CrewID).RenamePerson(ctx, p.ID, given.Lead)
	}
	token := ""
	if err == nil {
		token, err = s.db.Crew(p.CrewID).Invite(ctx, p.ID, s.Now())
	}
	if err != nil {
		s.fail(c, err)
		return
	}
	if p, err = s.db.Accept(ctx, token, given.Name, c.PostForm("password"), s.Now()); err != nil {
		s.wrong(c, err, func(says string) { s.door(c, http.StatusUnprocessableEntity, given, says) })
		return
	}
	s.enter(c, p, "/")
}

// wrong says what is wrong with what somebody chose; a failure of the database is none of
// that.
func (s *Server) wrong(c *gin.Context, err error, say func(string)) {
	var fault *store.Fault
	if errors.As(err, &fault) || errors.Is(err, store.ErrNotFound) {
		s.fail(c, err)
		return
	}
	say(units.Capital(err.Error()) + ".")
}

func (s *Server) joinPage(c *gin.Context) { s.joining(c, http.StatusOK) }

func (s *Server) joining(c *gin.Context, status int, problems ...string) {
	p, err := s.db.Invited(c.Request.Context(), c.Param("token"), s.Now())
	if errors.Is(err, store.ErrLink) {
		s.render(c, http.StatusGone, "error", &page.View{Title: "A link that has ended", Says: units.Capital(err.Error()) + "."})
		return
	}
	if err != nil {
		s.fail(c, err)
		return
	}
	about, err := s.db.Crew(p.CrewID).About(c.Request.Context())
	if err != nil {
		s.fail(c, err)
		return
	}
	given := pages.Join{Token: c.Param("token"), Person: p.Name, Crew: about.Name, Name: c.PostForm("name")}
	if given.Name == "" && p.SignIn != nil {
		given.Name = *p.SignIn
	}
	s.render(c, status, "join", &page.View{Title: "Join " + about.Name, Given: given, Problems: problems})
}

func (s *Server) join(c *gin.Context) {
	p, err := s.db.Accept(c.Request.Context(), c.Param("token"), c.PostForm("name"), c.PostForm("password"), s.Now())
	if errors.Is(err, store.ErrLink) {
		s.joining(c, http.StatusGone)
		return
	}
	if err != nil {
		s.wrong(c, err, func(says string) { s.joining(c, http.StatusUnprocessableEntity, says) })
		return
	}
	s.enter(c, p, "/")
}

// signOut ends this session, or all of the person's.
func (s *Server) signOut(c *gin.Context) {
	ctx := c.Request.Context()
	var err error
	if c.PostForm("everywhere") != "" {
		err = s.crew(c).SignOutEverywhere(ctx, s.who(c).ID)
	}
	if err == nil {
		err = s.sessions.Destroy(ctx)
	}
	if err != nil {
		s.fail(c, err)
		return
	}
	s.sessions.WriteSessionCookie(ctx, c.Writer, "", time.Time{})
	c.Redirect(http.StatusSeeOther, "/sign-in")
}

// people is the page of the crew's people.
func (s *Server) people(c *gin.Context) { s.peopleWith(c, http.StatusOK, "", "") }

func (s *Server) peopleWith(c *gin.Context, status int, link, linkFor string, problems ...string) {
	all, err := s.crew(c).People(c.Request.Context())
	if err != nil {
		s.fail(c, err)
		return
	}
	about, err := s.crew(c).About(c.Request.Context())
	if err != nil {
		s.fail(c, err)
		return
	}
	given := pages.People{Crew: about.Name, Demo: about.Demo, Link: link, For: linkFor, Changed: c.Query("changed") == "password"}
	for _, p := range all {
		row := pages.Row{ID: p.ID, Name: p.Name, Role: string(p.Role), Blocked: p.Blocked, CanSignIn: p.Password != ""}
		if p.SignIn != nil {
			row.SignIn = *p.SignIn
		}
		given.Rows = append(given.Rows, row)
	}
	s.render(c, status, "people", &page.View{Title: "People", Given: given, Problems: problems})
}

// addPerson adds somebody to the crew and gives the link by which they join.
func (s *Server) addPerson(c *gin.Context) {
	p, err := s.crew(c).AddPerson(c.Request.Context(), c.PostForm("name"), people.Role(c.PostForm("role")))
	if err != nil {
		s.wrong(c, err, func(says string) { s.peopleWith(c, http.StatusUnprocessableEntity, "", "", says) })
		return
	}
	s.invite(c, p)
}

func (s *Server) invite(c *gin.Context, p store.Person) {
	token, err := s.crew(c).Invite(c.Request.Context(), p.ID, s.Now())
	if err != nil {
		s.fail(c, err)
		return
	}
	s.peopleWith(c, http.StatusOK, s.address(c)+"/join/"+token, p.Name)
}

// address is how the browser reaches this program.
func (s *Server) address(c *gin.Context) string {
	if s.TLS {
		return "https://" + c.Request.Host
	}
	return "http://" + c.Request.Host
}

// changePassword gives whoever is signed in another password, when they know the one they
// have. Their sessions elsewhere end.
func (s *Server) changePassword(c *gin.Context) {
	ctx, crew, id := c.Request.Context(), s.crew(c), s.who(c).ID
	p, err := crew.Person(ctx, id)
	if err == nil && p.SignIn == nil {
		err = store.ErrNotFound
	}
	if err == nil {
		_, err = s.db.SignIn(ctx, *p.SignIn, c.PostForm("current"), c.ClientIP(), s.Now())
		if errors.Is(err, store.ErrSignIn) {
			err = errors.New("the password you have now is another; a lead can give you a link to set a new one")
		}
	}
	if err == nil {
		err = crew.ChangePassword(ctx, id, c.PostForm("password"))
	}
	if err == nil {
		p, err = crew.Person(ctx, id)
	}
	if err != nil {
		s.wrong(c, err, func(says string) { s.peopleWith(c, http.StatusUnprocessableEntity, "", "", says) })
		return
	}
	s.log(c).Info("changed a password", "person", id)
	if err := s.sessions.Destroy(ctx); err != nil {
		s.fail(c, err)
		return
	}
	s.enter(c, p, "/people?changed=password")
}

// alterPerson invites again, blocks, lets in again, signs out everywhere, or gives
// another role. Everybody may sign themselves out and change their own password, which
// nobody else may; the rest is for those who may invite.
func (s *Server) alterPerson(c *gin.Context) {
	id, _ := strconv.ParseInt(c.Param("person"), 10, 64) // 0: nobody
	ctx, crew, do := c.Request.Context(), s.crew(c), c.Param("do")
	if do == "password" && id == s.who(c).ID {
		s.changePassword(c)
		return
	}
	if do != "sign-out" || id != s.who(c).ID {
		if s.may(people.Invite)(c); c.IsAborted() {
			return
		}
	}
	p, err := crew.Person(ctx, id)
	if err == nil {
		switch do {
		case "invite":
			if p.Blocked {
				err = errors.New("they are blocked: let them in again first")
				break
			}
			s.invite(c, p)
			return
		case "block":
			err = crew.Block(ctx, id, true)
		case "let-in":
			err = crew.Block(ctx, id, false)
		case "sign-out":
			err = crew.SignOutEverywhere(ctx, id)
		case "role":
			err = crew.SetRole(ctx, id, people.Role(c.PostForm("role")))
		default:
			err = store.ErrNotFound
		}
	}
	if err != nil {
		s.wrong(c, err, func(says string) { s.peopleWith(c, http.StatusUnprocessableEntity, "", "", says) })
		return
	}
	s.log(c).Info("changed a person", "what", do, "person", id, "by", s.who(c).ID)
	c.Redirect(http.StatusSeeOther, "/people")
}
