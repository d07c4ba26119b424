package form

import "slices"

// Lists are the choices that many fields of a page share: terminals, parts, existing cables. Each
// is made once and is once on the page; a field has its own choice and the list's name. The zero
// value has none.
type Lists struct {
	made   map[string]*List
	order  []*List
	labels map[string]string
}

// List holds one shared list of choices.
type List struct {
	Name    string
	Options []Option
	wide    bool
	shared  bool // some field has its name
}

// Shared returns the lists that fields have named, in that order.
func (l *Lists) Shared() (out []*List) {
	for _, one := range l.order {
		if one.shared {
			out = append(out, one)
		}
	}
	return out
}

// few limits the options that a field has itself; longer lists are shared.
const few = 8

// share gives a field the choices of a list. One that has another value than the list's keeps it,
// as otherwise names it.
func (s Subject) share(f *Field, name string, otherwise func() Option, options func() []Option) {
	list, had := s.lists.made[name]
	if !had {
		list = &List{Name: name, Options: options()}
		list.wide = wide(list.Options)
		if s.lists.made == nil {
			s.lists.made = map[string]*List{}
		}
		s.lists.made[name] = list
		s.lists.order = append(s.lists.order, list)
	}
	at := slices.IndexFunc(list.Options, func(o Option) bool { return o.Value == f.Value })
	switch {
	case len(list.Options) <= few && at >= 0:
		f.Choices = list.Options
	case len(list.Options) <= few && otherwise != nil:
		f.Choices = append(slices.Clone(list.Options), otherwise())
	case len(list.Options) <= few:
		f.Choices = list.Options
	default:
		f.List, list.shared, f.wide = name, true, list.wide
		switch {
		case at >= 0:
			f.Choices = []Option{list.Options[at]}
		case otherwise != nil:
			f.Choices = []Option{otherwise()}
		default: // the first is chosen, as where all are there
			f.Choices = list.Options[:1]
		}
	}
}

// labels returns the document's labels, worked out once for a page.
func (s Subject) labels() map[string]string {
	if s.lists.labels == nil {
		s.lists.labels = s.Doc.Labels()
	}
	return s.lists.labels
}
