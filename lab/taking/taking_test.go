package taking

import (
	"context"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"
	"testing"
	"time"

	"yugen/core/batch"
	"yugen/core/signal"
	"yugen/formats"
	"yugen/store"
	"yugen/store/storetest"
)

func TestMain(m *testing.M) { storetest.Run(m) }

func table(peak float64) Source {
	var b strings.Builder
	b.WriteString("time_min,UV 278 nm [mAU]\n")
	for i := range 2000 {
		d := (float64(i)/200 - 5) / 0.1
		fmt.Fprintf(&b, "%g,%g\n", float64(i)/200, peak*math.Exp(-d*d/2)+0.1*math.Sin(float64(i*i)))
	}
	return InMemory([]byte(b.String()))
}

// What is refused says why, and what fails its reader is refused as well; a good file says what it lacks.
func TestFilesAreReadOrRefused(t *testing.T) {
	for name, c := range map[string]struct {
		data, says string
		known      bool
	}{
		"empty.csv":   {"", "The file is empty.", true},
		"picture.png": {"\x89PNG and more", "take the chromatogram out of its source", false},
		"broken.csv":  {"time_min,x\n0,1\n1,2\n2,3\n3,4\n4,5\n5,low\n", "Line 7, column 2:", true},
	} {
		d, err := Safely(Glance, store.Arrival{Name: name}, InMemory([]byte(c.data)))
		if err != nil || d.Out.Status != Refused || !strings.Contains(d.Out.Message, c.says) || d.Out.Unsupported == c.known {
			t.Errorf("%s: %+v %v", name, d.Out, err)
		}
	}
	failing := func(string, Source, string) (File, error) { panic("odd") }
	if d, err := Safely(failing, store.Arrival{Name: "odd.cdf"}, InMemory(nil)); err != nil || d.Out.Status != Refused || !strings.Contains(d.Out.Message, "odd") {
		t.Errorf("a reader that fails: %+v %v", d.Out, err)
	}
	d, err := Safely(Glance, store.Arrival{Name: "run.csv"}, table(50))
	if err != nil || d.Out.Status != Added || d.Detector != 0 || len(d.Signals) != 1 || d.Hash == "" {
		t.Fatalf("%+v %v", d, err)
	}
	var k Looked
	k.See(d)
	if !slices.Equal(k.Missing, []string{"sample name", "time of acquisition"}) || k.Signals[0].Name != "UV 278 nm" || len(k.Silhouette) == 0 {
		t.Errorf("%+v", k)
	}
}

// A silhouette of noise alone lies low; one with a peak fills its height there and nowhere else.
func TestSilhouettesShowSignalNotNoise(t *testing.T) {
	of := func(peak float64) []float64 {
		d, err := Glance("a.csv", table(peak), "")
		if err != nil {
			t.Fatal(err)
		}
		return SilhouetteOf(d.Decoded.Traces[0])
	}
	if most := slices.Max(of(0)); most > 0.5 {
		t.Errorf("noise rises to %g", most)
	}
	with := of(50)
	if k := slices.Index(with, slices.Max(with)); with[k] != 1 || math.Abs(float64(k)-float64(len(with))/2) > 2 || with[5] > 0.05 {
		t.Errorf("%v", with)
	}
	flat, err := signal.NewUniform(0, 1, make([]float64, 50))
	if err != nil {
		t.Fatal(err)
	}
	if s := SilhouetteOf(flat); slices.Max(s) != 0 || slices.Min(s) != 0 {
		t.Errorf("a flat signal: %v", s)
	}
}

func TestNamesOfFilesAreBoundedAndWithoutFolders(t *testing.T) {
	for sent, want := range map[string]string{"a.cdf": "a.cdf", `C:\data\b.cdf`: "b.cdf", "/x/../c.cdf": "c.cdf", strings.Repeat("é", 300) + ".cdf": strings.Repeat("é", 98) + ".cdf"} {
		if got := FileName(sent); got != want {
			t.Errorf("%.30q becomes %q", sent, got)
		}
	}
}

