package text

import (
	"bytes"
	"errors"
	"fmt"
	"math"
	"runtime"
	"runtime/debug"
	"strings"
	"testing"
	"time"

	"yugen/formats"
)

// lines makes a table of n rows with a time step.
func lines(n int, step float64, sep string) string {
	var b strings.Builder
	for i := range n {
		fmt.Fprintf(&b, "%g%s%d\n", float64(i)*step, sep, i*i)
	}
	return b.String()
}

func read(t *testing.T, text string) formats.File {
	t.Helper()
	f, err := Read([]byte(text))
	if err != nil {
		t.Fatal(err)
	}
	return f
}

func TestTheUnitOfTimeIsFoundInTheHeadingOrTheRun(t *testing.T) {
	for name, c := range map[string]struct {
		text string
		endS float64
	}{
		"min in the heading":                  {"RT (min),x\n" + lines(11, 1, ","), 600},
		"seconds in the heading":              {"time_s,x\n" + lines(11, 1, ","), 10},
		"seconds in the row of units":         {"Time,x\ns,mV\n" + lines(11, 1, ","), 10},
		"Sekunden":                            {"Zeit [Sekunden];x\n" + lines(11, 1, ";"), 10},
		"minuti, far along":                   {"Tempo (minuti);x\n" + lines(11, 100, ";"), 60000},
		"hours":                               {"Time [h];x\n" + lines(11, 0.1, ";"), 3600},
		"Stunden in the row of units":         {"Zeit;x\nStunden;mV\n" + lines(11, 0.1, ";"), 3600},
		"no heading, short run":               {lines(11, 1, ","), 600},
		"no heading, a run to 1 000 is in s":  {lines(11, 100, ","), 1000},
		"a name with an s in it is no second": {"retention,signals\n" + lines(11, 1, ","), 600},
	} {
		if got := read(t, c.text).Traces[0].EndS(); math.Abs(got-c.endS) > 1e-9 {
			t.Errorf("%s: ends at %g s, want %g", name, got, c.endS)
		}
	}
}

func TestNamesAndUnitsOfChannels(t *testing.T) {
	f := read(t, "Sample name: Leaf\nVial,B7\nOperator,O\n\nTime [min],UV 210 nm [mAU],Pressure (bar),plain\n0,1,180,3\n1,2,181,3\n2,3,180,3\n3,1,180,3\n4,1,180,3\n5,1,180,3\n6,1,180,3\n7,1,180,3\n")
	want := [][2]string{{"UV 210 nm", "mAU"}, {"Pressure", "bar"}, {"plain", ""}}
	if len(f.Traces) != 3 || f.Header.SampleName != "Leaf" || f.Header.Vial != "B7" || f.Header.Operator != "O" {
		t.Fatalf("%d traces, %+v", len(f.Traces), f.Header)
	}
	for i, w := range want {
		if f.Traces[i].Name != w[0] || f.Traces[i].Unit != w[1] {
			t.Errorf("trace %d is %q in %q, want %v", i+1, f.Traces[i].Name, f.Traces[i].Unit, w)
		}
	}
}

func TestRefusalsNameLineAndReason(t *testing.T) {
	good := lines(12, 1, ",")
	rows := strings.Split(strings.TrimSpace(good), "\n")
	with := func(i int, row string) string {
		c := append([]string{}, rows...)
		c[i] = row
		return "time_min,x\n" + strings.Join(c, "\n") + "\n"
	}
	for name, c := range map[string]struct {
		text string
		line int
		says string
	}{
		"a word":          {with(6, "6,high"), 8, `"high" is not a finite number`},
		"infinity":        {with(6, "6,Inf"), 8, "not a finite number"},
		"too large":       {with(6, "6,1e999"), 8, "not a finite number"},
		"a missing value": {with(6, "6,"), 8, "nothing stands there"},
		"a column more":   {with(6, "6,1,2"), 8, "there are 3 columns; the lines before have 2"},
		"time goes back":  {with(6, "2,1"), 8, "the time 2 min (120 s) does not come after 5 min (300 s)"},
		"too few points":  {"time_min,x\n" + lines(5, 1, ","), 0, "needs at least 8"},
		"no numbers":      {"Dear colleague,\nno table here\n", 1, "no table of numbers"},
	} {
		_, err := Read([]byte(c.text))
		var at *formats.Error
		if !errors.As(err, &at) || at.Line != c.line || !strings.Contains(at.Reason, c.says) {
			t.Errorf("%s: %v, want line %d: %s", name, err, c.line, c.says)
		}
	}
}

func TestThousandsAndDecimalCommas(t *testing.T) {
	var b strings.Builder
	b.WriteString("Zeit [min];Signal [mAU]\n")
	for i := range 10 {
		fmt.Fprintf(&b, "%d,5;1.234,%d\n", i, i)
	}
	tr := read(t, b.String()).Traces[0]
	if tr.Values[7] != 1234.7 || math.Abs(tr.TimeS(1)-90) > 1e-9 {
		t.Errorf("%g at %g s", tr.Values[7], tr.TimeS(1))
	}
}

// A file that was cut off in the middle of its last number is taken and told.
func TestATextThatWasCutOff(t *testing.T) {
	var b strings.Builder
	b.WriteString("time_min,signal\n")
	for i := range 100 {
		fmt.Fprintf(&b, "%.3f,%.4f\n", float64(i)/100, 12.5+0.01*float64(i%7))
	}
	whole := b.String()
	for cut, doubted := range map[int]bool{0: false, 1: false, 2: true, 4: true} {
		file, err := Read([]byte(whole[:len(whole)-cut]))
		if err != nil || (len(file.Header.Doubts) > 0) != doubted {
			t.Errorf("less %d bytes: %v %v", cut, file.Header.Doubts, err)
		}
	}
}

// A long text takes memory for its numbers and little more: its fields never stand there together.
func TestALongTextIsReadInStretches(t *testing.T) {
	var b bytes.Buffer
	b.WriteString("time_min,signal\n")
	const rows = 400_000
	for i := range rows {
		fmt.Fprintf(&b, "%.5f,%.6f\n", float64(i)/1000, 10+float64(i%97)/7)
	}
	data := b.Bytes()
	b = bytes.Buffer{}
	runtime.GC()
	var before, after runtime.MemStats
	runtime.ReadMemStats(&before)
	peak := uint64(0)
	done := make(chan struct{})
	watched := make(chan struct{})
	go func() {
		defer close(watched)
		for {
			select {
			case <-done:
				return
			case <-time.After(time.Millisecond):
				var now runtime.MemStats
				runtime.ReadMemStats(&now)
				peak = max(peak, now.HeapAlloc)
			}
		}
	}()
	defer debug.SetGCPercent(debug.SetGCPercent(20)) // so that what is alive shows, not what waits to be collected
	file, err := Read(data)
	close(done)
	<-watched
	runtime.ReadMemStats(&after)
	if err != nil || file.Traces[0].Len() != rows {
		t.Fatal(err)
	}
	decoded := uint64(rows * 16)
	if peak > before.HeapAlloc+3*decoded {
		t.Errorf("reading %d MB of numbers took %d MB", decoded>>20, (peak-before.HeapAlloc)>>20)
	}
}
