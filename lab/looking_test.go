package lab

import (
	"bytes"
	"fmt"
	"slices"
	"strings"
	"testing"
	"time"

	"yugen/core/batch"
	"yugen/formats"
	"yugen/formats/text"
	"yugen/lab/record"
	"yugen/lab/taking"
	"yugen/store"
)

// delimited is a table of one peak with a head in German.
func delimited(sample string, head string) []byte {
	text := "Probe;" + sample + "\nDatum;04.03.2026 14:05\n" + head + "\n"
	for i := range 300 {
		d := float64(i-150) / 8
		text += fmt.Sprintf("%d,%03d;%d,%02d\n", i/60, i%60*1000/60, int(100/(1+d*d)), i%7)
	}
	return []byte(text)
}

func lookedBatch(t *testing.T) (*Lab, string) {
	t.Helper()
	l := openLab(t)
	return l, must[string](t)(l.NewBatch(t.Context(), "S", "B", "M", batch.NewMethod(), who))
}

func taken(t *testing.T, l *Lab, id string, asked TakeAsked) {
	t.Helper()
	must[[]taking.Arrived](t)(l.Take(t.Context(), id, asked, who))
	for deadline := time.Now().Add(10 * time.Minute); ; time.Sleep(10 * time.Millisecond) {
		if !slices.ContainsFunc(l.Arrivals(id), func(a taking.Arrived) bool { return a.Status == taking.Coming }) {
			return
		}
		if time.Now().After(deadline) {
			t.Fatal("what was taken does not come in")
		}
	}
}

func TestFilesAreLookedAtBeforeAnythingIsKept(t *testing.T) {
	l, id := lookedBatch(t)
	ctx := t.Context()
	noon := time.Date(2026, 4, 4, 12, 0, 0, 0, time.UTC)
	for name, data := range map[string][]byte{
		"run-1-uv.mzML":   measured(t, noon, uv, pressure),
		"run-1-fid.mzML":  measured(t, noon.Add(2*time.Second), fid),
		"run-2-uv.mzML":   measured(t, noon.Add(time.Hour), uv),
		"table.txt":       delimited("Sencha", "Zeit [min];UV [mAU]"),
		"picture.png":     []byte("\x89PNG and so on"),
		"damaged.csv":     []byte("time_min,x\n0,1\n1,2\n2,3\n3,4\n4,5\n5,low\n"),
		"empty.cdf":       {},
		"another/run.csv": []byte("time_min,UV [mAU]\n" + strings.Repeat("1,1\n", 3)),
	} {
		must[taking.Looked](t)(l.Look(ctx, id, name, bytes.NewReader(data), who))
	}
	list := must[[]taking.Looked](t)(l.LookedAt(ctx, id))
	say := func(k taking.Looked) string {
		return fmt.Sprintf("%s %s with %q, lacks %s", k.File, k.Status, k.With, strings.Join(k.Missing, " and "))
	}
	var got []string
	for _, k := range list {
		got = append(got, say(k))
	}
	want := []string{`damaged.csv refused with "", lacks `, `empty.cdf refused with "", lacks `, `picture.png refused with "", lacks `, `run-1-fid.mzML coming with "", lacks `,
		`run-1-uv.mzML coming with "run-1-fid.mzML", lacks `, `run-2-uv.mzML coming with "", lacks `, `run.csv refused with "", lacks `, `table.txt coming with "", lacks `}
	if !slices.Equal(got, want) {
		t.Errorf("%s", strings.Join(got, "\n"))
	}
	if k := list[4]; k.SampleName != "Oolong" || len(k.Signals) != 2 || k.Signals[1].Kind != formats.Condition || slices.Max(k.Silhouette) != 1 {
		t.Errorf("%+v", k)
	}
	if !strings.HasPrefix(list[0].Message, "Line 7, column 2") {
		t.Errorf("%q", list[0].Message)
	}
	if b := must[store.Batch](t)(l.Batch(ctx, id)); len(b.Injections) != 0 || b.Revision != 1 {
		t.Error("looking keeps something")
	}

	taken(t, l, id, TakeAsked{IDs: []string{list[3].ID, list[4].ID, list[5].ID}})
	b := must[store.Batch](t)(l.Batch(ctx, id))
	if len(b.Injections) != 2 || len(b.Injections[0].More) != 1 || b.Injections[1].FileName != "run-2-uv.mzML" {
		t.Errorf("%+v", b.Injections)
	}
	again := must[taking.Looked](t)(l.Look(ctx, id, "copy of run 2.mzML", bytes.NewReader(measured(t, noon.Add(time.Hour), uv)), who))
	list = must[[]taking.Looked](t)(l.LookedAt(ctx, id))
	if len(list) != 6 || list[0].ID != again.ID || list[0].Status != taking.Already {
		t.Errorf("%d are looked at, the copy is %s", len(list), list[0].Status)
	}
	twin := must[taking.Looked](t)(l.Look(ctx, id, "run-2-uv.mzXX", bytes.NewReader(measured(t, noon.Add(time.Hour), uv, pressure)), who))
	for _, k := range must[[]taking.Looked](t)(l.LookedAt(ctx, id)) {
		if k.ID == twin.ID && k.With != "" {
			t.Errorf("the same signal again is said to belong to %s", k.With)
		}
	}
	if left := must[[]taking.Looked](t)(l.PutBack(ctx, id, nil)); len(left) != 0 {
		t.Errorf("%d stay", len(left))
	}
}

