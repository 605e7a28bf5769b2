package lab

import (
	"errors"
	"math"
	"slices"
	"strings"
	"testing"
	"time"

	"yugen/bench"
	"yugen/core/batch"
	"yugen/core/resolving"
	"yugen/lab/record"
	"yugen/report"
	"yugen/store"
)

// resolvedAll waits until every stretch of a batch is resolved.
func resolvedAll(t *testing.T, l *Lab, id string) WholeBatch {
	t.Helper()
	for range 600 {
		w := must[WholeBatch](t)(l.Resolving(t.Context(), id, 1))
		if !slices.ContainsFunc(w.Stretches, func(s ResolvedStretch) bool { return s.State == "waiting" || s.State == "running" }) {
			return w
		}
		time.Sleep(100 * time.Millisecond)
	}
	t.Fatal("it is not done after a minute")
	return WholeBatch{}
}

// The aroma comes apart into what was put in: every volatile by its name, at its time, in the amounts that the bench simulated, and nothing else; a volatile that is not
// in a tea is not in its column.
func TestTheAromaIsResolvedFromEndToEnd(t *testing.T) {
	l, _ := demo(t)
	ctx := t.Context()
	p := aromaOf(t, l)
	if err := l.ResolveBatch(ctx, p.Batch.ID, who); err != nil {
		t.Fatal(err)
	}
	w := resolvedAll(t, l, p.Batch.ID)
	study, err := bench.TeaAroma(DemoSeed)
	if err != nil {
		t.Fatal(err)
	}
	names := map[string]string{}
	for _, e := range bench.Volatiles() {
		names[strings.ToLower(e.Name)] = e.ID
	}
	if len(w.Samples) != 8 || len(w.Rows) != 21 {
		t.Fatalf("%d samples, %d compounds", len(w.Samples), len(w.Rows))
	}
	if data := must[[]byte](t)(l.ResolvedFile(ctx, p.Batch.ID, "csv")); strings.Count(string(data), "\n") != 22 || !strings.Contains(string(data), "cis-Jasmone,false") {
		t.Errorf("the file holds %d lines", strings.Count(string(data), "\n"))
	}
	// After a restart nothing is resolved again.
	again := New(l.store)
	if other := must[WholeBatch](t)(again.Resolving(ctx, p.Batch.ID, 3)); slices.ContainsFunc(other.Stretches, func(s ResolvedStretch) bool { return s.State != "done" }) || len(other.Rows) != 21 || *other.Rows[7].Amounts[2] != *w.Rows[7].Amounts[2] || len(other.Rows[7].Hits) != 3 {
		t.Errorf("after a restart: %+v", other.Stretches)
	}
	if table := must[*report.Resolved](t)(l.resolvedTable(ctx, p.Batch.ID)); table.Left != 0 || table.Standard < 0 || len(table.Rows) != 21 {
		t.Errorf("for paper: %d left, standard %d", table.Left, table.Standard)
	}
	last := 0.0
	for _, r := range w.Rows {
		for k, u := range r.Uncertain {
			if (u == nil) != (r.Amounts[k] == nil) || u != nil && !(*u > 0 && *u < 0.3) {
				t.Errorf("the uncertainty of %s in %s is %v", r.Name, w.Samples[k], u)
			}
		}
		id, known := names[strings.ToLower(r.Name)]
		if !known || r.Match == nil || *r.Match < 98 || len(r.Doubts) > 0 || r.ApexMin < last {
			t.Errorf("%s at %.3f min, match %v, %v", r.Name, r.ApexMin, r.Match, r.Doubts)
			continue
		}
		last = r.ApexMin
		var found, put []float64
		for k, sample := range w.Samples {
			content := study.SampleContents[sample][id]
			switch {
			case content == 0 && r.Name != "Ethyl nonanoate" && r.Amounts[k] != nil:
				t.Errorf("%s is told in %s, and is not in it", r.Name, sample)
			case r.Amounts[k] != nil:
				found, put = append(found, *r.Amounts[k]), append(put, content)
			}
		}
		if c := correlated(found, put); r.Name != "Ethyl nonanoate" && c < 0.99 {
			t.Errorf("%s: amounts correlate with what was put in by %.4f", r.Name, c)
		}
	}
}

