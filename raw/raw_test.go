package raw

import (
	"bytes"
	"context"
	"database/sql"
	"errors"
	"fmt"
	"io"
	"math/rand/v2"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"

	"modernc.org/sqlite"
	sqlite3 "modernc.org/sqlite/lib"

	"yugen/core/signal"
	"yugen/core/spectra"
)

func open(t *testing.T, dir string) *Store {
	t.Helper()
	s, err := Open(t.Context(), dir)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = s.Close() })
	return s
}

func keep(t *testing.T, s *Store, data []byte, runs ...spectra.Run) (hash string) {
	t.Helper()
	hash, err := HashOf(bytes.NewReader(data), int64(len(data)))
	if err != nil {
		t.Fatal(err)
	}
	in := s.Receive(t.Context(), hash)
	for _, r := range runs {
		for _, scan := range r.Scans {
			if err := in.Take(r.About, scan); err != nil {
				t.Fatal(err)
			}
		}
	}
	if err := in.Keep(bytes.NewReader(data), int64(len(data)), nil); err != nil {
		t.Fatal(err)
	}
	return hash
}

func noise(n int, seed byte) []byte {
	data := make([]byte, n)
	_, _ = rand.NewChaCha8([32]byte{seed}).Read(data) // never fails
	return data
}

// Whatever a file's length is to that of a piece, every byte comes back, from any place.
func TestFilesComeBackByteForByte(t *testing.T) {
	dir := t.TempDir()
	s := open(t, dir)
	for k, n := range []int{0, 1, pieceBytes - 1, pieceBytes, pieceBytes + 1, 3*pieceBytes + 17} {
		data := noise(n, byte(k))
		hash := keep(t, s, data)
		keep(t, s, data) // twice changes nothing
		again := open(t, dir)
		f, err := again.File(t.Context(), hash)
		if err != nil || f.Size() != int64(n) {
			t.Fatalf("%d bytes: %v", n, err)
		}
		if back, err := io.ReadAll(io.NewSectionReader(f, 0, f.Size())); err != nil || !bytes.Equal(back, data) {
			t.Errorf("%d bytes come back otherwise, %v", n, err)
		}
		for _, at := range []int{0, n / 2, pieceBytes - 3, n - 1, n} {
			got := make([]byte, 7)
			m, err := f.ReadAt(got, int64(max(0, at)))
			want := data[min(max(0, at), n):min(max(0, at)+7, n)]
			if !bytes.Equal(got[:m], want) || (m < 7) != errors.Is(err, io.EOF) {
				t.Errorf("%d bytes from %d: %d of them, %v", n, at, m, err)
			}
		}
	}
	if _, err := s.File(t.Context(), "none"); !errors.Is(err, ErrAbsent) {
		t.Errorf("a file that is not there: %v", err)
	}
}

// randomRun has scans of uneven sizes, some without points, some points at one place, and times that now and then go back.
func randomRun(rng *rand.Rand, kind spectra.Kind, scans, points int) spectra.Run {
	r := spectra.Run{About: spectra.About{Kind: kind, Level: 2, Unit: "counts"}}
	for i := range scans {
		s := spectra.Scan{TimeS: float64(i) / 3}
		if i%50 == 49 {
			s.TimeS -= 2
		}
		n := rng.IntN(points + 1)
		at := 40.0
		for range n {
			if rng.IntN(10) > 0 {
				at += rng.Float64()
			}
			s.Axis, s.Values = append(s.Axis, at), append(s.Values, rng.NormFloat64()*1000)
		}
		s.Precursor = []float64{195.1, 182.07}[i%2]
		r.Scans = append(r.Scans, s)
	}
	return r
}

