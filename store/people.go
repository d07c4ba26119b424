package store

import (
	"cmp"
	"context"
	"crypto/rand"
	"crypto/sha256"
	"encoding/base64"
	"errors"
	"fmt"
	"strings"
	"time"

	"github.com/alexedwards/argon2id"
	"github.com/nbutton23/zxcvbn-go"
	"gorm.io/gorm"

	"velvetroad/core/people"
	"velvetroad/core/units"
)

// Person is somebody of a crew.
type Person struct {
	ID       int64
	CrewID   int64
	Name     string
	Role     people.Role
	SignIn   *string // typed to sign in, in small letters; nil: they do not sign in
	Password string  // argon2id; empty: not set yet
	Blocked  bool
	Epoch    int // a session of another epoch has ended
}

// TableName is the people's table.
func (Person) TableName() string { return "people" }

// InUse tells that a name to sign in with is somebody else's.
type InUse struct{ Name string }

func (e *InUse) Error() string {
	return fmt.Sprintf("“%s” is taken; choose another, as a first name with a number or an email address", e.Name)
}

// ErrSignIn is the answer to a name and password that do not belong together, whichever
// of them is wrong.
var ErrSignIn = errors.New("that name and password do not belong together")

// ErrLastLead is the answer to what would leave a crew without a lead.
var ErrLastLead = errors.New("they are the last lead: make somebody else a lead first")

// ErrLink is the answer to a link that was used, withdrawn, or is too old.
var ErrLink = errors.New("this link does not work any more: it was used or withdrawn, or is too old. Ask who sent it for another")

// TooMany tells that too many attempts to sign in failed.
type TooMany struct{ Wait time.Duration }

func (t *TooMany) Error() string {
	wait := "a minute"
	switch seconds := int(t.Wait.Seconds()) + 1; {
	case seconds < 60:
		wait = units.Count(seconds, "second")
	case seconds >= 120:
		wait = fmt.Sprintf("%d minutes", int(t.Wait.Minutes())+1)
	}
	return fmt.Sprintf("too many attempts failed; try again in %s, or ask a lead for a new link", wait)
}

// How many attempts may fail in a while before the next have to wait: on a name from one address, on a name from
// addresses that are not known for it, and from an address.
const (
	attemptsFor       = 15 * time.Minute
	attemptsByPair    = 5
	attemptsByName    = 8
	attemptsByAddress = 40
	knownFor          = 60 * 24 * time.Hour // an address at which somebody signed in by a name
	invitationLasts   = 7 * 24 * time.Hour
	mostPassword      = 200 // letters: hashing takes time
)

// hashing is how a password is hashed: memory and time for one core of a small machine.
var hashing = &argon2id.Params{Memory: 19 * 1024, Iterations: 2, Parallelism: 1, SaltLength: 16, KeyLength: 32}

// hashes lets only a few passwords be hashed at once.
var hashes = make(chan struct{}, 4)

// nobody is hashed against when a name is not there, so that it takes as long.
const nobody = "$argon2id$v=19$m=19456,t=2,p=1$AAAAAAAAAAAAAAAAAAAAAA$AAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAAA"

// People lists a crew's people by name.
func (c Crew) People(ctx context.Context) (all []Person, err error) {
	return all, fault(c.mine(ctx).Order("name").Find(&all).Error)
}

// Person gives somebody of the crew, or ErrNotFound.
func (c Crew) Person(ctx context.Context, id int64) (p Person, err error) {
	err = fault(c.mine(ctx).Where("id = ?", id).Limit(1).Find(&p).Error)
	if err == nil && p.ID == 0 {
		err = ErrNotFound
	}
	return p, err
}