func correlated(a, b []float64) float64 {
	ma, mb := 0.0, 0.0
	for k := range a {
		ma, mb = ma+a[k]/float64(len(a)), mb+b[k]/float64(len(b))
	}
	ab, aa, bb := 0.0, 0.0, 0.0
	for k := range a {
		ab, aa, bb = ab+(a[k]-ma)*(b[k]-mb), aa+(a[k]-ma)*(a[k]-ma), bb+(b[k]-mb)*(b[k]-mb)
	}
	return ab / math.Sqrt(aa*bb)
}

// A person may say another number, which the study keeps, and take it back; a component that is named is a compound of the method, and is found by its own ion.
func TestAComponentBecomesACompound(t *testing.T) {
	l, first := demo(t)
	ctx := t.Context()
	p := aromaOf(t, l)
	id := p.Batch.ID
	w := must[WholeBatch](t)(l.Resolving(ctx, id, 1))
	at := slices.IndexFunc(w.Stretches, func(s ResolvedStretch) bool { return s.FromMin < 12.3 && 12.3 < s.ToMin })
	if at < 0 || w.Stretches[at].State != "waiting" {
		t.Fatalf("%+v", w.Stretches)
	}
	d := must[ResolvedDetail](t)(l.ResolvedStretchOf(ctx, id, at))
	if len(d.Components) != 2 || d.Explained < 0.99 || len(d.Measured) != 16 || len(d.Components[1].Profiles) != 16 || len(d.Components[1].Hits) != MostHits || !strings.HasPrefix(d.Says, "2 compounds explain") || d.Components[1].Found != 16 {
		t.Fatalf("%d components, %s", len(d.Components), d.Says)
	}
	for k, rest := range d.Rest {
		sum := 0.0
		for _, v := range rest {
			sum += v / float64(len(rest))
		}
		if len(rest) != len(d.TimesMin[k]) || sum < 0.7 || sum > 1.4 {
			t.Errorf("injection %d: what is left is %.2f of what noise would leave", k, sum)
		}
	}
	second := must[SecondOpinion](t)(l.SecondOpinionOf(ctx, id, at))
	if len(second.Components) != 2 || second.Components[0].Cosine < 0.9 || second.Components[0].Cosine > 1.0000001 || second.Says == "" {
		t.Errorf("the second opinion: %+v", second)
	}
	if one := must[ResolvedDetail](t)(l.GiveNumber(ctx, id, at, 1, who)); len(one.Components) != 1 || one.Given != 1 || one.ChosenBy != "given" || one.Found == nil || one.Found.Compounds != 2 || one.Found.Explained <= one.Explained {
		t.Errorf("one was asked for: %+v", one.Says)
	}
	if found := must[ResolvedDetail](t)(l.GiveNumber(ctx, id, at, 0, who)); len(found.Components) != 2 || found.Given != 0 {
		t.Errorf("found again: %s", found.Says)
	}
	if _, err := l.GiveNumber(ctx, id, at, 11, who); err == nil {
		t.Error("eleven are taken")
	}
	b := must[store.Batch](t)(l.NameComponent(ctx, id, 0, ComponentNamed{Stretch: at, Component: 1, Name: " Nonanal "}, who))
	c := b.Version.Method.Compounds[len(b.Version.Method.Compounds)-1]
	if c.Name != "Nonanal" || math.Abs(c.ExpectedMin-12.379) > 0.01 || c.Channel == "" || !strings.Contains(b.Version.Reason, "resolved from its neighbours") {
		t.Errorf("%+v, %s", c, b.Version.Reason)
	}
	r := must[Processed](t)(l.Process(ctx, id)).Result
	found := 0
	for k, in := range p.Batch.Injections {
		if slices.ContainsFunc(w.Samples, func(s string) bool { return s == in.Name }) && r.Injections[k].PeakOf(c.ID) != nil {
			found++
		}
	}
	if found != 16 {
		t.Errorf("it is found in %d injections by its ion", found)
	}
	for says, n := range map[string]ComponentNamed{"already": {at, 0, "nonanal"}, "needs a name": {at, 0, " "}} {
		if _, err := l.NameComponent(ctx, id, 0, n, who); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%+v: %v", n, err)
		}
	}
	for _, n := range []ComponentNamed{{99, 0, "x"}, {-1, 0, "x"}, {at, 9, "x"}} {
		if _, err := l.NameComponent(ctx, id, 0, n, who); !errors.Is(err, store.ErrNotFound) {
			t.Errorf("%+v: %v", n, err)
		}
	}
	if err := l.ResolveBatch(ctx, first, who); err == nil || !strings.Contains(err.Error(), "no sample with spectra") {
		t.Errorf("a batch without spectra: %v", err)
	}
	if none := must[WholeBatch](t)(l.Resolving(ctx, first, 1)); len(none.Stretches) != 0 {
		t.Errorf("%+v", none.Stretches)
	}
	if found := must[record.Verification](t)(l.VerifyQuickly(ctx)); len(found.Wrong) > 0 {
		t.Errorf("the check finds %v", found.Wrong)
	}
}