// Signals derived from what lies on disk are to the last bit those of the same spectra in memory, over many pieces and slices.
func TestSignalsOfKeptSpectraAreThoseOfSpectraInMemory(t *testing.T) {
	rng := rand.New(rand.NewPCG(1, 2))
	s := open(t, t.TempDir())
	for k, size := range []struct{ scans, points int }{{1, 5}, {40, 0}, {300, 60}, {4000, 300}} {
		masses, light := randomRun(rng, spectra.Mass, size.scans, size.points), randomRun(rng, spectra.Wavelength, max(1, size.scans/10), size.points)
		light.Level = 0
		hash := keep(t, s, fmt.Appendf(nil, "file %d", k), masses, light)
		runs, err := s.Spectra(t.Context(), hash)
		if err != nil || len(runs) != 2 {
			t.Fatalf("%d runs, %v", len(runs), err)
		}
		masses.Sort()
		light.Sort()
		if !slices.Equal(runs[0].Times(), masses.Times()) || !slices.Equal(runs[0].Total(), masses.Total()) || !slices.Equal(runs[0].BasePeak(), masses.BasePeak()) {
			t.Errorf("%v: times, total or base peak differ", size)
		}
		for range 20 {
			bands := []spectra.Band{spectra.Around(40+120*rng.Float64(), rng.Float64()), spectra.Around(40+120*rng.Float64(), 20*rng.Float64())}
			got, err := runs[0].Ions(bands...)
			want, _ := masses.Ions(bands...)
			if err != nil || !slices.Equal(got, want) {
				t.Fatalf("%v: ions %v differ, %v", size, bands, err)
			}
			times, values, err := runs[0].Product(spectra.Around(195, 0.2), bands[1])
			wantTimes, wantValues, _ := masses.Product(spectra.Around(195, 0.2), bands[1])
			if err != nil || !slices.Equal(times, wantTimes) || !slices.Equal(values, wantValues) {
				t.Fatalf("%v: the product %v differs, %v", size, bands[1], err)
			}
			got, errGot := runs[1].At(bands[1])
			want, errWant := light.At(bands[1])
			if (errGot == nil) != (errWant == nil) || errGot == nil && !slices.Equal(got, want) {
				t.Fatalf("%v: wavelengths %v differ: %v, %v", size, bands[1], errGot, errWant)
			}
		}
		at := rng.Float64() * masses.Scans[len(masses.Scans)-1].TimeS
		got, err := runs[0].Nearest(at)
		if err != nil {
			t.Fatal(err)
		}
		for _, one := range masses.Scans {
			if abs(one.TimeS-at) < abs(got.TimeS-at) {
				t.Errorf("%v: the spectrum at %g is that of %g, %g is nearer", size, at, got.TimeS, one.TimeS)
			}
		}
		read := 0
		if err := runs[0].Scans(10, 20, func(_ int, one spectra.Scan) error {
			read++
			if one.TimeS < 10 || one.TimeS > 20 {
				return fmt.Errorf("a scan of %g s", one.TimeS)
			}
			return nil
		}); err != nil {
			t.Error(err)
		}
		want := 0
		for _, one := range masses.Scans {
			if one.TimeS >= 10 && one.TimeS <= 20 {
				want++
			}
		}
		if read != want {
			t.Errorf("%v: a stretch of time has %d scans, want %d", size, read, want)
		}
		var sums Digests
		for _, r := range []spectra.Run{masses, light} {
			for _, one := range r.Scans {
				if err := sums.Take(r.About, one); err != nil {
					t.Fatal(err)
				}
			}
		}
		if size.scans < 50 { // in the order of the file, which is that of time here
			if err := s.CheckSpectra(t.Context(), hash, sums); err != nil {
				t.Errorf("%v: %v", size, err)
			}
		}
	}
}

func abs(v float64) float64 { return max(v, -v) }

