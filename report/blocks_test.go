package report

import (
	"math"
	"strings"
	"testing"

	"yugen/core/batch"
	"yugen/core/checks"
	"yugen/core/compounds"
	"yugen/core/curves"
	"yugen/core/peaks"
	"yugen/report/layouts"
)

// drawnAs are the texts of a page with one block.
func drawnAs(t *testing.T, in Input, each layouts.Each, of Subject, b layouts.Block) string {
	t.Helper()
	b.ID = "b"
	l := layouts.Layout{Form: 1, Name: "A", Each: each, Paper: layouts.A4, MarginMM: layouts.Margin{Left: 20, Right: 20, Top: 32, Bottom: 20}, Rows: [][]layouts.Block{{b}}}
	if err := l.Validate(); err != nil {
		t.Fatal(err)
	}
	r, err := Make(l, in, of)
	if err != nil {
		t.Fatal(err)
	}
	return texts(r)
}

func wants(t *testing.T, what, got string, list ...string) {
	t.Helper()
	for _, w := range list {
		if !strings.Contains(got, w) {
			t.Errorf("%s: %q is missing in\n%s", what, w, got)
		}
	}
}

// replicated is the batch of input with a second replicate of its sample, a check, and a mean.
func replicated(t *testing.T) Input {
	in := input(t)
	second := in.Lines[1]
	second.ID = "3"
	in.Lines = append(in.Lines, second)
	p := in.Result.Injections[1].Peaks[0]
	p.AreaS, p.ApexMin = 760, 2.01
	in.Result.Injections = append(in.Result.Injections, batch.Injected{ID: "3", Integrated: batch.Integrated{Unit: "mAU", Peaks: []batch.NamedPeak{p}}, Readings: map[string]batch.Reading{"caf": {Amount: ptr(9.4), Flags: []batch.Flag{}}}})
	in.Result.Injections[1].Unit = "mAU"
	mean := batch.SampleValue{SE: ptr(0.05), CI95: &[2]float64{9.2, 9.5}, Of: 2}
	mean.Mean, mean.RSD, mean.N = ptr(9.34), ptr(0.9), 2
	in.Result.Samples[0].InjectionIDs = []string{"2", "3"}
	in.Result.Samples[0].Values["caf"] = mean
	return in
}

// A summary on a page has the statistics as they are by hand, and n where a value is missing.
func TestASummaryOnAPage(t *testing.T) {
	in := replicated(t)
	got := drawnAs(t, in, layouts.EachBatch, Subject{}, layouts.Block{Kind: layouts.Summary, Measures: []string{"area_s"}, Statistics: []string{"mean", "sd", "rsd", "n"}})
	wants(t, "summary", got, "756.0", "5.7", "0.75", "Area, mAU·s") // of 752 and 760: mean 756, SD 5.657, RSD 0.748 %
	in.Result.Injections[2].Peaks = nil
	wants(t, "a missing value", drawnAs(t, in, layouts.EachBatch, Subject{}, layouts.Block{Kind: layouts.Summary, Measures: []string{"area_s"}, Statistics: []string{"mean"}}), "n 1  752.0")
	wants(t, "an unknown measure", drawnAs(t, in, layouts.EachBatch, Subject{}, layouts.Block{Kind: layouts.Summary, Measures: []string{"mood"}}), `There is no quantity "mood".`)
}

// A certificate's results have mean, interval, spread and n; of a sample without a value there is a dash.
func TestResultsOfASample(t *testing.T) {
	in := replicated(t)
	of := Subject{Sample: in.Lines[1].Name}
	wants(t, "results", drawnAs(t, in, layouts.EachSample, of, layouts.Block{Kind: layouts.Results}), "Caffeine", "9.340", "9.200 – 9.500", "0.90", "2 of 2", "mean of 2 injections")
	columns := []layouts.Value{{Quantity: "compound"}, {Quantity: "amount", Digits: 2, Head: "Found"}, {Quantity: "retention_min", Decimals: ptr(1)}, {Quantity: "plates"}, {Quantity: "mood"}}
	wants(t, "own columns", drawnAs(t, in, layouts.EachInjection, Subject{InjectionID: "2"}, layouts.Block{Kind: layouts.Results, Values: columns, Missing: "n/a"}), "Found", "9.3", "2.0", "n/a", `[there is no "mood"]`)
	in.Result.Samples[0].Values["caf"] = batch.SampleValue{Of: 2}
	wants(t, "no value", drawnAs(t, in, layouts.EachSample, of, layouts.Block{Kind: layouts.Results}), "0 of 2", "–")
}