func TestTheFileWithADetectorLeads(t *testing.T) {
	l, id := lookedBatch(t)
	noon := time.Date(2026, 4, 4, 12, 0, 0, 0, time.UTC)
	oven := formats.Channel{Name: "Oven", Unit: "°C", Kind: formats.Condition}
	var ids []string
	for name, c := range map[string]formats.Channel{"run-1-pump.mzML": pressure, "run-1-uv.mzML": uv, "run-1-oven.mzML": oven} {
		ids = append(ids, must[taking.Looked](t)(l.Look(t.Context(), id, name, bytes.NewReader(measured(t, noon, c)), who)).ID)
	}
	for _, k := range must[[]taking.Looked](t)(l.LookedAt(t.Context(), id)) {
		if want := map[bool]string{true: "", false: "run-1-uv.mzML"}[k.File == "run-1-uv.mzML"]; k.With != want {
			t.Errorf("%s is with %q, want %q", k.File, k.With, want)
		}
	}
	taken(t, l, id, TakeAsked{IDs: ids})
	if b := must[store.Batch](t)(l.Batch(t.Context(), id)); len(b.Injections) != 1 || b.Injections[0].FileName != "run-1-uv.mzML" || len(b.Injections[0].More) != 2 {
		t.Errorf("%+v", b.Injections)
	}
}

func TestPartedFilesStayApart(t *testing.T) {
	l, id := lookedBatch(t)
	noon := time.Date(2026, 4, 4, 12, 0, 0, 0, time.UTC)
	a := must[taking.Looked](t)(l.Look(t.Context(), id, "run-1-uv.mzML", bytes.NewReader(measured(t, noon, uv)), who))
	b := must[taking.Looked](t)(l.Look(t.Context(), id, "run-1-fid.mzML", bytes.NewReader(measured(t, noon, fid)), who))
	taken(t, l, id, TakeAsked{IDs: []string{a.ID, b.ID}, Apart: []string{a.ID, b.ID}})
	if got := must[store.Batch](t)(l.Batch(t.Context(), id)); len(got.Injections) != 2 {
		t.Errorf("%d injections", len(got.Injections))
	}
}

// A text is read by acting on it; the profile is kept with the study, found by its shape for the next files, and stays with each file that was read by it.
func TestAProfileIsKeptAndFound(t *testing.T) {
	l, id := lookedBatch(t)
	ctx := t.Context()
	first := must[taking.Looked](t)(l.Look(ctx, id, "a.txt", bytes.NewReader(delimited("Sencha", "Zeit [min];UV [mAU]")), who))
	other := must[taking.Looked](t)(l.Look(ctx, id, "b.txt", bytes.NewReader(delimited("Gyokuro", "Zeit [min];UV [mAU]")), who))
	odd := must[taking.Looked](t)(l.Look(ctx, id, "c.txt", bytes.NewReader(delimited("Hojicha", "Zeit [s];UV [mAU]")), who))
	seen := must[TextSeen](t)(l.TextOf(ctx, id, first.ID))
	p := seen.Proposal.Profile
	so := must[SeenSo](t)(l.TryProfile(ctx, id, ReadSo{first.ID, p}))
	if so.Problem != "" || len(so.Signals) != 1 || so.Signals[0].Points != 300 || so.Header.SampleName != "Sencha" || len(so.Fits) != 3 || so.Fits[1].Why != "" || so.Fits[2].Why == "" {
		t.Errorf("%+v", so)
	}
	p.Columns[1].Name, p.Name = "UV 278 nm", "Old detector"
	bad := p
	bad.Data = 2
	if so := must[SeenSo](t)(l.TryProfile(ctx, id, ReadSo{first.ID, bad})); so.Problem == "" {
		t.Error("a line of words is read as numbers")
	}
	if kept := must[[]store.Profile](t)(l.KeepProfile(ctx, id, p, who)); len(kept) != 1 {
		t.Fatalf("%d profiles", len(kept))
	}
	list := must[[]taking.Looked](t)(l.LookedAt(ctx, id))
	for i, want := range []string{"Old detector", "Old detector", ""} {
		if list[i].Profile != want {
			t.Errorf("%s is read by %q, want %q", list[i].File, list[i].Profile, want)
		}
	}
	chosen := text.Profile(must[TextSeen](t)(l.TextOf(ctx, id, odd.ID)).Proposal.Profile)
	chosen.Columns[1].Name = "Lamp"
	taken(t, l, id, TakeAsked{IDs: []string{first.ID, other.ID, odd.ID}, Profiles: map[string]text.Profile{odd.ID: chosen}})
	b := must[store.Batch](t)(l.Batch(ctx, id))
	if len(b.Injections) != 3 || b.Injections[0].Name != "Sencha" || b.Injections[1].Signal != "UV 278 nm" || b.Injections[2].Signal != "Lamp" || b.Injections[0].Header.AcquiredAt == nil {
		t.Fatalf("%+v", b.Injections)
	}
	must[[]store.Profile](t)(l.DropProfile(ctx, id, must[[]store.Profile](t)(l.Profiles(ctx, id))[0].ID, who))
	if name, data, err := rawOf(l, id, b.Injections[0].ID); err != nil || name != "a.txt" || !bytes.Equal(data, delimited("Sencha", "Zeit [min];UV [mAU]")) {
		t.Errorf("the file is not handed back as it came: %d bytes, %v", len(data), err)
	}
	if found := must[record.Verification](t)(l.VerifyQuickly(ctx)); len(found.Wrong) > 0 {
		t.Errorf("the check finds %v", found.Wrong)
	}
	for _, odd := range []string{"../../../etc/passwd", "", ".", ".."} {
		if _, err := l.TextOf(ctx, id, odd); err == nil {
			t.Errorf("%q is read", odd)
		}
	}
}
