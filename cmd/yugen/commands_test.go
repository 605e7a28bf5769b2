package main

import (
	"bytes"
	"encoding/json"
	"fmt"
	"math"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"yugen/bench"
	"yugen/core/batch"
	"yugen/lab"
	"yugen/lab/taking"
	"yugen/store"
)

// program is the built binary; TestMain makes it once.
var program string

func TestMain(m *testing.M) {
	dir, err := os.MkdirTemp("", "yugen")
	if err != nil {
		panic(err)
	}
	program = filepath.Join(dir, "yugen")
	if out, err := exec.Command("go", "build", "-o", program, ".").CombinedOutput(); err != nil {
		panic(string(out))
	}
	os.Setenv("YUGEN_KEY", filepath.Join(dir, "signing.key"))
	code := m.Run()
	os.RemoveAll(dir)
	os.Exit(code)
}

// yugen runs the program and gives what it printed and its exit code.
func yugen(t *testing.T, stdin string, args ...string) (stdout, stderr string, code int) {
	t.Helper()
	c := exec.CommandContext(t.Context(), program, args...)
	c.Stdin = strings.NewReader(stdin)
	var out, errs bytes.Buffer
	c.Stdout, c.Stderr = &out, &errs
	if err := c.Run(); err != nil {
		if _, ok := err.(*exec.ExitError); !ok {
			t.Fatal(err)
		}
	}
	return out.String(), errs.String(), c.ProcessState.ExitCode()
}

// written is the demo study in a folder.
func written(t *testing.T) (bench.Study, string) {
	t.Helper()
	s, err := bench.TeaAssay(11)
	if err != nil {
		t.Fatal(err)
	}
	dir := t.TempDir()
	if err := lab.WriteStudy(s, dir); err != nil {
		t.Fatal(err)
	}
	return s, dir
}

func TestPeaksAnswersTheTruth(t *testing.T) {
	s, dir := written(t)
	file := filepath.Join(dir, s.Files[9].Name) // the level of 120 mg/L
	settings := filepath.Join(dir, "settings.json")
	if err := os.WriteFile(settings, []byte(`{"width_min": 0.13, "least_area": 1}`), 0o644); err != nil {
		t.Fatal(err)
	}
	out, errs, code := yugen(t, "", "peaks", file, "--settings", settings)
	var got []integrated
	if err := json.Unmarshal([]byte(out), &got); err != nil || code != 0 {
		t.Fatal(err, errs)
	}
	if len(got) != 1 || got[0].File != file || got[0].Trace != "UV 278 nm" || got[0].Noise <= 0 || got[0].Settings.WidthMin != 0.13 {
		t.Errorf("%+v", got)
	}
	for _, c := range s.Truth[9].Components {
		found := false
		for _, p := range got[0].Peaks {
			if math.Abs(p.ApexMin-c.RetentionMin) < 0.05 {
				found = true
				if math.Abs(p.AreaS/c.AreaS-1) > 0.02 {
					t.Errorf("%s: area %g, true %g", c.Compound, p.AreaS, c.AreaS)
				}
			}
		}
		if !found {
			t.Errorf("%s was not found", c.Compound)
		}
	}
	table, _, _ := yugen(t, "", "peaks", file, "--format", "csv", "--settings", settings)
	if lines := strings.Split(strings.TrimSpace(table), "\n"); len(lines) != len(got[0].Peaks)+1 || !strings.HasPrefix(lines[0], "file,trace,number,start_min,apex_min") {
		t.Errorf("csv: %s", table)
	}
	data, err := os.ReadFile(file)
	if err != nil {
		t.Fatal(err)
	}
	piped, _, code := yugen(t, string(data), "peaks", "-", "--settings", settings)
	if code != 0 || strings.Replace(piped, `"-"`, mustQuote(file), 1) != out {
		t.Error("standard input gives other numbers")
	}
}

func mustQuote(s string) string {
	b, _ := json.Marshal(s)
	return string(b)
}

