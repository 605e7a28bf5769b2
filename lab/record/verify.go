package record

import (
	"context"
	"encoding/json"
	"fmt"
	"maps"
	"slices"

	"yugen/core/batch"
	"yugen/core/peaks"
	"yugen/core/signal"
	"yugen/formats"
	"yugen/formats/read"
	"yugen/formats/text"
	"yugen/lab/change"
	"yugen/lab/review"
	"yugen/raw"
	"yugen/store"
)

// Verification is what checking the store found.
type Verification struct {
	Files   int      `json:"files"`
	Changes int64    `json:"changes"`
	Wrong   []string `json:"wrong"`
}

// Tell says in a sentence what was found.
func (v Verification) Tell() string {
	if len(v.Wrong) == 0 {
		return fmt.Sprintf("whole: %d files, %d rows of the record", v.Files, v.Changes)
	}
	return fmt.Sprintf("%d of what was checked is not as it was: %s", len(v.Wrong), v.Wrong[0])
}

// Verify checks a store from outside in: its own hashes, seals and guards; decoded traces against their raw files; and the record, which is replayed and
// compared with methods, batches and reports as they stand. progress is told how many of the raw files are through, counted twice; it may be nil.
func Verify(ctx context.Context, kept *store.Store, progress func(done, total int)) (Verification, error) {
	return verify(ctx, kept, progress, checkTraces)
}

// VerifyQuickly is Verify that trusts a raw file with the right hash to have been decoded rightly: what takes longest is left out.
func VerifyQuickly(ctx context.Context, kept *store.Store) (Verification, error) {
	return verify(ctx, kept, nil, func(*store.Tx, func(int)) ([]string, error) { return nil, nil })
}

func verify(ctx context.Context, kept *store.Store, progress func(done, total int), traces func(t *store.Tx, progress func(done int)) ([]string, error)) (Verification, error) {
	if progress == nil {
		progress = func(int, int) {}
	}
	own, err := kept.Verify(ctx, func(done, files int) { progress(done, 2*files) })
	v := Verification{own.Blobs, own.Rows, own.Wrong}
	if err != nil {
		return v, err
	}
	err = kept.Read(ctx, func(t *store.Tx) error {
		wrong, err := traces(t, func(done int) { progress(own.Blobs+done, 2*own.Blobs) })
		if err != nil {
			return err
		}
		replayed, err := checkRecorded(t)
		v.Wrong = append(append(v.Wrong, wrong...), replayed...)
		return err
	})
	if v.Wrong == nil {
		v.Wrong = []string{}
	}
	return v, err
}

// checkTraces decodes every raw file again and compares what comes out with the traces that are processed.
func checkTraces(t *store.Tx, progress func(done int)) (wrong []string, err error) {
	files, err := t.TraceFiles()
	if err != nil {
		return nil, err
	}
	for i, f := range files {
		progress(i)
		file, err := t.OpenRaw(f.RawHash)
		if err != nil {
			continue // told already
		}
		var sums raw.Digests
		decoded, err := read.From(file, file.Size, text.AxisGuessed, formats.Streamed, &sums)
		if err == nil && len(decoded.Traces) != f.Traces { // heads that are numbers were names of channels once
			sums = raw.Digests{}
			decoded, err = read.From(file, file.Size, text.AxisChannels, formats.Streamed, &sums)
		}
		if err != nil || len(decoded.Traces) != f.Traces {
			wrong = append(wrong, fmt.Sprintf("The raw file %.12s gives %d traces, %d are kept.", f.RawHash, len(decoded.Traces), f.Traces))
			continue
		}
		for k, tr := range decoded.Traces {
			if kept, err := t.Trace(f.RawHash, k); err != nil || !sameTrace(kept, tr) {
				wrong = append(wrong, fmt.Sprintf("Trace %d of the raw file %.12s is not what the file holds.", k+1, f.RawHash))
			}
		}
		if err := t.CheckSpectra(f.RawHash, sums); err != nil {
			wrong = append(wrong, fmt.Sprintf("Spectra of the raw file %.12s: %s.", f.RawHash, err))
		}
	}
	return wrong, nil
}

func sameTrace(a, b signal.Trace) bool {
	return a.Name == b.Name && a.Unit == b.Unit && a.StartS == b.StartS && a.StepS == b.StepS && slices.Equal(a.TimesS, b.TimesS) && slices.Equal(a.Values, b.Values)
}

