package lab

import (
	"context"
	"net"
	"net/http/httptest"
	"slices"
	"strings"
	"testing"
	"time"

	"yugen/core/batch"
	"yugen/core/checks"
	"yugen/core/compounds"
	"yugen/instrument"
	"yugen/instrument/standin"
	"yugen/lab/running"
	"yugen/store"
)

// benched is a lab with a stand-in whose time runs fast, and a batch with the method of the demo's study for it.
func benched(t *testing.T, kind instrument.Kind, study string, speed float64) (l *Lab, i *standin.Instrument, id, batchID string) {
	t.Helper()
	l, _ = demo(t)
	s := serving(t, kind, speed, "")
	id = attached(t, l, s.address)
	return l, s.Instrument, id, batchFor(t, l, study)
}

// served is a stand-in that is reached.
type served struct {
	*standin.Instrument
	address string
	stop    func()
}

func serving(t *testing.T, kind instrument.Kind, speed float64, at string) *served {
	t.Helper()
	s := standing(t, kind, speed, at)
	ctx, cancel := context.WithCancel(context.Background())
	t.Cleanup(cancel)
	go s.Run(ctx)
	return s
}

// standing is an instrument whose time passes only where passing lets it, however slow the machine is.
func standing(t *testing.T, kind instrument.Kind, speed float64, at string) *served {
	t.Helper()
	i, err := standin.New(kind, "Bench test", speed, 11, time.Date(2026, time.May, 4, 9, 0, 0, 0, time.UTC))
	if err != nil {
		t.Fatal(err)
	}
	s := httptest.NewUnstartedServer(i.Handler())
	if at != "" {
		s.Listener.Close()
		s.Listener = must[net.Listener](t)(listenAt(at))
	}
	s.Start()
	stop := func() {
		s.CloseClientConnections()
		s.Close()
	}
	t.Cleanup(stop)
	return &served{i, s.URL, stop}
}

func listenAt(address string) (l net.Listener, err error) {
	for range 100 {
		if l, err = net.Listen("tcp", address); err == nil {
			return l, nil
		}
		time.Sleep(50 * time.Millisecond)
	}
	return nil, err
}

func attached(t *testing.T, l *Lab, address string) string {
	t.Helper()
	if err := l.Attach(context.Background(), []string{address}); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(l.bench.close) // before the stand-in is gone
	p := l.bench.posts[0]
	until(t, "it answers", func() bool {
		p.mu.Lock()
		defer p.mu.Unlock()
		return p.state != nil
	})
	return p.id
}

func batchFor(t *testing.T, l *Lab, study string) string {
	t.Helper()
	for _, s := range must[[]store.Study](t)(l.Studies(t.Context())) {
		if s.Name == study {
			b := must[store.Batch](t)(l.Batch(t.Context(), s.Batches[0].ID))
			return must[string](t)(l.NewBatchBy(t.Context(), study, "On the bench", b.Version.ID, false, "for a test", "M. Okada"))
		}
	}
	t.Fatalf("no study %s", study)
	return ""
}

// until waits for something that others do.
func until(t *testing.T, what string, is func() bool) {
	t.Helper()
	for range 1200 {
		if is() {
			return
		}
		time.Sleep(50 * time.Millisecond)
	}
	t.Fatalf("it did not come to it that %s", what)
}

// measures lets the time of a standing instrument pass until a row of its list is measured for some minutes.
func (s *served) measures(t *testing.T, row int, minutes float64) {
	t.Helper()
	until(t, "it is measured", func() bool {
		for range 100 {
			if now := s.State(); now.Rows[row].State == instrument.RowRuns && *now.AtMin > minutes {
				return true
			}
			s.Pass(6)
		}
		return false
	})
}

func teaRows() []map[batch.Field]string {
	standard := func(name, role string) map[batch.Field]string {
		return map[batch.Field]string{"name": name, "vial": "A5", "role": role, "level": "60"}
	}
	rows := []map[batch.Field]string{standard("Standard 60 mg/L", "standard")}
	for k, name := range []string{"Sencha first flush", "Sencha first flush", "Sencha second flush", "Sencha second flush", "Gyokuro"} {
		rows = append(rows, map[batch.Field]string{"name": name, "vial": "B" + string(rune('1'+k)), "role": "sample", "sample": "0.2", "volume": "50", "dilution": "2"})
	}
	return append(rows, standard("Check, closing", "check"))
}

func act(t *testing.T, l *Lab, id string, a instrument.Act) BenchPost {
	t.Helper()
	return must[BenchPost](t)(l.ActAt(t.Context(), id, a, nil, "M. Okada"))
}