// AddPerson adds somebody to the crew; who has the name already stays as they are.
func (c Crew) AddPerson(ctx context.Context, name string, role people.Role) (p Person, err error) {
	if strings.TrimSpace(name) == "" || len([]rune(name)) > 80 {
		return p, errors.New("a name has 1 to 80 letters")
	}
	if !role.Known() {
		return p, fmt.Errorf("%q is no role: lead, installer or office", role)
	}
	p = Person{CrewID: c.id, Name: strings.TrimSpace(name), Role: role}
	err = c.s.db.WithContext(ctx).Create(&p).Error
	if taken(err, "people") {
		err = c.mine(ctx).Where("name = ?", p.Name).Take(&p).Error
	}
	return p, fault(err)
}

// Leads names who may do what only leads may.
func (c Crew) Leads(ctx context.Context) (names []string, err error) {
	return names, fault(c.mine(ctx).Model(&Person{}).Where("role = ? AND NOT blocked", people.Lead).Order("name").Pluck("name", &names).Error)
}

// SetRole changes what somebody is; their sessions go on.
func (c Crew) SetRole(ctx context.Context, id int64, role people.Role) error {
	if !role.Known() {
		return fmt.Errorf("%q is no role: lead, installer or office", role)
	}
	return c.alter(ctx, id, role != people.Lead, map[string]any{"role": role})
}

// Block keeps somebody out at once, wherever they are signed in; unblocking lets them
// sign in again.
func (c Crew) Block(ctx context.Context, id int64, blocked bool) error {
	if blocked {
		return c.alter(ctx, id, true, map[string]any{"blocked": true, "epoch": gorm.Expr("epoch + 1")})
	}
	return c.alter(ctx, id, false, map[string]any{"blocked": false})
}

// SignOutEverywhere ends all sessions of somebody.
func (c Crew) SignOutEverywhere(ctx context.Context, id int64) error {
	return c.alter(ctx, id, false, map[string]any{"epoch": gorm.Expr("epoch + 1")})
}

// alter changes somebody; away tells that they may be no lead afterwards.
func (c Crew) alter(ctx context.Context, id int64, away bool, fields map[string]any) error {
	return c.s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := tx.Exec("SELECT 1 FROM crews WHERE id = ? FOR UPDATE", c.id).Error; err != nil {
			return fault(err)
		}
		if away {
			var others int64
			if err := of(tx, c.id).Model(&Person{}).Where("id <> ? AND role = ? AND NOT blocked", id, people.Lead).Count(&others).Error; err != nil {
				return fault(err)
			}
			if others == 0 {
				return ErrLastLead
			}
		}
		done := of(tx, c.id).Model(&Person{}).Where("id = ?", id).Updates(fields)
		if done.Error == nil && done.RowsAffected == 0 {
			return ErrNotFound
		}
		return fault(done.Error)
	})
}

// token makes a link's secret and what is kept of it.
func token() (text string, sum []byte) {
	raw := make([]byte, 24)
	rand.Read(raw) // never fails
	text = base64.RawURLEncoding.EncodeToString(raw)
	return text, tokenSum(text)
}

func tokenSum(text string) []byte {
	sum := sha256.Sum256([]byte(text))
	return sum[:]
}

// Invite makes the token of a link by which somebody sets their name to sign in and
// their password, once; an earlier link of theirs ends.
func (c Crew) Invite(ctx context.Context, person int64, at time.Time) (text string, err error) {
	p, err := c.Person(ctx, person)
	if err != nil {
		return "", err
	}
	text, sum := token()
	return text, c.s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		if err := tx.Exec("DELETE FROM invitations WHERE crew_id = ? AND person_id = ?", c.id, p.ID).Error; err != nil {
			return fault(err)
		}
		return fault(tx.Exec("INSERT INTO invitations (crew_id, person_id, token_sum, expires_at) VALUES (?, ?, ?, ?)", c.id, p.ID, sum, at.Add(invitationLasts)).Error)
	})
}

