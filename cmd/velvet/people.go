package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"slices"
	"strings"
	"time"

	"github.com/google/uuid"

	"velvetroad/core/job"
	"velvetroad/core/people"
	"velvetroad/store"
)

// ofCrew is a command that works in one crew of the database.
type ofCrew struct {
	database
	Crew string `help:"Name of the crew; needed where there are several."`
}

// in opens the crew for what do does with it.
func (o ofCrew) in(ctx context.Context, do func(*store.Store, store.Crew) error) error {
	return o.with(ctx, func(s *store.Store) error {
		crews, err := s.Crews(ctx)
		if err != nil {
			return err
		}
		if o.Crew != "" {
			crews = slices.DeleteFunc(crews, func(a store.About) bool { return !strings.EqualFold(a.Name, o.Crew) })
		}
		var names []string
		for _, a := range crews {
			names = append(names, a.Name)
		}
		switch {
		case len(crews) == 1:
			return do(s, s.Crew(crews[0].ID))
		case len(crews) > 1:
			return fmt.Errorf("there are several crews: name one with --crew, of %s", strings.Join(names, ", "))
		case o.Crew != "":
			return fmt.Errorf("there is no crew %q", o.Crew)
		}
		return errors.New("there is no crew yet: make one with velvet person add --new --crew NAME --role lead YOU")
	})
}

type export struct {
	ofCrew
	Number int    `arg:"" help:"The job's number."`
	Out    string `short:"o" default:"-" help:"File to write; - is standard output."`
}

func (c export) Run(ctx context.Context) error {
	return c.in(ctx, func(_ *store.Store, crew store.Crew) error {
		jobs, err := crew.Jobs(ctx, "")
		if err != nil {
			return err
		}
		at := slices.IndexFunc(jobs, func(j store.Job) bool { return j.Number == c.Number })
		if at < 0 {
			return fmt.Errorf("there is no job %d", c.Number)
		}
		now, err := crew.Job(ctx, jobs[at].ID, 0)
		if err != nil {
			return err
		}
		if c.Out == "-" {
			_, err = os.Stdout.Write(job.Encode(now.Document))
			return err
		}
		return os.WriteFile(c.Out, job.Encode(now.Document), 0o644)
	})
}

type importing struct {
	ofCrew
	File string `arg:"" help:"Job file; - reads standard input."`
	Copy bool   `help:"Bring it in beside the same job that is there already."`
}

func (c importing) Run(ctx context.Context) error {
	d, err := readJob(c.File)
	if err != nil {
		return fmt.Errorf("%s is not a job document; nothing was brought in:\n%w", c.File, err)
	}
	if c.Copy {
		d.ID = uuid.NewString()
	}
	return c.in(ctx, func(_ *store.Store, crew store.Crew) error {
		now, err := crew.Create(ctx, d, "command line", "import a job file", time.Now().UTC())
		if err == nil {
			fmt.Printf("job %d\n", now.Document.Number)
		}
		return err
	})
}

type person struct {
	List   personList   `cmd:"" help:"List the people of every crew, or of one."`
	Add    personAdd    `cmd:"" help:"Add somebody and print the link by which they join; the first makes the crew."`
	Invite personInvite `cmd:"" help:"Print a new link for somebody: they choose a name and password by it."`
	Block  personBlock  `cmd:"" help:"Keep somebody out at once, wherever they are signed in."`
	LetIn  personLetIn  `cmd:"" help:"Let somebody in again who was blocked."`
	Role   personRole   `cmd:"" help:"Give somebody another role: lead, installer or office."`
}

type personList struct {
	database
	Crew string `help:"Only this crew."`
}

