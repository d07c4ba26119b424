package page

import "velvetroad/core/option"

// VoltsView is the comparison, or why there is none.
type VoltsView struct {
	Says string
	All  []option.VoltsChoice
}

// VoltsSide works the job out on each voltage.
func (v *View) VoltsSide() VoltsView {
	if len(v.Plan.Panels) == 0 {
		return VoltsView{Says: "There is no panel on the roof yet"}
	}
	all, err := v.Plan.Options(v.Doc, v.Crew).Volts(v.Load)
	if err != nil {
		return VoltsView{Says: Capital(err.Error())}
	}
	return VoltsView{All: all}
}

// CableText is the inverter cable's length as its field shows it.
func (v *View) CableText() string { return v.Load.Cable.Exact(v.Doc.Units) }