// A curve on a page says what it is, and which points it leaves out and why; a compound without a curve says so.
func TestACurveOnAPage(t *testing.T) {
	in := replicated(t)
	var points []curves.Point
	var drawn []batch.CurvePoint
	for k, x := range []float64{1, 2, 5, 10} {
		points = append(points, curves.Point{X: x, Y: 3 + 20*x})
		drawn = append(drawn, batch.CurvePoint{InjectionID: "2", Level: x, X: x, Response: 3 + 20*x, InRange: true, LeftOut: k == 3, Reason: map[bool]string{true: "spilled"}[k == 3]})
	}
	fit, err := curves.New(points[:3], curves.Linear, curves.Unweighted)
	if err != nil {
		t.Fatal(err)
	}
	in.Result.Curves = []batch.Curve{{CompoundID: "caf", Points: drawn, Fit: &fit, Line: []batch.LinePoint{{X: 0, Y: 3}, {X: 10, Y: 203}}, LOD: ptr(0.1), Verdict: batch.Verdict{Good: "Linear from 1 to 5."}}}
	for _, height := range []float64{0, 60} {
		wants(t, "curve", drawnAs(t, in, layouts.EachBatch, Subject{}, layouts.Block{Kind: layouts.Curve, HeightMM: height}), "Caffeine", "linear", "3 of 4", "Left out", "spilled")
	}
	wants(t, "large curve", drawnAs(t, in, layouts.EachBatch, Subject{}, layouts.Block{Kind: layouts.Curve, HeightMM: 60}), "b0 3.00000, b1 20.0000", "1 – 5", "Linear from 1 to 5.")
	in.Result.Curves = nil
	wants(t, "no curve", drawnAs(t, in, layouts.EachBatch, Subject{}, layouts.Block{Kind: layouts.Curve}), "No curve in Method.")
}

// The processing stands on a page: integration with its time rules, windows, the internal standard, the limits of the checks.
func TestTheProcessingOnAPage(t *testing.T) {
	in := replicated(t)
	in.Method.Channels[0].Peaks = peaks.Settings{WidthMin: 0.12, Threshold: 6, SkimPercent: 5, TimeRules: []peaks.TimeRule{{Kind: peaks.Change, FromMin: 3, ToMin: 4, Setting: "threshold", Value: 9}}}
	in.Method.Compounds = append(in.Method.Compounds, compounds.Compound{ID: "is", Name: "Standard within", ExpectedMin: 5, Window: compounds.Window{Kind: compounds.Percent, Value: 3}, Rule: compounds.Nearest, Role: compounds.InternalStandard, Amount: 25})
	in.Method.Checks = checks.Limits{RecoveryLow: 91, RecoveryHigh: 109, ReplicateRSD: 7, InternalStandard: 6, Blank: 19}
	wants(t, "processing", drawnAs(t, in, layouts.EachBatch, Subject{}, layouts.Block{Kind: layouts.Conditions, Of: "processing"}),
		"0.12 min", "6 × noise", "tails smaller than 5 %", "3 – 4 min", "threshold 9", "± 0.2 min", "± 3 %", "internal standard, 25 mg/L", "recovery 91 to 109 %", "RSD up to 7 %", "within 6 %", "up to 19 %")
	in.Lines[1].Settings = []Setting{{"Column", "C18", ""}, {"Flow", "0.5", "mL/min"}}
	wants(t, "conditions", drawnAs(t, in, layouts.EachInjection, Subject{InjectionID: "2"}, layouts.Block{Kind: layouts.Conditions}), "Column", "C18", "0.5 mL/min")
	wants(t, "none", drawnAs(t, in, layouts.EachInjection, Subject{InjectionID: "3"}, layouts.Block{Kind: layouts.Conditions}), "The file says nothing of equipment or conditions.")
}

