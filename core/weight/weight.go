// Package weight answers "what does the job add and take away, where, and does the rig bear
// it?".
package weight

import (
	"fmt"
	"strings"

	"velvetroad/core/finding"
	"velvetroad/core/rig"
	"velvetroad/core/units"
)

// Item is something that the job adds to the rig, or takes away. Its place is where it is in
// the rig's frame; without one it counts in the sum alone.
type Item struct {
	ID, Label string
	Mass      units.Kilogram // 0: its label does not say
	Placed    bool
	X, Y      units.Millimetre
	Roof      bool
	Removed   bool
}

// Sums are what the items come to, what is removed taken off. Hitch and Axle are the shares of
// what has a place, positive down; they are known where axles and coupling are measured.
type Sums struct {
	Added, Removed, Net units.Kilogram
	Roof, Inside        units.Kilogram
	Hitch, Axle         units.Kilogram
	Levers              bool // Hitch and Axle are known
	Street, Curb        units.Kilogram
	Unweighed           []string // labels of what has no mass
	Unplaced            []string // labels of what has no place
}

const (
	uneven  = 40 // kg of difference from side to side that is felt (common practice)
	oneSide = 60 // % of the weight on one side
)

var (
	lawNet   = finding.Law{Step: "added by the job", Formula: "Σ added − Σ removed", Unit: "kg", Source: "labels", Mark: finding.Common}
	lawHitch = finding.Law{Step: "share on the coupling or front axle", Formula: "Σ mass · (axles − place) / (axles − coupling)", Unit: "kg", Source: "physics: moments about the axles", Mark: finding.Published}
	lawAxle  = finding.Law{Step: "share on the axles", Formula: "placed mass − share on the coupling", Unit: "kg", Source: "physics: moments", Mark: finding.Published}
	lawSides = finding.Law{Step: "street side's share", Formula: "Σ mass · (1 − from street side / width)", Unit: "kg", Source: "physics: moments across the rig", Mark: finding.Published}

	Payload = finding.Rule{Code: "weight.payload", Unit: "kg", Asks: "Does the rig bear what the job adds?", Stops: "stop when it is more than what the rig has left; shown where nobody knows what is left", Laws: []finding.Law{lawNet}}
	Hitch   = finding.Rule{Code: "weight.hitch", Unit: "kg", Asks: "Does the coupling, or the front axle, bear its share?", Stops: "stop when it is more than what is left there, caution when a trailer's coupling is lightened by more than 20 kg", Laws: []finding.Law{lawHitch}}
	Axle    = finding.Rule{Code: "weight.axle", Unit: "kg", Asks: "Do the axles bear their share?", Stops: "stop when it is more than what is left there", Laws: []finding.Law{lawAxle}}
	Sides   = finding.Rule{Code: "weight.sides", Unit: "kg", Asks: "Is the weight even from side to side?", Stops: "caution when one side gets over 60 %, or what comes off makes the other lighter, and the difference is over 40 kg", Laws: []finding.Law{lawSides}}
	Unknown = finding.Rule{Code: "weight.unknown", Unit: "", Asks: "Is the weight of everything known?", Stops: "caution for what has no mass on its label, once something is known of what the rig has left"}
)

// Rules lists the rules of this room.
func Rules() []finding.Rule { return []finding.Rule{Payload, Hitch, Axle, Sides, Unknown} }

// lightened is how much a trailer's coupling may lose (common practice: a light coupling sways).
const lightened = 20

