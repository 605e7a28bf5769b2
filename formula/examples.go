package formula

import (
	"fmt"

	"yugen/core/batch"
	"yugen/core/compounds"
)

// Examples are ten fields to begin with, over the compounds that a method has.
func Examples(m batch.Method) []batch.LabField {
	var targets []string
	for _, c := range m.Compounds {
		if c.Role == compounds.Target {
			targets = append(targets, c.Name)
		}
	}
	for len(targets) < 2 {
		targets = append(targets, "Compound")
	}
	one, two, low, high := targets[0], targets[1], 98.0, 102.0
	three := 3
	return []batch.LabField{
		{Name: "Samples injected", Short: "samples_injected", Lives: "batch", Formula: `count(injections, .role == "sample")`},
		{Name: "Compounds not found", Short: "compounds_not_found", Lives: "injection", Formula: `count(compounds, .remarks contains "not found" or .remarks contains "not detected")`},
		{Name: "Area with a name", Short: "area_named", Lives: "injection", Formula: `100 * sum(filter(peaks, .compound != ""), .area_s) / sum(peaks, .area_s)`, Unit: "%"},
		{Name: "Ratio to " + one, Short: "ratio_to_reference", Lives: "compound", Formula: fmt.Sprintf(`area_s / compound(%q).area_s`, one), Decimals: &three},
		{Name: one + " and " + two, Short: "sum_of_two", Lives: "injection", Formula: fmt.Sprintf(`sum(filter(compounds, .compound in [%q, %q]), .amount)`, one, two)},
		{Name: "Largest check deviation", Short: "largest_check_deviation", Lives: "batch", Formula: fmt.Sprintf(`max(map(filter(injections, .role == "check"), abs(.compound(%q).recovery_percent - 100)))`, one)},
		{Name: "Highest pressure", Short: "highest_pressure", Lives: "injection", Formula: `trace("Pump pressure").most`, Unit: "bar"},
		{Name: "Retention drift", Short: "retention_drift", Lives: "compound", Formula: `100 * retention_min / first(filter(run, .role == "standard")).retention_min`, Unit: "%", Low: &low, High: &high},
		{Name: "RSD of replicates", Short: "replicate_rsd", Lives: "compound", Formula: `rsd(map(replicates, .amount))`},
		{Name: "All checks pass", Short: "all_checks_pass", Lives: "batch", Formula: fmt.Sprintf(`all(filter(injections, .role == "check"), abs(.compound(%q).recovery_percent - 100) <= 10)`, one)},
	}
}
