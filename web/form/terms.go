package form

// Terms explains the trade's words where a page uses them, in a sentence or two.
var Terms = map[string]string{
	"crown":             "A roof that is higher along its middle than at its edges, so that water runs off. Stretch a string across from edge to edge and measure down from the middle.",
	"framing":           "The beams or tubes across the roof under its skin. A magnet, a stud finder or the rows of screws below show them.",
	"deck":              "The board under the roof's skin that screws hold in. The cut-out of a vent shows its edge.",
	"ribs":              "Raised strips pressed into a sheet-metal roof, mostly along the rig. A foot must stand flat on one or between two.",
	"equipment board":   "The panel on which the controllers, breakers and bus bars are fixed.",
	"factory cable":     "A cable that the maker of the rig laid from the roof for solar. It is often too thin for a whole array.",
	"home run":          "The pair of cables from where the strings meet on the roof to the controller.",
	"combiner box":      "A box on the roof in which the strings of one controller are joined, often with a fuse for each.",
	"string":            "Panels one after the other, plus to minus: their volts add up, their amps stay those of one.",
	"service loops":     "Spare length left coiled at the ends, so that a cable can be cut and crimped again.",
	"wire rules":        "Land code sizes wires by the building code's tables, marine by the boat builders' for flexible cable. Ask which the inspector or insurer wants.",
	"coldest morning":   "The coldest that the panels may meet with first light. Cold panels make the most volts, and too many destroy a controller.",
	"disconnect":        "A switch that opens the array's cables under load, rated for direct current at the array's volts.",
	"light":             "How much of a clear day's light a usual day there has: about 75 % in a dry summer, 30 % in a wet winter.",
	"maximum power":     "The point on its curve at which a panel gives the most watts; the controller looks for it all day.",
	"noct":              "How hot the cells get in bright sun and mild air, from the panel's label.",
	"disposition":       "What the job does with it: it stays, is moved, is replaced by a lower one, a panel may bridge over it, or it is removed.",
	"combined charging": "All that charges the battery at once: solar, alternator and shore. The battery's maker gives a limit.",
}
