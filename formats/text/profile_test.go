package text

import (
	"encoding/json"
	"fmt"
	"math"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"testing"
	"time"

	"golang.org/x/text/encoding/charmap"
	"golang.org/x/text/encoding/unicode"

	"yugen/formats"
)

// proposed reads a text by the profile that it suggests itself.
func proposed(t *testing.T, data string) (Proposal, formats.File) {
	t.Helper()
	p, err := Propose([]byte(data))
	if err != nil {
		t.Fatalf("%q: %v", clip(data), err)
	}
	if err := p.Profile.Validate(); err != nil {
		t.Fatalf("%q: %v", clip(data), err)
	}
	f, err := p.Profile.Read([]byte(data))
	if err != nil {
		t.Fatalf("%q: %v", clip(data), err)
	}
	return p, f
}

func TestAProposedProfileReadsWhatIsThere(t *testing.T) {
	rows := func(n int, line func(i int) string) string {
		var b strings.Builder
		for i := range n {
			b.WriteString(line(i) + "\n")
		}
		return b.String()
	}
	for name, c := range map[string]struct {
		text  string
		names string // with units
		endS  float64
		last  float64 // of the first signal
	}{
		"columns":                   {"Time [min],UV 210 nm [mAU],Pressure [bar]\n" + rows(20, func(i int) string { return fmt.Sprintf("%g,%d,%d", float64(i)/10, i*i, 180) }), "UV 210 nm mAU, Pressure bar", 114, 361},
		"German":                    {"Probe;Grüntee\nZeit [s];Signal [mV]\n" + rows(20, func(i int) string { return fmt.Sprintf("%d,5;1.%03d,25", i, i) }), "Signal mV", 19.5, 1019.25},
		"a row of units":            {"Time\tFID\nms\tpA\n" + rows(20, func(i int) string { return fmt.Sprintf("%d\t%de-3", 100*i, i) }), "FID pA", 1.9, 0.019},
		"blanks":                    {"RT  Signal\n" + rows(20, func(i int) string { return fmt.Sprintf("  %.3f   %d  ", float64(i), i) }), "Signal ", 1140, 19},
		"no heading":                {rows(400, func(i int) string { return fmt.Sprintf("%d|%d", i, i) }), "signal 1 ", 399, 399},
		"a pair of columns each":    {"Time,A,Time,B\n" + rows(20, func(i int) string { return fmt.Sprintf("%d,%d,%g,%d", i, i, float64(i)+0.5, -i) }), "A , B ", 1140, 19},
		"blocks":                    {"Run 7\n[UV 210 nm (mAU)]\nmin;value\n" + rows(10, func(i int) string { return fmt.Sprintf("%d;%d", i, i) }) + "\n[FID (pA)]\nmin;value\n" + rows(12, func(i int) string { return fmt.Sprintf("%d;%d", i, 2*i) }), "UV 210 nm mAU, FID pA", 540, 9},
		"a name before the numbers": {"Sample name: Oolong, dark\nVial: B7\nTime (min),x\n" + rows(12, func(i int) string { return fmt.Sprintf("%d,%d", i, i) }), "x ", 660, 11},
	} {
		text := c.text
		if name == "no heading" {
			text = strings.ReplaceAll(text, "|", "\t")
		}
		_, f := proposed(t, text)
		var names []string
		for _, tr := range f.Traces {
			names = append(names, tr.Name+" "+tr.Unit)
		}
		if got := strings.Join(names, ", "); got != c.names {
			t.Errorf("%s: %q, want %q", name, got, c.names)
			continue
		}
		tr := f.Traces[0]
		if math.Abs(tr.EndS()-c.endS) > 1e-9 || tr.Values[tr.Len()-1] != c.last {
			t.Errorf("%s: ends at %g s with %g, want %g and %g", name, tr.EndS(), tr.Values[tr.Len()-1], c.endS, c.last)
		}
	}
}

