package job

import (
	"bytes"
	"encoding/json"
	"slices"
)

// Diff returns the changes that make b of a, in the order in which Apply takes
// them. Undoing an edit is the difference from the document after it to the one
// before it: it does not depend on how the edit was written, so an edit stored by
// an older program can be taken back once both documents are upgraded.
func Diff(a, b Document) (out []Change) {
	// A signed job takes no change but reopening, and nothing follows a signature.
	signed := !bytes.Equal(Raw(a.Record.Signed), Raw(b.Record.Signed))
	if a.Record.Signed != nil && signed {
		out = append(out, Change{Do: "reopen"})
	}
	for _, k := range PartKinds {
		out = append(out, k.gained(a, b)...)
	}
	for _, object := range objects {
		if fields := differing(object.read(a), object.read(b)); len(fields) > 0 {
			out = append(out, Change{Do: "set_" + object.noun, Fields: fields})
		}
	}
	// What names other things goes first, so that nothing is left to go with them.
	for _, k := range slices.Backward(Kinds) {
		out = append(out, k.lost(a, b)...)
	}
	for _, k := range Kinds {
		out = append(out, k.gained(a, b)...)
	}
	for _, k := range PartKinds {
		out = append(out, k.lost(a, b)...)
	}
	if b.Record.Signed != nil && signed {
		out = append(out, Change{Do: "sign_off", Item: Raw(b.Record.Signed)})
	}
	return out
}

// gained are the items of b that a lacks or has otherwise, with their places.
func (k kind[T]) gained(a, b Document) (out []Change) {
	was := *k.of(&a)
	for at, item := range *k.of(&b) {
		i := slices.IndexFunc(was, func(t T) bool { return t.Key() == item.Key() })
		switch {
		case i >= 0 && bytes.Equal(Raw(was[i]), Raw(item)):
		case k.carried:
			out = append(out, Change{Do: "carry_part", Kind: k.noun, Item: Raw(item), At: &at})
		case i < 0:
			out = append(out, Change{Do: "add_" + k.noun, Item: Raw(item), At: &at})
		default:
			out = append(out, Change{Do: "change_" + k.noun, ID: item.Key(), Fields: differing(Raw(was[i]), Raw(item))})
		}
	}
	return out
}

// lost are the items of a that b lacks.
func (k kind[T]) lost(a, b Document) (out []Change) {
	for _, item := range *k.of(&a) {
		switch {
		case k.has(&b, item.Key()):
		case k.carried:
			out = append(out, Change{Do: "drop_part", Kind: k.noun, ID: item.Key()})
		default:
			out = append(out, Change{Do: "remove_" + k.noun, ID: item.Key()})
		}
	}
	return out
}

// differing are the fields of b that a has otherwise; null for those that b lacks.
func differing(a, b json.RawMessage) map[string]json.RawMessage {
	var was, is map[string]json.RawMessage
	// Both are objects that Raw wrote.
	_, _ = json.Unmarshal(a, &was), json.Unmarshal(b, &is)
	out := map[string]json.RawMessage{}
	for key, value := range is {
		if !bytes.Equal(was[key], value) {
			out[key] = value
		}
	}
	for key := range was {
		if _, ok := is[key]; !ok {
			out[key] = json.RawMessage("null")
		}
	}
	return out
}
