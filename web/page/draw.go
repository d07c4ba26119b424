package page

import (
	"fmt"
	"html/template"
	"slices"
	"strings"

	"velvetroad/core/finding"
	"velvetroad/web/form"
)

// A page has up to two hundred fields and marks, and each drawn by the engine of templates takes twenty times as
// long as written here: they were most of what a page cost.

// markup writes HTML: text and attributes escaped, the rest as it is.
type markup struct{ strings.Builder }

func (m *markup) raw(parts ...string) {
	for _, p := range parts {
		m.WriteString(p)
	}
}

func (m *markup) text(s string) { template.HTMLEscape(m, []byte(s)) }

// attr writes an attribute, none for an empty value.
func (m *markup) attr(name, value string) {
	if value != "" {
		m.value(name, value)
	}
}

func (m *markup) value(name, value string) {
	m.raw(" ", name, `="`)
	m.text(value)
	m.raw(`"`)
}

// options writes the choices of a select with the chosen one marked.
func (m *markup) options(all []form.Option, chosen string, marked bool) {
	for _, o := range all {
		m.raw("<option")
		m.value("value", o.Value)
		if marked && o.Value == chosen {
			m.raw(" selected")
		}
		m.raw(">")
		m.text(o.Text)
		m.raw("</option>")
	}
}

// control writes what is filled in of a field; rest are its other attributes.
func (m *markup) control(f form.Field, rest func()) {
	tag := "<input"
	if f.Kind == "choice" {
		tag = "<select"
	}
	m.raw(tag)
	m.value("id", f.ID)
	m.value("name", f.Key)
	if f.Kind == "choice" {
		if f.List != "" {
			m.value("data-list", idOf(f.List))
		}
	} else {
		m.value("value", f.Value)
		m.raw(` autocomplete="off"`)
	}
	if f.Auto {
		m.value("data-auto", f.Name)
	}
	rest()
	if f.Closed {
		m.raw(" disabled")
	}
	m.raw(">")
	if f.Kind == "choice" {
		m.options(f.Choices, f.Value, true)
		m.raw("</select>")
	}
}

func (m *markup) wrong(f form.Field) {
	m.raw(`<p class="wrong"`)
	m.value("id", f.ID+"-wrong")
	m.raw(" hidden></p>")
}

// drawField is a field below its label, with its unit and hint. The error is of a term that nothing explains.
func drawField(f form.Field) (template.HTML, error) {
	var m markup
	m.raw(`<div class="field field-`, f.Kind)
	if f.Wide() {
		m.raw(" field-wide")
	}
	m.raw(`">`)
	if f.Term != "" {
		m.raw(`<div class="termed">`)
	}
	m.raw("<label")
	m.value("for", f.ID)
	m.raw(">")
	m.text(f.Label)
	m.raw("</label>")
	if f.Term != "" {
		explain, err := drawTerm(f.Term)
		if err != nil {
			return "", err
		}
		m.raw(string(explain), "</div>")
	}
	if f.Kind == "choice" {
		m.control(f, func() {})
	} else {
		m.raw(`<span class="with-unit">`)
		m.control(f, func() {
			m.attr("data-from", f.From)
			kind := "text"
			if f.Kind == "day" {
				kind = "date"
			}
			m.value("type", kind)
			switch {
			case f.Kind == "length":
				m.raw(` data-pad="length"`)
			case slices.Contains([]string{"number", "whole", "mass"}, f.Kind):
				m.raw(` inputmode="decimal" data-pad="number"`)
			}
			if f.Hint != "" {
				m.value("aria-describedby", f.ID+"-hint")
			}
		})
		if f.Unit != "" {
			m.raw(`<span class="unit">`)
			m.text(f.Unit)
			m.raw("</span>")
		}
		m.raw("</span>")
	}
	if f.Hint != "" {
		m.raw(`<p class="hint"`)
		m.value("id", f.ID+"-hint")
		m.raw(">")
		m.text(f.Hint)
		m.raw("</p>")
	}
	m.wrong(f)
	m.raw("</div>")
	return template.HTML(m.String()), nil
}

// drawTerm is the mark beside a term that opens what it means; the error is of one that nothing explains.
func drawTerm(term string) (template.HTML, error) {
	says, known := form.Terms[term]
	if !known {
		return "", fmt.Errorf("nothing explains %q", term)
	}
	var m markup
	m.raw(`<details class="explain"><summary`)
	m.value("aria-label", "What is this: "+term+"?")
	m.raw(">?</summary><p>")
	m.text(says)
	m.raw("</p></details>")
	return template.HTML(m.String()), nil
}

// drawList holds the choices that several fields of a page have.
func drawList(l *form.List) template.HTML {
	var m markup
	m.raw("<template")
	m.value("id", "list-"+idOf(l.Name))
	m.raw(">")
	m.options(l.Options, "", false)
	m.raw("</template>\n")
	return template.HTML(m.String())
}

// drawCell is a field of a table, whose column says what it is.
func drawCell(f form.Field) template.HTML {
	var m markup
	m.control(f, func() {
		m.value("aria-label", f.Label)
		if f.Kind == "choice" {
			return
		}
		m.value("class", "cell-"+f.Kind)
		m.raw(` type="text"`)
		m.attr("placeholder", f.Ghost)
		if f.Kind == "length" {
			m.raw(` data-pad="length"`)
		}
	})
	m.wrong(f)
	return template.HTML(m.String())
}

// shapes of the grades: they tell them apart where colours do not.
var shapes = map[finding.Grade]string{
	finding.Fine: `<circle cx="6" cy="6" r="5"/>`, finding.Watch: `<path d="M6,0 L12,11 L0,11z"/>`, finding.Unfinished: `<path d="M6,1 L11,6 L6,11 L1,6z"/>`, finding.Stop: `<rect x="1" y="1" width="10" height="10"/>`,
}

// drawGrade is the mark of a grade.
func drawGrade(g finding.Grade) template.HTML {
	return template.HTML(`<span class="grade ` + g.String() + `"><svg viewBox="0 0 12 12" aria-hidden="true">` + shapes[g] + `</svg><span class="grade-word">` + g.Word() + `</span></span>`)
}