// A narrow ion over a long run unpacks a small part of it.
func TestAnIonReadsOnlyWhatItTouches(t *testing.T) {
	s := open(t, t.TempDir())
	rng := rand.New(rand.NewPCG(3, 4))
	hash := keep(t, s, []byte("long"), randomRun(rng, spectra.Mass, 6000, 300))
	runs, err := s.Spectra(t.Context(), hash)
	if err != nil {
		t.Fatal(err)
	}
	var all, touched int
	db := s.files[0].db
	if err := db.QueryRow("SELECT count(*) FROM slices").Scan(&all); err != nil {
		t.Fatal(err)
	}
	b := spectra.Around(77.04, 0.02)
	if err := db.QueryRow("SELECT count(*) FROM slices WHERE low <= ? AND high >= ?", b.High, b.Low).Scan(&touched); err != nil {
		t.Fatal(err)
	}
	if runs[0].Outline().Points < 800_000 || touched*20 > all {
		t.Errorf("%d of %d slices of %d points", touched, all, runs[0].Outline().Points)
	}
}

// What was not kept to its end is not there, and does not stand in the way of the next.
func TestAFileIsKeptWholeOrNotAtAll(t *testing.T) {
	dir := t.TempDir()
	s := open(t, dir)
	rng := rand.New(rand.NewPCG(5, 6))
	big := randomRun(rng, spectra.Mass, 6000, 300)
	in := s.Receive(t.Context(), "half")
	for _, scan := range big.Scans {
		if err := in.Take(big.About, scan); err != nil {
			t.Fatal(err)
		}
	}
	if in.tx == nil {
		t.Fatal("nothing was written yet: the run is too small for this test")
	}
	in.Drop()
	in = s.Receive(t.Context(), "half")
	if err := in.Keep(io.NewSectionReader(bytes.NewReader([]byte("short")), 0, 5), 50, nil); err == nil {
		t.Error("a file that ends early was kept")
	}
	for _, table := range guarded {
		var n int
		if err := s.files[0].db.QueryRow("SELECT count(*) FROM " + table).Scan(&n); err != nil || n != 0 {
			t.Errorf("%d rows in %s, %v", n, table, err)
		}
	}
	cancelled, stop := context.WithCancel(t.Context())
	in = s.Receive(cancelled, "stopped")
	stop()
	if err := in.Keep(bytes.NewReader([]byte("x")), 1, nil); err == nil {
		t.Error("a file whose taking in was stopped was kept")
	}
	keep(t, s, []byte("next"))
}

// When a file of raw data is full the next one is begun; the full one takes nothing more, and everything is found in both.
func TestFullFilesAreClosedAndTheNextBegun(t *testing.T) {
	dir := t.TempDir()
	s := open(t, dir)
	s.fullAt = 3 << 20
	var hashes []string
	for k := range 6 {
		hashes = append(hashes, keep(t, s, noise(1<<20, byte(k))))
	}
	names, err := filepath.Glob(filepath.Join(dir, "raw-*.db"))
	if err != nil || len(names) < 2 {
		t.Fatalf("%v %v", names, err)
	}
	s = open(t, dir)
	for _, hash := range hashes {
		f, err := s.File(t.Context(), hash)
		if err != nil {
			t.Fatal(err)
		}
		if got, err := HashOf(f, f.Size()); err != nil || got != hash {
			t.Errorf("%s comes back as %s, %v", hash, got, err)
		}
	}
	for k, path := range names {
		closed, err := Closed(t.Context(), path)
		if err != nil || closed != (k < len(names)-1) {
			t.Errorf("%s closed: %v %v", path, closed, err)
		}
	}
	db, err := sql.Open("sqlite", "file:"+names[0])
	if err != nil {
		t.Fatal(err)
	}
	defer db.Close()
	for _, q := range []string{"INSERT INTO files VALUES ('x', 1)", "UPDATE pieces SET data = x''", "DELETE FROM pieces", "DELETE FROM closed"} {
		if _, err := db.Exec(q); err == nil {
			t.Errorf("%s was done in a closed file", q)
		}
	}
	if _, err := Closed(t.Context(), filepath.Join(dir, "raw-9999.db")); err == nil {
		t.Error("a file that is not there is closed or not")
	}
}

