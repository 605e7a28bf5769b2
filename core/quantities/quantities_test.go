package quantities

import (
	"strings"
	"testing"

	"yugen/core/batch"
	"yugen/core/compounds"
	"yugen/core/peaks"
)

func ptr[T any](v T) *T { return &v }

// row has something of everything.
func row() Row {
	m := batch.NewMethod()
	m.Compounds = []compounds.Compound{{ID: "caf", Name: "Caffeine"}}
	injected := &batch.Injected{ID: "1", Integrated: batch.Integrated{NoiseSD: 0.031234, Peaks: []batch.NamedPeak{{}}},
		Further:  []batch.Integrated{{Channel: "second", Peaks: []batch.NamedPeak{{CompoundID: "caf", Peak: peaks.Peak{ApexMin: 8.80449, AreaS: 123456.789, AreaSE: 12, Height: 52.3, Measures: peaks.Measures{Tailing: ptr(1.4449), Plates: ptr(12345.6)}}}}}},
		Readings: map[string]batch.Reading{"caf": {Amount: ptr(23.45678), AmountSE: ptr(0.0456), Concentration: ptr(0.000123456), Recovery: ptr(86.94), Flags: []batch.Flag{batch.AboveRange, batch.CheckDrift}}}}
	b := &Batch{Name: "Spring", Method: m, Result: batch.Result{Injections: []batch.Injected{*injected}}}
	entry := batch.Entry{Name: "Sencha", Role: batch.Sample, Dilution: 2, Own: map[string]string{"lot": "A-1", "temp": "45.5"}}
	return b.Rows([]Row{{Number: 7, Entry: entry, File: "a.cdf", Replicate: "1 of 2", Injected: injected}})[0]
}

var own = []batch.OwnColumn{{ID: "lot", Name: "Lot", Kind: batch.TextColumn}, {ID: "temp", Name: "Water", Unit: "°C", Kind: batch.NumberColumn}, {ID: "none", Name: "None", Kind: batch.NumberColumn}}

func TestValuesAreRoundedToWhatIsSignificant(t *testing.T) {
	r := row()
	register := For(r.Batch.Method, own, "mAU")
	for id, want := range map[string]string{
		"injection": "7", "name": "Sencha", "replicate": "1 of 2", "role": "sample", "dilution": "×2", "peaks_found": "1", "peaks_named": "0", "noise": "0.031234",
		"retention_min": "8.804", "area_s": "123457", "tailing": "1.44", "plates": "12346", "recovery_percent": "86.94",
		"amount":        "23.457", // its uncertainty of 0.0456 reaches the third decimal
		"concentration": "0.0001235", "remarks": "above range, check drift", "compound": "Caffeine", "batch": "Spring", "injections": "1",
		"own:lot": "A-1", "own:temp": "45.5", "own:none": "", "resolution": "", "level": "", "acquired_at": "", "sample_mean": "",
	} {
		q, ok := register.Find(id)
		if !ok {
			t.Errorf("there is no %s", id)
			continue
		}
		if got := q.Shown(q.Of(r)); got != want {
			t.Errorf("%s is %q, want %q", id, got, want)
		}
	}
	if q, _ := register.Find("area_s"); q.Unit != "mAU·s" {
		t.Errorf("areas are in %q", q.Unit)
	}
}

// Every entry stands on its own: an id and words that no other has in its place, a sentence, and no fault where nothing is known.
func TestTheRegisterIsInOrder(t *testing.T) {
	register := For(batch.NewMethod(), own, "")
	seen := map[string]bool{}
	bare := Row{Batch: &Batch{}}
	for _, q := range register {
		if q.ID == "" || seen[q.ID] || q.Words == "" || !strings.HasSuffix(q.How, ".") {
			t.Errorf("%+v", q)
		}
		seen[q.ID] = true
		q.Shown(q.Of(bare))
	}
	var heads []string
	for _, q := range register.Readings() {
		heads = append(heads, q.Heading())
	}
	if got := strings.Join(heads[9:], " "); got != "response concentration_mg/L concentration_standard_error amount_mg/g amount_standard_error recovery_percent remarks Lot Water_°C None" {
		t.Error(got)
	}
	if n := len(register.Living(OfPeak, OfCompound)); n < 15 {
		t.Errorf("%d live with compounds and peaks", n)
	}
}