// Of adds the items up.
func Of(g rig.Rig, items []Item) (s Sums) {
	s.Levers = g.Axle > 0 && g.Hitch != nil && g.Axle > *g.Hitch
	for _, i := range items {
		mass := i.Mass
		if i.Mass == 0 {
			s.Unweighed = append(s.Unweighed, i.Label)
			continue
		}
		if i.Removed {
			s.Removed += i.Mass
			mass = -mass
		} else {
			s.Added += i.Mass
		}
		if i.Roof {
			s.Roof += mass
		} else {
			s.Inside += mass
		}
		if !i.Placed {
			s.Unplaced = append(s.Unplaced, i.Label)
			continue
		}
		if g.Width > 0 {
			across := units.Kilogram(i.Y / g.Width)
			s.Street += mass * (1 - across)
			s.Curb += mass * across
		}
		if s.Levers {
			on := mass * units.Kilogram((g.Axle-i.X)/(g.Axle-*g.Hitch))
			s.Hitch += on
			s.Axle += mass - on
		}
	}
	s.Net = s.Added - s.Removed
	return s
}

// Check applies the rules. About is the ID of the job.
func Check(g rig.Rig, items []Item, about string, system units.System) (out []finding.Finding) {
	s := Of(g, items)
	if s.Added == 0 && s.Removed == 0 {
		return nil
	}
	text := func(k units.Kilogram) string { return k.Text(system) }
	net := lawNet.Fill(float64(s.Net), "%s − %s", finding.N(float64(s.Added)), finding.N(float64(s.Removed)))
	if g.PayloadLeft != nil {
		f := Payload.AtMost(about, float64(s.Net), float64(*g.PayloadLeft), finding.Stop).WithWorking(net, finding.Given("the rig has left", float64(*g.PayloadLeft), "kg", "survey"))
		if f.Passes() {
			out = append(out, f.Of("", "Weight", "%s in all; the rig has %s left.", text(s.Net), text(*g.PayloadLeft)))
		} else {
			out = append(out, f.Of("", "Weight", "%s in all and the rig has %s left. Leave something out, or take something off.", text(s.Net), text(*g.PayloadLeft)))
		}
	} else {
		out = append(out, Payload.Says(finding.Fine, about, "").WithValue(float64(s.Net)).WithWorking(net).Of("", "Weight", "%s in all. What the rig has left is not surveyed.", text(s.Net)))
	}
	if s.Levers && (s.Hitch != 0 || s.Axle != 0) {
		out = append(out, s.levers(g, items, about, system)...)
	}
	if placed := s.Street + s.Curb; (s.Street != 0 || s.Curb != 0) && g.Width > 0 {
		most, least, side, other := s.Street, s.Curb, "street", "curb"
		if least > most {
			most, least, side, other = least, most, other, side
		}
		apart := max(s.Street-s.Curb, s.Curb-s.Street)
		f := Sides.AtMost(about, float64(apart), uneven, finding.Watch).WithWorking(finding.Given("with a place", float64(placed), "kg", "labels"), lawSides.Fill(float64(s.Street), "%s", terms(items, func(m, _, y string) string {
			return fmt.Sprintf("%s · (1 − %s / %s)", m, y, finding.N(float64(g.Width)))
		})))
		change := func(k units.Kilogram) string {
			if k < 0 {
				return "loses " + text(-k)
			}
			return "gets " + text(k)
		}
		switch {
		case least < 0 && apart > uneven:
			out = append(out, f.Of("", "Weight", "the %s side %s and the %s side %s, with what comes off. Move a battery across, or the rig leans.", side, change(most), other, change(least)))
		case least < 0:
			out = append(out, f.WithGrade(finding.Fine).Of("", "Weight", "the %s side %s and the %s side %s, with what comes off.", side, change(most), other, change(least)))
		case apart > uneven && most*100 > placed*oneSide:
			out = append(out, f.Of("", "Weight", "the %s side gets %s of %s. Move a battery across, or the rig leans.", side, text(most), text(placed)))
		default:
			out = append(out, f.WithGrade(finding.Fine).Of("", "Weight", "%s on the street side, %s on the curb side.", text(s.Street), text(s.Curb)))
		}
	}
	if len(s.Unweighed) > 0 && (g.PayloadLeft != nil || g.HitchLeft != nil || g.AxleLeft != nil) {
		out = append(out, Unknown.Says(finding.Watch, about, "").WithValue(float64(len(s.Unweighed))).Of("", "Weight", "no mass on the label of %s. Weigh it, and add it on the shelf.", finding.And(s.Unweighed)))
	}
	return out
}

