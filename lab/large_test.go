package lab

import (
	"bufio"
	"encoding/base64"
	"encoding/binary"
	"flag"
	"fmt"
	"io"
	"math"
	"os"
	"path/filepath"
	"runtime"
	"runtime/debug"
	"testing"
	"time"

	"yugen/core/batch"
	"yugen/core/channels"
	"yugen/lab/record"
	"yugen/lab/taking"
	"yugen/store"
)

var largeMB = flag.Int("large-mb", 60, "how many MB the file has of the test that a large one costs little memory")

// largeRun writes mzML of so many bytes, scan by scan: 400 centroids each, of which one is a peak of m/z 195.0877 over time. It gives how many scans there are.
func largeRun(t *testing.T, path string, bytes int64) (scans int) {
	t.Helper()
	f, err := os.Create(path)
	if err != nil {
		t.Fatal(err)
	}
	w := bufio.NewWriterSize(f, 1<<20)
	fmt.Fprint(w, `<?xml version="1.0"?><mzML xmlns="http://psi.hupo.org/ms/mzml" version="1.1.0"><run id="r" startTimeStamp="2026-03-04T10:00:00Z"><spectrumList count="1">`)
	const points = 400
	each := int64(2*base64.StdEncoding.EncodedLen(8*points) + 700)
	scans = int(bytes / each)
	array := func(values []float64, accession, name string) {
		raw := make([]byte, 0, 8*len(values))
		for _, v := range values {
			raw = binary.LittleEndian.AppendUint64(raw, math.Float64bits(v))
		}
		text := base64.StdEncoding.EncodeToString(raw)
		fmt.Fprintf(w, `<binaryDataArray encodedLength="%d"><cvParam accession="MS:1000523" name="64-bit float"/><cvParam accession="MS:1000576" name="no compression"/><cvParam accession=%q name=%q/><binary>%s</binary></binaryDataArray>`, len(text), accession, name, text)
	}
	masses, heights := make([]float64, points), make([]float64, points)
	for i := range scans {
		for k := range masses {
			masses[k], heights[k] = 50+float64(k)*0.9+0.0001*float64(i%7), float64((i*31+k*17)%100)
		}
		d := (float64(i) - float64(scans)/2) / 30
		masses[162], heights[162] = 195.0877, 1e6*math.Exp(-d*d/2)
		fmt.Fprintf(w, `<spectrum index="%d" id="scan=%d" defaultArrayLength="%d"><cvParam accession="MS:1000511" name="ms level" value="1"/><cvParam accession="MS:1000127" name="centroid spectrum"/><scanList count="1"><scan><cvParam accession="MS:1000016" name="scan start time" value="%g" unitAccession="UO:0000010"/></scan></scanList><binaryDataArrayList count="2">`, i, i+1, points, 0.1*float64(i))
		array(masses, "MS:1000514", "m/z array")
		array(heights, "MS:1000515", "intensity array")
		fmt.Fprint(w, "</binaryDataArrayList></spectrum>\n")
	}
	fmt.Fprint(w, "</spectrumList></run></mzML>")
	if err := w.Flush(); err != nil {
		t.Fatal(err)
	}
	if err := f.Close(); err != nil {
		t.Fatal(err)
	}
	return scans
}

// peakMemory watches how far the memory of the process goes up.
func peakMemory() (stop func() (mb int64)) {
	debug.FreeOSMemory()
	before := resident()
	most := before
	done, over := make(chan struct{}), make(chan struct{})
	go func() {
		defer close(over)
		for {
			most = max(most, resident())
			select {
			case <-done:
				return
			case <-time.After(20 * time.Millisecond):
			}
		}
	}()
	return func() int64 {
		close(done)
		<-over
		return (most - before) >> 20
	}
}

// resident is the memory of the process in bytes: what the system says, or where it does not say it what the runtime does.
func resident() int64 {
	if text, err := os.ReadFile("/proc/self/statm"); err == nil {
		var all, inMemory int64
		if _, err := fmt.Sscan(string(text), &all, &inMemory); err == nil {
			return inMemory * int64(os.Getpagesize())
		}
	}
	var m runtime.MemStats
	runtime.ReadMemStats(&m)
	return int64(m.Sys)
}

// A large file is sent, looked at, taken in, processed and downloaded, and at no moment is it in memory.
func TestALargeFileCostsLittleMemory(t *testing.T) {
	path := filepath.Join(t.TempDir(), "large.mzML")
	scans := largeRun(t, path, int64(*largeMB)<<20)
	s, err := store.Open(t.Context(), t.TempDir())
	if err != nil {
		t.Fatal(err)
	}
	defer s.Close()
	l, ctx := New(s), t.Context()
	m := batch.NewMethod()
	m.Channels[0].Signal = channels.Signal{Kind: channels.Ions, Places: []channels.Place{{At: 195.0877, Tolerance: 10, PPM: true}}}
	id := must[string](t)(l.NewBatch(ctx, "S", "Masses", "Method", m, who))

	memory := peakMemory()
	body, err := os.Open(path)
	if err != nil {
		t.Fatal(err)
	}
	defer body.Close()
	began := time.Now()
	looked := must[taking.Looked](t)(l.Look(ctx, id, "large.mzML", body, who))
	if looked.Status != taking.Coming || len(looked.Signals) != 1 || looked.Signals[0].Points != scans {
		t.Fatalf("%+v", looked)
	}
	t.Logf("looked at after %v", time.Since(began))
	taken(t, l, id, TakeAsked{IDs: []string{looked.ID}})
	t.Logf("taken in after %v", time.Since(began))
	p := must[Processed](t)(l.Process(ctx, id))
	if len(p.Result.Injections) != 1 || len(p.Result.Injections[0].Peaks) != 1 {
		t.Fatalf("%+v", p.Result.Injections)
	}
	at, area := p.Result.Injections[0].Peaks[0].ApexMin, p.Result.Injections[0].Peaks[0].AreaS
	if want := 0.1 * float64(scans) / 2 / 60; math.Abs(at-want) > 0.01 {
		t.Errorf("the peak is at %g min, want %g", at, want)
	}
	if want := 1e6 * math.Sqrt(2*math.Pi) * 0.1 * 30; math.Abs(area/want-1) > 1e-3 {
		t.Errorf("its area is %g, want %g", area, want)
	}
	spectrum := must[Spectrum](t)(l.SpectrumAt(ctx, id, p.Batch.Injections[0].ID, at))
	if len(spectrum.Axis) != 400 || spectrum.Values[162] < 0.99e6 {
		t.Errorf("the spectrum at the apex has %d points", len(spectrum.Axis))
	}
	t.Logf("processed after %v", time.Since(began))
	_, came, err := l.RawOf(ctx, id, p.Batch.Injections[0].ID)
	if err != nil {
		t.Fatal(err)
	}
	if n, err := io.Copy(io.Discard, came); err != nil || n != looked.Size {
		t.Errorf("%d bytes come back of %d, %v", n, looked.Size, err)
	}
	if wrong := must[record.Verification](t)(l.Verify(ctx, nil)).Wrong; len(wrong) > 0 {
		t.Error(wrong)
	}
	used := memory()
	t.Logf("%d MB in %d scans took %d MB of memory and %v", looked.Size>>20, scans, used, time.Since(began))
	if used > 120 {
		t.Errorf("a file of %d MB took %d MB of memory", looked.Size>>20, used)
	}
}