// What a header says becomes the line of the run list; a level in a standard's name comes in the unit of the levels, or not at all.
func TestTheLineThatAFileProposes(t *testing.T) {
	level := func(h formats.Header, unit string) string {
		e := ProposedEntry("05-std.cdf", h, unit)
		if e.Level == nil {
			return string(e.Role) + " none"
		}
		return fmt.Sprintf("%s %g", e.Role, *e.Level)
	}
	for _, c := range []struct {
		name, kind, unit, want string
	}{
		{"Standard 5 mg/L", "standard", "mg/L", "standard 5"},
		{"Standard 5 mg/L", "standard", "µg/mL", "standard 5"},
		{"Standard 0,2 µg/mL", "standard", "mg/L", "standard 0.2"},
		{"Standard 5 mmol/L", "standard", "mg/L", "standard none"},
		{"Standard five", "standard", "mg/L", "standard none"},
		{"Leaf 5 mg/L", "unknown", "mg/L", "sample none"},
		{"Blank", "blank", "mg/L", "blank none"},
		{"QC", "control", "mg/L", "check none"},
		{"Leaf", "", "mg/L", " none"},
	} {
		if got := level(formats.Header{SampleName: c.name, SampleType: c.kind}, c.unit); got != c.want {
			t.Errorf("%s as %s in %s: %q, want %q", c.name, c.kind, c.unit, got, c.want)
		}
	}
	if e := ProposedEntry("07-leaf.b.cdf", formats.Header{}, "mg/L"); e.Name != "07-leaf.b" || e.Role != batch.NoRole || e.Dilution != 1 {
		t.Errorf("%+v", e)
	}
	if e := ProposedEntry("x.cdf", formats.Header{SampleName: strings.Repeat("ü", 500)}, "mg/L"); len([]rune(e.Name)) != 100 {
		t.Errorf("a name of %d letters", len([]rune(e.Name)))
	}
}

// Files come in together in the order in which they came, of one person and place, so many and so large; a large one comes alone.
func TestTheQueueGivesBoundedGroups(t *testing.T) {
	var q Queue
	add := func(name, who string, size int64) {
		q.Arrive(store.Arrival{ID: name, BatchID: "b", Name: name, Who: who, Size: size})
	}
	for k := range 10 {
		add(fmt.Sprint("a", k), "Kim", 1000)
	}
	add("other", "Sam", 1000)
	add("large", "Sam", 1<<30)
	add("last", "Sam", 10)
	var groups []string
	for {
		g := q.Next("b")
		if len(g) == 0 {
			break
		}
		groups = append(groups, fmt.Sprintf("%d from %s", len(g), g[0].Name))
		outcomes := make([]Outcome, len(g))
		for i := range outcomes {
			outcomes[i] = Outcome{File: g[i].Name, Status: Added}
		}
		q.End("b", g, outcomes)
	}
	if want := []string{"8 from a0", "2 from a8", "1 from other", "1 from large", "1 from last"}; !slices.Equal(groups, want) {
		t.Errorf("%v, want %v", groups, want)
	}
	if ended, all := q.Counts("b"); ended != 13 || all != 13 {
		t.Errorf("%d of %d", ended, all)
	}
	if ended, all := q.Counts("b"); ended != 0 || all != 0 { // asked once, it counts anew
		t.Errorf("%d of %d", ended, all)
	}
	if list := q.List("b"); len(list) != 13 || list[0].Status != Added || list[12].File != "last" {
		t.Errorf("%+v", list)
	}
	if q.Next("none") != nil || len(q.List("none")) != 0 {
		t.Error("a batch that nothing was sent to has files")
	}
}

