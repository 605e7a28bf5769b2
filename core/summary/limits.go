package summary

import "yugen/core/checks"

// Limit is what a method asks of a measure of a compound: of each value, and of its relative standard deviation over a group. Absent ends ask nothing.
type Limit struct {
	Low     *float64 `json:"low"`
	High    *float64 `json:"high"`
	RSDHigh *float64 `json:"rsd_high"`
}

// measuresOf are the quantities that suitability limits are on.
var (
	valueLimits = map[string]checks.Measure{"tailing": checks.Tailing, "plates": checks.Plates, "resolution": checks.Resolution, "signal_to_noise": checks.SignalToNoise}
	rsdLimits   = map[string]checks.Measure{"area_s": checks.AreaRSD, "retention_min": checks.RetentionRSD}
)

// LimitOf finds what the method's limits ask of a quantity of a compound. Limits are never made up: without one nothing is judged.
func LimitOf(l checks.Limits, quantityID, compoundID string) Limit {
	var out Limit
	for _, s := range l.Suitability {
		if s.CompoundID != "" && s.CompoundID != compoundID {
			continue
		}
		switch {
		case valueLimits[quantityID] == s.Measure && valueLimits[quantityID] != "":
			out.Low, out.High = s.Low, s.High
		case rsdLimits[quantityID] == s.Measure && rsdLimits[quantityID] != "":
			out.RSDHigh = s.High
		}
	}
	return out
}