// Stretches are joined, parted and moved by hand, and go back to what was proposed; what is left out stays so until it is had back.
func TestStretchesAndComponentsAreSetByHand(t *testing.T) {
	l, _ := demo(t)
	ctx := t.Context()
	id := aromaOf(t, l).Batch.ID
	proposed := must[WholeBatch](t)(l.Resolving(ctx, id, 1))
	at := slices.IndexFunc(proposed.Stretches, func(s ResolvedStretch) bool { return s.FromMin < 12.3 && 12.3 < s.ToMin })
	var joined []resolving.Stretch
	for k, s := range proposed.Stretches {
		if k == at+1 {
			joined[len(joined)-1].ToMin = s.ToMin
			continue
		}
		joined = append(joined, s.Stretch)
	}
	w := must[WholeBatch](t)(l.SetStretches(ctx, id, joined, who))
	if !w.ByHand || len(w.Stretches) != len(proposed.Stretches)-1 {
		t.Fatalf("%d stretches, by hand %v", len(w.Stretches), w.ByHand)
	}
	d := must[ResolvedDetail](t)(l.ResolvedStretchOf(ctx, id, at))
	if len(d.Components) != 3 {
		t.Errorf("two stretches joined hold %d components", len(d.Components))
	}
	w = must[WholeBatch](t)(l.PutComponentAside(ctx, id, at, 1, true, who))
	if k := slices.IndexFunc(w.Rows, func(r ResolvedRow) bool { return r.Stretch == at && r.Component == 1 }); k < 0 || !w.Rows[k].Aside {
		t.Errorf("it is not left out: %+v", w.Rows)
	}
	if w = must[WholeBatch](t)(l.PutComponentAside(ctx, id, at, 1, false, who)); slices.ContainsFunc(w.Rows, func(r ResolvedRow) bool { return r.Aside }) {
		t.Error("it is not had back")
	}
	for _, odd := range [][]resolving.Stretch{{{FromMin: 5, ToMin: 5}}, {{FromMin: -1, ToMin: 5}}, {{FromMin: 5, ToMin: 7}, {FromMin: 6, ToMin: 8}}, {{FromMin: math.NaN(), ToMin: 8}}, make([]resolving.Stretch, 401)} {
		if _, err := l.SetStretches(ctx, id, odd, who); err == nil {
			t.Errorf("%d stretches, the first %+v, are taken", len(odd), odd[0])
		}
	}
	if w = must[WholeBatch](t)(l.SetStretches(ctx, id, nil, who)); w.ByHand || len(w.Stretches) != len(proposed.Stretches) {
		t.Errorf("%d stretches, by hand %v", len(w.Stretches), w.ByHand)
	}
	if _, err := l.PutComponentAside(ctx, id, 99, 0, true, who); !errors.Is(err, store.ErrNotFound) {
		t.Error(err)
	}
	short := must[WholeBatch](t)(l.SetStretches(ctx, id, []resolving.Stretch{{FromMin: 12, ToMin: 12.02}}, who))
	if d := must[ResolvedDetail](t)(l.ResolvedStretchOf(ctx, id, 0)); len(d.Components) != 0 || !strings.Contains(d.Says, "scans in the stretch") || len(short.Stretches) != 1 {
		t.Errorf("a stretch too short: %s", d.Says)
	}
}

