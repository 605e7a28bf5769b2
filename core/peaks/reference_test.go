package peaks

import (
	"compress/gzip"
	"encoding/csv"
	"encoding/json"
	"math"
	"os"
	"path/filepath"
	"slices"
	"strconv"
	"strings"
	"testing"

	"yugen/core/signal"
)

// truePeak is a peak of a reference chromatogram, as its maker knows it.
type truePeak struct {
	Name       string   `json:"name"`
	ApexMin    float64  `json:"apex_min"`
	SeenMin    float64  `json:"observed_apex_min"` // on the sum of all peaks
	AreaS      float64  `json:"area_signal_s"`
	IdealDropS float64  `json:"ideal_drop_area_signal_s"`
	W50Min     float64  `json:"w50_min"`
	Tailing    float64  `json:"usp_tailing"`
	Asymmetry  float64  `json:"asymmetry_10"`
	Plates     float64  `json:"plates_half_height"`
	Height     float64  `json:"height"`
	Detectable bool     `json:"detectable"`
	Scored     *bool    `json:"scored"`
	SN         *float64 `json:"sn_2H_over_h"`
}

type truth struct {
	Case    string       `json:"case"`
	Family  string       `json:"family"`
	Peaks   []truePeak   `json:"peaks"`
	Ignored [][2]float64 `json:"ignore_windows_min"`
}

func readReference(t testing.TB, name string) (signal.Trace, truth) {
	t.Helper()
	open := func(file string) *gzip.Reader {
		f, err := os.Open(filepath.Join("testdata", file))
		if err != nil {
			t.Fatal(err)
		}
		t.Cleanup(func() { f.Close() })
		z, err := gzip.NewReader(f)
		if err != nil {
			t.Fatal(err)
		}
		return z
	}
	var want truth
	if err := json.NewDecoder(open(name + ".truth.json.gz")).Decode(&want); err != nil {
		t.Fatal(err)
	}
	rows, err := csv.NewReader(open(name + ".csv.gz")).ReadAll()
	if err != nil {
		t.Fatal(err)
	}
	times, values := make([]float64, len(rows)-1), make([]float64, len(rows)-1)
	for i, row := range rows[1:] {
		minutes, err1 := strconv.ParseFloat(row[0], 64)
		value, err2 := strconv.ParseFloat(row[1], 64)
		if err1 != nil || err2 != nil {
			t.Fatal(name, i, err1, err2)
		}
		times[i], values[i] = minutes*60, value
	}
	tr, err := signal.New(times, values)
	if err != nil {
		t.Fatal(err)
	}
	return tr, want
}

func referenceCases(t *testing.T) []string {
	t.Helper()
	files, err := filepath.Glob("testdata/*.truth.json.gz")
	if err != nil || len(files) == 0 {
		t.Fatal("no reference cases", err)
	}
	for i, f := range files {
		files[i] = strings.TrimSuffix(filepath.Base(f), ".truth.json.gz")
	}
	return files
}

// told are the settings of a case: the defaults, and where peaks are negative.
func told(name string) Settings {
	if strings.HasPrefix(name, "c20") {
		return Settings{TimeRules: []TimeRule{{Kind: Negative, FromMin: 0, ToMin: 1000}}}
	}
	return Settings{}
}

// score compares found with true peaks as the reference's README says.
type score struct {
	detectable, found, invented int
	missed                      []string
	areaErrors                  []float64 // relative, against the ideal drop, of detectable peaks
	match                       map[int]int
}

func compare(want truth, got []Peak) score {
	s := score{match: map[int]int{}}
	used := make([]bool, len(got))
	match := func(p truePeak) int {
		best, distance := -1, p.W50Min/2
		at := p.SeenMin
		if at == 0 { // a shoulder has no maximum to be seen; its place is that of the single peak
			at = p.ApexMin
		}
		for j, g := range got {
			if d := math.Abs(g.ApexMin - at); d <= distance && !used[j] {
				best, distance = j, d
			}
		}
		return best
	}
	for i, p := range want.Peaks {
		if !p.Detectable {
			continue
		}
		best := match(p)
		if best >= 0 {
			used[best] = true
			s.match[i] = best
		}
		s.detectable++
		if best < 0 {
			s.missed = append(s.missed, p.Name)
			continue
		}
		s.found++
		ideal := p.IdealDropS
		if ideal == 0 {
			ideal = p.AreaS
		}
		off := math.Abs(got[best].AreaS/ideal - 1)
		if strings.HasPrefix(want.Family, "f") { // judged by the nearer of the ideal drop and the truth
			off = min(off, math.Abs(got[best].AreaS/p.AreaS-1))
		}
		s.areaErrors = append(s.areaErrors, off)
	}
	for i, p := range want.Peaks { // what is left may be shoulders and hidden peaks; finding those is a bonus
		if best := match(p); !p.Detectable && best >= 0 {
			used[best] = true
			s.match[i] = best
		}
	}
next:
	for j, g := range got {
		if used[j] {
			continue
		}
		for _, w := range want.Ignored {
			if g.ApexMin >= w[0] && g.ApexMin <= w[1] {
				continue next
			}
		}
		s.invented++
	}
	slices.Sort(s.areaErrors)
	return s
}

