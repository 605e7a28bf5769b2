package checks

import (
	"math"
	"testing"
)

var limits = Limits{RecoveryLow: 90, RecoveryHigh: 110, InternalStandard: 5, Blank: 20}

func TestRecovery(t *testing.T) {
	for found, want := range map[float64]bool{60: false, 54: false, 53.9: true, 66: false, 66.1: true, 0: true} {
		percent, outside := limits.RecoveryOutside(found, 60)
		if outside != want || math.Abs(percent-100*found/60) > 1e-12 {
			t.Errorf("%g of 60: %g %%, outside %v", found, percent, outside)
		}
	}
	if _, outside := (Limits{}).RecoveryOutside(1, 100); outside {
		t.Error("a limit that is not asked was judged")
	}
	if _, outside := (Limits{RecoveryLow: 90}).RecoveryOutside(300, 100); outside {
		t.Error("only the lower limit was asked")
	}
}

func TestInternalStandardResponse(t *testing.T) {
	for response, want := range map[float64]bool{100: false, 104.9: false, 105.1: true, 94.9: true, 95.1: false} {
		if percent, outside := limits.ResponseOutside(response, 100); outside != want || math.Abs(percent-(response-100)) > 1e-9 {
			t.Errorf("%g: %g %%, outside %v", response, percent, outside)
		}
	}
	if _, outside := (Limits{}).ResponseOutside(1, 100); outside {
		t.Error("a limit that is not asked was judged")
	}
}

func TestBlanks(t *testing.T) {
	if percent, outside := limits.BlankOutside(2.1, 10); !outside || math.Abs(percent-21) > 1e-9 {
		t.Errorf("%g %v", percent, outside)
	}
	if _, outside := limits.BlankOutside(1.9, 10); outside {
		t.Error("19 % is inside")
	}
}

// A settled notice stays settled as long as it is about the same thing, whatever its numbers.
func TestKeysFollowTheThing(t *testing.T) {
	a := New(Recovery, Decide, Results, "i1", "caf", "Caffeine", "Check, end reads 88.0 %")
	b := New(Recovery, Decide, Results, "i1", "caf", "Caffeine", "Check, end reads 87.1 %")
	c := New(Recovery, Decide, Results, "i2", "caf", "Caffeine", "Check, end reads 88.0 %")
	if a.Key != b.Key || a.Key == c.Key {
		t.Errorf("%s %s %s", a.Key, b.Key, c.Key)
	}
}
