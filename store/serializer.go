package store

import (
	"context"
	"fmt"
	"reflect"

	"gorm.io/gorm/schema"

	"velvetroad/core/job"
)

// documents reads stored documents through their upgrades, and refuses what a
// newer program stored: an edit would lose what this one does not know.
type documents struct{}

// Unreadable tells that a stored document is of a newer program, or spoilt.
type Unreadable struct{ err error }

func (u *Unreadable) Error() string { return u.err.Error() }

func init() { schema.RegisterSerializer("job", documents{}) }

// Scan reads a document from its column.
func (documents) Scan(ctx context.Context, field *schema.Field, dst reflect.Value, value any) error {
	var text []byte
	switch v := value.(type) {
	case nil:
		return nil
	case []byte:
		text = v
	case string:
		text = []byte(v)
	default:
		return fmt.Errorf("a document is stored as text, not as %T", value)
	}
	d, err := job.Open(text)
	if err != nil {
		return &Unreadable{err}
	}
	field.ReflectValueOf(ctx, dst).Set(reflect.ValueOf(d))
	return nil
}

// Value writes a document into its column.
func (documents) Value(_ context.Context, _ *schema.Field, _ reflect.Value, value any) (any, error) {
	return string(job.Raw(value)), nil
}