// Invited tells whose invitation it is, or ErrLink.
func (s *Store) Invited(ctx context.Context, text string, at time.Time) (p Person, err error) {
	err = fault(s.db.WithContext(ctx).Raw("SELECT people.* FROM invitations i JOIN people ON people.id = i.person_id AND people.crew_id = i.crew_id WHERE i.token_sum = ? AND i.expires_at > ? AND NOT people.blocked", tokenSum(text), at).Scan(&p).Error)
	if err == nil && p.ID == 0 {
		err = ErrLink
	}
	return p, err
}

// Accept uses an invitation up: the person signs in by that name and password from now
// on, and every session that they had ends. The error may be an *InUse, or say what is
// wrong with the password.
func (s *Store) Accept(ctx context.Context, text, signIn, password string, at time.Time) (p Person, err error) {
	signIn = strings.ToLower(strings.TrimSpace(signIn))
	if signIn == "" || len([]rune(signIn)) > 80 || strings.ContainsAny(signIn, " \t") {
		return p, errors.New("a name to sign in with has 1 to 80 letters and no spaces")
	}
	if p, err = s.Invited(ctx, text, at); err != nil {
		return p, err
	}
	hash, err := hashed(password, signIn, p.Name)
	if err != nil {
		return p, err
	}
	err = s.db.WithContext(ctx).Transaction(func(tx *gorm.DB) error {
		used := tx.Exec("DELETE FROM invitations WHERE token_sum = ?", tokenSum(text))
		if used.Error != nil {
			return used.Error
		}
		if used.RowsAffected == 0 {
			return ErrLink
		}
		if err := of(tx, p.CrewID).Model(&Person{}).Where("id = ?", p.ID).Updates(map[string]any{"sign_in": signIn, "password": hash, "epoch": gorm.Expr("epoch + 1")}).Error; err != nil {
			return err
		}
		return of(tx, p.CrewID).Where("id = ?", p.ID).Take(&p).Error
	})
	switch {
	case taken(err, "people"):
		return p, &InUse{signIn}
	case errors.Is(err, ErrLink):
		return p, err
	}
	return p, fault(err)
}

// hashed is what is kept of a password that somebody chooses. The error says what is wrong
// with it.
func hashed(password, signIn, name string) (string, error) {
	if n := len([]rune(password)); n < people.LeastPassword || n > mostPassword {
		return "", fmt.Errorf("a password has %d to %d letters; three words in a row are a good one", people.LeastPassword, mostPassword)
	}
	if strings.Contains(strings.ToLower(password), signIn) && len(signIn) > 3 {
		return "", errors.New("the password has the name in it; choose another")
	}
	if guessed(password, signIn, name) {
		return "", errors.New("the password is among those that are guessed first; three words in a row that do not belong together are a good one")
	}
	hashes <- struct{}{}
	defer func() { <-hashes }()
	return argon2id.CreateHash(password, hashing)
}

// ChangePassword gives a person who can sign in another password, and ends every session
// that they had. The error may say what is wrong with the new one.
func (c Crew) ChangePassword(ctx context.Context, id int64, password string) error {
	p, err := c.Person(ctx, id)
	if err != nil {
		return err
	}
	if p.SignIn == nil {
		return ErrNotFound
	}
	hash, err := hashed(password, *p.SignIn, p.Name)
	if err != nil {
		return err
	}
	return c.alter(ctx, id, false, map[string]any{"password": hash, "epoch": gorm.Expr("epoch + 1")})
}

// unrepeated returns the words that a password says over and over, the last time perhaps cut short: "otter " of
// "otter otter ot"; the password itself where it repeats nothing.
func unrepeated(password string) string {
	for n := 1; n <= len(password)/2; n++ {
		if strings.HasPrefix(strings.Repeat(password[:n], len(password)/n+1), password) {
			return password[:n]
		}
	}
	return password
}

// guessed tells whether a password is among those that are tried first: common ones, and
// names, dates and rows of keys with little around them (zxcvbn's scores below 3: fewer
// than a hundred million guesses; and what is repeated counts once).
func guessed(password string, about ...string) bool {
	const enough = 64 // letters: what is longer than that is none of them, and would take long
	if once := unrepeated(password); len(once) < len(password) {
		return len([]rune(once)) < people.LeastPassword || guessed(once, about...)
	}
	if len(password) > enough {
		return false
	}
	return zxcvbn.PasswordStrength(password, about).Score < 3
}

