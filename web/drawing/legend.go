package drawing

import (
	"fmt"
	"html/template"
)

// Key is one line of a drawing's legend: a mark as it is drawn, and what it means.
type Key struct {
	Sample template.HTML
	Says   string
}

// Legend explains the marks that are on this roof plan and do not say what they are.
func (r Roof) Legend() (keys []Key) {
	g := r.Document.Rig
	add := func(on bool, says, mark string, args ...any) {
		if on {
			keys = append(keys, Key{template.HTML(`<svg class="drawing key" viewBox="0 0 26 14" width="26" height="14" aria-hidden="true">` + fmt.Sprintf(mark, args...) + `</svg>`), says})
		}
	}
	const line, rect = `<path class="%s" d="M1 7H25"/>`, `<rect class="%s" x="2" y="1.5" width="22" height="11"/>`
	panels, existing, later, locked, feet := false, false, false, false, false
	for _, p := range r.Plan.Panels {
		panels = true
		existing, later, locked, feet = existing || p.Existing, later || p.Later, locked || p.Locked, feet || p.Feet > 0
	}
	lid, service, hot, gone := false, false, false, false
	standing := map[string]bool{}
	for _, t := range g.Standing() {
		standing[t.ID] = true
		lid, service, hot = lid || t.Lid != nil, service || t.Service != nil, hot || t.Hot != nil
	}
	for _, t := range g.Obstructions {
		gone = gone || !standing[t.ID]
	}
	strips := r.Stage == "survey" || r.Stage == "roof"
	add(feet, "foot of a panel", `<path class="foot" d="M13 3L17 7L13 11L9 7Z"/>`)
	add(len(r.feetGone()) > 0, "where a foot was planned", `<path class="foot-was" d="M9 3L17 11M9 11L17 3"/>`)
	add(r.hasPhotos(), "photo with its number", `<rect class="photo-sign" x="7" y="3" width="12" height="9" rx="1.5"/><circle class="photo-lens" cx="13" cy="7.5" r="2.4"/>`)
	add(existing, "panel that was there before", rect, "panel existing")
	add(later, "place kept for a later panel", rect, "panel later")
	add(locked && r.Stage == "roof", "panel that stays where it is", rect, "panel locked")
	add(len(r.Planned) > 0, "where the plan had it", rect, "was-planned")
	add(gone, "taken off or moved", `<rect class="thing-gone" x="6" y="1.5" width="14" height="11"/><path class="thing-gone" d="M6 1.5L20 12.5M6 12.5L20 1.5"/>`)
	add(strips && lid, "lid swings here", rect, "strip lid")
	add(strips && service, "serviced from here", rect, "strip service")
	add(strips && hot, "hot air", rect, "strip hot")
	add(len(g.InRoof()) > 0 && (strips || r.Stage == "holes"), "do not drill here", rect, "zone")
	add(len(g.Walkways) > 0, "walkway", `<rect class="walkway" x="2" y="1.5" width="22" height="11"/><circle class="walk-dot" cx="8" cy="7" r="1.1"/><circle class="walk-dot" cx="18" cy="7" r="1.1"/>`)
	add(len(g.Framing()) > 0, "framing below", line, "framing")
	add(g.Flat != nil, "flat part of the roof", rect, "flat-part")
	add(len(g.RibEdges()) > 0, "rib of the sheet metal", line, "rib")
	add(len(g.Cupboards) > 0, "cupboard below", rect, "cupboard"+map[bool]string{true: " strong"}[r.Stage == "holes" || r.Stage == "survey"])
	add(r.Stage == "roof" && len(r.Plan.Ways) > 0, "how a person gets to what is serviced", line, "way")
	add(panels && r.Stage == "strings" && len(r.Document.Strings) > 0, "string, from + to −", line, "chain")
	add(len(r.Plan.Entries) > 0, "roof entry", `<circle class="entry" cx="13" cy="7" r="5.5"/><circle class="entry-hole" cx="13" cy="7" r="2"/>`)
	return keys
}
