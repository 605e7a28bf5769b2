package lab

import (
	"encoding/binary"
	"math"
	"strings"
	"testing"

	"yugen/core/batch"
	"yugen/store"
)

func TestTracesAreTreatedForLooking(t *testing.T) {
	l, id := demo(t)
	ctx := t.Context()
	b := must[store.Batch](t)(l.Batch(ctx, id))
	named := func(file string) store.Injection {
		for _, in := range b.Injections {
			if strings.Contains(in.FileName, file) {
				return in
			}
		}
		t.Fatalf("no %s", file)
		return store.Injection{}
	}
	late, other, blank := named("pouchong-2"), named("pouchong-1"), named("blank-start")
	before := must[Processed](t)(l.Process(ctx, id))
	top := func(in string, at float64, asked Treatment) (height, where float64) {
		tr, _, err := l.TreatedTrace(ctx, id, in, "", asked)
		if err != nil {
			t.Fatal(err)
		}
		for i, v := range tr.Values {
			if m := tr.TimeS(i) / 60; math.Abs(m-at) < 0.25 && v > height {
				height, where = v, m
			}
		}
		return height, where
	}
	_, whereLate := top(late.ID, 14.3, Treatment{})
	_, where := top(other.ID, 14.3, Treatment{})
	if whereLate-where < 0.07 {
		t.Fatalf("ECG is at %.3f and at %.3f min", whereLate, where)
	}
	for _, lined := range []string{"ecg", "is"} {
		_, got := top(late.ID, 14.3, Treatment{LinedUp: lined, To: other.ID})
		if math.Abs(got-where) > 0.03 {
			t.Errorf("lined up on %s it is at %.3f, not %.3f min", lined, got, where)
		}
	}
	if _, done, err := l.TreatedTrace(ctx, id, late.ID, "", Treatment{LinedUp: ByCorrelation, To: other.ID}); err != nil || !(done.ShiftMin < -0.005 && done.ShiftMin > -0.11) {
		t.Errorf("by correlation it is moved by %.3f min, %v", done.ShiftMin, err)
	}
	if h, _ := top(other.ID, 8.8, Treatment{Heights: "caf", Less: blank.ID}); math.Abs(h-100) > 2 {
		t.Errorf("caffeine stands at %.2f, not at 100", h)
	}
	tr, done, err := l.TreatedTrace(ctx, id, other.ID, "", Treatment{Heights: ToTallest})
	if err != nil || done.Factor == 1 || tr.Unit != "%" {
		t.Errorf("to the tallest: %+v %v", done, err)
	}
	if tr, _, _ := l.TreatedTrace(ctx, id, blank.ID, "", Treatment{Less: blank.ID}); tr.Values[3000] != 0 {
		t.Errorf("a blank less itself is %g", tr.Values[3000])
	}
	if _, _, err := l.TreatedTrace(ctx, id, other.ID, "", Treatment{Less: "none"}); err == nil {
		t.Error("what is not there is taken off")
	}
	if after := must[Processed](t)(l.Process(ctx, id)); after.InputsHash != before.InputsHash {
		t.Error("looking changes results")
	}
}

func TestTheBatchFromAbove(t *testing.T) {
	l, id := demo(t)
	ctx := t.Context()
	b := must[store.Batch](t)(l.Batch(ctx, id))
	a := must[Above](t)(l.FromAbove(ctx, id, "", 600, Treatment{}))
	if len(a.Rows) != len(b.Injections) || len(a.Values) != 4*600*len(a.Rows) || a.FromMin != 0 || math.Abs(a.ToMin-18) > 1e-9 || a.Unit != "mAU" {
		t.Fatalf("%d rows, %d bytes, %g to %g min", len(a.Rows), len(a.Values), a.FromMin, a.ToMin)
	}
	at := func(row int, min float64) float64 {
		k := row*600 + int(min/18*600)
		return float64(math.Float32frombits(binary.LittleEndian.Uint32(a.Values[4*k:])))
	}
	odd := map[string]string{}
	for i, row := range a.Rows {
		in := b.Injections[i]
		if in.Role == batch.Standard && in.Level != nil && *in.Level == 200 && at(i, 8.8) < 50 {
			t.Errorf("%s shows no caffeine: %g", in.FileName, at(i, 8.8))
		}
		if row.Unlike != nil && *row.Unlike > muchUnlike {
			odd[in.FileName] = row.Says
		}
		if in.Role != batch.Blank && row.KinID == "" {
			t.Errorf("%s has no kin", in.FileName)
		}
	}
	// Assam 1 got too little of everything; the blank after the top standard has caffeine in it.
	var found []string
	for file, says := range odd {
		found = append(found, file+": "+says)
	}
	if says := odd["14-blank-after-top.cdf"]; len(odd) > 4 || !strings.HasPrefix(says, "Caffeine at 56") {
		t.Errorf("odd are %q", found)
	}
}
