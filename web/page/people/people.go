// Package people is the pages of those who work with the program: signing in, joining by
// a link, and the crew's people.
package people

import (
	_ "embed"

	core "velvetroad/core/people"
	"velvetroad/web/page"
)

//go:embed signin.html
var signIn string

//go:embed join.html
var join string

//go:embed people.html
var people string

//go:embed audit.html
var audit string

// The pages. Each is made of what it is given.
var (
	SignInStage = page.Stage{Key: "sign-in", Template: signIn, Whole: true, Model: given[SignIn]}
	JoinStage   = page.Stage{Key: "join", Template: join, Whole: true, Model: given[Join]}
	AuditStage  = page.Stage{Key: "audit", Template: audit, Whole: true, Model: given[Audit]}
	PeopleStage = page.Stage{Key: "people", Template: people, Whole: true, Model: given[People]}
)

// given is the model that the page was given, an empty one where it was given none.
func given[T any](v *page.View) (any, error) {
	m, _ := v.Given.(T)
	return m, nil
}

// SignIn is the sign-in page: what was typed, and who signs in by one touch.
type SignIn struct {
	To, Name   string // where they wanted to go; what they typed
	Crew, Lead string // typed at the first start

	Demo     []page.Person // of the demo's crew; none where it is reached from elsewhere
	DemoCrew string
	First    bool // nobody can sign in yet, and they sit at this machine
	Settled  bool // somebody can sign in by name and password
}

// Join is the page of an invitation.
type Join struct{ Token, Person, Crew, Name string }

// People is the page of the crew's people.
type People struct {
	Crew      string
	Demo      bool
	Rows      []Row
	Link, For string // an invitation just made: it is shown once
	Changed   bool   // the password of whoever looks, just now
}

// Row is one of them.
type Row struct {
	ID                 int64
	Name, Role, SignIn string
	Blocked, CanSignIn bool
}

// Roles are offered for a new person.
func (People) Roles() []core.Role { return core.Roles }

// Mine is whoever looks, where they sign in by name and password; nil: they do not.
func (p People) Mine(by page.Person) *Row {
	for _, row := range p.Rows {
		if row.ID == by.ID && row.CanSignIn {
			return &row
		}
	}
	return nil
}

// Least is how short a password may be.
func (People) Least() int { return core.LeastPassword }

// MayInvite tells whether whoever looks may change people.
func (People) MayInvite(p page.Person) bool { return core.Role(p.Role).May(core.Invite) }

// Least is how short a password may be.
func (Join) Least() int { return core.LeastPassword }

// Least is how short a password may be.
func (SignIn) Least() int { return core.LeastPassword }

// Audit is the page of the audit list.
type Audit struct{ Rows []Noted }

// Noted is one of its lines, as it is read; At is in UTC.
type Noted struct{ At, Who, Act, About, Outcome, Address string }