// replayed is a batch as the record leaves it.
type replayed struct {
	name       string
	version    string // empty where no row says it
	order      []string
	injections map[string]store.Injection
	settled    map[string]bool
	choices    *batch.Choices
	pdfs       []string // of kept reports
	signing    []store.Change
	locked     bool
}

// recorded is what the whole record says.
type recorded struct {
	batches  map[string]*replayed
	versions map[string]string // hashes by id
	traces   map[string]int    // how many are kept of each raw file
	entrance entrance
	wrong    []string
}

// checkRecorded replays the record and compares.
func checkRecorded(t *store.Tx) ([]string, error) {
	r := recorded{batches: map[string]*replayed{}, versions: map[string]string{}, traces: map[string]int{}, entrance: entrance{people: map[string]string{}, tokens: map[string]string{}}}
	files, err := t.TraceFiles()
	if err != nil {
		return nil, err
	}
	for _, f := range files {
		r.traces[f.RawHash] = f.Traces
	}
	if err := t.EachChange(r.see); err != nil {
		return nil, err
	}
	if err := r.checkEntrance(t); err != nil {
		return nil, err
	}
	hashes, err := t.VersionHashes()
	if err != nil {
		return nil, err
	}
	for _, id := range slices.Sorted(maps.Keys(r.versions)) {
		if hash, there := hashes[id]; !there {
			r.say("A method version that was saved, %.13s, is missing.", id)
		} else if hash != r.versions[id] {
			r.say("The method version %.13s is not the one that was saved.", id)
		}
	}
	studies, err := t.Studies()
	if err != nil {
		return nil, err
	}
	there := map[string]bool{}
	for _, s := range studies {
		for _, listed := range s.Batches {
			there[listed.ID] = true
			if err := r.compare(t, listed.ID); err != nil {
				return nil, err
			}
		}
	}
	for _, id := range slices.Sorted(maps.Keys(r.batches)) {
		if !there[id] {
			r.say("The batch %s, of which the record tells, is missing.", r.batches[id].name)
		}
	}
	return r.wrong, nil
}

func (r *recorded) say(format string, args ...any) {
	r.wrong = append(r.wrong, fmt.Sprintf(format, args...))
}

// see takes one row of the record.
func (r *recorded) see(c store.Change) error {
	if c.BatchID == "" {
		r.entrance.see(c)
		if c.Action == store.ApprovalAction {
			var a struct{ Version, Hash string }
			if err := json.Unmarshal([]byte(c.After), &a); err != nil {
				return err
			}
			r.versions[a.Version] = a.Hash
		}
		return nil
	}
	b := r.batches[c.BatchID]
	if b == nil {
		b = &replayed{injections: map[string]store.Injection{}, settled: map[string]bool{}}
		r.batches[c.BatchID] = b
	}
	if b.locked && !store.TakenWhenSigned(c.Action) {
		r.say("Row %d changed %s while it was signed.", c.Seq, b.name)
	}
	switch c.Action {
	case store.ReviewAction, store.SignatureAction, store.UnlockAction:
		b.signing, b.locked = append(b.signing, c), store.Locks(c, b.locked)
		return nil
	case change.BatchAction:
		b.name = c.Subject
	}
	if c.Action == change.ReportAction {
		b.pdfs = append(b.pdfs, c.After)
		return nil
	}
	var s change.State
	if json.Unmarshal([]byte(c.After), &s) != nil { // early rows say other things there
		return nil
	}
	b.apply(s)
	if s.VersionHash != "" {
		r.versions[s.Version] = s.VersionHash
	}
	return nil
}

// apply does to a replayed batch what state.apply does to the store.
func (b *replayed) apply(s change.State) {
	for _, id := range s.Gone {
		delete(b.injections, id)
		b.order = slices.DeleteFunc(b.order, func(o string) bool { return o == id })
	}
	for _, in := range s.Back {
		b.injections[in.ID] = in
		b.order = append(b.order, in.ID)
	}
	if s.Name != "" {
		b.name = s.Name
	}
	if s.Version != "" {
		b.version = s.Version
	}
	if s.Choices != nil || s.ByVersion {
		b.choices = s.Choices
	}
	for id, e := range s.Entries {
		in := b.injections[id]
		in.Entry = e
		b.injections[id] = in
	}
	for id, files := range s.Files {
		in := b.injections[id]
		in.More = files
		b.injections[id] = in
	}
	for id, at := range s.Traces {
		in := b.injections[id]
		in.Trace = at
		b.injections[id] = in
	}
	for id, edits := range s.Edits {
		in := b.injections[id]
		in.Edits = edits
		b.injections[id] = in
	}
	maps.Copy(b.settled, s.Settled)
	if len(s.Order) > 0 {
		b.order = slices.Clone(s.Order)
	}
}

