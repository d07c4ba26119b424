package web_test

import (
	"encoding/csv"
	"encoding/json"
	"net/url"
	"regexp"
	"strings"
	"testing"

	"github.com/google/uuid"
	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"

	"velvetroad/core/job"
	"velvetroad/core/plan"
	"velvetroad/core/shelf"
	"velvetroad/demo"
	"velvetroad/web/drawing"
	"velvetroad/web/page"
)

// equipmentOf finds a piece of equipment by its label.
func equipmentOf(t *testing.T, d job.Document, label string) job.Equipment {
	for _, e := range d.Equipment {
		if e.Label == label {
			return e
		}
	}
	require.Fail(t, "there is no "+label)
	return job.Equipment{}
}

// act is the button of a page whose text begins so.
func (s site) act(id, stage, text string) (act page.Act) {
	for _, one := range regexp.MustCompile(`data-act="(\{.*?\})"[ >]`).FindAllStringSubmatch(s.page(id, stage), -1) {
		require.NoError(s.t, json.Unmarshal([]byte(strings.ReplaceAll(one[1], `"$1"`, `"`+uuid.NewString()+`"`)), &act))
		if strings.HasPrefix(act.Text, text) {
			return act
		}
	}
	require.Fail(s.t, "there is no button "+text)
	return act
}

// A van gets its battery side by the page's own buttons and fields: each wire is a stop
// until something protects it, and every figure follows.
func TestTheBatterySideIsBuiltOnItsPage(t *testing.T) {
	s := open(t)
	doc := func() job.Document {
		now, err := s.job(kestrel)
		require.NoError(t, err)
		return now.Document
	}
	edit := func(says string, changes ...job.Change) {
		code, got := s.api(kestrel, "edit", m{"stage": "power", "id": uuid.NewString(), "says": says, "changes": changes})
		require.Equal(t, 200, code, got.Error.Says)
	}
	set := func(name string, pairs ...string) {
		code, got := s.api(kestrel, "fields", fields("power", name, pairs...))
		require.Equal(t, 200, code, "%s %v", got.Error.Says, got.Error.Fields)
	}
	for _, label := range []string{"Inverter", "Fuse panel"} {
		act := s.act(kestrel, "power", label)
		edit(act.Says, act.Changes...)
	}
	battery, _ := doc().Battery()
	inverter, lamp := equipmentOf(t, doc(), "Inverter"), equipmentOf(t, doc(), "Roof fan")
	set("equipment/"+inverter.ID, "part", "inverter-12-820")
	join := func(from, to string) string {
		act := s.act(kestrel, "power?"+url.Values{"from": {from}, "to": {to}}.Encode(), "Add ")
		edit(act.Says, act.Changes...)
		return doc().Circuits[len(doc().Circuits)-1].ID
	}
	feed := join(battery.ID, inverter.ID)
	k, _ := shelf.Find(doc().Circuits, feed)
	assert.Equal(t, job.At(inverter.ID, "dc-"), k.Minus.To, "both poles are led")
	set("circuit/"+feed, "cable", "flex-35mm2", "measured_mm", "4 ft")
	body := s.page(kestrel, "power")
	assert.Contains(t, body, "Battery feeds it at Battery, and nothing on the way opens")
	code, got := s.api(kestrel, "fields", fields("power", "circuit/"+feed, "fuse_mm", "5 in"))
	assert.Equal(t, 422, code)
	assert.Contains(t, got.Error.Says, "Choose the fuse or breaker first")
	set("circuit/"+feed, "fuse", "fuse-90")
	set("circuit/"+feed, "fuse_near", "to")
	assert.Contains(t, s.page(kestrel, "power"), "its fuse is 4' from Battery", "at the wrong end")
	set("circuit/"+feed, "fuse_near", "from", "fuse_mm", "5 in")
	body = s.page(kestrel, "power")
	assert.NotContains(t, body, "nothing on the way opens")
	assert.Contains(t, body, "takes 7", "the inverter's amps, by the solved network")

	// A load is a list too: what it takes on a day, and how long the bank lasts.
	set("equipment/"+lamp.ID, "settings.hours_per_day", "10", "settings.duty_pct", "50")
	now, err := s.job(kestrel)
	require.NoError(t, err)
	p := plan.Of(now.Document, demo.Shelf())
	assert.InDelta(t, 46*24*.42+32*10*.5+8*24, p.Power.WattHours, 1e-6, "with the inverter's idle 8 W")

	// Two in series make 24 V, once somebody says so.
	act := s.act(kestrel, "power", "Battery")
	edit(act.Says, act.Changes...)
	second := equipmentOf(t, doc(), "Battery 2")
	set("equipment/"+second.ID, "part", "lith-12-228-heated")
	set("bank", "nominal_v", "24")
	assert.Contains(t, s.page(kestrel, "power"), "together 12 V; the bank is set to 24 V")
	code, got = s.api(kestrel, "fields", fields("power", "bank", "batteries", "Battery + Spare"))
	assert.Equal(t, 422, code)
	assert.Contains(t, got.Error.Fields["batteries"], `there is no battery "Spare"; there are Battery, Battery 2`)
	set("bank", "batteries", "battery + Battery 2")
	body = s.page(kestrel, "power")
	assert.NotContains(t, body, "the bank is set to")
	assert.Contains(t, body, `value="Battery + Battery 2"`)
	assert.Equal(t, [][]string{{battery.ID, second.ID}}, doc().Bank.Batteries)

	// What cannot be joined is said; what is taken away takes its circuit along.
	assert.Contains(t, s.page(kestrel, "power?"+url.Values{"from": {battery.ID}, "to": {battery.ID}}.Encode()), "two different pieces of equipment")
	assert.Contains(t, s.page(kestrel, "power?"+url.Values{"from": {battery.ID}, "to": {inverter.ID}, "system": {"ac"}}.Encode()), "Add Battery to Inverter")
	edit("remove the inverter", job.Change{Do: "remove_equipment", ID: inverter.ID})
	_, left := shelf.Find(doc().Circuits, feed)
	assert.False(t, left)

	code, got = s.api(kestrel, "fields", fields("power", "equipment/"+battery.ID, "part", "inverter-12-820"))
	assert.Equal(t, 422, code, "a battery is no inverter")
	assert.NotEmpty(t, got.Error.Says)
}