// A table of peaks sums what it shows, and leaves unnamed ones out where it is asked to.
func TestATableOfPeaksIsSummed(t *testing.T) {
	in := replicated(t)
	in.Result.Injections[1].Peaks = append(in.Result.Injections[1].Peaks, batch.NamedPeak{Peak: peaks.Peak{Number: 2, StartMin: 3, ApexMin: 3.1, EndMin: 3.2, AreaS: 48, AreaPercent: 6}})
	all := drawnAs(t, in, layouts.EachInjection, Subject{InjectionID: "2"}, layouts.Block{Kind: layouts.Peaks, Sum: true})
	wants(t, "all", all, "Sum", "800.00", "unnamed")
	named := drawnAs(t, in, layouts.EachInjection, Subject{InjectionID: "2"}, layouts.Block{Kind: layouts.Peaks, Sum: true, Named: true})
	if strings.Contains(named, "unnamed") || strings.Contains(named, "800.00") || math.Abs(float64(strings.Count(named, "752.00")-2)) > 0 {
		t.Errorf("only named ones are\n%s", named)
	}
	wants(t, "of a batch", drawnAs(t, in, layouts.EachBatch, Subject{}, layouts.Block{Kind: layouts.Peaks}), "make this layout for each injection or sample")
}

// A stretch that is asked for is what a chromatogram shows; one beyond the run says so.
func TestTheStretchOfAChromatogram(t *testing.T) {
	in := replicated(t)
	of := Subject{InjectionID: "2"}
	wants(t, "a stretch", drawnAs(t, in, layouts.EachInjection, of, layouts.Block{Kind: layouts.Chromatogram, FromMin: ptr(1.0), ToMin: ptr(3.0), Labels: []string{"name", "area", "amount"}}), "Caffeine  752.0  9.28 mg/g", "1.2", "2.8")
	wants(t, "beyond", drawnAs(t, in, layouts.EachInjection, of, layouts.Block{Kind: layouts.Chromatogram, FromMin: ptr(50.0), ToMin: ptr(60.0)}), "nothing between the times")
	wants(t, "another signal", drawnAs(t, in, layouts.EachInjection, of, layouts.Block{Kind: layouts.Chromatogram, Channel: "FID"}), "no chromatogram of FID")
	if got := drawnAs(t, in, layouts.EachInjection, of, layouts.Block{Kind: layouts.Chromatogram, Labels: []string{}}); strings.Contains(got, "Caffeine") {
		t.Errorf("without labels there is one: %s", got)
	}
}

// A certificate that asks for what the method does not have says so on the page, and shows neither everything instead nor a sum of what is left.
func TestWhatTheMethodDoesNotHaveIsSaid(t *testing.T) {
	in := replicated(t)
	in.Method.Compounds = append(in.Method.Compounds, compounds.Compound{ID: "ec", Name: "EC", ExpectedMin: 3, Window: compounds.Window{Kind: compounds.Absolute, Value: 0.2}, Rule: compounds.Nearest, Role: compounds.Target})
	of := Subject{InjectionID: "2"}
	for what, b := range map[string]layouts.Block{
		"results":          {Kind: layouts.Results, Compounds: []string{"Tannin"}},
		"results in part":  {Kind: layouts.Results, Compounds: []string{"Tannin", "Caffeine"}},
		"a curve":          {Kind: layouts.Curve, Compounds: []string{"Tannin"}},
		"a summary":        {Kind: layouts.Summary, Compounds: []string{"Tannin"}},
		"a sum":            {Kind: layouts.Summary, Compounds: []string{"sum:Caffeine + Tannin"}},
		"a group":          {Kind: layouts.Summary, Compounds: []string{"group:Tannin"}},
		"a summary, whole": {Kind: layouts.Summary, Compounds: []string{"sum:Caffeine + EC"}},
	} {
		got := drawnAs(t, in, layouts.EachInjection, of, b)
		if what == "a summary, whole" {
			if strings.Contains(got, "Not in Method") || !strings.Contains(got, "752") {
				t.Errorf("%s:\n%s", what, got)
			}
			continue
		}
		wants(t, what, got, "Not in Method: ", "Tannin")
		if shows := strings.Contains(got, "752.0") || strings.Contains(got, "9.28"); shows != (what == "results in part") {
			t.Errorf("%s shows numbers of others:\n%s", what, got)
		}
	}
}