func standingOf(t *testing.T, l *Lab, id string) instrument.State {
	t.Helper()
	for _, p := range must[[]BenchPost](t)(l.Bench(t.Context())) {
		if p.ID == id && p.State != nil {
			return *p.State
		}
	}
	return instrument.State{}
}

func takenOf(t *testing.T, l *Lab, batchID string) []store.Injection {
	t.Helper()
	return must[store.Batch](t)(l.Batch(t.Context(), batchID)).Injections
}

// A list of seven is measured, taken in and processed by itself: standard, five samples, the standard again as closing check. What the samples hold comes out as the
// stand-in's tray has it, every point is there, and the end is confirmed in the record.
func TestSevenInjectionsFromTheBenchToResults(t *testing.T) {
	l, _, id, batchID := benched(t, instrument.LC, "Green tea assay", 2000)
	ctx := t.Context()
	b := must[store.Batch](t)(l.Batch(ctx, batchID))
	m := b.Version.Method
	m.Curves.Model, m.Curves.Weight = "one_point", "none"
	must[store.Batch](t)(l.SaveMethod(ctx, batchID, b.Revision, m, "one level alone", "M. Okada"))
	if _, err := l.StartList(ctx, id, ListAsked{BatchID: batchID, Rows: []map[batch.Field]string{{"name": "No vial"}}, Start: instrument.WhenReady, Ending: instrument.LeaveClean}, "M. Okada"); err == nil {
		t.Error("a row without a vial is taken")
	}
	shown := must[BenchPost](t)(l.StartList(ctx, id, ListAsked{BatchID: batchID, Rows: teaRows(), Start: instrument.WhenReady, Ending: instrument.LeaveClean}, "M. Okada"))
	if shown.State.Phase != instrument.Preparing || shown.List == nil || len(shown.List.Rows) != 7 {
		t.Fatalf("%+v", shown)
	}
	if _, err := l.StartList(ctx, id, ListAsked{BatchID: batchID, Rows: teaRows(), Start: instrument.WhenReady, Ending: instrument.LeaveClean}, "M. Okada"); err == nil || !strings.Contains(err.Error(), "at work") {
		t.Errorf("two lists at once: %v", err)
	}
	act(t, l, id, instrument.Act{Kind: instrument.Looked, What: "bottles"})
	until(t, "the list has ended and all is left", func() bool {
		s := standingOf(t, l, id)
		return s.Phase == instrument.Resting && s.Confirmed != ""
	})
	until(t, "all seven are in", func() bool { return len(takenOf(t, l, batchID)) == 7 })
	p := must[Processed](t)(l.Process(ctx, batchID))
	for k, in := range p.Batch.Injections {
		if !strings.HasPrefix(in.FileName, "run-00"+string(rune('1'+k))) || in.Header.Operator != "M. Okada" {
			t.Errorf("%d: %s by %s", k, in.FileName, in.Header.Operator)
		}
	}
	whole := must[batch.Signal](t)(l.signalOf(ctx, p.Batch.Injections[3], m.Channels[0].Signal))
	if whole.Trace.Len() != 10801 {
		t.Errorf("%d points of 18 min at 10 a second", whole.Trace.Len())
	}
	// The diode array bears out what the peaks are: caffeine is one compound from front to tail.
	if pure := must[PeakPurity](t)(l.PurityAt(ctx, batchID, p.Batch.Injections[1].ID, "", 8.8)); pure.Purity.Impure || pure.Purity.Weak || len(pure.Purity.Scans) < 8 {
		t.Errorf("caffeine: %+v", pure.Purity)
	}
	for _, c := range []struct {
		sample, compound string
		mg               float64
	}{{"Sencha first flush", "caf", 27.4}, {"Sencha second flush", "egcg", 61.3}, {"Gyokuro", "tb", 1.62}} {
		k := slices.IndexFunc(p.Result.Samples, func(r batch.SampleRow) bool { return r.Name == c.sample })
		if k < 0 || p.Result.Samples[k].Values[c.compound].Mean == nil {
			t.Fatalf("%s of %s is not there", c.compound, c.sample)
		}
		if got := *p.Result.Samples[k].Values[c.compound].Mean; got < c.mg*0.95 || got > c.mg*1.05 {
			t.Errorf("%s of %s: %.2f mg/g, %.2f are in the vial", c.compound, c.sample, got, c.mg)
		}
	}
	var told []string
	for _, row := range must[RecordPage](t)(l.FindRecord(ctx, store.Wanted{Action: store.BenchAction}, 0)).Rows {
		told = append(told, row.Who+": "+row.Subject)
	}
	for _, want := range []string{"M. Okada: Bench test: looked: bottles", "Bench test: Bench test: left: pump stopped, lamp off"} {
		if !slices.Contains(told, want) {
			t.Errorf("the record does not say %q but %q", want, told)
		}
	}
	if lines := must[[]store.WaitingLine](t)(l.Waiting(ctx, batchID)); len(lines) != 0 {
		t.Errorf("lines wait for what has come: %+v", lines)
	}
}