func TestCurveFitsAndReads(t *testing.T) {
	// A published example of a straight line: fluorescein, intercept 1.518, slope 1.930.
	in := `{"points": [{"x":0,"y":2.1},{"x":2,"y":5.0},{"x":4,"y":9.0},{"x":6,"y":12.6},{"x":8,"y":17.3},{"x":10,"y":21.0},{"x":12,"y":24.7},{"x":5,"y":99,"include":false}],
		"model": "linear", "weight": "none", "unknowns": [{"y": [13.5]}, {"y": [13.5, 13.5, 13.5, 13.5]}]}`
	out, errs, code := yugen(t, in, "curve", "-")
	var got struct {
		Coefficients   []float64
		StandardErrors []float64 `json:"standard_errors"`
		ResidualSD     float64   `json:"residual_sd"`
		R2             float64
		DF             int `json:"degrees_of_freedom"`
		Points         []struct{ Fitted, Residual float64 }
		Unknowns       []struct {
			X    float64
			SE   float64 `json:"standard_error"`
			CI95 [2]float64
		}
	}
	if err := json.Unmarshal([]byte(out), &got); err != nil || code != 0 {
		t.Fatal(err, errs)
	}
	for what, pair := range map[string][2]float64{
		"intercept": {got.Coefficients[0], 1.5178571428571428}, "slope": {got.Coefficients[1], 1.9303571428571429},
		"error of the slope": {got.StandardErrors[1], 0.040900264457006404}, "residual SD": {got.ResidualSD, 0.43284771324005267},
		"R²": {got.R2, 0.9977603860708479}, "x": {got.Unknowns[0].X, 6.207215541165588}, "its error": {got.Unknowns[0].SE, 0.23975422270299082},
		"upper end": {got.Unknowns[0].CI95[1], 6.823523391297581}, "error of four": {got.Unknowns[1].SE, 0.1406133618137565},
	} {
		if math.Abs(pair[0]-pair[1]) > 1e-9*math.Abs(pair[1]) {
			t.Errorf("%s: %.15g, want %.15g", what, pair[0], pair[1])
		}
	}
	if got.DF != 5 || len(got.Points) != 8 {
		t.Errorf("%d degrees of freedom, %d points", got.DF, len(got.Points))
	}
}

func TestBadInputIsASentenceAndExitCode1(t *testing.T) {
	dir := t.TempDir()
	letter := filepath.Join(dir, "letter.txt")
	if err := os.WriteFile(letter, []byte("Dear colleague,\n"), 0o644); err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct {
		stdin string
		args  []string
		says  string
	}{
		{"", []string{"peaks", letter}, "line 1: no table of numbers"},
		{"", []string{"peaks", filepath.Join(dir, "none.cdf")}, "no such file"},
		{`{"points": [{"x": 5, "y": 10}]}`, []string{"curve", "-"}, "needs at least 2"},
		{`{"points": [{"x": 0, "y": 1}, {"x": 1, "y": 2}, {"x": 2, "y": 3}], "weight": "1/x"}`, []string{"curve", "-"}, "(x 0, y 1) has no weight 1/x"},
		{`{"points": "many"}`, []string{"curve", "-"}, "the field points holds a string; a list is wanted"},
		{`{"points": [{"x": 5}]}`, []string{"curve", "-"}, "point 1 lacks its y"},
		{`{"points": [{"x": 1, "y": 1e999}]}`, []string{"curve", "-"}, "the number 1e999 in the field points.y is too large"},
		{`{"points": [{"x": 1, "y": 2}]} and more`, []string{"curve", "-"}, "more text after the end"},
		{`{"point": []}`, []string{"curve", "-"}, `the field "point" is unknown`},
		{`{"points": [{"x": -1, "y": -2}, {"x": 1, "y": 2}, {"x": 2, "y": 4}], "weight": "1/x2"}`, []string{"curve", "-"}, "has no weight 1/x2"},
		{"", []string{"check", dir}, "no Yugen database"},
		{"", []string{"process", "--method", "m", "--runlist", "r", letter}, "out"},
		{"", []string{"dance"}, "Unknown command"},
	} {
		out, errs, code := yugen(t, c.stdin, c.args...)
		if code != 1 || !strings.Contains(errs, c.says) || strings.Contains(errs, "panic") || out != "" {
			t.Errorf("%v: exit %d, %q", c.args, code, errs)
		}
	}
}