func TestAProfileReadsWhatTheAutomaticReaderReads(t *testing.T) {
	files, _ := filepath.Glob("../read/testdata/text_*.csv")
	if len(files) < 3 {
		t.Fatalf("%d files", len(files))
	}
	for _, name := range files {
		data, err := os.ReadFile(name)
		if err != nil {
			t.Fatal(err)
		}
		auto, err := Read(data)
		if err != nil {
			t.Fatal(err)
		}
		_, f := proposed(t, string(data))
		for k, tr := range auto.Traces {
			got := f.Traces[k]
			if got.Name != tr.Name || got.Unit != tr.Unit || !slices.Equal(got.Values, tr.Values) || got.StartS != tr.StartS || got.StepS != tr.StepS {
				t.Errorf("%s: %s in %s against %s in %s", name, got.Name, got.Unit, tr.Name, tr.Unit)
			}
		}
	}
}

func TestLinesAboveTheNumbersSayWhatTheProfileSays(t *testing.T) {
	text := "Sample name;Sencha 2\nAcquired;04.03.2026 14:05:09\nVial;C4\nColumn temperature;35 °C\nZeit [min];UV [mAU]\n" + lines(12, 1, ";")
	p, f := proposed(t, text)
	h := f.Header
	if h.SampleName != "Sencha 2" || h.Vial != "C4" || h.AcquiredAt == nil || !h.AcquiredAt.Equal(time.Date(2026, 3, 4, 14, 5, 9, 0, time.UTC)) || len(h.Settings) != 1 || h.Settings[0] != (formats.Setting{Name: "Column temperature", Value: "35 °C"}) {
		t.Errorf("%+v", h)
	}
	if len(p.Guesses) != 0 { // a point between figures is the day first
		t.Errorf("guesses %q", p.Guesses)
	}
	p, _ = proposed(t, strings.Replace(text, "04.03.2026", "04/03/2026", 1))
	if len(p.Guesses) != 1 || !strings.Contains(p.Guesses[0], "the day is taken") {
		t.Errorf("guesses %q", p.Guesses)
	}
	p.Profile.DateOrder = MonthFirst
	f, err := p.Profile.Read([]byte(strings.Replace(text, "04.03.2026", "04/03/2026", 1)))
	if err != nil || f.Header.AcquiredAt.Month() != time.April {
		t.Errorf("the month first: %v %v", f.Header.AcquiredAt, err)
	}
	if _, err := p.Profile.Read([]byte(strings.Replace(text, "04.03.2026", "13/13/2026", 1))); err == nil || !strings.Contains(err.Error(), "line 2") {
		t.Errorf("a date that is none: %v", err)
	}
}

func TestAFileThatDoesNotFitIsHeldBack(t *testing.T) {
	good := "Sample;A\nTime [min];UV [mAU];Pump [bar]\n" + strings.ReplaceAll(lines(12, 1, ";"), "\n", ";180\n")
	p, _ := proposed(t, good)
	if err := p.Profile.Fits([]byte(strings.Replace(good, "Sample;A", "Sample;B", 1))); err != nil {
		t.Errorf("another sample: %v", err)
	}
	for name, c := range map[string]struct{ text, says string }{
		"another heading":     {strings.Replace(good, "UV [mAU]", "UV [AU]", 1), "line 2: the names of the columns"},
		"a column less":       {strings.ReplaceAll(good, ";180\n", "\n"), "column 3"},
		"a line more above":   {"Operator;X\n" + good, "line 2"},
		"another decimal":     {strings.Replace(good, "1;1;", "1,5;1;", 1), "line 4, column 1"},
		"a word":              {strings.Replace(good, "\n5;25;180\n", "\n5;low;180\n", 1), `line 8, column 2: "low" is not a finite number`},
		"shorter":             {"Sample;A\n", "ends before line 3"},
		"a time that is back": {strings.Replace(good, "\n5;25;", "\n2;25;", 1), "line 8"},
	} {
		if c.text == good {
			t.Fatalf("%s changes nothing", name)
		}
		if _, err := p.Profile.Read([]byte(c.text)); err == nil || !strings.Contains(err.Error(), c.says) {
			t.Errorf("%s: %v, want %q", name, err, c.says)
		}
	}
	comma := p.Profile
	comma.Decimal = ","
	if _, err := comma.Read([]byte("Sample;A\nTime [min];UV [mAU];Pump [bar]\n0;1.5;180\n1;2.5;180\n2;3;180\n")); err == nil {
		t.Error("a point is read where commas are the decimal mark")
	}
}