func (c personList) Run(ctx context.Context) error {
	return c.with(ctx, func(s *store.Store) error {
		crews, err := s.Crews(ctx)
		if err != nil {
			return err
		}
		for _, about := range crews {
			if c.Crew != "" && !strings.EqualFold(about.Name, c.Crew) {
				continue
			}
			demo := ""
			if about.Demo {
				demo = " (demo)"
			}
			fmt.Printf("%s%s\n", about.Name, demo)
			all, err := s.Crew(about.ID).People(ctx)
			if err != nil {
				return err
			}
			for _, p := range all {
				state := "not joined yet"
				switch {
				case p.Blocked:
					state = "blocked"
				case p.Password != "":
					state = "signs in as " + *p.SignIn
				case about.Demo:
					state = "one touch, on this machine"
				}
				fmt.Printf("  %-24s %-10s %s\n", p.Name, p.Role, state)
			}
		}
		return nil
	})
}

// site is where people reach the program, for the links that are printed.
type site struct {
	Site string `env:"SITE" default:"http://127.0.0.1:8080" help:"Where people reach the program, for the link."`
}

func (c site) link(ctx context.Context, crew store.Crew, p store.Person) error {
	token, err := crew.Invite(ctx, p.ID, time.Now())
	if err == nil {
		fmt.Printf("%s joins by this link, once, within a week:\n%s/join/%s\n", p.Name, strings.TrimSuffix(c.Site, "/"), token)
	}
	return err
}

type personAdd struct {
	ofCrew
	site
	Name string      `arg:"" help:"Their name, as the others know them."`
	Role people.Role `default:"installer" help:"lead, installer or office."`
	New  bool        `help:"Make the crew that --crew names; its first person is a lead."`
}

func (c personAdd) Run(ctx context.Context) error {
	add := func(_ *store.Store, crew store.Crew) error {
		p, err := crew.AddPerson(ctx, c.Name, c.Role)
		if err != nil {
			return err
		}
		return c.link(ctx, crew, p)
	}
	if !c.New {
		return c.in(ctx, add)
	}
	if c.Crew == "" {
		return errors.New("name the new crew with --crew")
	}
	return c.with(ctx, func(s *store.Store) error {
		if err := s.Migrate(ctx); err != nil {
			return err
		}
		crew, err := s.AddCrew(ctx, c.Crew, false)
		if err != nil {
			return err
		}
		c.Role = people.Lead
		return add(s, crew)
	})
}

// named finds somebody of the crew.
func named(ctx context.Context, crew store.Crew, name string) (store.Person, error) {
	all, err := crew.People(ctx)
	if err != nil {
		return store.Person{}, err
	}
	for _, p := range all {
		if strings.EqualFold(p.Name, name) || p.SignIn != nil && strings.EqualFold(*p.SignIn, name) {
			return p, nil
		}
	}
	return store.Person{}, fmt.Errorf("the crew has nobody called %q", name)
}

// one is a command about somebody of a crew.
type one struct {
	ofCrew
	Name string `arg:"" help:"Their name, or the one they sign in with."`
}

func (c one) about(ctx context.Context, do func(store.Crew, store.Person) error) error {
	return c.in(ctx, func(_ *store.Store, crew store.Crew) error {
		p, err := named(ctx, crew, c.Name)
		if err != nil {
			return err
		}
		return do(crew, p)
	})
}

type personInvite struct {
	one
	site
}

func (c personInvite) Run(ctx context.Context) error {
	return c.about(ctx, func(crew store.Crew, p store.Person) error { return c.link(ctx, crew, p) })
}

type personBlock struct{ one }

func (c personBlock) Run(ctx context.Context) error {
	return c.about(ctx, func(crew store.Crew, p store.Person) error { return crew.Block(ctx, p.ID, true) })
}

type personLetIn struct{ one }

func (c personLetIn) Run(ctx context.Context) error {
	return c.about(ctx, func(crew store.Crew, p store.Person) error { return crew.Block(ctx, p.ID, false) })
}

type personRole struct {
	one
	Role people.Role `arg:"" help:"lead, installer or office."`
}

func (c personRole) Run(ctx context.Context) error {
	return c.about(ctx, func(crew store.Crew, p store.Person) error { return crew.SetRole(ctx, p.ID, c.Role) })
}