func TestProcessGivesTheNumbersOfTheApplication(t *testing.T) {
	s, dir := written(t)
	args := []string{"process", "--method", filepath.Join(dir, "method.json"), "--runlist", filepath.Join(dir, "runlist.csv"), "--out", filepath.Join(dir, "out")}
	for i := range s.Files { // in another order than the run's
		args = append(args, filepath.Join(dir, s.Files[len(s.Files)-1-i].Name), filepath.Join(dir, s.Alongside[i].Name))
	}
	if _, errs, code := yugen(t, "", args...); code != 0 {
		t.Fatal(errs)
	}
	raw, err := os.ReadFile(filepath.Join(dir, "out", "results.json"))
	if err != nil {
		t.Fatal(err)
	}
	var shell batch.Result
	if err := json.Unmarshal(raw, &shell); err != nil {
		t.Fatal(err)
	}
	db, err := store.Open(t.Context(), t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	l := lab.New(db)
	id, err := l.LoadDemo(t.Context(), t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	// The application's demo has another seed, so the files of this one are put into a batch of their own.
	own, err := l.NewBatch(t.Context(), "Study", "Own", "Method", s.Method, "T. Ester")
	if err != nil || own == id {
		t.Fatal(err)
	}
	for i, f := range s.Files {
		if out, err := l.Import(t.Context(), own, f.Name, f.Data, "T. Ester"); err != nil || out.Status != taking.Added {
			t.Fatal(i, out, err)
		}
		if out, err := l.Import(t.Context(), own, s.Alongside[i].Name, s.Alongside[i].Data, "T. Ester"); err != nil || out.Status != taking.Joined {
			t.Fatal(i, out, err)
		}
	}
	if _, err := l.ApplyRunList(t.Context(), own, runListOf(s), "T. Ester"); err != nil {
		t.Fatal(err)
	}
	p, err := l.Process(t.Context(), own)
	if err != nil {
		t.Fatal(err)
	}
	for i := range p.Result.Samples {
		for compound, v := range p.Result.Samples[i].Values {
			if w := shell.Samples[i].Values[compound]; (v.Mean == nil) != (w.Mean == nil) || v.Mean != nil && *v.Mean != *w.Mean {
				t.Errorf("%s, %s: %v and %v", p.Result.Samples[i].Name, compound, v.Mean, w.Mean)
			}
		}
	}
	var here, there []string
	for _, n := range p.Result.Notices {
		here = append(here, n.Subject+" "+n.Text)
	}
	for _, n := range shell.Notices {
		there = append(there, n.Subject+" "+n.Text)
	}
	if !slices.Equal(here, there) || !slices.ContainsFunc(here, func(n string) bool { return strings.HasPrefix(n, "Pouchong 2 of 2 Pump pressure fell by 3") }) {
		t.Errorf("notices %q, of the command line %q", here, there)
	}
	for _, name := range []string{"results.csv", "report.pdf"} {
		if info, err := os.Stat(filepath.Join(dir, "out", name)); err != nil || info.Size() < 1000 {
			t.Errorf("%s: %v", name, err)
		}
	}
}

// The examples stay true: what their README says was simulated is what comes out.
func TestExamplesAreTrue(t *testing.T) {
	files, _ := filepath.Glob("../../examples/*.cdf")
	out := t.TempDir()
	args := append([]string{"process", "--method", "../../examples/method.json", "--runlist", "../../examples/runlist.csv", "--out", out}, files...)
	if _, errs, code := yugen(t, "", args...); code != 0 {
		t.Fatal(errs)
	}
	var got batch.Result
	var truth []struct {
		File     string
		Contents map[string]float64 `json:"contents_mg_per_L"`
	}
	for file, into := range map[string]any{filepath.Join(out, "results.json"): &got, "../../examples/truth.json": &truth} {
		raw, err := os.ReadFile(file)
		if err != nil {
			t.Fatal(err)
		}
		if err := json.Unmarshal(raw, into); err != nil {
			t.Fatal(err)
		}
	}
	compared := 0
	for i, want := range truth {
		for compound, content := range want.Contents {
			r := got.Injections[i].Readings[compound]
			if content < 20 || r.Concentration == nil {
				continue
			}
			compared++
			if math.Abs(*r.Concentration/content-1) > 0.04 {
				t.Errorf("%s in %s reads %g, true %g", compound, want.File, *r.Concentration, content)
			}
		}
	}
	if compared < 35 {
		t.Errorf("only %d readings were compared", compared)
	}
}

// Two days' files give every way side by side, and the larger limit is proposed.
func TestLimitsOfTwoDays(t *testing.T) {
	dir := t.TempDir()
	var files []string
	for day, scatter := range []float64{0.1, 0.4} {
		var points []string
		for i, x := range []float64{1, 1, 1, 2, 2, 2, 5, 5, 5} {
			points = append(points, fmt.Sprintf(`{"x": %g, "y": %g}`, x, 3+10*x+scatter*float64(i%3-1)))
		}
		file := filepath.Join(dir, fmt.Sprintf("day%d.json", day+1))
		text := fmt.Sprintf(`{"name": "Day %d", "points": [%s], "blanks": [2.9, 3.1, 3.0]}`, day+1, strings.Join(points, ", "))
		if err := os.WriteFile(file, []byte(text), 0o644); err != nil {
			t.Fatal(err)
		}
		files = append(files, file)
	}
	out, errs, code := yugen(t, "", append([]string{"limits"}, files...)...)
	if code != 0 {
		t.Fatal(errs)
	}
	var got limitsOutput
	if err := json.Unmarshal([]byte(out), &got); err != nil {
		t.Fatal(err)
	}
	// The standard deviation of three replicates at −d, 0 and +d is d.
	replicates := got.Ways[2]
	if len(got.Days) != 2 || got.Days[1].Name != "Day 2" || replicates.Days != 2 || math.Abs(*replicates.LOQ-10*0.4/10) > 1e-9 {
		t.Errorf("%s", out)
	}
	if got.Proposed == nil || *got.Proposed.LOQ < *replicates.LOQ {
		t.Errorf("%+v", got.Proposed)
	}
	if _, errs, code := yugen(t, `{"points": []}`, "limits", "-"); code == 0 || !strings.Contains(errs, "no point is in use") {
		t.Errorf("%d %s", code, errs)
	}
}

// The command answers standard additions, tests, limits and the range as the core does.
func TestCurveAnswersAllOfTheCore(t *testing.T) {
	out, errs, code := yugen(t, `{"way": "standard_addition", "points": [{"x":0,"y":0.32},{"x":5,"y":0.41},{"x":10,"y":0.52},{"x":15,"y":0.60},{"x":20,"y":0.70},{"x":25,"y":0.77},{"x":30,"y":0.89}]}`, "curve", "-")
	var addition struct {
		X  float64
		SE float64 `json:"standard_error"`
	}
	if err := json.Unmarshal([]byte(out), &addition); code != 0 || err != nil || math.Abs(addition.X-17.260536) > 1e-5 || math.Abs(addition.SE-0.7478706) > 1e-6 {
		t.Errorf("%s %s", out, errs)
	}
	out, errs, code = yugen(t, `{"points": [{"x":1,"y":10.1},{"x":2,"y":20},{"x":5,"y":49.5},{"x":10,"y":101},{"x":20,"y":200},{"x":50,"y":350}], "weight": "1/x2", "deviation_percent": 5, "blanks": [0.1, 0.2, 0.15]}`, "curve", "-")
	var got curveOutput
	if err := json.Unmarshal([]byte(out), &got); code != 0 || err != nil {
		t.Fatal(errs, err)
	}
	if got.Range == nil || got.Range.HighX != 20 || len(got.Range.Breaks) != 1 || got.Limits[3].LOQ == nil || got.Tests.Mandel == nil || got.Points[5].Studentised == nil {
		t.Errorf("%s", out)
	}
}