func TestTracesAreReadOverTheirPieces(t *testing.T) {
	s := open(t, t.TempDir())
	times, values := make([]float64, 2*tracePoints+5), make([]float64, 2*tracePoints+5)
	for i := range times {
		times[i], values[i] = float64(i)+0.25*float64(i%3), float64(i*i%7919)
	}
	uneven, err := signal.New(times, values)
	if err != nil {
		t.Fatal(err)
	}
	in := s.Receive(t.Context(), "h")
	if err := in.Keep(bytes.NewReader(nil), 0, []signal.Trace{uneven}); err != nil {
		t.Fatal(err)
	}
	gotValues, gotTimes, err := s.Trace(t.Context(), "h", 0, len(values), false)
	if err != nil || !slices.Equal(gotValues, values) || !slices.Equal(gotTimes, uneven.TimesS) {
		t.Errorf("%d values, %d times, %v", len(gotValues), len(gotTimes), err)
	}
	if _, _, err := s.Trace(t.Context(), "h", 0, len(values)+1, false); err == nil {
		t.Error("a trace that has lost a point is read")
	}
	if _, _, err := s.Trace(t.Context(), "h", 1, 1, true); !errors.Is(err, ErrAbsent) {
		t.Errorf("a trace that is not there: %v", err)
	}
}

func TestAnOddFileAmongThemIsNamed(t *testing.T) {
	dir := t.TempDir()
	if err := os.WriteFile(filepath.Join(dir, "raw-0001.db"), noise(5000, 1), 0o644); err != nil {
		t.Fatal(err)
	}
	if _, err := Open(t.Context(), dir); err == nil || !bytes.Contains([]byte(err.Error()), []byte("raw-0001.db")) {
		t.Errorf("%v", err)
	}
}

// On a full disk nothing is kept of a file, and it can be sent again when there is room.
func TestOnAFullDiskNothingIsKept(t *testing.T) {
	s := open(t, t.TempDir())
	keep(t, s, []byte("first"))
	db := s.files[0].db
	db.SetMaxOpenConns(1) // the limit is that of a connection
	if _, err := db.Exec("PRAGMA max_page_count = 40"); err != nil {
		t.Fatal(err)
	}
	data := noise(1<<20, 9)
	in := s.Receive(t.Context(), "second")
	var full *sqlite.Error
	if err := in.Keep(bytes.NewReader(data), int64(len(data)), nil); !errors.As(err, &full) || full.Code()&0xff != sqlite3.SQLITE_FULL {
		t.Fatalf("%v", err)
	}
	if _, err := s.File(t.Context(), "second"); !errors.Is(err, ErrAbsent) {
		t.Errorf("it is there: %v", err)
	}
	if _, err := db.Exec("PRAGMA max_page_count = 1000000"); err != nil {
		t.Fatal(err)
	}
	keep(t, s, data)
}

// What goes wrong while spectra are laid down beside the reading is told, by a later spectrum or at the end, and nothing of the file is kept.
func TestATroubleBesideTheReadingIsTold(t *testing.T) {
	for name, take := range map[string]func(spectra.About, spectra.Scan) error{
		"an error": func(_ spectra.About, s spectra.Scan) error {
			if s.TimeS == 3 {
				return errors.New("no room")
			}
			return nil
		},
		"a panic": func(_ spectra.About, s spectra.Scan) error {
			if s.TimeS == 3 {
				panic("no room")
			}
			return nil
		},
	} {
		l := lay(take)
		for i := range 10 * waitingScans {
			if err := l.give(spectra.About{}, spectra.Scan{TimeS: float64(i)}); err != nil && i <= 3 {
				t.Errorf("%s: told too early, %v", name, err)
			}
		}
		for range 2 {
			if err := l.end(); err == nil || !strings.Contains(err.Error(), "no room") {
				t.Errorf("%s: %v", name, err)
			}
		}
	}
	var none *laying
	if err := none.end(); err != nil {
		t.Error(err)
	}
}