// What is kept is there to the last byte when Keep returns; what is refused leaves nothing.
func TestKeptFilesAreThere(t *testing.T) {
	s, err := store.Open(t.Context(), t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	d, err := Keep(t.Context(), s, "a.csv", table(50), "Kim", nil)
	if err != nil || d.Out.Status != Added || d.Kept.Hash != d.Hash {
		t.Fatalf("%+v %v", d.Out, err)
	}
	if err := s.Write(t.Context(), func(tx *store.Tx) error { return tx.PutKept(d.Kept) }); err != nil {
		t.Fatal(err)
	}
	f, err := s.OpenRaw(t.Context(), d.Hash)
	if err != nil || f.Size != table(50).Size {
		t.Errorf("%d bytes, %v", f.Size, err)
	}
	// What was read before serves for the very same bytes only.
	seen, err := Safely(Glance, store.Arrival{Name: "d.csv"}, table(9))
	if err != nil {
		t.Fatal(err)
	}
	seen.Decoded.Traces[0].Values[3] = 4711
	same, err := Keep(t.Context(), s, "d.csv", table(9), "Sam", &seen)
	if err != nil || same.Who != "Sam" || same.Hash != seen.Hash {
		t.Errorf("%+v %v", same.Out, err)
	}
	other, err := Keep(t.Context(), s, "e.csv", table(11), "Sam", &seen)
	if err != nil || other.Hash == seen.Hash {
		t.Errorf("%+v %v", other.Out, err)
	}
	if err := s.Write(t.Context(), func(tx *store.Tx) error { return errors.Join(tx.PutKept(same.Kept), tx.PutKept(other.Kept)) }); err != nil {
		t.Fatal(err)
	}
	if err := s.Read(t.Context(), func(tx *store.Tx) error {
		a, errA := tx.Trace(same.Hash, 0)
		b, errB := tx.Trace(other.Hash, 0)
		if errA == nil && errB == nil && (a.Values[3] != 4711 || b.Values[3] == 4711) {
			t.Errorf("the values are %g and %g", a.Values[3], b.Values[3])
		}
		return errors.Join(errA, errB)
	}); err != nil {
		t.Error(err)
	}
	bad, err := Keep(t.Context(), s, "b.csv", InMemory([]byte("time_min,x\n0,1\n1,no\n")), "Kim", nil)
	if err != nil || bad.Out.Status != Refused {
		t.Errorf("%+v %v", bad.Out, err)
	}
	stopped, stop := context.WithCancel(t.Context())
	stop()
	if _, err := Keep(stopped, s, "c.csv", table(7), "Kim", nil); err == nil {
		t.Error("a file whose taking in was stopped is kept")
	}
}

// Files of one injection hang together, the one with a detector first; a file that is there already, or could belong to two, stands for itself.
func TestWhatBelongsTogether(t *testing.T) {
	noon := time.Date(2026, 4, 4, 12, 0, 0, 0, time.UTC)
	looked := func(id, file string, at time.Time, missing ...string) Looked {
		return Looked{ID: id, File: file, Status: Coming, Missing: missing, Signals: []SeenThere{{Name: file}}, header: formats.Header{AcquiredAt: &at}, hash: id}
	}
	list := []Looked{
		looked("1", "run-1-pressure.mzML", noon, "detector"),
		looked("2", "run-1-uv.mzML", noon.Add(time.Second)),
		looked("3", "run-2-uv.mzML", noon.Add(time.Hour)),
		looked("4", "run-3.cdf", noon.Add(2*time.Hour)),
	}
	Belong(list, store.Batch{Injections: []store.Injection{{RawHash: "4", FileName: "run-3.cdf"}}})
	Lead(list)
	if list[0].WithID != "2" || list[1].WithID != "" || list[2].WithID != "" || list[3].Status != Already {
		t.Errorf("%+v", list)
	}
	in := func(file string) store.Injection {
		return store.Injection{RawHash: file, FileName: file, Header: formats.Header{AcquiredAt: &noon}}
	}
	doubtful := []Looked{looked("5", "run-9-fid.mzML", noon)}
	Belong(doubtful, store.Batch{Injections: []store.Injection{in("run-9-uv.mzML"), in("run-9-ms.mzML")}})
	if doubtful[0].With != "" || !strings.Contains(doubtful[0].Doubt, "run-9-uv.mzML or to run-9-ms.mzML") {
		t.Errorf("%+v", doubtful[0])
	}
}
