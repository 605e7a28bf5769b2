package lab

import (
	"bytes"
	"database/sql"
	"encoding/binary"
	"math"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"github.com/klauspost/compress/zstd"

	"yugen/core/batch"
	"yugen/core/channels"
	"yugen/formats/read"
	"yugen/lab/taking"
	"yugen/store"
)

// asBefore lays the raw data of a folder as they lay before there were database files for them: whole in the work database, samples beside.
func asBefore(t *testing.T, dir string, data []byte) {
	t.Helper()
	encoder, err := zstd.NewWriter(nil)
	if err != nil {
		t.Fatal(err)
	}
	file, err := read.File(data)
	if err != nil {
		t.Fatal(err)
	}
	db := must[*sql.DB](t)(sql.Open("sqlite", "file:"+filepath.Join(dir, "yugen.db")))
	defer db.Close()
	restore := guards(t, db)
	hash := store.Hash(data)
	if _, err := db.Exec("UPDATE blobs SET place = '', data = ? WHERE hash = ?", encoder.EncodeAll(data, nil), hash); err != nil {
		t.Fatal(err)
	}
	for k, tr := range file.Traces {
		var samples []byte
		for _, list := range [][]float64{tr.Values, tr.TimesS} {
			for _, v := range list {
				samples = binary.LittleEndian.AppendUint64(samples, math.Float64bits(v))
			}
		}
		if _, err := db.Exec("UPDATE traces SET data = ? WHERE raw_hash = ? AND position = ?", encoder.EncodeAll(samples, nil), hash, k); err != nil {
			t.Fatal(err)
		}
	}
	restore()
	for _, name := range []string{"raw-0001.db", "raw-0001.db-wal", "raw-0001.db-shm"} {
		if err := os.Remove(filepath.Join(dir, name)); err != nil && !os.IsNotExist(err) {
			t.Fatal(err)
		}
	}
}

// A folder from before raw data had files of their own opens, gives its files back, derives ions from spectra that were never laid down, takes further files
// in beside, and is found sound at each step.
func TestRawDataFromBeforeTheyHadFilesOfTheirOwn(t *testing.T) {
	dir := t.TempDir()
	ctx := t.Context()
	masses := must[[]byte](t)(os.ReadFile("../formats/andi/testdata/andims_1_float_netcdf4py.cdf"))
	m := batch.NewMethod()
	m.Channels = append(m.Channels, batch.Channel{ID: "ion", Signal: channels.Signal{Kind: channels.TotalIon}, Peaks: m.Channels[0].Peaks})
	s, err := store.Open(ctx, dir)
	if err != nil {
		t.Fatal(err)
	}
	l := New(s)
	id := must[string](t)(l.NewBatch(ctx, "S", "Masses", "Method", m, who))
	if out := must[taking.Outcome](t)(l.Import(ctx, id, "a.cdf", masses, who)); out.Status != taking.Added {
		t.Fatalf("%+v", out)
	}
	want := must[Processed](t)(l.Process(ctx, id))
	if err := s.Close(); err != nil {
		t.Fatal(err)
	}
	asBefore(t, dir, masses)
	if wrong := found(t, dir); len(wrong) != 0 {
		t.Fatalf("as it was before: %v", wrong)
	}

	if s, err = store.Open(ctx, dir); err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	l = New(s)
	got := must[Processed](t)(l.Process(ctx, id))
	if got.InputsHash != want.InputsHash || len(got.Result.Injections[0].Further) != len(want.Result.Injections[0].Further) {
		t.Errorf("%d further channels, want %d", len(got.Result.Injections[0].Further), len(want.Result.Injections[0].Further))
	}
	in := got.Batch.Injections[0]
	total, err := l.TraceOf(ctx, id, in.ID, Asked{Channel: "ion"})
	first, errFirst := l.TraceOf(ctx, id, in.ID, Asked{})
	if err != nil || errFirst != nil || !slices.Equal(total.Values, first.Values) {
		t.Errorf("the total that is derived is not the one that was recorded: %v %v", err, errFirst)
	}
	spectrum := must[Spectrum](t)(l.SpectrumAt(ctx, id, in.ID, total.TimeS(5)/60))
	if len(spectrum.Axis) == 0 {
		t.Error("there is no spectrum")
	}
	if _, data, err := rawOf(l, id, in.ID); err != nil || !bytes.Equal(data, masses) {
		t.Errorf("the file comes back otherwise: %v", err)
	}
	for name, data := range map[string][]byte{"again.cdf": masses, "b.csv": delimited("Sencha", "time_min;UV [mAU]")} {
		out := must[taking.Outcome](t)(l.Import(ctx, id, name, data, who))
		if (out.Status == taking.Already) != strings.HasPrefix(name, "again") {
			t.Errorf("%s: %+v", name, out)
		}
	}
	if v, err := l.Verify(ctx, nil); err != nil || len(v.Wrong) != 0 {
		t.Errorf("in the end: %v %v", v.Wrong, err)
	}
}
