package formats

import (
	"fmt"
	"math"

	"yugen/core/signal"
)

// What a silent end of a trace must have to be told: so many samples, and so large a share of all.
const (
	silentPoints = 20
	silentShare  = 0.03
)

// Doubt says in a sentence what about a trace looks as if it was not written to its end; empty for nothing.
func Doubt(tr signal.Trace) string {
	n, zeros := tr.Len(), 0
	for _, v := range tr.Values {
		if v == 0 {
			zeros++
		}
	}
	end := 0
	for i := n - 1; i >= 0 && tr.Values[i] == 0; i-- {
		end++
	}
	// A signal that is often exactly zero, as counts are, says nothing by ending so.
	if end >= silentPoints && float64(end) >= silentShare*float64(n) && end < n && float64(zeros-end) <= 0.01*float64(n) {
		return fmt.Sprintf("The last %d points are exactly 0: the acquisition may have ended at %.2f min.", end, tr.TimeS(n-end)/60)
	}
	return ""
}

// DoubtLength compares how long a run is with what its header says.
func DoubtLength(tr signal.Trace, saidS float64) string {
	if has := tr.EndS() - tr.StartS; saidS > 0 && math.Abs(has-saidS) > 0.02*saidS+2*tr.StepS {
		return fmt.Sprintf("The header says that the run took %.4g min, the points cover %.4g min.", saidS/60, has/60)
	}
	return ""
}

// DoubtRange compares the values with the range that the header states for the detector.
func DoubtRange(tr signal.Trace, low, high float64) string {
	if !(low < high) {
		return ""
	}
	least, most := math.Inf(1), math.Inf(-1)
	for _, v := range tr.Values {
		least, most = math.Min(least, v), math.Max(most, v)
	}
	if slack := 0.01 * (high - low); least < low-slack || most > high+slack {
		return fmt.Sprintf("The values run from %.4g to %.4g, the header states %.4g to %.4g.", least, most, low, high)
	}
	return ""
}
