package energy

import "velvetroad/core/units"

// A Common is a kind of load as it usually is: figures from physics and common practice, to be
// replaced by what is measured.
type Common struct {
	Label  string
	Watts  units.Watt // while it works
	Surge  units.Watt // for a few seconds; 0: as it works
	Hours  float64    // a day
	Duty   float64    // % of that time
	When   When
	Months []int // 1 for January; nil: all
	AC     bool  // through an inverter
}

// CommonLoads are those that most rigs have (common practice).
func CommonLoads() []Common {
	summer, winter := []int{5, 6, 7, 8, 9}, []int{1, 2, 3, 4, 10, 11, 12}
	return []Common{
		{Label: "Lamps", Watts: 25, Hours: 5, Duty: 100, When: Awake},
		{Label: "Compressor fridge", Watts: 50, Surge: 180, Hours: 24, Duty: 40},
		{Label: "Water pump", Watts: 60, Surge: 150, Hours: 0.5, Duty: 100, When: Awake},
		{Label: "Roof fan", Watts: 30, Hours: 8, Duty: 60, Months: summer},
		{Label: "Furnace blower", Watts: 45, Surge: 100, Hours: 24, Duty: 30, Months: winter},
		{Label: "Phones and tablets", Watts: 15, Hours: 4, Duty: 100, When: Awake},
		{Label: "Laptop", Watts: 60, Hours: 5, Duty: 80, When: Awake},
		{Label: "Television", Watts: 50, Hours: 3, Duty: 100, When: Awake},
		{Label: "Router and antenna", Watts: 45, Hours: 24, Duty: 100},
		{Label: "Detectors and controls", Watts: 6, Hours: 24, Duty: 100},
		{Label: "Kettle", Watts: 1200, Hours: 0.3, Duty: 100, When: Awake, AC: true},
		{Label: "Coffee machine", Watts: 900, Hours: 0.3, Duty: 100, When: Awake, AC: true},
		{Label: "Induction plate", Watts: 1500, Hours: 0.8, Duty: 60, When: Awake, AC: true},
		{Label: "Microwave oven", Watts: 1300, Hours: 0.25, Duty: 100, When: Awake, AC: true},
		{Label: "Hair dryer", Watts: 1100, Hours: 0.15, Duty: 100, When: Awake, AC: true},
		{Label: "Air conditioner", Watts: 900, Surge: 2600, Hours: 6, Duty: 70, When: Midday, Months: []int{6, 7, 8}, AC: true},
		{Label: "Breathing machine", Watts: 40, Hours: 8, Duty: 100, When: Night},
	}
}
