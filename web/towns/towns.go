// Package towns answers "where is that town?" from the open GeoNames data set: its
// latitude and time zone, so that nobody has to look them up.
package towns

import (
	"bufio"
	"compress/gzip"
	"fmt"
	"io"
	"strconv"
	"strings"
	"unicode"

	"golang.org/x/text/runes"
	"golang.org/x/text/transform"
	"golang.org/x/text/unicode/norm"
)

// Town is a place with people.
type Town struct {
	Name, Region, Country string // "CO", "US"; Region is empty where it has no letters
	Latitude, Longitude   float64
	Zone                  string // "America/Denver"

	folded string
}

// Text writes it as "Durango, CO, US".
func (t Town) Text() string {
	if t.Region == "" {
		return t.Name + ", " + t.Country
	}
	return t.Name + ", " + t.Region + ", " + t.Country
}

// Read reads the list that the build makes: gzip, a line each, fields parted by
// tabs, the largest first. The error says in which line something is wrong.
func Read(from io.Reader) (list []Town, err error) {
	unzipped, err := gzip.NewReader(from)
	if err != nil {
		return nil, err
	}
	lines := bufio.NewScanner(unzipped)
	for lines.Scan() {
		f := strings.Split(lines.Text(), "\t")
		if len(f) != 7 {
			return nil, fmt.Errorf("towns, line %d: %d fields instead of 7", len(list)+1, len(f))
		}
		t := Town{Name: f[0], Region: f[1], Country: f[2], Zone: f[5], folded: fold(f[0])}
		if t.Latitude, err = strconv.ParseFloat(f[3], 64); err == nil {
			t.Longitude, err = strconv.ParseFloat(f[4], 64)
		}
		if err != nil {
			return nil, fmt.Errorf("towns, line %d: %w", len(list)+1, err)
		}
		list = append(list, t)
	}
	return list, lines.Err()
}

// Find lists the towns whose name begins with what is asked for, those of exactly
// that name first, else the largest; "durango, co" and "leeds gb" name a region or
// country behind it. Case and accents do not matter.
func Find(list []Town, asked string, most int) (found []Town) {
	name, behind, parted := strings.Cut(asked, ",")
	name, behind = fold(strings.TrimSpace(name)), strings.ToUpper(strings.TrimSpace(behind))
	if name == "" {
		return nil
	}
	if found = named(list, name, behind, most); len(found) > 0 || parted {
		return found
	}
	if i := strings.LastIndex(name, " "); i > 0 {
		return named(list, name[:i], strings.ToUpper(name[i+1:]), most)
	}
	return nil
}

func named(list []Town, name, behind string, most int) (found []Town) {
	var longer []Town
	for _, t := range list {
		if !strings.HasPrefix(t.folded, name) || behind != "" && t.Region != behind && t.Country != behind && t.Region+", "+t.Country != behind {
			continue
		}
		switch {
		case t.folded == name && len(found) < most:
			found = append(found, t)
		case len(longer) < most:
			longer = append(longer, t)
		}
	}
	return append(found, longer[:min(len(longer), most-len(found))]...)
}

// fold takes case and accents away.
func fold(s string) string {
	plain, _, err := transform.String(transform.Chain(norm.NFD, runes.Remove(runes.In(unicode.Mn)), norm.NFC), s)
	if err != nil {
		plain = s
	}
	return strings.ToLower(plain)
}
