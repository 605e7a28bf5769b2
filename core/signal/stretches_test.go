package signal

import (
	"errors"
	"math"
	"strings"
	"testing"
)

// uneven are n times that wobble about a step of 0.1 s.
func uneven(n int, startS float64) []float64 {
	times := make([]float64, n)
	for i := range times {
		times[i] = startS + 0.1*float64(i) + 0.02*math.Sin(float64(i))
	}
	return times
}

// A last time that is a misprint is refused with its place, whatever its size: it would stand for any number of samples.
func TestAMisprintedTimeIsRefused(t *testing.T) {
	for _, last := range []float64{20, 6000, 1e9, 1e300} {
		times := append(uneven(60, 0), last)
		var at *PointError
		if _, err := New(times, make([]float64, 61)); !errors.As(err, &at) || at.Index != 60 || !strings.Contains(at.Reason, "misprint") {
			t.Errorf("%g: %v", last, err)
		}
		first := append([]float64{-last}, uneven(60, 0)...)
		if _, err := New(first, make([]float64, 61)); !errors.As(err, &at) || at.Index != 1 {
			t.Errorf("%g before the others: %v", last, err)
		}
	}
}

func TestAGapPartsATrace(t *testing.T) {
	times := append(uneven(500, 0), uneven(300, 1e7)...)
	values := make([]float64, len(times))
	for i := range values {
		values[i] = float64(i)
	}
	tr, err := New(times, values)
	if err != nil {
		t.Fatal(err)
	}
	parts := tr.Stretches()
	if len(parts) != 2 || parts[0].Len() != 500 || parts[1].Len() != 300 || parts[1].Values[0] != 500 || parts[1].StartS != 1e7 {
		t.Fatalf("%d parts", len(parts))
	}
	if tr.Longest().Len() != 500 {
		t.Errorf("the longest has %d points", tr.Longest().Len())
	}
	short, err := New(uneven(500, 0), values[:500])
	if err != nil || len(short.Stretches()) != 1 {
		t.Errorf("%v, %d parts without a gap", err, len(short.Stretches()))
	}
}

// However uneven times are, the even grid stays within bounds: what would not is refused where a trace is made, and a trace from elsewhere is cut.
func TestTheEvenGridIsBounded(t *testing.T) {
	var times []float64
	at := 0.0
	for i := range 60_000 {
		if i%2 == 0 {
			at += 99
		} else {
			at++
		}
		times = append(times, at)
	}
	times = append(times, at+1, at+2, at+3) // so that the median step is the short one
	values := make([]float64, len(times))
	if _, err := New(times, values); err == nil || !strings.Contains(err.Error(), "so uneven") {
		t.Errorf("%v", err)
	}
	old := Trace{StartS: 0, StepS: 1e-9, TimesS: []float64{0, 1e-9, 2e-9, 1e12}, Values: make([]float64, 4)}
	if n := len(old.Even()); n > spareGrid+8*4+1 {
		t.Errorf("a grid of %d points", n)
	}
}