// SignIn gives whose name and password they are. Errors: ErrSignIn, *TooMany, *Fault. An attempt is counted
// before it is checked, so that many at once are no more than many after each other. What fails too often is
// slowed down: at one address on one name, at one address, and on one name from addresses at which nobody
// signed in by it lately, so that whoever is attacked still comes in from their own.
func (s *Store) SignIn(ctx context.Context, signIn, password, address string, at time.Time) (p Person, err error) {
	signIn = strings.ToLower(strings.TrimSpace(signIn))
	db := s.db.WithContext(ctx)
	pair := "name " + signIn + " address " + address
	var known int64
	if err := db.Raw("SELECT count(*) FROM attempts WHERE about = ? AND at > ?", "known "+pair, at.Add(-knownFor)).Scan(&known).Error; err != nil {
		return p, fault(err)
	}
	limits := []limit{{pair, attemptsByPair}, {"address " + address, attemptsByAddress}}
	if known == 0 {
		limits = append(limits, limit{"name " + signIn, attemptsByName})
	}
	var mine []int64
	for _, l := range limits {
		var id int64
		if err := db.Raw("INSERT INTO attempts (about, at) VALUES (?, ?) RETURNING id", l.about, at).Scan(&id).Error; err != nil {
			return p, fault(err)
		}
		mine = append(mine, id)
	}
	wait, err := waits(db, limits, mine, at)
	if err != nil {
		return p, fault(err)
	}
	if wait > 0 { // it was not checked
		if err := db.Exec("DELETE FROM attempts WHERE id IN ?", mine).Error; err != nil {
			return p, fault(err)
		}
		return p, &TooMany{wait}
	}
	if err := db.Where("sign_in = ?", signIn).Limit(1).Find(&p).Error; err != nil {
		return p, fault(err)
	}
	hash := p.Password
	if hash == "" {
		hash = nobody
	}
	match := false
	if len([]rune(password)) <= mostPassword {
		hashes <- struct{}{}
		match, err = argon2id.ComparePasswordAndHash(password, hash)
		<-hashes
	}
	if err != nil || !match || p.ID == 0 || p.Password == "" || p.Blocked {
		err := db.Exec("DELETE FROM attempts WHERE at < ? AND about NOT LIKE 'known %' OR at < ?", at.Add(-attemptsFor), at.Add(-knownFor)).Error
		return Person{}, cmp.Or(fault(err), ErrSignIn)
	}
	err = db.Exec("DELETE FROM attempts WHERE id IN ? OR about IN ?", mine, []string{pair, "known " + pair}).Error
	if err == nil {
		err = db.Exec("INSERT INTO attempts (about, at) VALUES (?, ?)", "known "+pair, at).Error
	}
	return p, fault(err)
}

// limit holds how many attempts about something may fail before the next ones have to wait.
type limit struct {
	about string
	free  int
}

// waits returns how long an attempt has to wait by the limits: a second after what may fail, then twice as long
// each time, a quarter of an hour at most. Mine are the IDs of the attempt's own rows.
func waits(db *gorm.DB, limits []limit, mine []int64, at time.Time) (wait time.Duration, err error) {
	for i, l := range limits {
		var before struct {
			N    int
			Last time.Time
		}
		if err := db.Raw("SELECT count(*) AS n, COALESCE(max(at), now()) AS last FROM attempts WHERE about = ? AND at > ? AND id < ?", l.about, at.Add(-attemptsFor), mine[i]).Scan(&before).Error; err != nil {
			return 0, err
		}
		if over := before.N - l.free; over >= 0 {
			must := min(attemptsFor, time.Second<<min(over, 20))
			wait = max(wait, before.Last.Add(must).Sub(at))
		}
	}
	return wait, nil
}

