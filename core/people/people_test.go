package people_test

import (
	"fmt"
	"testing"

	"github.com/stretchr/testify/assert"

	"velvetroad/core/people"
)

func ExampleRole_May() {
	fmt.Println(people.Office.May(people.Shelve), people.Office.May(people.Sign))
	// Output: true false
}

func TestARefusalSaysWhoMay(t *testing.T) {
	r := &people.Refusal{Act: people.Sign, Names: []string{"Ada", "Ben"}}
	assert.EqualError(t, r, "signing off and reopening a job is for a lead: ask Ada or Ben")
	assert.EqualError(t, &people.Refusal{Act: people.Shelve}, "changing the shelf and its prices is for a lead or the office")
	assert.False(t, people.Role("customer").Known(), "a customer is nobody of the crew")
	for _, a := range []people.Act{people.Sign, people.Accept, people.Book, people.Shelve, people.Share, people.Erase, people.Invite} {
		assert.True(t, people.Lead.May(a), "a lead may do everything: %s", a)
		assert.False(t, people.Role("").May(a), "nobody may do nothing: %s", a)
	}
}
