package channels

import (
	"errors"
	"math"
	"slices"
	"strings"
	"testing"

	"yugen/core/spectra"
)

// runs are ten full scans, ten of fragments, and ten of wavelengths, with known sums.
func runs() []spectra.Run {
	full := spectra.Run{About: spectra.About{Kind: spectra.Mass, Level: 1, Unit: "counts"}}
	fragments := spectra.Run{About: spectra.About{Kind: spectra.Mass, Level: 2, Unit: "counts"}}
	light := spectra.Run{About: spectra.About{Kind: spectra.Wavelength, Unit: "mAU"}}
	for i := range 10 {
		at, v := float64(i), float64(i+1)
		full.Scans = append(full.Scans, spectra.Scan{TimeS: at, Axis: []float64{57.07, 71.05, 105.03}, Values: []float64{v, 2 * v, 4 * v}})
		fragments.Scans = append(fragments.Scans, spectra.Scan{TimeS: at, Axis: []float64{71.05}, Values: []float64{100 * v}, Precursor: []float64{182.07, 195.09}[min(1, i/2)]}) // the first two of another precursor
		light.Scans = append(light.Scans, spectra.Scan{TimeS: at, Axis: []float64{254, 274, 278, 282}, Values: []float64{9 * v, v, 2 * v, 3 * v}})
	}
	return []spectra.Run{full, fragments, light}
}

func TestDerivedSignalsAreWhatTheyAreDefinedAs(t *testing.T) {
	for _, c := range []struct {
		signal Signal
		title  string
		last   float64
		unit   string
	}{
		{Signal{Kind: TotalIon}, "total ion", 70, "counts"},
		{Signal{Kind: BasePeak}, "base peak", 40, "counts"},
		{Signal{Kind: TotalIon, Level: 2}, "total ion, MS2", 1000, "counts"},
		{Signal{Kind: Ions, Places: []Place{{71.05, 0.3, false}}}, "m/z 71.05 ± 0.3", 20, "counts"},
		{Signal{Kind: Ions, Places: []Place{{57, 0.1, false}, {105, 0.1, false}}}, "m/z 57 + 105 ± 0.1", 50, "counts"},
		{Signal{Kind: Ions, Places: []Place{{71.05, 10, true}}, Level: 2}, "m/z 71.05 ± 10 ppm, MS2", 1000, "counts"},
		{Signal{Kind: Wavelength, Places: []Place{{278, 4, false}}}, "278 ± 4 nm", 20, "mAU"},
		{Signal{Kind: Wavelength, Places: []Place{{254, 0, false}}}, "254 nm", 90, "mAU"},
		{Signal{Kind: Maximum}, "maximum over wavelengths", 90, "mAU"},
		{Signal{Kind: Product, Places: []Place{{195.09, 0.3, false}, {71.05, 10, true}}}, "m/z 195.09 ± 0.3 → 71.05 ± 10 ppm", 1000, "counts"},
	} {
		if err := c.signal.Validate(); err != nil {
			t.Errorf("%s: %v", c.title, err)
		}
		tr, err := c.signal.Derive(spectra.Sources(runs()))
		if err != nil || tr.Name != c.title || tr.Unit != c.unit || tr.Values[tr.Len()-1] != c.last {
			t.Errorf("%s: %v, %q in %q, last %v, want %v", c.title, err, tr.Name, tr.Unit, tr.Values, c.last)
		}
	}
	if _, err := (Signal{Kind: Wavelength, Places: []Place{{At: 278}}}).Derive(spectra.Sources(runs()[:2])); !errors.Is(err, ErrAbsent) {
		t.Errorf("a wavelength of masses: %v", err)
	}
	product := Signal{Kind: Product, Places: []Place{{182.07, 0.01, false}, {71.05, 0.1, false}}}
	if times, values, err := product.Of(runs()[1]); err != nil || !slices.Equal(times, []float64{0, 1}) || !slices.Equal(values, []float64{100, 200}) {
		t.Errorf("a product takes other precursors' scans: %v %v %v", times, values, err)
	}
	if _, err := (Signal{Kind: Wavelength, Places: []Place{{At: 400}}}).Derive(spectra.Sources(runs())); err == nil {
		t.Error("a wavelength that was not measured is given")
	}
}

func TestTheSameSignalHasTheSameKey(t *testing.T) {
	uv := Signal{Name: "UV 278 nm", Unit: "mAU"}
	for _, same := range [][2]string{{"UV 278 nm", "mAU"}, {"uv_278nm ", "MAU"}, {"UV-278 NM", "mau"}} {
		if is := uv.Is(same[0], same[1]); is != (same[0] != "uv_278nm ") {
			t.Errorf("%v: %v", same, is)
		}
	}
	if uv.Is("UV 278 nm", "AU") || uv.Is("UV 254 nm", "mAU") || (Signal{}).Is("", "") {
		t.Error("another signal is taken for it")
	}
	a, errA := ParseIons("71.05 ± 10 ppm, 57,07±10ppm")
	if errA == nil {
		t.Error("a decimal comma between ions passes for a list:", a)
	}
	for _, words := range []string{"195.09 → 71.05 ± 10 ppm", "195.09±10ppm>71.05±10ppm", "195.09->71.05±10ppm"} {
		p, err := ParseProduct(words)
		if want := (Signal{Kind: Product, Places: []Place{{195.09, 10, true}, {71.05, 10, true}}}); err != nil || p.Key() != want.Key() {
			t.Errorf("%q is %q, %v", words, p.Key(), err)
		}
	}
	for _, words := range []string{"195.09", "195.09 → 71.05", "195.09,1 → 71.05±0.3", "→"} {
		if p, err := ParseProduct(words); err == nil {
			t.Errorf("%q is %v", words, p)
		}
	}
	a, errA = ParseIons("57.07,71.05±0.3")
	b, errB := ParseIons(" 57.07+-0.3, 71.05+/-0.3 ")
	if errA != nil || errB != nil || a.Key() != b.Key() || !slices.Equal(a.Places, []Place{{57.07, 0.3, false}, {71.05, 0.3, false}}) {
		t.Errorf("%+v %v, %+v %v", a, errA, b, errB)
	}
}

func TestAnOddDefinitionIsRefused(t *testing.T) {
	for _, words := range []string{"", "71", "71±0", "71,05±0,3", "a±b", "±3", "0±1", strings.Repeat("71±0.3,", 200) + "71±0.3"} {
		if s, err := ParseIons(words); err == nil {
			t.Errorf("%.20q is taken as %+v", words, s)
		}
	}
	for _, s := range []Signal{{Kind: "odd"}, {Kind: Ions}, {Kind: Ions, Places: []Place{{math.NaN(), 1, false}}}, {Kind: Ions, Places: []Place{{50, math.Inf(1), false}}},
		{Kind: Wavelength, Places: []Place{{At: 250}, {At: 260}}}, {Kind: Wavelength, Places: []Place{{250, -1, false}}}, {Name: strings.Repeat("x", 201)}} {
		if s.Validate() == nil {
			t.Errorf("%+v is taken", s)
		}
	}
	if _, err := ParseWavelength("278±4ppm"); err == nil {
		t.Error("a wavelength in ppm is taken")
	}
}
