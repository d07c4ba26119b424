// Package people answers "who of a crew may do what?". A lead answers for the work and
// signs for it, an installer plans and records, the office books, orders and invoices,
// a customer reads the papers of their own job.
package people

import "strings"

// LeastPassword is how short a password may be, in letters.
const LeastPassword = 12

// Role is what somebody is in a crew.
type Role string

// The roles.
const (
	Lead      Role = "lead"
	Installer Role = "installer"
	Office    Role = "office"
)

// Roles are those that a person of a crew can have, in the order in which they are offered.
var Roles = []Role{Lead, Installer, Office}

// Known tells whether it is one of Roles.
func (r Role) Known() bool {
	for _, known := range Roles {
		if r == known {
			return true
		}
	}
	return false
}

// Act is something that not everybody of a crew may do. What is no Act, all of them may:
// look, plan, measure, record, take photos, take, count and order goods, note suppliers, and take along what they see.
type Act string

// The acts, as a sentence names them: "signing off is for a lead".
const (
	Sign     Act = "signing off and reopening a job"
	Accept   Act = "accepting a caution"
	Override Act = "going on past a locked step"
	Book     Act = "starting, copying, importing and archiving jobs"
	Shelve   Act = "changing the shelf and its prices"
	Share    Act = "giving the customer a link to the papers"
	Erase    Act = "exporting and erasing a customer's data"
	Invite   Act = "inviting and blocking people"
	Audit    Act = "reading the audit list"
)

var may = map[Act][]Role{
	Sign:     {Lead},
	Accept:   {Lead},
	Override: {Lead},
	Book:     {Lead, Office},
	Shelve:   {Lead, Office},
	Share:    {Lead, Office},
	Erase:    {Lead, Office},
	Invite:   {Lead},
	Audit:    {Lead},
}

// May tells whether the role may do it.
func (r Role) May(a Act) bool {
	for _, allowed := range may[a] {
		if r == allowed {
			return true
		}
	}
	return false
}

// Who may do it, for a sentence: "a lead or the office".
func Who(a Act) string {
	var names []string
	for _, r := range may[a] {
		names = append(names, map[Role]string{Lead: "a lead", Installer: "an installer", Office: "the office"}[r])
	}
	return strings.Join(names, " or ")
}

// Refusal is the answer to an act by somebody who may not do it.
type Refusal struct {
	Act   Act
	Names []string // people of the crew who may
}

func (r *Refusal) Error() string {
	says := string(r.Act) + " is for " + Who(r.Act)
	if len(r.Names) > 0 {
		says += ": ask " + strings.Join(r.Names, " or ")
	}
	return says
}
