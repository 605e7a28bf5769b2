package peaks

import (
	"context"
	"reflect"
	"slices"
	"testing"

	"yugen/core/signal"
)

func suggest(t *testing.T, traces []signal.Trace, marks []Mark, from, to float64) Suggestion {
	t.Helper()
	got, err := Suggest(context.Background(), traces, marks, from, to, Settings{})
	if err != nil {
		t.Fatal(err)
	}
	return got
}

// What is suggested does what the marks say when it is used.
func TestSuggestedSettingsSatisfyTheMarks(t *testing.T) {
	standard := gaussians(t, 0.2, 3, [3]float64{2, 100, 0.05}, [3]float64{4, 8, 0.05}, [3]float64{6, 60, 0.05}, [3]float64{8, 12, 0.05})
	sample := gaussians(t, 0.2, 4, [3]float64{2, 40, 0.05}, [3]float64{4, 5, 0.05}, [3]float64{6, 25, 0.05})
	marks := []Mark{{0, 2, true}, {0, 4, false}, {0, 6, true}, {0, 8, false}, {1, 2, true}, {1, 4, false}, {1, 6.02, true}}
	got := suggest(t, []signal.Trace{standard, sample}, marks, 1, 7)
	if slices.Contains(got.Satisfied, false) || len(got.Contradicting) > 0 {
		t.Fatalf("%+v", got)
	}
	for i, m := range marks {
		tr := []signal.Trace{standard, sample}[m.Trace]
		if there := peakAt(find(t, tr, got.Settings).Peaks, m.AtMin) != nil; there != m.Keep {
			t.Errorf("mark %d: a peak is there: %v", i, there)
		}
	}
	if again := suggest(t, []signal.Trace{standard, sample}, marks, 1, 7); !reflect.DeepEqual(got, again) {
		t.Error("the same question has another answer")
	}
}

// Settings that do already what is wanted stay as they are.
func TestSuggestionsChangeNoMoreThanTheyMust(t *testing.T) {
	tr := gaussians(t, 0.2, 3, three...)
	got := suggest(t, []signal.Trace{tr}, []Mark{{0, 1, true}}, 0, 0)
	want := Settings{Threshold: DefaultThreshold}
	if !reflect.DeepEqual(got.Settings, want) {
		t.Errorf("%+v", got.Settings)
	}
}

// Of two peaks alike one cannot be kept and the other ignored: those two marks are named, and no third.
func TestContradictingMarksAreNamed(t *testing.T) {
	tr := gaussians(t, 0.05, 3, [3]float64{2, 50, 0.05}, [3]float64{4, 20, 0.05}, [3]float64{6, 30, 0.05}, [3]float64{8, 50, 0.05})
	got := suggest(t, []signal.Trace{tr}, []Mark{{0, 2, true}, {0, 4, true}, {0, 6, false}, {0, 8, true}}, 0, 0)
	if !slices.Equal(got.Contradicting, []int{1, 2}) {
		t.Errorf("%+v", got)
	}
	count := 0
	for _, ok := range got.Satisfied {
		if ok {
			count++
		}
	}
	if count != 3 {
		t.Errorf("%d of 4 marks are satisfied; 3 can be", count)
	}
}

func TestSuggestionsRefuseMarksThatAreNowhere(t *testing.T) {
	tr := gaussians(t, 0.2, 3, three...)
	for _, marks := range [][]Mark{{}, {{1, 2, true}}, {{0, -5, true}}, {{0, 1e9, true}}} {
		if _, err := Suggest(context.Background(), []signal.Trace{tr}, marks, 0, 0, Settings{}); err == nil {
			t.Errorf("%v is taken", marks)
		}
	}
	ended, end := context.WithCancel(context.Background())
	end()
	if _, err := Suggest(ended, []signal.Trace{tr}, []Mark{{0, 2, true}}, 0, 0, Settings{}); err == nil {
		t.Error("cancelled, and still an answer")
	}
}

func BenchmarkSuggest20MarksOn6Traces(b *testing.B) {
	var traces []signal.Trace
	var marks []Mark
	tr, _ := readReference(b, "c21_realistic_r1")
	wanted, err := Find(tr, Settings{}, nil)
	if err != nil {
		b.Fatal(err)
	}
	values := make([]float64, 18000)
	for i := range values {
		values[i] = tr.Values[min(i, tr.Len()-1)]
	}
	for k := range 6 {
		long, err := signal.NewUniform(tr.StartS, tr.StepS, values)
		if err != nil {
			b.Fatal(err)
		}
		traces = append(traces, long)
		for i := range 4 {
			marks = append(marks, Mark{k, wanted.Peaks[3*i].ApexMin, i != 2})
		}
	}
	for b.Loop() {
		if _, err := Suggest(context.Background(), traces, marks[:20], 0, 0, Settings{}); err != nil {
			b.Fatal(err)
		}
	}
}
