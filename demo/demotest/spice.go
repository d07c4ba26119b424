package demotest

import (
	"fmt"
	"math"
	"strings"

	"velvetroad/core/array"
)

// Netlist writes the same circuit for ngspice: for every bypass string a
// current source, a diode, a shunt and a series resistance, and the bypass
// diode over them; a blocking diode with next to no drop. The parameters are
// the model's published scaling with light and heat, written out here again.
func Netlist(legs []array.Leg, open float64) string {
	return circuit(legs) + fmt.Sprintf("V1 out 0 0\n.control\ndc V1 0 %.6f %.6f\nlet p = v(out)*i(V1)\nmeas dc best MAX p\nquit\n.endc\n.end\n", open, open/1500)
}

// NetlistPulled is the same with amps pulled out of the legs and pushed into them, up to so many, and
// all measured: shorted amps, open volts, the best watts at some volts or more and the amps there.
func NetlistPulled(legs []array.Leg, most, floor float64) string {
	return circuit(legs) + fmt.Sprintf(`V1 out pulled 0
Ipull pulled 0 0
.control
dc Ipull %.6f %.6f %.6f
let a = i(V1)
let p = v(out)*a*(v(out) ge %.3f)
meas dc amps FIND a WHEN v(out)=0
meas dc open FIND v(out) WHEN a=0
let best = vecmax(p)
let at = vecmax(a*(p ge best))
print best at
quit
.endc
.end
`, -most, most, most/1500, floor)
}

// circuit is the netlist of legs, from node out to 0.
func circuit(legs []array.Leg) string {
	var b strings.Builder
	id, models := 0, 0
	b.WriteString("array\n")
	heat := float64(legs[0].Modules[0].Cell)
	thermal := 1.380649e-23 * (heat + 273.15) / 1.602176634e-19
	b.WriteString(".model byp D(Is=1e-6 N=1.05)\n.model blk D(Is=1e-9 N=0.02)\n")
	for n, leg := range legs {
		node := "0"
		for _, module := range leg.Modules {
			m := module.Model
			d, share := heat-25, 1/float64(m.Diodes)
			kelvin := (heat + 273.15) / 298.15
			full := m.Light * (1 + 0.05/100*d)
			voc := float64(m.Part.Voc) * (1 + m.Part.VocCoeff/100*d)
			dark := (full - m.Shunt*voc) / (math.Exp(voc/(m.Slope*kelvin)) - 1)
			models++
			fmt.Fprintf(&b, ".model d%d D(Is=%.9e N=%.9f)\n", models, dark, m.Slope*kelvin*share/thermal)
			for k := range m.Diodes {
				light := float64(module.Sun) / 1000
				if k < len(module.Shade) {
					light *= module.Shade[k]
				}
				id++
				top := fmt.Sprintf("n%d", id)
				minus, plus := node, top
				if module.Turned {
					minus, plus = top, node
				}
				fmt.Fprintf(&b, "I%d %s j%d %.9f\nD%d j%d %s d%d\nRp%d j%d %s %.9g\nRs%d j%d %s %.9g\nDb%d %s %s byp\n",
					id, minus, id, full*light, id, id, minus, models, id, id, minus, share/(m.Shunt*light+1e-12), id, id, plus, m.Series*share, id, minus, plus)
				if k >= m.Diodes-module.Shorted {
					fmt.Fprintf(&b, "Rd%d %s %s 1e-6\n", id, minus, plus)
				}
				node = top
			}
		}
		if leg.Blocking {
			fmt.Fprintf(&b, "Dk%d %s out blk\n", n, node)
		} else {
			fmt.Fprintf(&b, "Vk%d %s out 0\n", n, node)
		}
	}
	fmt.Fprintf(&b, ".options temp=%.2f tnom=%.2f reltol=1e-6 abstol=1e-9 gmin=1e-14 itl1=500 itl2=500\n", heat, heat)
	return b.String()
}