// When the flame goes out the run is whole, what eluted then is in doubt and in no mean; it is run again at the end, and counts there.
func TestAFlameThatGoesOutLeavesDoubt(t *testing.T) {
	l, i, id, batchID := benched(t, instrument.GC, "Camellia seed oil", 1000)
	ctx := t.Context()
	rows := []map[batch.Field]string{{"name": "Standard 200 mg/L", "vial": "2", "role": "standard", "level": "200"}, {"name": "Hill garden", "vial": "3", "role": "sample"}, {"name": "Hill garden", "vial": "4", "role": "sample"}}
	must[BenchPost](t)(l.StartList(ctx, id, ListAsked{BatchID: batchID, Rows: rows, Start: instrument.WhenReady, Ending: instrument.LeaveClean}, "K. Adeyemi"))
	act(t, l, id, instrument.Act{Kind: instrument.Looked, What: "wash"})
	act(t, l, id, instrument.Act{Kind: instrument.World, What: "the air valve was opened"})
	until(t, "the second runs", func() bool { return standingOf(t, l, id).Rows[1].State == instrument.RowRuns })
	if err := i.Fault("hydrogen"); err != nil {
		t.Fatal(err)
	}
	until(t, "it stops", func() bool { return standingOf(t, l, id).Phase == instrument.Stopped })
	until(t, "the doubtful run is in", func() bool { return len(takenOf(t, l, batchID)) == 2 })
	p := must[Processed](t)(l.Process(ctx, batchID))
	hurt := p.Batch.Injections[1]
	if len(hurt.Doubts) == 0 || !slices.ContainsFunc(p.Result.Notices, func(n checks.Notice) bool {
		return n.Kind == checks.Doubted && n.InjectionID == hurt.ID && strings.Contains(n.Text, "flame")
	}) {
		t.Fatalf("%+v %+v", hurt.Doubts, p.Result.Notices)
	}
	if v := p.Result.Samples[0].Values["c18-1"]; v.Mean != nil {
		t.Errorf("a share of a doubtful run counts: %+v", v)
	}
	if post := must[[]BenchPost](t)(l.Bench(ctx))[0]; post.Needs == 0 || !post.List.Rows[1].Doubtful {
		t.Errorf("%+v", post)
	}
	if live := must[Live](t)(l.Live(ctx, id)); live.Signal == nil || len(live.Doubted) == 0 || live.Behind == nil {
		t.Errorf("%+v", live)
	}
	if _, err := l.ActAt(ctx, id, instrument.Act{Kind: instrument.GoOn, Choice: instrument.AgainAtEnd}, nil, "K. Adeyemi"); err == nil {
		t.Error("it goes on without hydrogen")
	}
	act(t, l, id, instrument.Act{Kind: instrument.World, What: "the hydrogen cylinder was changed"})
	act(t, l, id, instrument.Act{Kind: instrument.Looked, What: "lines"})
	until(t, "what must be true is", func() bool {
		s := standingOf(t, l, id)
		return s.Trouble != nil && s.Trouble.ToDo[0].Standing == instrument.True && needs(&s) == 1
	})
	act(t, l, id, instrument.Act{Kind: instrument.GoOn, Choice: instrument.AgainAtEnd})
	until(t, "four are in", func() bool { return len(takenOf(t, l, batchID)) == 4 })
	p = must[Processed](t)(l.Process(ctx, batchID))
	if v := p.Result.Samples[0].Values["c18-1"]; v.N != 2 || v.Of != 3 || *v.Mean < 78 || *v.Mean > 83 {
		t.Errorf("oleate of the two sound ones, 80.4 %%: %+v", v)
	}
	b := p.Batch
	if _, err := l.TakeAsItIs(ctx, batchID, b.Revision, hurt.ID, " ", "K. Adeyemi"); err == nil {
		t.Error("taken without a reason")
	}
	b = must[store.Batch](t)(l.TakeAsItIs(ctx, batchID, b.Revision, hurt.ID, "only for the test", "K. Adeyemi"))
	doubtful := func() bool {
		return slices.ContainsFunc(must[Processed](t)(l.Process(ctx, batchID)).Result.Notices, func(n checks.Notice) bool { return n.Kind == checks.Doubted })
	}
	if doubtful() {
		t.Error("taken as it is, it is still in doubt")
	}
	must[store.Batch](t)(l.Undo(ctx, batchID, b.Revision, "", "K. Adeyemi"))
	if !doubtful() {
		t.Error("undone, it is not in doubt again")
	}
}