// What an owner's battery and charger are: existing, part of the sums, and not asked about
// in the record; the shelf's data come along with the part.
func TestWhatIsThereStays(t *testing.T) {
	s := open(t)
	now, err := s.job(heron)
	require.NoError(t, err)
	p := plan.Of(now.Document, demo.Shelf())
	assert.InDelta(t, 188, float64(p.Power.System.Capacity()), 0)
	for _, e := range now.Document.Equipment {
		if e.Status == job.StatusExisting {
			assert.NotContains(t, now.Document.Planned(), e.ID, e.Label)
		}
	}
	assert.Contains(t, s.page(heron, "power"), "Converter feed")
	body := s.page(heron, "power")
	assert.NotContains(t, body, "Find terminals", "a signed job is shown, not changed")
}

// The circuits go out as a table and as labels for both ends of every wire.
func TestTheCircuitsGoOut(t *testing.T) {
	s := open(t)
	code, body, head := s.get("/jobs/" + marten + "/power.csv")
	require.Equal(t, 200, code)
	assert.Contains(t, head.Get("Content-Disposition"), "job-64-circuits.csv")
	rows, err := csv.NewReader(strings.NewReader(body)).ReadAll()
	require.NoError(t, err)
	now, err := s.job(marten)
	require.NoError(t, err)
	home := 0
	for _, c := range now.Document.Circuits {
		if c.System == "pv" {
			home++
		}
	}
	require.Len(t, rows, 1+len(now.Document.Circuits)-home)
	column := map[string]int{}
	for i, name := range rows[0] {
		column[name] = i
	}
	for _, row := range rows[1:] {
		if row[column["circuit"]] == "Inverter feed" {
			assert.Equal(t, []string{"dc", "new", "Plus bus, stud 2", "Inverter, DC plus", "flexible cable 25 mm²", "840", "yes"},
				[]string{row[column["system"]], row[column["status"]], row[column["plus_from"]], row[column["plus_to"]], row[column["cable"]], row[column["length_mm"]], row[column["protected"]]})
		}
	}
	p := plan.Of(now.Document, demo.Shelf())
	ends := drawing.WireEnds(now.Document, p)
	for i := 0; i < len(ends); i += 2 {
		assert.Equal(t, [2]string{ends[i].Here, ends[i].There}, [2]string{ends[i+1].There, ends[i+1].Here}, "each end says where it is and where the other is")
	}
	code, body, _ = s.get("/jobs/" + marten + "/labels.pdf")
	require.Equal(t, 200, code)
	assert.True(t, strings.HasPrefix(body, "%PDF-"))
	const onPage = 20 // two columns of ten on A4
	assert.Equal(t, (len(ends)+onPage-1)/onPage, len(regexp.MustCompile(`/Type /Page\n`).FindAllString(body, -1)))
	assert.Equal(t, len(now.Document.Circuits), len(regexp.MustCompile(`/Subtype /Image`).FindAllString(body, -1)), "a code for each circuit")
	code, body, _ = s.get("/jobs/" + kestrel + "/labels.pdf")
	require.Equal(t, 200, code, "no circuit: it says so")
	assert.True(t, strings.HasPrefix(body, "%PDF-"))
}
