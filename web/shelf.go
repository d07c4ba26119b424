package web

import (
	"bytes"
	"encoding/json"
	"fmt"
	"io"
	"math"
	"net/http"
	"path"
	"slices"
	"strings"

	"github.com/gin-gonic/gin"
	"github.com/xuri/excelize/v2"
	"golang.org/x/text/currency"

	"velvetroad/core/array"
	"velvetroad/core/intake"
	"velvetroad/core/job"
	"velvetroad/core/prove"
	"velvetroad/core/sheet"
	"velvetroad/core/shelf"
	"velvetroad/core/units"
	"velvetroad/store"
	"velvetroad/web/page"
	"velvetroad/web/page/parts"
	sheetpage "velvetroad/web/page/sheet"
)

// shelf is the page of the crew's shelf.
func (s *Server) shelf(c *gin.Context) {
	v, err := s.shelfView(c)
	if err != nil {
		s.fail(c, err)
		return
	}
	s.render(c, http.StatusOK, "shelf", v)
}

// shelfView reads the shelf, what is retired, and where each part is used.
func (s *Server) shelfView(c *gin.Context) (v *page.View, err error) {
	v = &page.View{Title: "Shelf", Asked: c.Request.URL.Query()}
	var given parts.Given
	if v.Crew, err = s.crew(c).Shelf(c.Request.Context()); err != nil {
		return nil, err
	}
	if v.Currency, err = s.crew(c).Currency(c.Request.Context()); err != nil {
		return nil, err
	}
	if given.Retired, err = s.crew(c).Retired(c.Request.Context()); err != nil {
		return nil, err
	}
	if given.Uses, err = s.crew(c).Uses(c.Request.Context()); err != nil {
		return nil, err
	}
	v.Given = given
	return v, nil
}

// withShelf adds to what came back what else the page shows.
func (s *Server) withShelf(given parts.Given, v *page.View) parts.Given {
	if had, ok := v.Given.(parts.Given); ok {
		given.Retired, given.Uses = had.Retired, had.Uses
	}
	return given
}

// estimate works out a panel whose label nobody can read, shows it, and puts it
// on the shelf when it is asked to.
func (s *Server) estimate(c *gin.Context) {
	v, err := s.shelfView(c)
	if err != nil {
		s.fail(c, err)
		return
	}
	crew := v.Crew
	given := parts.Given{Kind: "estimate", Name: strings.TrimSpace(c.PostForm("name")), Ticked: parts.Ticked("estimate", c.PostForm)}
	typed := map[string]float64{}
	for _, f := range parts.EstimateFields {
		f.Value = strings.TrimSpace(c.PostForm(f.Key))
		given.Fields = append(given.Fields, f)
		if f.Choices != nil || f.Value == "" && f.Optional {
			continue
		}
		x, err := units.Number(strings.ReplaceAll(f.Value, "−", "-"))
		if err != nil {
			v.Problems = append(v.Problems, parts.NoNumber(f))
		} else if f.Key == "cells" && x != math.Trunc(x) {
			v.Problems = append(v.Problems, fmt.Sprintf("%s: %q is no whole number.", f.Label, f.Value))
		}
		typed[f.Key] = x
	}
	low, high, err := prove.Sky(c.PostForm("sky")).Irradiance()
	if err != nil {
		v.Problems = append(v.Problems, "Sky: "+err.Error()+".")
	}
	if given.Name == "" {
		v.Problems = append(v.Problems, "Name: give it the name it goes by on the roof.")
	}
	if len(v.Problems) == 0 {
		// Readings hang on the light by its ratio: the middle of a sky's range is the geometric one.
		part, working, err := array.Estimate(array.Unknown{Name: given.Name, Length: units.Millimetre(typed["length_mm"]), Width: units.Millimetre(typed["width_mm"]), Cells: int(typed["cells"]),
			Voc: units.Volt(typed["voc_v"]), Isc: units.Ampere(typed["isc_a"]), Sun: units.Irradiance(math.Sqrt(float64(low) * float64(high))), Air: units.Celsius(typed["air_c"]), Flexible: given.Ticked["flexible"]})
		if err != nil {
			v.Problems = append(v.Problems, units.Capital(err.Error())+".")
		} else {
			given.Estimate = &parts.Estimate{Part: part, Working: working}
			if c.PostForm("do") == "keep" {
				part.ID = shelf.Slug("panel", given.Name)
				var object map[string]any
				if err := json.Unmarshal(job.Raw(part), &object); err != nil {
					s.fail(c, err)
					return
				}
				if v.Problems = s.shelve(c, "panel", object, crew, false); len(v.Problems) == 0 {
					c.Redirect(http.StatusSeeOther, "/shelf")
					return
				}
			}
		}
	}
	status := http.StatusOK
	if len(v.Problems) > 0 {
		status = http.StatusUnprocessableEntity
	}
	v.Given = s.withShelf(given, v)
	s.render(c, status, "shelf", v)
}

