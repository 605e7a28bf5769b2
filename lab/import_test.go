package lab

import (
	"bytes"
	"errors"
	"fmt"
	"math"
	"os"
	"path/filepath"
	"strings"
	"sync"
	"testing"

	"yugen/bench"
	"yugen/core/batch"
	"yugen/formats"
	"yugen/formats/runlist"
	"yugen/lab/change"
	"yugen/lab/record"
	"yugen/lab/taking"
	"yugen/store"
)

func emptyBatch(t *testing.T, l *Lab) string {
	t.Helper()
	return must[string](t)(l.NewBatch(t.Context(), "Study", "Batch", "Method", batch.NewMethod(), who))
}

// What a file says of its injection fills its line of the run list; nothing is made up.
func TestEntriesAreProposedFromTheFile(t *testing.T) {
	amount := 0.2029
	for name, c := range map[string]struct {
		file   string
		header formats.Header
		want   batch.Entry
	}{
		"a standard with its level":      {"a.cdf", formats.Header{SampleName: "Std 0,5 mg/L", SampleType: "standard", Vial: "A2"}, batch.Entry{Name: "Std 0,5 mg/L", Role: batch.Standard, Level: ptr(0.5), Vial: "A2"}},
		"a level in another unit":        {"a.cdf", formats.Header{SampleName: "20 µg/mL", SampleType: "Standard"}, batch.Entry{Name: "20 µg/mL", Role: batch.Standard, Level: ptr(20.0)}},
		"a level a thousandth of it":     {"a.cdf", formats.Header{SampleName: "Std 500 ng/mL", SampleType: "standard"}, batch.Entry{Name: "Std 500 ng/mL", Role: batch.Standard, Level: ptr(0.5)}},
		"a level that is no mass":        {"a.cdf", formats.Header{SampleName: "Std 5 mmol/L", SampleType: "standard"}, batch.Entry{Name: "Std 5 mmol/L", Role: batch.Standard}},
		"a sample that holds 60 mg/L":    {"a.cdf", formats.Header{SampleName: "Syrup 60 mg/L", SampleType: "unknown", SampleAmount: &amount}, batch.Entry{Name: "Syrup 60 mg/L", Role: batch.Sample, Sample: &amount}},
		"a control":                      {"a.cdf", formats.Header{SampleName: "QC", SampleType: "control"}, batch.Entry{Name: "QC", Role: batch.Check}},
		"no name":                        {"late run.csv", formats.Header{SampleName: "  "}, batch.Entry{Name: "late run"}},
		"an unknown type is not a guess": {"a.cdf", formats.Header{SampleName: "x", SampleType: "other"}, batch.Entry{Name: "x"}},
	} {
		c.want.Dilution, c.want.Factor = 1, 1
		if got := change.JSON(taking.ProposedEntry(c.file, c.header, "mg/L")); got != change.JSON(c.want) {
			t.Errorf("%s: %s, want %s", name, got, change.JSON(c.want))
		}
	}
	if long := taking.ProposedEntry("a", formats.Header{SampleName: strings.Repeat("µ", 500)}, "mg/L"); len([]rune(long.Name)) != 100 {
		t.Errorf("a name of %d letters", len([]rune(long.Name)))
	}
}

func ptr[T any](v T) *T { return &v }

// Many files at once, the same ones from two windows, and one that is none: each file comes in once.
func TestFilesFromTwoWindowsAtOnce(t *testing.T) {
	l := openLab(t)
	id := emptyBatch(t, l)
	study, err := bench.TeaAssay(6)
	if err != nil {
		t.Fatal(err)
	}
	var group sync.WaitGroup
	var mu sync.Mutex
	outcomes := map[taking.Status]int{}
	for range 2 {
		group.Go(func() {
			for _, f := range study.Files[:10] {
				out, err := l.Import(t.Context(), id, f.Name, f.Data, who)
				if err != nil {
					t.Error(err)
				}
				mu.Lock()
				outcomes[out.Status]++
				mu.Unlock()
			}
		})
	}
	group.Wait()
	b := must[store.Batch](t)(l.Batch(t.Context(), id))
	if len(b.Injections) != 10 || outcomes[taking.Added] != 10 || outcomes[taking.Already] != 10 {
		t.Errorf("%d injections, %v", len(b.Injections), outcomes)
	}
	if v := must[record.Verification](t)(l.VerifyQuickly(t.Context())); len(v.Wrong) != 0 || v.Files != 10 {
		t.Errorf("%+v", v)
	}
}

func TestTheFirstOfSeveralChannelsIsProcessed(t *testing.T) {
	l := openLab(t)
	id := emptyBatch(t, l)
	var b bytes.Buffer
	b.WriteString("time_min,UV 210 nm [mAU],Pressure [bar]\n")
	for i := range 100 {
		fmt.Fprintf(&b, "%g,%d,180\n", float64(i)/10, i)
	}
	out := must[taking.Outcome](t)(l.Import(t.Context(), id, "two.csv", b.Bytes(), who))
	in := must[store.Batch](t)(l.Batch(t.Context(), id)).Injections[0]
	if out.Status != taking.Added || in.Signal != "UV 210 nm" || in.Unit != "mAU" {
		t.Errorf("%+v %+v", out, in)
	}
	if tr, err := l.TraceOf(t.Context(), id, in.ID, Asked{}); err != nil || tr.Values[99] != 99 {
		t.Errorf("%v", err)
	}
}

