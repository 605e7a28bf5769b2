package lab

import (
	"context"
	"errors"
	"path"
	"regexp"
	"strconv"
	"strings"

	"yugen/core/batch"
	"yugen/core/peaks"
	"yugen/formats"
	"yugen/formats/read"
	"yugen/formats/runlist"
	"yugen/store"
)

// Outcome says what became of one file.
type Outcome struct {
	File        string `json:"file"`
	Status      Status `json:"status"`
	InjectionID string `json:"injection_id,omitempty"`
	Message     string `json:"message,omitempty"`
}

// Status is how an import ended.
type Status string

// The ways an import ends.
const (
	Added   Status = "added"
	Already Status = "already" // the batch holds this very file; nothing was done
	Refused Status = "refused"
)

// Import adds a file to a batch. A file that cannot be read is refused with its reason and changes nothing; the same file
// twice changes nothing either.
func (l *Lab) Import(ctx context.Context, batchID, fileName string, data []byte, who string) (Outcome, error) {
	fileName = path.Base(strings.ReplaceAll(fileName, "\\", "/"))
	if len(fileName) > 200 {
		fileName = fileName[len(fileName)-200:]
	}
	out := Outcome{File: fileName, Status: Refused}
	file, err := read.File(data)
	var unreadable *formats.Error
	if errors.As(err, &unreadable) {
		out.Message = Reason(unreadable)
		return out, nil
	}
	if err != nil {
		return out, err
	}
	in := store.Injection{Entry: proposedEntry(fileName, file.Header), FileName: fileName, Header: file.Header}
	revision := 0
	err = l.store.Write(ctx, func(t *store.Tx) error {
		if _, err := t.Batch(batchID); err != nil {
			return err
		}
		if in.RawHash, err = t.PutBlob(data); err != nil {
			return err
		}
		if err := t.PutTraces(in.RawHash, file.Traces); err != nil {
			return err
		}
		id, added, err := t.AddInjection(batchID, in)
		if err != nil {
			return err
		}
		out.InjectionID, out.Status = id, Already
		if !added {
			out.Message = "This file is in the batch already."
			return nil
		}
		out.Status = Added
		if revision, err = t.Touch(batchID, 0); err != nil {
			return err
		}
		in.ID, in.Edits = id, []peaks.Edit{}
		_, err = t.Record(store.Change{Who: who, BatchID: batchID, Action: "import", Subject: fileName,
			Before: mustJSON(state{Gone: []string{id}}), After: mustJSON(state{Back: []store.Injection{in}})})
		return err
	})
	if err == nil && out.Status == Added {
		l.watch.tell(Event{batchID, revision})
	}
	return out, err
}

var contentInName = regexp.MustCompile(`(\d+(?:[.,]\d+)?)\s*(?:mg|µg|ug|ng|mmol|µmol)/m?L`)

// proposedEntry fills a line of the run list from what a file says of its injection; the file name stands in for a sample
// without a name.
func proposedEntry(fileName string, h formats.Header) batch.Entry {
	e := batch.Entry{Name: strings.TrimSpace(h.SampleName), Vial: h.Vial, Dilution: 1, Factor: 1, Sample: h.SampleAmount}
	if e.Name == "" {
		e.Name = strings.TrimSuffix(fileName, path.Ext(fileName))
	}
	if r := []rune(e.Name); len(r) > 100 {
		e.Name = string(r[:100])
	}
	switch strings.ToLower(h.SampleType) {
	case "standard":
		e.Role = batch.Standard
	case "blank":
		e.Role = batch.Blank
	case "control", "check":
		e.Role = batch.Check
	case "unknown", "sample":
		e.Role = batch.Sample
	}
	if m := contentInName.FindStringSubmatch(e.Name); m != nil && e.Role == batch.Standard {
		if v, err := strconv.ParseFloat(strings.Replace(m[1], ",", ".", 1), 64); err == nil {
			e.Level = &v
		}
	}
	return e
}

// ApplyRunList sets the entries of a batch from a run list, by file name.
func (l *Lab) ApplyRunList(ctx context.Context, batchID string, lines []runlist.Line, who string) (store.Batch, error) {
	b, err := l.Batch(ctx, batchID)
	if err != nil {
		return b, err
	}
	return l.make(ctx, batchID, b.Revision, who, func(_ *store.Tx, b store.Batch) (change, error) {
		c := change{action: "run list", subject: "a run list of " + strconv.Itoa(len(lines)) + " lines", before: state{Entries: map[string]batch.Entry{}}, after: state{Entries: map[string]batch.Entry{}}}
		for _, line := range lines {
			found := false
			for _, in := range b.Injections {
				if in.FileName == line.File {
					found = true
					entry := line.Entry
					entry.ID = in.ID
					c.before.Entries[in.ID], c.after.Entries[in.ID] = in.Entry, entry
				}
			}
			if !found {
				return c, refuse("the run list names %s, which is not among the files", line.File)
			}
		}
		return c, nil
	})
}