// Someone gives a person of any crew by their ID, for a session; ErrNotFound where there
// is none.
func (s *Store) Someone(ctx context.Context, id int64) (p Person, err error) {
	err = fault(s.db.WithContext(ctx).Where("id = ?", id).Limit(1).Find(&p).Error)
	if err == nil && p.ID == 0 {
		err = ErrNotFound
	}
	return p, err
}

// Settled tells whether anybody of this database has a password: until then the first
// start is not over.
func (s *Store) Settled(ctx context.Context) (bool, error) {
	var n int64
	err := s.db.WithContext(ctx).Model(&Person{}).Where("password <> ''").Count(&n).Error
	return n > 0, fault(err)
}

// FirstLead gives the person to invite at the first start: a lead of the first crew that
// is not the demo's; both are made where there are none.
func (s *Store) FirstLead(ctx context.Context) (p Person, err error) {
	crews, err := s.Crews(ctx)
	if err != nil {
		return p, err
	}
	var crew Crew
	for _, about := range crews {
		if !about.Demo {
			crew = s.Crew(about.ID)
			break
		}
	}
	if crew.s == nil {
		if crew, err = s.AddCrew(ctx, "Our crew", false); err != nil {
			return p, err
		}
	}
	all, err := crew.People(ctx)
	if err != nil {
		return p, err
	}
	for _, one := range all {
		if one.Role == people.Lead && !one.Blocked {
			return one, nil
		}
	}
	return crew.AddPerson(ctx, "Lead", people.Lead)
}

// Rename gives the crew another name.
func (c Crew) Rename(ctx context.Context, name string) error {
	return fault(c.s.db.WithContext(ctx).Model(&crewRow{}).Where("id = ?", c.id).Update("name", name).Error)
}

// RenamePerson gives somebody another name; what they did keeps the name they had.
func (c Crew) RenamePerson(ctx context.Context, id int64, name string) error {
	err := c.mine(ctx).Model(&Person{}).Where("id = ?", id).Update("name", name).Error
	if taken(err, "people") {
		return &InUse{name}
	}
	return fault(err)
}

// Link is a customer's link to the papers of a job.
type Link struct {
	MadeBy      string
	MadeAt      time.Time
	WithdrawnAt *time.Time
}

// Share makes the token of a link by which a customer reads a job's papers.
func (c Crew) Share(ctx context.Context, jobID, by string, at time.Time) (text string, err error) {
	if _, err := c.newest(ctx, jobID); err != nil {
		return "", err
	}
	text, sum := token()
	return text, fault(c.s.db.WithContext(ctx).Exec("INSERT INTO customer_links (crew_id, job_id, token_sum, made_by, made_at) VALUES (?, ?, ?, ?, ?)", c.id, jobID, sum, by, at).Error)
}

// Links lists a job's customer links, newest first.
func (c Crew) Links(ctx context.Context, jobID string) (all []Link, err error) {
	return all, fault(c.mine(ctx).Table("customer_links").Where("job_id = ?", jobID).Order("made_at DESC").Find(&all).Error)
}

// Withdraw ends all customer links of a job.
func (c Crew) Withdraw(ctx context.Context, jobID string, at time.Time) error {
	return fault(c.mine(ctx).Table("customer_links").Where("job_id = ? AND withdrawn_at IS NULL", jobID).Update("withdrawn_at", at).Error)
}

// Shared tells which job of which crew a customer's link is to, or ErrLink.
func (s *Store) Shared(ctx context.Context, text string) (crew Crew, jobID string, err error) {
	var row struct {
		CrewID int64
		JobID  string
	}
	err = fault(s.db.WithContext(ctx).Table("customer_links").Where("token_sum = ? AND withdrawn_at IS NULL", tokenSum(text)).Limit(1).Find(&row).Error)
	if err == nil && row.JobID == "" {
		err = ErrLink
	}
	return s.Crew(row.CrewID), row.JobID, err
}
