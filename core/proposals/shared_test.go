package proposals

import (
	"math"
	"testing"

	"yugen/core/batch"
	"yugen/core/peaks"
)

func peak(apex, area float64) batch.NamedPeak {
	return batch.NamedPeak{Peak: peaks.Peak{StartMin: apex - 0.1, ApexMin: apex, EndMin: apex + 0.15, AreaS: area}}
}

func level(v float64) *float64 { return &v }

func TestTheSharedPeakFollowsTheLevels(t *testing.T) {
	// An injection peak of one size stands at 1 min in all, the compound at 3.4; the sample has more.
	list := [][]batch.NamedPeak{
		{peak(1, 500), peak(3.400, 10)},
		{peak(1.01, 510), peak(3.404, 20)},
		{peak(0.99, 490), peak(3.396, 41)},
		{peak(1, 505), peak(2.2, 70), peak(3.402, 33), peak(4.6, 8)},
		{}, // a blank
	}
	wanted := []bool{true, true, true, true, false}
	found := Shared(list, wanted, []*float64{level(1), level(2), level(4), nil, nil})
	if len(found) != 2 || math.Abs(found[0].ApexMin-3.4005) > 1e-9 {
		t.Fatalf("found %+v", found)
	}
	s := found[0]
	if math.Abs(s.SpreadMin-0.0045) > 1e-9 || math.Abs(s.StartMin-3.296) > 1e-9 || math.Abs(s.EndMin-3.554) > 1e-9 || s.Fit < 0.999 {
		t.Errorf("%+v", s)
	}
	if s.Apexes[3] != 3.402 || !math.IsNaN(s.Apexes[4]) {
		t.Errorf("apexes %v", s.Apexes)
	}
}

func TestNoPeakIsSharedWhereOneFileLacksIt(t *testing.T) {
	list := [][]batch.NamedPeak{{peak(3.4, 10)}, {peak(5.1, 20)}}
	if found := Shared(list, []bool{true, true}, make([]*float64, 2)); len(found) != 0 {
		t.Errorf("found %+v", found)
	}
	if found := Shared(nil, nil, nil); found != nil {
		t.Errorf("of nothing, %+v", found)
	}
	if found := Shared([][]batch.NamedPeak{{peak(3.4, 10)}}, []bool{true}, make([]*float64, 1)); len(found) != 1 || !math.IsNaN(found[0].Fit) {
		t.Errorf("of one, %+v", found)
	}
}