func quantile(sorted []float64, q float64) float64 {
	if len(sorted) == 0 {
		return 0
	}
	return sorted[min(len(sorted)-1, int(q*float64(len(sorted))))]
}

func TestReferenceChromatograms(t *testing.T) {
	detectable, found, invented := 0, 0, 0
	for _, name := range referenceCases(t) {
		tr, want := readReference(t, name)
		got, err := Find(tr, told(name), nil)
		if err != nil {
			t.Fatal(name, err)
		}
		s := compare(want, got.Peaks)
		detectable, found, invented = detectable+s.detectable, found+s.found, invented+s.invented
		t.Logf("%-24s true %3d found %3d invented %2d  area error median %.3f %% p95 %.3f %%  width %.3f min  missed %v",
			name, s.detectable, s.found, s.invented, 100*quantile(s.areaErrors, 0.5), 100*quantile(s.areaErrors, 0.95), got.WidthMin, s.missed)
	}
	recall, precision := float64(found)/float64(detectable), float64(found)/float64(found+invented)
	t.Logf("recall %.4f, precision %.4f", recall, precision)
	if recall < 0.995 || precision < 0.99 {
		t.Errorf("recall %.4f, precision %.4f", recall, precision)
	}
}

// Every realistic family by itself: nothing missed, nothing invented, and the 95th percentile of the area errors (%) at most that of a simple script (more
// where the script leaves out the small peaks that err most: f11, f13, f19, f23; the error is then about the uncertainty that is told).
func TestRealisticFamilies(t *testing.T) {
	for family, limit := range map[string]float64{
		"f01": 10, "f02": 2.4, "f03": 3.5, "f04": 2.4, "f05": 8.3, "f06": 5, "f07": 5.1, "f08": 9.6, "f09": 5, "f10": 13, "f11": 4, "f12": 5.9,
		"f13": 7, "f14": 20, "f15": 3, "f16": 5, "f17": 2.9, "f18": 3.4, "f19": 45, "f20": 5, "f21": 1.5, "f22": 4.1, "f23": 5, "f24": 0,
	} {
		names, err := filepath.Glob("testdata/" + family + "_*.csv.gz")
		if err != nil || len(names) != 1 {
			t.Fatal(family, names, err)
		}
		name := strings.TrimSuffix(filepath.Base(names[0]), ".csv.gz")
		tr, want := readReference(t, name)
		s := compare(want, find(t, tr, Settings{}).Peaks)
		if s.found != s.detectable || s.invented > 0 {
			t.Errorf("%s: found %d of %d, invented %d, missed %v", name, s.found, s.detectable, s.invented, s.missed)
		}
		if high := 100 * quantile(s.areaErrors, 0.95); high > limit {
			t.Errorf("%s: the 95th percentile of the area errors is %.2f %%, at most %g is wanted", name, high, limit)
		}
	}
}

