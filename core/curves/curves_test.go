package curves

import (
	"encoding/json"
	"errors"
	"math"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"testing"
)

// number reads 1.5, "1.5" and "NaN" alike.
type number float64

func (n *number) UnmarshalJSON(b []byte) error {
	v, err := strconv.ParseFloat(strings.Trim(string(b), `"`), 64)
	*n = number(v)
	return err
}

type reference struct {
	Input struct {
		X, Y    []number
		Model   Model
		Powers  []int
		Weights string
		Y0      float64
	}
	Expected struct {
		values
		Certified struct{} `json:"-"`
		Recompute *values  `json:"recomputed"`
		Outcome   string
		B0, B1    *float64
		X0        *float64
		Residual  *float64 `json:"residual_sd"`
	}
}

type values struct {
	Coefficients   map[string]float64
	StandardErrors map[string]float64 `json:"standard_errors"`
	Covariance     [][]float64
	ResidualSD     float64 `json:"residual_sd_normalised_weights"`
	R2             *float64
	DF             int
	Fitted         []float64
	BackCalculated []float64 `json:"back_calculated"`
	Inverse        []struct {
		Y0   float64
		M    int
		X0   float64
		SX0  float64 `json:"s_x0"`
		SDel float64 `json:"s_x0_delta"`
		CI95 [2]float64
	}
}

func readCase(t *testing.T, file string) (reference, []Point) {
	t.Helper()
	raw, err := os.ReadFile(file)
	if err != nil {
		t.Fatal(err)
	}
	var ref reference
	if err := json.Unmarshal(raw, &ref); err != nil {
		t.Fatal(file, err)
	}
	points := make([]Point, len(ref.Input.X))
	for i := range points {
		points[i] = Point{X: float64(ref.Input.X[i]), Y: float64(ref.Input.Y[i])}
	}
	if ref.Input.Model == "polynomial" {
		ref.Input.Model = map[int]Model{1: LinearOrigin, 2: Linear, 3: Quadratic}[len(ref.Input.Powers)]
	}
	return ref, points
}

func close9(t *testing.T, what string, got, want float64) {
	t.Helper()
	if math.Abs(got-want) > 1e-9*math.Max(math.Abs(want), 1e-300) {
		t.Errorf("%s: got %.15g, want %.15g", what, got, want)
	}
}

// The references were computed in high precision or are certified published results.
func TestHighPrecisionReferences(t *testing.T) {
	files, _ := filepath.Glob("testdata/b0[123]*.json")
	if len(files) < 9 {
		t.Fatalf("only %d references", len(files))
	}
	for _, file := range files {
		t.Run(filepath.Base(file), func(t *testing.T) {
			ref, points := readCase(t, file)
			weight := Weight(strings.ReplaceAll(ref.Input.Weights, "^", ""))
			f, err := New(points, ref.Input.Model, weight)
			if err != nil {
				t.Fatal(err)
			}
			want := ref.Expected.values
			if ref.Expected.Recompute != nil {
				want = *ref.Expected.Recompute
			}
			first := 0
			if _, ok := want.Coefficients["b0"]; !ok {
				first = 1
			}
			for i := range f.Coefficients {
				name := "b" + strconv.Itoa(first+i)
				close9(t, name, f.Coefficients[i], want.Coefficients[name])
				close9(t, "standard error of "+name, f.StandardErrors[i], want.StandardErrors[name])
				for j := range f.Covariance[i] {
					close9(t, "covariance", f.Covariance[i][j], want.Covariance[i][j])
				}
			}
			close9(t, "residual SD", *f.ResidualSD, want.ResidualSD)
			close9(t, "R²", *f.R2, *want.R2)
			for i := range want.Fitted {
				close9(t, "fitted", f.Points[i].Fitted, want.Fitted[i])
			}
			for i := range want.BackCalculated {
				if b := f.Points[i].BackCalculated; b != nil {
					close9(t, "back-calculated", *b, want.BackCalculated[i])
				}
			}
			for _, u := range want.Inverse {
				if u.X0 < f.LowX && (f.Model == Quadratic || f.Model == QuadraticOrigin) {
					continue
				}
				got, err := f.Read(repeat(u.Y0, max(1, u.M)))
				if err != nil {
					t.Fatal(err)
				}
				close9(t, "x0", got.X, u.X0)
				close9(t, "its standard error", *got.StandardError, math.Max(u.SX0, u.SDel))
				if u.CI95 != [2]float64{} {
					if math.Abs(got.CI95[0]-u.CI95[0]) > 1e-7*math.Abs(u.CI95[1]) || math.Abs(got.CI95[1]-u.CI95[1]) > 1e-7*math.Abs(u.CI95[1]) {
						t.Errorf("interval %v, want %v", *got.CI95, u.CI95)
					}
				}
			}
		})
	}
}