func TestAProfileIsReadInItsEncoding(t *testing.T) {
	text := "Probe;Grüntee µ\nZeit [min];Signal [µV]\n" + lines(12, 1, ";")
	p, _ := proposed(t, text)
	for encoding, data := range map[string][]byte{
		"utf-8": []byte(text), "": []byte("\ufeff" + text),
		"windows-1252": func() []byte { b, _ := charmap.Windows1252.NewEncoder().Bytes([]byte(text)); return b }(),
		"utf-16le": func() []byte {
			b, _ := unicode.UTF16(unicode.LittleEndian, unicode.IgnoreBOM).NewEncoder().Bytes([]byte(text))
			return b
		}(),
		"utf-16be": func() []byte {
			b, _ := unicode.UTF16(unicode.BigEndian, unicode.UseBOM).NewEncoder().Bytes([]byte(text))
			return b
		}(),
	} {
		p := p.Profile
		p.Encoding = encoding
		f, err := p.Read(data)
		if err != nil || f.Header.SampleName != "Grüntee µ" || f.Traces[0].Unit != "µV" {
			t.Errorf("%q: %v %+v", encoding, err, f.Header)
		}
	}
	wrong := p.Profile
	wrong.Encoding = "utf-8"
	if _, err := wrong.Read([]byte("Probe;Gr\xfcntee\nZeit [min];Signal [V]\n" + lines(12, 1, ";"))); err == nil {
		t.Error("what is no UTF-8 is read as UTF-8")
	}
}

func TestProfilesGoOutAndComeBack(t *testing.T) {
	p, _ := proposed(t, "Sample;A\nTime [min];57.07;71.05;85.1\n"+strings.ReplaceAll(lines(12, 1, ";"), "\n", ";1;2\n"))
	p.Profile.Name, p.Profile.Axis = "Scans", AxisMZ
	document, err := json.Marshal(p.Profile)
	if err != nil {
		t.Fatal(err)
	}
	again, err := ReadProfile(document)
	if err != nil {
		t.Fatal(err)
	}
	f, err := again.Read([]byte("Sample;B\nTime [min];57.07;71.05;85.1\n" + strings.ReplaceAll(lines(12, 1, ";"), "\n", ";1;2\n")))
	if err != nil || len(f.Spectra) != 1 || len(f.Spectra[0].Scans) != 12 || f.Header.SampleName != "B" {
		t.Errorf("%v %+v", err, f.Header)
	}
	for what, spoil := range map[string]func(*Profile){
		"no delimiter":       func(p *Profile) { p.Delimiter = "" },
		"a digit parts":      func(p *Profile) { p.Delimiter = "5" },
		"the same twice":     func(p *Profile) { p.Delimiter, p.Decimal = ",", "," },
		"no time":            func(p *Profile) { p.Columns = p.Columns[1:] },
		"no signal":          func(p *Profile) { p.Columns = p.Columns[:1] },
		"a column twice":     func(p *Profile) { p.Columns = append(slices.Clone(p.Columns), p.Columns[1]) },
		"an unknown role":    func(p *Profile) { p.Columns = []Column{{1, TimeColumn, "", ""}, {2, "colour", "", ""}} },
		"names below":        func(p *Profile) { p.Heading = p.Data },
		"an unknown unit":    func(p *Profile) { p.TimeUnit = "days" },
		"a line among data":  func(p *Profile) { p.Values = []Value{{p.Data, SaysVial}} },
		"an odd encoding":    func(p *Profile) { p.Encoding = "ebcdic" },
		"too many to be one": func(p *Profile) { p.Name = strings.Repeat("x", 501) },
	} {
		odd := p.Profile
		spoil(&odd)
		if odd.Validate() == nil {
			t.Errorf("%s is taken", what)
		}
	}
}

func FuzzProfile(f *testing.F) {
	f.Add([]byte("Sample;A\nTime [min];UV [mAU]\n0;1\n1;2\n2;3\n3;4\n"))
	f.Add([]byte("[A]\nmin,v\n0,1\n1,2\n2,3\n\n[B]\nmin,v\n0,1\n1,2\n2,3\n"))
	f.Fuzz(func(t *testing.T, data []byte) {
		p, err := Propose(data)
		if err != nil {
			return
		}
		if file, err := p.Profile.Read(data); err == nil {
			for _, tr := range file.Traces {
				for i := 1; i < tr.Len(); i++ {
					if !(tr.TimeS(i) > tr.TimeS(i-1)) {
						t.Fatal("times do not rise")
					}
				}
			}
		}
	})
}
