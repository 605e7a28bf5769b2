package read

import (
	"encoding/json"
	"errors"
	"math"
	"os"
	"path/filepath"
	"runtime"
	"strings"
	"testing"
	"time"

	"yugen/formats"
)

// Files by independent writers, with what a reader must find in them.
func TestReferenceFiles(t *testing.T) {
	truths, _ := filepath.Glob("testdata/*.truth.json")
	if len(truths) < 8 {
		t.Fatalf("only %d reference files", len(truths))
	}
	for _, path := range truths {
		t.Run(filepath.Base(path), func(t *testing.T) {
			type numbers struct {
				Points      int
				FirstTime   float64   `json:"first_time_s"`
				LastTime    float64   `json:"last_time_s"`
				FirstValues []float64 `json:"first_values"`
				Max, Sum    float64
				TimeOfMax   float64 `json:"time_of_max_s"`
			}
			var want struct {
				Data       numbers
				Unit       string `json:"signal_unit"`
				SampleName string `json:"sample_name"`
				Attributes map[string]string
				InjectedAt string `json:"injection_utc"`
			}
			raw, err := os.ReadFile(path)
			if err != nil {
				t.Fatal(err)
			}
			if err := json.Unmarshal(raw, &want); err != nil {
				t.Fatal(err)
			}
			data, err := os.ReadFile(strings.TrimSuffix(path, ".truth.json"))
			if err != nil {
				t.Fatal(err)
			}
			got, err := File(data)
			if err != nil {
				t.Fatal(err)
			}
			tr := got.Traces[0]
			sum, top := 0.0, 0
			for i, v := range tr.Values {
				sum += v
				if v > tr.Values[top] {
					top = i
				}
			}
			same := func(what string, a, b float64) {
				if math.Abs(a-b) > 1e-6*math.Max(1, math.Abs(b)) {
					t.Errorf("%s is %.9g, want %.9g", what, a, b)
				}
			}
			same("points", float64(tr.Len()), float64(want.Data.Points))
			same("first time", tr.TimeS(0), want.Data.FirstTime)
			same("last time", tr.EndS(), want.Data.LastTime)
			same("sum", sum, want.Data.Sum)
			same("maximum", tr.Values[top], want.Data.Max)
			same("time of maximum", tr.TimeS(top), want.Data.TimeOfMax)
			for i, v := range want.Data.FirstValues {
				same("first values", tr.Values[i], v)
			}
			if want.Unit != "" && tr.Unit != want.Unit {
				t.Errorf("unit %q, want %q", tr.Unit, want.Unit)
			}
			if want.SampleName != "" && got.Header.SampleName != want.SampleName {
				t.Errorf("sample %q, want %q", got.Header.SampleName, want.SampleName)
			}
			if want.Attributes != nil && (got.Header.SampleName != want.Attributes["sample_name"] || tr.Unit != want.Attributes["detector_unit"]) {
				t.Errorf("header %+v", got.Header)
			}
			if want.InjectedAt != "" && (got.Header.AcquiredAt == nil || got.Header.AcquiredAt.UTC().Format(time.RFC3339) != want.InjectedAt) {
				t.Errorf("injected at %v, want %s", got.Header.AcquiredAt, want.InjectedAt)
			}
		})
	}
}

func TestDamagedFilesAreRefusedWithTheirPlace(t *testing.T) {
	for file, want := range map[string]string{
		"hostile/h01_truncated_header.cdf":     "cut off",
		"hostile/h03_claims_2e31_elements.cdf": "the file ends at byte 164",
		"hostile/h11_nan_inf.csv":              "line 52",
		"hostile/h13_non_monotonic_time.csv":   "does not come after",
		"hostile/h14_one_point.csv":            "needs at least 8",
	} {
		data, err := os.ReadFile(filepath.Join("testdata", file))
		if err != nil {
			t.Fatal(err)
		}
		var before, after runtime.MemStats
		runtime.ReadMemStats(&before)
		_, err = File(data)
		runtime.ReadMemStats(&after)
		var at *formats.Error
		if !errors.As(err, &at) || !strings.Contains(err.Error(), want) {
			t.Errorf("%s: %v, want a refusal with %q", file, err, want)
		}
		if used := after.TotalAlloc - before.TotalAlloc; used > 50<<20 {
			t.Errorf("%s: reading took %d MB", file, used>>20)
		}
	}
}

func TestTextFromFilesIsKeptAsText(t *testing.T) {
	data, err := os.ReadFile("testdata/hostile/h17_html_sample_name.cdf")
	if err != nil {
		t.Fatal(err)
	}
	got, err := File(data)
	if err != nil || !strings.Contains(got.Header.SampleName, "<") {
		t.Errorf("%v %+v", err, got.Header)
	}
}

func TestDelimitersAndMarks(t *testing.T) {
	table := func(sep, mark, heading string) string {
		var b strings.Builder
		b.WriteString(heading)
		for i := range 20 {
			b.WriteString(strings.ReplaceAll("0."+strings.Repeat("0", 0)+string(rune('0'+i/10))+string(rune('0'+i%10)), ".", mark) + sep + strings.ReplaceAll("7.5", ".", mark) + "\n")
		}
		return b.String()
	}
	for name, c := range map[string]struct {
		text string
		last float64
	}{
		"comma, minutes":              {table(",", ".", "time_min,signal\n"), 0.19 * 60},
		"tab, seconds":                {table("\t", ".", "Time (s)\tmV\n"), 0.19},
		"semicolon and decimal comma": {table(";", ",", "Zeit [min];Signal [mAU]\n"), 0.19 * 60},
		"tab and decimal comma":       {table("\t", ",", ""), 0.19 * 60},
		"byte-order mark and CRLF":    {"\xef\xbb\xbf" + strings.ReplaceAll(table(",", ".", "Time (min),x\n"), "\n", "\r\n"), 0.19 * 60},
		"latin 1":                     {table(";", ".", "Time (min);Signal (\xb5V)\n"), 0.19 * 60},
	} {
		got, err := File([]byte(c.text))
		if err != nil {
			t.Errorf("%s: %v", name, err)
			continue
		}
		if tr := got.Traces[0]; tr.Len() != 20 || math.Abs(tr.EndS()-c.last) > 1e-9 || tr.Values[3] != 7.5 {
			t.Errorf("%s: %d points to %g s, value %g", name, tr.Len(), tr.EndS(), tr.Values[3])
		}
	}
}

func TestWhatIsNoChromatogram(t *testing.T) {
	for name, data := range map[string]string{
		"empty": "", "prose": "Dear colleague,\nplease find the files attached.\n", "binary": "\x00\x01\x02\x03", "picture": "\x89PNG\r\n",
	} {
		if _, err := File([]byte(data)); err == nil {
			t.Errorf("%s was read", name)
		}
	}
}

func FuzzFile(f *testing.F) {
	seeds, _ := filepath.Glob("testdata/*")
	more, _ := filepath.Glob("testdata/hostile/*")
	for _, s := range append(seeds, more...) {
		if data, err := os.ReadFile(s); err == nil && len(data) < 50000 {
			f.Add(data)
		}
	}
	f.Fuzz(func(t *testing.T, data []byte) {
		got, err := File(data)
		if err != nil {
			return
		}
		for _, tr := range got.Traces {
			for i, v := range tr.Values {
				if math.IsNaN(v) || math.IsInf(v, 0) || (i > 0 && tr.TimeS(i) <= tr.TimeS(i-1)) {
					t.Fatalf("point %d: %g at %g s", i, v, tr.TimeS(i))
				}
			}
		}
	})
}