func repeat(v float64, n int) []float64 {
	out := make([]float64, n)
	for i := range out {
		out[i] = v
	}
	return out
}

func TestPathologicalInputs(t *testing.T) {
	files, _ := filepath.Glob("testdata/b08*.json")
	if len(files) < 7 {
		t.Fatalf("only %d cases", len(files))
	}
	for _, file := range files {
		t.Run(filepath.Base(file), func(t *testing.T) {
			ref, points := readCase(t, file)
			f, err := New(points, ref.Input.Model, Weight(ref.Input.Weights))
			if ref.Expected.Outcome == "clear error" {
				if err == nil {
					t.Fatalf("no error, but %v", f.Coefficients)
				}
				return
			}
			if err != nil {
				t.Fatal(err)
			}
			if math.Abs(f.Coefficients[0]-*ref.Expected.B0) > 1e-3 || math.Abs(f.Coefficients[1]-*ref.Expected.B1) > 1e-9 {
				t.Errorf("coefficients %v, want %g %g", f.Coefficients, *ref.Expected.B0, *ref.Expected.B1)
			}
			if ref.Expected.X0 != nil {
				got, err := f.Read([]float64{ref.Input.Y0})
				if err != nil || math.Abs(got.X-*ref.Expected.X0) > 1e-9 {
					t.Errorf("root %v %v, want %g", got.X, err, *ref.Expected.X0)
				}
			}
		})
	}
}

func TestWhatCannotBeHadIsAbsent(t *testing.T) {
	two, err := New([]Point{{X: 1, Y: 10}, {X: 3, Y: 20}}, Linear, Unweighted)
	if err != nil || two.ResidualSD != nil || two.StandardErrors != nil {
		t.Errorf("two points have no residual: %+v %v", two, err)
	}
	flat, err := New([]Point{{X: 1, Y: 7}, {X: 2, Y: 7}, {X: 3, Y: 7}, {X: 4, Y: 7}}, Linear, Unweighted)
	if err != nil || flat.R2 != nil {
		t.Errorf("constant response has no R²: %+v %v", flat.R2, err)
	}
	if _, err := flat.Read([]float64{7}); !errors.Is(err, ErrFlat) {
		t.Errorf("reading a flat curve: %v", err)
	}
}

func TestAverageIsTheMeanResponseFactor(t *testing.T) {
	f, err := New([]Point{{X: 1, Y: 2.2}, {X: 10, Y: 19}, {X: 100, Y: 210}, {X: 5, Y: 99, Out: true}}, Average, Unweighted)
	if err != nil {
		t.Fatal(err)
	}
	close9(t, "mean of y/x", f.Coefficients[0], (2.2+1.9+2.1)/3)
	if f.Points[3].DeviationPercent == nil || math.Abs(*f.Points[3].DeviationPercent-100*(99/f.Coefficients[0]-5)/5) > 1e-9 {
		t.Error("a point left out is still read back")
	}
}

func TestTheSetNamesThePointAndTheChoices(t *testing.T) {
	_, err := New([]Point{{X: 0, Y: 1}, {X: 1, Y: 2}, {X: 2, Y: 3}}, Linear, PerX)
	if err == nil || !strings.Contains(err.Error(), "point 1") || !strings.Contains(err.Error(), "choose another weight") {
		t.Errorf("%v", err)
	}
}