// A compound whose peak is cut by trouble is not called sound, though its apex came before.
func TestAPeakThatIsCutIsNotSound(t *testing.T) {
	m := batch.NewMethod()
	for _, c := range []struct {
		name string
		at   float64
	}{{"Early", 8}, {"Cut", 10.71}, {"Late", 12}} {
		m.Compounds = append(m.Compounds, compounds.Compound{ID: c.name, Name: c.name, ExpectedMin: c.at, Window: compounds.Window{Kind: compounds.Absolute, Value: 0.1}})
	}
	row := running.Row{Trouble: &instrument.Trouble{}, Doubts: []batch.Doubt{{FromMin: 10.72, ToMin: 100, Says: "The flame went out"}}}
	got := doubted(row, m)
	if len(got) != 2 || !slices.Equal(got[0].Names, []string{"Early"}) || !slices.Equal(got[1].Names, []string{"Cut", "Late"}) || got[1].Says != "not recorded" {
		t.Errorf("%+v", got)
	}
}

// The program is stopped in the middle of a list and goes on: every point is there. The instrument is stopped in the middle: what was recorded is taken in, in doubt from
// where it ends, and the list has ended.
func TestNothingMeasuredIsLostWhenOneOfTheTwoStops(t *testing.T) {
	dir := t.TempDir()
	open := func() (*Lab, func()) {
		s, err := store.Open(context.Background(), dir)
		if err != nil {
			t.Fatal(err)
		}
		l := New(s)
		return l, func() { l.Close(); s.Close() }
	}
	l, shut := open()
	batchID := must[string](t)(l.NewBatch(t.Context(), "S", "B", "M", batch.NewMethod(), "x"))
	i := standing(t, instrument.LC, 800, "")
	id := attached(t, l, i.address)
	rows := []map[batch.Field]string{{"name": "One", "vial": "A5"}, {"name": "Two", "vial": "A5"}, {"name": "Three", "vial": "A5"}}
	must[BenchPost](t)(l.StartList(t.Context(), id, ListAsked{BatchID: batchID, Rows: rows, Start: instrument.WhenReady, Ending: instrument.StayReady}, "x"))
	act(t, l, id, instrument.Act{Kind: instrument.Looked, What: "bottles"})
	for row := range 2 { // stopped in the middle of each
		i.measures(t, row, 3)
		shut()
		i.Pass(60) // the instrument does not wait for it
		l, shut = open()
		if err := l.Resume(t.Context()); err != nil {
			t.Fatal(err)
		}
		id = attached(t, l, i.address)
	}
	i.measures(t, 2, 3)
	until(t, "two are in", func() bool { return len(takenOf(t, l, batchID)) == 2 })
	for _, in := range takenOf(t, l, batchID) {
		s := must[batch.Signal](t)(l.signalOf(t.Context(), in, batch.NewMethod().Channels[0].Signal))
		if s.Trace.Len() != 10801 || len(in.Doubts) != 0 {
			t.Errorf("%s has %d points, 10801 were measured; %+v", in.Name, s.Trace.Len(), in.Doubts)
		}
	}
	until(t, "it is heard of the third", func() bool {
		s := standingOf(t, l, id)
		return s.Rows[2].State == instrument.RowRuns && *s.AtMin > 2
	})
	i.stop()
	serving(t, instrument.LC, 800, strings.TrimPrefix(i.address, "http://"))
	until(t, "what was recorded is in", func() bool { return len(takenOf(t, l, batchID)) == 3 })
	in := takenOf(t, l, batchID)[2]
	if len(in.Doubts) != 1 || in.Doubts[0].FromMin < 1.5 || !strings.Contains(in.Doubts[0].Says, "started anew") {
		t.Errorf("%+v", in.Doubts)
	}
	until(t, "the list has ended", func() bool { return must[[]BenchPost](t)(l.Bench(t.Context()))[0].List.Ended })
	shut()
}