// compare sets a batch as it stands beside what the record leaves.
func (r *recorded) compare(t *store.Tx, id string) error {
	now, err := t.Batch(id)
	if err != nil {
		return err
	}
	b := r.batches[id]
	if b == nil {
		r.say("The record does not tell of the batch %s.", now.Name)
		return nil
	}
	if b.name != "" && b.name != now.Name {
		r.say("The batch %s was called %s.", now.Name, b.name)
	}
	if b.version != "" && b.version != now.Version.ID {
		r.say("%s uses another method version than was chosen.", now.Name)
	}
	if !slices.Equal(change.Order(now), b.order) {
		r.say("The injections of %s, or their order, are not what the record leaves.", now.Name)
	}
	for _, in := range now.Injections {
		want, known := b.injections[in.ID]
		if !known {
			continue // told with the order
		}
		entry := want.Entry
		entry.ID = in.ID
		own := in.Entry
		own.ID = in.ID
		if change.JSON(own) != change.JSON(entry) {
			r.say("The line of %s in the run list of %s was changed past the record.", in.Name, now.Name)
		}
		if in.RawHash != want.RawHash || in.Trace != want.Trace || in.FileName != want.FileName || change.JSON(in.Header) != change.JSON(want.Header) || change.JSON(append([]store.FurtherFile{}, in.More...)) != change.JSON(append([]store.FurtherFile{}, want.More...)) {
			r.say("%s in %s stands on another file than came in.", in.Name, now.Name)
		}
		if hash, position, ok := in.SignalAt(in.Trace); in.Typed == nil && (!ok || position >= r.traces[hash]) {
			r.say("The trace of %s in %s is missing.", in.Name, now.Name)
		}
		if change.JSON(orNone(in.Edits)) != change.JSON(orNone(want.Edits)) {
			r.say("The edits of %s in %s were changed past the record.", in.Name, now.Name)
		}
	}
	var settled []string
	for key, is := range b.settled {
		if is {
			settled = append(settled, key)
		}
	}
	slices.Sort(settled)
	if !slices.Equal(settled, now.Settled) {
		r.say("The notices of %s that were settled are not what the record leaves.", now.Name)
	}
	if b.choices != nil && change.JSON(*b.choices) != change.JSON(now.Choices) || now.OwnChoices != (b.choices != nil) {
		r.say("What %s decided about its curves was changed past the record.", now.Name)
	}
	state, err := review.StateOf(b.signing)
	if err != nil {
		return err
	}
	for _, m := range review.Meanings {
		if g := state.Standing(m); g != nil && g.Locks && !g.Seal.Holds(now) {
			r.say("%s is not what %s signed as %s.", now.Name, g.Name, m)
		}
	}
	return r.compareReports(t, now, b.pdfs)
}

func orNone(edits []peaks.Edit) []peaks.Edit {
	if edits == nil {
		return []peaks.Edit{}
	}
	return edits
}

// compareReports sets the kept reports of a batch beside the rows that tell of them.
func (r *recorded) compareReports(t *store.Tx, b store.Batch, told []string) error {
	kept, err := t.Reports(b.ID)
	if err != nil {
		return err
	}
	var have []string
	for _, k := range kept {
		have = append(have, KeptText(k))
	}
	slices.Reverse(have) // the oldest first, as the record has them
	if len(have) != len(told) {
		r.say("%s has %d kept reports, the record tells of %d.", b.Name, len(have), len(told))
		return nil
	}
	for i := range have {
		if told[i] != have[i] && told[i] != kept[len(kept)-1-i].PDFHash { // early rows have the hash of the PDF alone
			r.say("A kept report of %s is not the one that was made.", b.Name)
		}
	}
	return nil
}

// KeptText is what the record says of a kept report.
func KeptText(k store.Report) string {
	return change.JSON(map[string]string{"pdf": k.PDFHash, "inputs": k.InputsHash, "layout": k.Layout, "injection": k.InjectionID, "by": k.MadeBy})
}
