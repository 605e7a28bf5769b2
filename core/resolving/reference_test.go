package resolving

import (
	"compress/gzip"
	"encoding/csv"
	"encoding/json"
	"math"
	"os"
	"path/filepath"
	"strconv"
	"testing"

	"yugen/core/spectra"
)

// truth is what a batch of the reference was made of.
type truth struct {
	Name       string
	Components int
	MZ         []float64
	Pure       [][]float64 `json:"pure_spectra_unit_sum"`
	Background bool
	Samples    []struct {
		File  string
		Areas []float64
		Apex  []float64 `json:"apex_s"`
	}
}

func readTruth(t *testing.T, file string) truth {
	t.Helper()
	data, err := os.ReadFile(file)
	if err != nil {
		t.Fatal(err)
	}
	var out truth
	if err := json.Unmarshal(data, &out); err != nil {
		t.Fatal(err)
	}
	return out
}

func readMatrix(t *testing.T, file string) (scans []spectra.Scan) {
	t.Helper()
	f, err := os.Open(file)
	if err != nil {
		t.Fatal(err)
	}
	defer f.Close()
	z, err := gzip.NewReader(f)
	if err != nil {
		t.Fatal(err)
	}
	rows, err := csv.NewReader(z).ReadAll()
	if err != nil {
		t.Fatal(err)
	}
	number := func(text string) float64 {
		v, err := strconv.ParseFloat(text, 64)
		if err != nil {
			t.Fatal(err)
		}
		return v
	}
	var axis []float64
	for _, head := range rows[0][1:] {
		axis = append(axis, number(head))
	}
	for _, row := range rows[1:] {
		s := spectra.Scan{TimeS: number(row[0]), Axis: axis}
		for _, cell := range row[1:] {
			s.Values = append(s.Values, number(cell))
		}
		scans = append(scans, s)
	}
	return scans
}

func correlation(a, b []float64) float64 {
	ma, mb := 0.0, 0.0
	for k := range a {
		ma, mb = ma+a[k]/float64(len(a)), mb+b[k]/float64(len(b))
	}
	ab, aa, bb := 0.0, 0.0, 0.0
	for k := range a {
		ab, aa, bb = ab+(a[k]-ma)*(b[k]-mb), aa+(a[k]-ma)*(a[k]-ma), bb+(b[k]-mb)*(b[k]-mb)
	}
	return ab / math.Sqrt(aa*bb)
}

// against compares a result with the truth: how many compounds there are, the least cosine of a true spectrum with that of its component, the least correlation of areas.
func against(r Result, pure [][]float64, areas func(compound int) []float64) (compounds int, cos, r2 float64) {
	cos, r2 = 1, 1
	for _, c := range r.Components {
		if !c.Background {
			compounds++
		}
	}
	for k, spectrum := range pure {
		best, most := Component{}, -1.0
		for _, c := range r.Components {
			if v := Cosine(c.Spectrum, spectrum); !c.Background && v > most {
				best, most = c, v
			}
		}
		cos = math.Min(cos, most)
		var found []float64
		for _, s := range best.Samples {
			found = append(found, s.AreaS)
		}
		if len(found) > 0 {
			r2 = math.Min(r2, correlation(found, areas(k)))
		}
	}
	return compounds, cos, r2
}

// The batches of the reference come apart as they were made, without being told into how many.
func TestTheReferenceComesApart(t *testing.T) {
	files, err := filepath.Glob("testdata/*.truth.json")
	if err != nil || len(files) == 0 {
		t.Fatal("there is no reference", err)
	}
	for _, file := range files {
		want := readTruth(t, file)
		var names []string
		var runs [][]spectra.Scan
		for _, s := range want.Samples {
			names = append(names, s.File)
			runs = append(runs, readMatrix(t, filepath.Join("testdata", s.File+".gz")))
		}
		stack, err := NewStack(spectra.Mass, names, runs)
		if err != nil {
			t.Fatal(err)
		}
		got, err := Resolve(stack, Options{})
		if err != nil {
			t.Fatal(err)
		}
		n, cos, r := against(got, want.Pure, func(k int) (list []float64) {
			for _, s := range want.Samples {
				list = append(list, s.Areas[k])
			}
			return list
		})
		if n != want.Components || cos < 0.998 || r < 0.999 || want.Background != (len(got.Components) > n) {
			t.Errorf("%s: %d compounds of %d, cosine %.5f, correlation of areas %.5f", want.Name, n, want.Components, cos, r)
		}
	}
}