// What a blank has, too, is told: carried over where only a blank after samples has it, else not from the samples. Little is not told, nor what runs through.
func TestWhatBlanksHaveIsTold(t *testing.T) {
	peak, flat := []float64{0, 0, 1, 5, 1, 0, 0}, []float64{1, 1, 1, 1, 1, 1, 1}
	of := func(last []float64, areas ...float64) (c resolving.Component) {
		for _, a := range areas {
			c.Samples = append(c.Samples, resolving.Portion{AreaS: a, SE: 1, Profile: peak})
		}
		c.Samples[3].Profile = last
		return c
	}
	b, stack := store.Batch{}, resolving.Stack{}
	for k, role := range []batch.Role{batch.Blank, batch.Sample, batch.Sample, batch.Blank} {
		b.Injections = append(b.Injections, store.Injection{Entry: batch.Entry{ID: string(rune('a' + k)), Role: role}})
		stack.Samples = append(stack.Samples, resolving.Sample{TimesS: []float64{0, 1, 2, 3, 4, 5, 6}})
	}
	w := &wholeBatch{ids: []string{"b", "c", "a", "d"}, samples: 2}
	for _, o := range []struct {
		says string
		c    resolving.Component
	}{
		{"", of(peak, 1000, 2000, 0, 15)},
		{"", of(flat, 1000, 2000, 0, 100)},
		{"Carried over: a blank after samples has 5 %", of(peak, 1000, 2000, 2, 100)},
		{"In a blank, too, with 50 %", of(peak, 1000, 2000, 1000, 900)},
	} {
		if got := inBlanks(b, w, stack, o.c); !strings.HasPrefix(got, o.says) || o.says == "" && got != "" {
			t.Errorf("%q, want %q", got, o.says)
		}
	}
}

// The uncertainty of a mean is that of noise, or what injections of one sample differ by over all samples, whichever is more.
func TestAmountsBearTheirUncertainty(t *testing.T) {
	p := Processed{}
	p.Result.Samples = []batch.SampleRow{{Name: "A", InjectionIDs: []string{"1", "2"}}, {Name: "B", InjectionIDs: []string{"3", "4"}}, {Name: "C", InjectionIDs: []string{"5"}}}
	w := &wholeBatch{ids: []string{"1", "2", "3", "4", "5"}, samples: 5}
	c := resolving.Component{}
	for _, s := range [][2]float64{{99, 1}, {101, 1}, {196, 1}, {204, 1}, {10, 3}} {
		c.Samples = append(c.Samples, resolving.Portion{AreaS: s[0], SE: s[1]})
	}
	var r ResolvedRow
	r.amounts(p, w, c)
	pooled := math.Sqrt((0.01*0.01*2 + 0.02*0.02*2) / 2)
	for k, want := range []float64{pooled / math.Sqrt2, pooled / math.Sqrt2, 0.3} {
		if r.Uncertain[k] == nil || math.Abs(*r.Uncertain[k]-want) > 1e-12 {
			t.Errorf("sample %d: %v, want %g", k, r.Uncertain[k], want)
		}
	}
}

// Two compounds that bear one name say so, both of them; one that is left out does not count.
func TestTwoCompoundsOfOneNameAreDoubted(t *testing.T) {
	w := WholeBatch{Stretches: make([]ResolvedStretch, 3), Rows: []ResolvedRow{
		{Name: "Linalool", ApexMin: 12.29}, {Name: "linalool", Stretch: 2, ApexMin: 12.9}, {Name: "Nonanal", Stretch: 1}, {Name: "Nonanal", Stretch: 1, Aside: true}, {}, {},
	}}
	w.doubtTwins()
	if len(w.Rows[0].Doubts) != 1 || !strings.Contains(w.Rows[0].Doubts[0], "at 12.90 min, too") || len(w.Rows[1].Doubts) != 1 || !strings.Contains(w.Rows[1].Doubts[0], "at 12.29 min, too") {
		t.Errorf("%v, %v", w.Rows[0].Doubts, w.Rows[1].Doubts)
	}
	if len(w.Rows[2].Doubts)+len(w.Rows[3].Doubts)+len(w.Rows[4].Doubts) > 0 || w.Stretches[1].Doubtful || !w.Stretches[0].Doubtful || !w.Stretches[2].Doubtful {
		t.Errorf("%+v", w)
	}
}

// A blank is resolved with the samples only where it lasts as long as they do; one of no scans breaks nothing.
func TestBlanksThatEndEarlyAreLeftOut(t *testing.T) {
	run := []float64{0, 1, 2, 3, 4, 5, 6, 7, 8, 9}
	for _, c := range []struct {
		blank, samples []float64
		want           bool
	}{{run, run, true}, {run[1:9], run, true}, {run[:5], run, false}, {run[5:], run, false}, {nil, run, false}, {run[:1], run, false}, {run, nil, false}} {
		if got := covers(c.blank, c.samples); got != c.want {
			t.Errorf("%v over %v: %v", c.blank, c.samples, got)
		}
	}
}