// Greatest area errors, in percent of the ideal drop, by case.
func TestReferenceAreas(t *testing.T) {
	for name, limit := range map[string]struct{ median, worst float64 }{
		"c01_clean5":             {0.1, 0.1},
		"c02_noise_sn100_r4":     {0.3, 1},
		"c02_noise_sn10_r1":      {1, 3},
		"c04_tailing_clean":      {0.3, 0.3},
		"c05_pair_rs0.8_clean":   {0.5, 0.5},
		"c05_pair_rs2.0_clean":   {0.5, 0.5},
		"c05_pair_rs1.5_noise":   {0.5, 1},
		"c06_rider_10to1_gap30":  {1, 5},
		"c06_rider_100to1_gap45": {2, 10},
		"c11_step":               {0.3, 1},
		"c18_jitter":             {0.1, 0.1},
		"c20_negative":           {0.3, 3},
	} {
		tr, want := readReference(t, name)
		got, err := Find(tr, told(name), nil)
		if err != nil {
			t.Fatal(name, err)
		}
		s := compare(want, got.Peaks)
		if len(s.areaErrors) != s.detectable {
			t.Errorf("%s: found %d of %d", name, s.found, s.detectable)
			continue
		}
		median, worst := 100*quantile(s.areaErrors, 0.5), 100*s.areaErrors[len(s.areaErrors)-1]
		if median > limit.median || worst > limit.worst {
			t.Errorf("%s: area errors median %.3f %%, worst %.3f %%; at most %g and %g", name, median, worst, limit.median, limit.worst)
		}
	}
}

// A small peak on a tail, skimmed, against its true area. The tail hangs below the straight tangent, so what is skimmed is a little
// too small, by what the large one is too large.
func TestASkimmedReferencePeak(t *testing.T) {
	tr, want := readReference(t, "c06_rider_10to1_gap30")
	got := find(t, tr, Settings{SkimPercent: 20}).Peaks
	if len(got) != 2 || got[1].StartKind != Skim || got[1].EndKind != Skim || got[0].EndMin < got[1].EndMin {
		t.Fatalf("%+v", got)
	}
	large, small := want.Peaks[0], want.Peaks[1]
	if off := got[1].AreaS/small.AreaS - 1; off > 0 || off < -0.1 {
		t.Errorf("the small peak is off by %.1f %%", 100*off)
	}
	if off := got[0].AreaS/large.AreaS - 1; off < 0 || off > 0.01 {
		t.Errorf("the large peak is off by %.2f %%", 100*off)
	}
	if whole := find(t, tr, Settings{SkimPercent: 5}).Peaks; whole[1].StartKind != Drop {
		t.Errorf("a tenth of the height is more than 5 %%: %+v", whole[1])
	}
}

func TestMeasuresOfPeaksWithoutNoise(t *testing.T) {
	for _, name := range []string{"c01_clean5", "c04_tailing_clean", "c18_jitter"} {
		tr, want := readReference(t, name)
		got, err := Find(tr, Settings{}, nil)
		if err != nil {
			t.Fatal(err)
		}
		for i, j := range compare(want, got.Peaks).match {
			p, q := want.Peaks[i], got.Peaks[j]
			if d := math.Abs(q.ApexMin-p.ApexMin) * 60 / tr.StepS; d > 0.1 {
				t.Errorf("%s %s: apex off by %.3f of a step", name, p.Name, d)
			}
			for what, pair := range map[string][2]float64{
				"width": {*q.WidthHalfMin, p.W50Min}, "tailing": {*q.Tailing, p.Tailing}, "asymmetry": {*q.Asymmetry, p.Asymmetry},
				"plates": {*q.Plates, p.Plates}, "height": {q.Height, p.Height},
			} {
				if math.Abs(pair[0]/pair[1]-1) > 0.005 {
					t.Errorf("%s %s: %s is %.5g, true %.5g", name, p.Name, what, pair[0], pair[1])
				}
			}
		}
	}
}

func BenchmarkFind300Peaks(b *testing.B) {
	tr, _ := readReference(b, "c10_300peaks_r1")
	for b.Loop() {
		if r, err := Find(tr, Settings{}, nil); err != nil || len(r.Peaks) < 200 {
			b.Fatalf("%d peaks, %v", len(r.Peaks), err)
		}
	}
}

// The yardstick of speed: a loop that only smooths the same trace three times, at the windows of the filters, by plain convolution.
func BenchmarkSmoothThrice(b *testing.B) {
	tr, _ := readReference(b, "c10_300peaks_r1")
	r, err := Find(tr, Settings{}, nil)
	if err != nil {
		b.Fatal(err)
	}
	width := r.WidthMin * 60 / tr.StepS
	y := tr.Even()
	for b.Loop() {
		for _, f := range []float64{0.8, 1.6, 3.2} {
			half := int(f * width)
			out := make([]float64, len(y))
			for i := half; i < len(y)-half; i++ {
				sum := 0.0
				for k := -half; k <= half; k++ {
					sum += y[i+k]
				}
				out[i] = sum / float64(2*half+1)
			}
		}
	}
}