// A table of peaks has the columns that a layout asks for: a quantity that is not there is named in its cells, one in another unit is in that, and what is missing is
// what the layout says.
func TestATableOfPeaksWithColumnsOfItsOwn(t *testing.T) {
	in := replicated(t)
	in.Result.Injections[1].Peaks = append(in.Result.Injections[1].Peaks, batch.NamedPeak{Peak: peaks.Peak{Number: 2, StartMin: 3, ApexMin: 3.1, EndMin: 3.2, AreaS: 48, AreaPercent: 6, MoreMeasures: &peaks.MoreMeasures{}}})
	for k := range in.Result.Injections[1].Peaks {
		in.Result.Injections[1].Peaks[k].MoreMeasures = &peaks.MoreMeasures{}
	}
	columns := []layouts.Value{{Quantity: "compound"}, {Quantity: "retention_min", Unit: "s", Decimals: ptr(1)}, {Quantity: "area_s", Digits: 3, Head: "A"}, {Quantity: "asymmetry"}, {Quantity: "beauty"}}
	b := layouts.Block{Kind: layouts.Peaks, Values: columns, Missing: "not to be had"}
	got := drawnAs(t, in, layouts.EachInjection, Subject{InjectionID: "2"}, b)
	wants(t, "all peaks", got, "Caffeine", "120.0", "186.0", "752", "48.0", "not to be had", `[there is no "beauty"]`, "A", "Asymmetry")
	b.Named = true
	if named := drawnAs(t, in, layouts.EachInjection, Subject{InjectionID: "2"}, b); strings.Contains(named, "186.0") || !strings.Contains(named, "120.0") {
		t.Errorf("only named ones are\n%s", named)
	}
	in.Result.Injections[1].Peaks = nil
	wants(t, "no peak", drawnAs(t, in, layouts.EachInjection, Subject{InjectionID: "2"}, b), "No peak was found.")
}

// Groups stand as sums, of one sample and of all; a method without groups says so.
func TestGroupsOnAPage(t *testing.T) {
	in := replicated(t)
	b := layouts.Block{Kind: layouts.Groups}
	wants(t, "no group", drawnAs(t, in, layouts.EachBatch, Subject{}, b), "The method has no group of compounds.")
	in.Method.Compounds[0].Group = "Alkaloids"
	sum := batch.SampleValue{SE: ptr(0.05)}
	sum.Mean, sum.N, sum.Of = ptr(9.34), 2, 2
	in.Result.Samples[0].Groups = map[string]batch.SampleValue{"Alkaloids": sum}
	wants(t, "of a sample", drawnAs(t, in, layouts.EachSample, Subject{Sample: in.Result.Samples[0].Name}, b), "Groups", "Alkaloids", "9.34")
	wants(t, "of the batch", drawnAs(t, in, layouts.EachBatch, Subject{}, b), "Groups", "Alkaloids", "9.34")
}

// The record stands on a page as it is kept, in Coordinated Universal Time; where there is none, that is said.
func TestTheRecordOnAPage(t *testing.T) {
	in := replicated(t)
	b := layouts.Block{Kind: layouts.Record, Title: ptr("What was done to {batch}")}
	wants(t, "none", drawnAs(t, in, layouts.EachBatch, Subject{}, b), "Nothing was changed by hand", "What was done to Batch")
	in.Record = []RecordLine{{Row: 17, At: in.MadeAt, Who: "M. Okada", What: "dilution of Leaf: 1 → 2", Why: "as weighed <b>in</b>"}}
	wants(t, "one row", drawnAs(t, in, layouts.EachBatch, Subject{}, b), "17", "M. Okada", "dilution of Leaf: 1 → 2", "as weighed <b>in</b>", "6:07")
}
