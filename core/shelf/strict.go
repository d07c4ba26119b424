package shelf

import (
	"bytes"
	"encoding/json"
	"fmt"
	"strings"
)

// MostListed is how many problems are listed of one file or edit: nobody reads more, and
// the first ones usually explain the rest.
const MostListed = 100

// Listed cuts a list of problems to MostListed, and says at its end how many more there are.
func Listed(problems []Problem) []Problem {
	if len(problems) <= MostListed {
		return problems
	}
	more := Problem{Path: "and", Says: fmt.Sprintf("%d more", len(problems)-MostListed)}
	return append(problems[:MostListed:MostListed], more)
}

// Once tells whether every object of a JSON text has each key once, whatever its capitals:
// of two, a reader takes one, and another reader the other. The error names the key with
// its path. A text that is no JSON is left to its reader.
func Once(text []byte) error {
	type level struct {
		keys  map[string]bool // of an object; nil: a list
		path  string          // of the object or list
		key   string          // the one whose value comes
		index int
		want  bool // a key comes next
	}
	dec := json.NewDecoder(bytes.NewReader(text))
	dec.UseNumber()
	var stack []*level
	at := func() string {
		if len(stack) == 0 {
			return ""
		}
		in := stack[len(stack)-1]
		if in.keys == nil {
			return fmt.Sprintf("%s[%d]", in.path, in.index)
		}
		return strings.TrimPrefix(in.path+"."+in.key, ".")
	}
	next := func() { // a value has ended
		if len(stack) > 0 {
			stack[len(stack)-1].index++
			stack[len(stack)-1].want = true
		}
	}
	for {
		token, err := dec.Token()
		if err != nil {
			return nil
		}
		if delim, ok := token.(json.Delim); ok {
			switch delim {
			case '{':
				stack = append(stack, &level{keys: map[string]bool{}, path: at(), want: true})
			case '[':
				stack = append(stack, &level{path: at()})
			default:
				stack = stack[:len(stack)-1]
				next()
			}
			continue
		}
		if len(stack) > 0 {
			if in := stack[len(stack)-1]; in.keys != nil && in.want {
				in.key, in.want = token.(string), false // in an object a key comes before each value
				folded := strings.ToLower(in.key)
				if in.keys[folded] {
					return fmt.Errorf("%s is there twice; leave one", at())
				}
				in.keys[folded] = true
				continue
			}
		}
		next()
	}
}