// prices writes the shelf's prices; with anything wrong in them none is written.
func (s *Server) prices(c *gin.Context) {
	v, err := s.shelfView(c)
	if err != nil {
		s.fail(c, err)
		return
	}
	crew := v.Crew
	given := parts.Given{Prices: map[string]string{}}
	var changed shelf.Shelf
	read := func(key, name string, price *float64) bool {
		text, there := c.GetPostForm(key)
		if !there {
			return false
		}
		text = strings.TrimSpace(text)
		given.Prices[key] = text
		x := 0.0
		if text != "" {
			if x, err = units.Number(text); err != nil || math.IsNaN(x) || x < 0 {
				v.Problems = append(v.Problems, fmt.Sprintf("%s: %q is no price; write it as 12 or 12.50, or leave it empty.", units.Capital(name), text))
				return false
			}
		}
		was := *price
		*price = x
		return x != was
	}
	changed.Panels = repriced(crew.Panels, func(p *shelf.Panel) bool { return read("panel/"+p.ID, p.Name, &p.Price) })
	changed.Mounts = repriced(crew.Mounts, func(p *shelf.Mount) bool { return read("mount/"+p.ID, p.Name, &p.Price) })
	changed.Batteries = repriced(crew.Batteries, func(p *shelf.Battery) bool { return read("battery/"+p.ID, p.Name, &p.Price) })
	changed.Devices = repriced(crew.Devices, func(p *shelf.Device) bool { return read("device/"+p.ID, p.Name, &p.Price) })
	changed.Controllers = repriced(crew.Controllers, func(p *shelf.Controller) bool { return read("controller/"+p.ID, p.Name, &p.Price) })
	changed.Overcurrent = repriced(crew.Overcurrent, func(p *shelf.Overcurrent) bool { return read("overcurrent/"+p.ID, p.Name, &p.Price) })
	changed.Cables = repriced(crew.Cables, func(p *shelf.Cable) bool { return read("cable/"+p.ID, p.Name, &p.Price) })
	code := strings.ToUpper(strings.TrimSpace(c.PostForm("currency")))
	given.Prices["currency"] = code
	if _, err := currency.ParseISO(code); err != nil && code != "" {
		v.Problems = append(v.Problems, fmt.Sprintf("Currency: %q is no currency; write its three letters, as CAD or EUR, or leave it empty.", code))
	}
	for _, p := range changed.Problems() {
		v.Problems = append(v.Problems, units.Capital(p.Says)+".")
	}
	if len(v.Problems) > 0 {
		v.Given = s.withShelf(given, v)
		s.render(c, http.StatusUnprocessableEntity, "shelf", v)
		return
	}
	if err := s.crew(c).PutShelf(c.Request.Context(), changed); err != nil {
		s.fail(c, err)
		return
	}
	if err := s.crew(c).SetCurrency(c.Request.Context(), code); err != nil {
		s.fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/shelf")
}

// repriced are the parts whose price is another, with it.
func repriced[T any](all []T, read func(part *T) bool) (out []T) {
	for _, p := range all {
		if read(&p) {
			out = append(out, p)
		}
	}
	return out
}

// addPart puts a part typed from its label on the shelf, or changes the one whose ID
// the form has. What cannot be is said for every field at once, and what was typed
// stays in the form.
func (s *Server) addPart(c *gin.Context) {
	kind := c.Param("kind")
	fields, ok := parts.Labels[kind]
	v, err := s.shelfView(c)
	if err != nil || !ok {
		if err == nil {
			err = store.ErrNotFound
		}
		s.fail(c, err)
		return
	}
	given := parts.Given{Kind: kind, ID: c.PostForm("id"), Name: strings.TrimSpace(c.PostForm("name")), Ticked: parts.Ticked(kind, c.PostForm)}
	object := map[string]any{"name": given.Name, "id": shelf.Slug(kind, given.Name)}
	if given.ID != "" { // what the form does not show stays
		had, known := parts.Row(v.Crew, kind, given.ID)
		if !known {
			s.fail(c, store.ErrNotFound)
			return
		}
		if err := json.Unmarshal(had.Data(), &object); err != nil {
			s.fail(c, err)
			return
		}
		object["name"] = given.Name
	}
	if given.Name == "" {
		v.Problems = append(v.Problems, "Name: give it the name it goes by on the roof.")
	}
	for _, f := range fields {
		f.Value = strings.TrimSpace(c.PostForm(f.Key))
		given.Fields = append(given.Fields, f)
		if value, problem := f.Read(); problem != "" {
			v.Problems = append(v.Problems, problem)
		} else if value == nil {
			delete(object, f.Key)
		} else {
			object[f.Key] = value
		}
	}
	parts.Tick(kind, given.Ticked, object)
	if kind == "controller" {
		if n, ok := object[parts.PVInputs].(float64); ok {
			if n < 1 || n > 8 || n != math.Trunc(n) {
				v.Problems = append(v.Problems, "PV inputs: a controller has 1 to 8, not "+units.Num(n, 2)+".")
			}
			inputs := []any{}
			for range int(max(0, min(n, 8))) {
				inputs = append(inputs, map[string]any{"max_pv_v": object["max_pv_v"], "max_input_a": object["max_input_a"], "max_input_w": object["max_input_w"]})
			}
			if delete(object, "inputs"); n != 1 {
				object["inputs"] = inputs
			}
			delete(object, parts.PVInputs)
		}
	}
	if len(v.Problems) == 0 {
		v.Problems = s.shelve(c, kind, object, v.Crew, given.ID != "")
	}
	if len(v.Problems) > 0 {
		v.Given = s.withShelf(given, v)
		s.render(c, http.StatusUnprocessableEntity, "shelf", v)
		return
	}
	c.Redirect(http.StatusSeeOther, "/shelf#"+kind)
}

// shelve checks a part's label and keeps it; what is wrong comes back in words.
func (s *Server) shelve(c *gin.Context, kind string, object map[string]any, crew shelf.Shelf, change bool) (wrong []string) {
	var brought shelf.Shelf
	id, _ := object["id"].(string)
	if err := job.PutPart(&brought, kind, job.Raw(object)); err != nil {
		return []string{"A figure that must be whole is not: " + err.Error() + "."}
	}
	if _, taken := parts.Row(crew, kind, id); taken && !change {
		return []string{"Name: the shelf has a part of that name; give this one another."}
	}
	for _, p := range brought.Problems() {
		what := p.Path[strings.LastIndex(p.Path, ".")+1:]
		for _, f := range parts.Labels[kind] {
			if f.Key == what {
				what = f.Label
			}
		}
		wrong = append(wrong, units.Capital(strings.ReplaceAll(what, "_", " "))+": "+p.Says+".")
	}
	if len(wrong) > 0 {
		return wrong
	}
	if err := s.crew(c).PutShelf(c.Request.Context(), brought); err != nil {
		return []string{"The shelf could not be written; nothing was changed: " + err.Error()}
	}
	return nil
}

// retire takes a part off the shelf, or brings it back.
func (s *Server) retire(c *gin.Context) {
	kind, id, _ := strings.Cut(c.PostForm("part"), "/")
	if err := s.crew(c).Retire(c.Request.Context(), kind, id, c.PostForm("back") == ""); err != nil {
		s.fail(c, err)
		return
	}
	c.Redirect(http.StatusSeeOther, "/shelf#"+kind)
}

// bringShelf reads a file of parts, a table or a shelf, and shows what it would change.
func (s *Server) bringShelf(c *gin.Context) {
	v, err := s.shelfView(c)
	if err != nil {
		s.fail(c, err)
		return
	}
	refuse := func(problems ...string) {
		v.Problems = problems
		s.render(c, http.StatusUnprocessableEntity, "shelf", v)
	}
	file, name, ok := s.upload(c, func(says string) { refuse(says) })
	if !ok {
		return
	}
	defer file.Close()
	given := sheetpage.Given{Kind: c.PostForm("kind"), Name: name}
	var problems []shelf.Problem
	switch ending := strings.ToLower(path.Ext(name)); ending {
	case ".json":
		text, wrong := shelf.Limited(file)
		given.JSON, problems = string(text), wrong
	case ".xlsx":
		given.Sheet, problems = workbook(file, shelf.MaxRows)
	default:
		given.Sheet, problems = sheet.ReadCSV(file, shelf.MaxRows)
	}
	if len(problems) > 0 {
		refuse(fmt.Sprintf("%s cannot be read; nothing was changed. %s.", name, units.Capital(problems[0].Error())))
		return
	}
	given.Columns = given.Sheet.Guess(given.Kind)
	s.beside(c, v, given)
}

// workbook reads the first sheet of a workbook, of up to so many rows.
func workbook(r io.Reader, rowsMost int) (sheet.Sheet, []shelf.Problem) {
	wrong := func(err error) (sheet.Sheet, []shelf.Problem) {
		return sheet.Sheet{}, []shelf.Problem{{Path: "file", Says: "it is no workbook (XLSX): " + err.Error()}}
	}
	// A small file can unpack to anything, and what is unpacked takes a dozen times its size.
	const most = 8 << 20
	packed, err := intake.Read(r, maxBody)
	if err != nil {
		return wrong(err)
	}
	if _, err := listed(bytes.NewReader(packed), int64(len(packed))); err != nil {
		return wrong(err)
	}
	book, err := excelize.OpenReader(bytes.NewReader(packed), excelize.Options{UnzipSizeLimit: most, UnzipXMLSizeLimit: most, RawCellValue: true})
	if err != nil {
		return wrong(err)
	}
	defer book.Close()
	rows, err := book.Rows(book.GetSheetName(0))
	if err != nil {
		return wrong(err)
	}
	defer rows.Close()
	var cells [][]string
	for empty := 0; rows.Next(); { // row by row: one cell far out stands for thousands of empty ones
		row, err := rows.Columns()
		if err != nil {
			return wrong(err)
		}
		for len(row) > 0 && row[len(row)-1] == "" {
			row = row[:len(row)-1]
		}
		switch {
		case len(row) == 0:
			if empty++; empty > rowsMost {
				return wrong(fmt.Errorf("it has over %d empty rows", rowsMost))
			}
		case len(row) > sheet.Widest:
			return wrong(fmt.Errorf("row %d has %d columns; %d is the most that is read", len(cells)+1, len(row), sheet.Widest))
		case len(cells) > rowsMost+empty:
			return wrong(fmt.Errorf("it has over %d rows, which is the most that is read", rowsMost))
		}
		cells = append(cells, slices.Clone(row))
	}
	return sheet.FromRows(cells, rowsMost)
}

// takeSheet shows what a table changes with other columns, or saves it.
func (s *Server) takeSheet(c *gin.Context) {
	v, err := s.shelfView(c)
	if err != nil {
		s.fail(c, err)
		return
	}
	given := sheetpage.Given{Kind: c.PostForm("kind"), Name: c.PostForm("name"), JSON: c.PostForm("json")}
	if given.JSON == "" {
		var problems []shelf.Problem
		if given.Sheet, problems = sheet.ReadCSV(strings.NewReader(c.PostForm("text")), shelf.MaxRows); len(problems) > 0 {
			v.Problems = []string{"The table was cut on its way; read the file again. " + units.Capital(problems[0].Error()) + "."}
			s.render(c, http.StatusUnprocessableEntity, "shelf", v)
			return
		}
		for i := range given.Sheet.Heads {
			column := sheet.Column{Key: c.PostForm(fmt.Sprintf("key/%d", i)), Unit: c.PostForm(fmt.Sprintf("unit/%d", i))}
			if of := sheet.UnitsOf(column.Key); !slices.Contains(of, column.Unit) {
				if column.Unit = ""; of != nil {
					column.Unit = of[0]
				}
			}
			given.Columns = append(given.Columns, column)
		}
	}
	s.beside(c, v, given)
}

// beside shows what was brought beside the shelf; asked to save, it does.
func (s *Server) beside(c *gin.Context, v *page.View, given sheetpage.Given) {
	v.Title = "Parts from " + given.Name
	var problems []shelf.Problem
	if given.JSON != "" {
		var brought shelf.Shelf
		if brought, problems = shelf.ReadJSON(c.Request.Context(), strings.NewReader(given.JSON)); len(problems) == 0 {
			given.Rows = sheet.Parts(brought, v.Crew)
		}
	} else {
		given.Rows, problems = given.Sheet.Against(v.Crew, given.Kind, given.Columns)
	}
	for i, p := range problems {
		if i == 100 {
			v.Problems = append(v.Problems, fmt.Sprintf("… and %d more", len(problems)-i))
			break
		}
		v.Problems = append(v.Problems, units.Capital(p.Error())+".")
	}
	if c.PostForm("do") == "save" && len(problems) == 0 {
		brought, err := sheet.Shelf(given.Rows)
		if err == nil {
			err = s.crew(c).PutShelf(c.Request.Context(), brought)
		}
		if err != nil {
			s.fail(c, err)
			return
		}
		c.Redirect(http.StatusSeeOther, "/shelf#"+given.Kind)
		return
	}
	status := http.StatusOK
	if len(v.Problems) > 0 {
		status = http.StatusUnprocessableEntity
	}
	v.Given = given
	s.render(c, status, "sheet", v)
}

// shelfFile gives the crew's shelf as JSON, as bringShelf reads it.
func (s *Server) shelfFile(c *gin.Context) {
	crew, err := s.crew(c).Shelf(c.Request.Context())
	if err != nil {
		s.fail(c, err)
		return
	}
	text, err := json.MarshalIndent(crew, "", "  ")
	if err != nil {
		s.fail(c, err)
		return
	}
	c.Header("Content-Disposition", `attachment; filename="shelf.json"`)
	c.Data(http.StatusOK, "application/json", append(text, '\n'))
}