func (s Sums) levers(g rig.Rig, items []Item, about string, system units.System) (out []finding.Finding) {
	text := func(k units.Kilogram) string { return k.Text(system) }
	trailer := g.Kind != "motorhome" && g.Kind != "van" && g.Kind != "truck_camper"
	where := "coupling"
	if !trailer {
		where = "front axle"
	}
	working := []finding.Step{finding.Given("axles", float64(g.Axle), "mm", "survey"), finding.Given(where, float64(*g.Hitch), "mm", "survey"), lawHitch.Fill(float64(s.Hitch), "%s", terms(items, func(m, x, _ string) string {
		return fmt.Sprintf("%s · (%s − %s) / (%s − %s)", m, finding.N(float64(g.Axle)), x, finding.N(float64(g.Axle)), finding.N(float64(*g.Hitch)))
	}))}
	switch {
	case g.HitchLeft != nil:
		f := Hitch.AtMost(about, float64(s.Hitch), float64(*g.HitchLeft), finding.Stop).WithWorking(append(working, finding.Given("left there", float64(*g.HitchLeft), "kg", "survey"))...)
		if f.Passes() {
			out = append(out, f.Of("", "Weight", "%s on the %s, which has %s left.", text(s.Hitch), where, text(*g.HitchLeft)))
		} else {
			out = append(out, f.Of("", "Weight", "%s on the %s, which has %s left. Move weight toward the axles.", text(s.Hitch), where, text(*g.HitchLeft)))
		}
	case trailer && s.Hitch < -lightened:
		out = append(out, Hitch.Says(finding.Watch, about, "").WithValue(float64(s.Hitch)).WithWorking(working...).Of("", "Weight", "it takes %s off the coupling, and a light coupling sways. Move weight ahead of the axles.", text(-s.Hitch)))
	default:
		out = append(out, Hitch.Says(finding.Fine, about, "").WithValue(float64(s.Hitch)).WithWorking(working...).Of("", "Weight", "%s on the %s.", signed(s.Hitch, system), where))
	}
	axle := lawAxle.Fill(float64(s.Axle), "%s − %s", finding.N(float64(s.Hitch+s.Axle)), finding.N(float64(s.Hitch)))
	if g.AxleLeft != nil {
		f := Axle.AtMost(about, float64(s.Axle), float64(*g.AxleLeft), finding.Stop).WithWorking(axle, finding.Given("left there", float64(*g.AxleLeft), "kg", "survey"))
		if f.Passes() {
			return append(out, f.Of("", "Weight", "%s on the axles, which have %s left.", text(s.Axle), text(*g.AxleLeft)))
		}
		return append(out, f.Of("", "Weight", "%s on the axles, which have %s left. Leave something out.", text(s.Axle), text(*g.AxleLeft)))
	}
	return append(out, Axle.Says(finding.Fine, about, "").WithValue(float64(s.Axle)).WithWorking(axle).Of("", "Weight", "%s on the axles.", signed(s.Axle, system)))
}

// terms writes a sum over what has a place and a mass, for a working.
func terms(items []Item, one func(mass, x, y string) string) string {
	var out []string
	for _, i := range items {
		if mass := i.Mass; i.Placed && mass > 0 {
			if i.Removed {
				mass = -mass
			}
			out = append(out, one(finding.N(float64(mass)), finding.N(float64(i.X)), finding.N(float64(i.Y))))
		}
	}
	return strings.Join(out, " + ")
}

// signed writes a mass with its sign.
func signed(k units.Kilogram, system units.System) string {
	if k < 0 {
		return "−" + strings.TrimPrefix((-k).Text(system), "−")
	}
	return fmt.Sprintf("+%s", k.Text(system))
}