func TestRunListsOfOtherFilesAreRefusedWhole(t *testing.T) {
	l := openLab(t)
	id := emptyBatch(t, l)
	must[taking.Outcome](t)(l.Import(t.Context(), id, "late.csv", lateFile(), who))
	before := must[store.Batch](t)(l.Batch(t.Context(), id))
	lines := []runlist.Line{{File: "late.csv", Entry: batch.Entry{Name: "New", Dilution: 1, Factor: 1}}, {File: "other.csv"}}
	if _, err := l.ApplyRunList(t.Context(), id, lines, who); !errors.Is(err, ErrRefused) || !strings.Contains(Reason(err), "other.csv, which is not among the files") {
		t.Errorf("got %v", err)
	}
	if after := must[store.Batch](t)(l.Batch(t.Context(), id)); change.JSON(after) != change.JSON(before) {
		t.Error("half of the run list was taken")
	}
	if b := must[store.Batch](t)(l.ApplyRunList(t.Context(), id, lines[:1], who)); b.Injections[0].Name != "New" {
		t.Errorf("%+v", b.Injections[0].Entry)
	}
}

func TestBatchesNeedNamesAndAUsableMethod(t *testing.T) {
	l := openLab(t)
	bad := batch.NewMethod()
	bad.Curves.Unit = "cups"
	for what, f := range map[string]func() (string, error){
		"no study": func() (string, error) { return l.NewBatch(t.Context(), " ", "B", "M", batch.NewMethod(), who) },
		"no name":  func() (string, error) { return l.NewBatch(t.Context(), "S", "", "M", batch.NewMethod(), who) },
		"too long": func() (string, error) {
			return l.NewBatch(t.Context(), "S", strings.Repeat("x", 201), "M", batch.NewMethod(), who)
		},
		"bad method": func() (string, error) { return l.NewBatch(t.Context(), "S", "B", "M", bad, who) },
	} {
		if _, err := f(); !errors.Is(err, ErrRefused) {
			t.Errorf("%s: %v", what, err)
		}
	}
	if list := must[[]store.Study](t)(l.Studies(t.Context())); len(list) != 0 {
		t.Errorf("a refusal left %+v", list)
	}
	first, again := emptyBatch(t, l), emptyBatch(t, l)
	if first != again {
		t.Error("the same batch twice is two batches")
	}
}

// A sentence for a person begins with a capital and ends with a stop, and says nothing of how it came about.
func TestReasonsAreSentences(t *testing.T) {
	for want, err := range map[string]error{
		"There is nothing to undo.": refuse("there is nothing to undo"),
		"Über alles.":               errors.New("über alles."),
		"Line 3: odd.":              &formats.Error{Line: 3, Reason: "odd"},
	} {
		if got := Reason(err); got != want {
			t.Errorf("%q, want %q", got, want)
		}
	}
}

// Files of the other open formats come in as the first do: the first detector is processed, single spectra are refused with a reason.
func TestOtherFormatsComeIn(t *testing.T) {
	for name, c := range map[string]struct{ file, signal, refused string }{
		"JCAMP-DX": {file: "../formats/jcamp/testdata/jcamp_3_difdup.jdx", signal: "reference chromatogram DIF"},
		"mzML":     {file: "../formats/mzml/testdata/mzml_3_srm_uv_indexed_64.mzML", signal: "SRM SIC Q1=182.07 Q3=105.03"},
		"ANDI-MS":  {file: "../formats/andi/testdata/andims_1_float_netcdf4py.cdf", signal: "total ion, positive"},
		"pressure": {file: "pressure.csv", signal: "UV 278 nm"},
		"spectrum": {file: "../formats/jcamp/testdata/jcamp_4_peaktable_ms.jdx", refused: "only single spectra"},
		"entities": {file: "../formats/mzml/testdata/h05_billion_laughs.mzML", refused: "entities are never resolved"},
	} {
		l := openLab(t)
		ctx := t.Context()
		id := must[string](t)(l.NewBatch(ctx, "S", "B", "M", batch.NewMethod(), who))
		var data []byte
		if c.file == "pressure.csv" {
			data = []byte("time_min,Pump pressure [bar],UV 278 nm [mAU]\n")
			for i := range 600 {
				data = fmt.Appendf(data, "%.4f,%d,%.4f\n", float64(i)/100, 180+i%3, 90*math.Exp(-math.Pow(float64(i)/100-3, 2)/0.02)+0.01*float64(i%7))
			}
		} else {
			data = must[[]byte](t)(os.ReadFile(c.file))
		}
		out := must[taking.Outcome](t)(l.Import(ctx, id, filepath.Base(c.file), data, who))
		if c.refused != "" {
			if out.Status != taking.Refused || !strings.Contains(out.Message, c.refused) {
				t.Errorf("%s: %+v", name, out)
			}
			continue
		}
		p := must[Processed](t)(l.Process(ctx, id))
		if got := p.Batch.Injections[0].Signal; out.Status != taking.Added || got != c.signal || len(p.Result.Injections[0].Peaks) == 0 || p.Result.Injections[0].Problem != "" {
			t.Errorf("%s: %+v, signal %q, %d peaks, %q", name, out, got, len(p.Result.Injections[0].Peaks), p.Result.Injections[0].Problem)
		}
		if found := must[record.Verification](t)(l.VerifyQuickly(ctx)); len(found.Wrong) > 0 {
			t.Errorf("%s: the check finds %v", name, found.Wrong)
		}
	}
}
