package lab

import (
	"context"
	"fmt"
	"path"
	"slices"
	"strings"

	"yugen/core/batch"
	"yugen/formats/cells"
	"yugen/store"
)

// The size of a run list that is pasted is bounded.
const (
	maxWaiting        = 5000
	maxWaitingColumns = 200
)

// headings are what the columns of a run list are called, besides their fields.
var headings = map[string]batch.Field{
	"sample name": batch.FieldName, "sample": batch.FieldName, "injection": batch.FieldName, "extract": batch.FieldVolume, "sample amount": batch.FieldSample, "weight": batch.FieldSample,
	"int. std": batch.FieldInternal, "internal standard": batch.FieldInternal, "mixture": batch.FieldMix, "position": batch.FieldVial, "type": batch.FieldRole, "file name": "file", "filename": "file",
}

// fieldOf is the field that a heading names: "Level, mg/L" names the level. ok is false where it names none.
func fieldOf(heading string, own []batch.OwnColumn) (field batch.Field, ok bool) {
	word := strings.ToLower(strings.TrimSpace(heading))
	bare, _, _ := strings.Cut(word, ",")
	for _, w := range []string{word, strings.TrimSpace(bare)} {
		if w == "file" {
			return "file", true
		}
		for _, c := range own {
			if strings.ToLower(c.Name) == w {
				return c.Field(), true
			}
		}
		if f, known := headings[w]; known && w != "sample" {
			return f, true
		}
		if slices.Contains(batch.Fields, batch.Field(w)) && w != "sample" {
			return batch.Field(w), true
		}
	}
	if bare == "sample" { // with a unit it is how much was taken, alone the name
		if strings.Contains(word, ",") {
			return batch.FieldSample, true
		}
		return batch.FieldName, true
	}
	return "", false
}

// WaitFor takes a run list that comes before its files: a table with headings. Each line waits for the file of its name, of its vial, or of its sample, and fills
// the run list when that comes. An empty table lets nothing wait.
func (l *Lab) WaitFor(ctx context.Context, batchID, table, who string) ([]store.WaitingLine, error) {
	b, err := l.Batch(ctx, batchID)
	if err != nil {
		return nil, err
	}
	list := []store.WaitingLine{}
	if strings.TrimSpace(table) != "" {
		if list, err = waitingOf(table, b.OwnColumns); err != nil {
			return nil, err
		}
	}
	err = l.store.Write(ctx, func(t *store.Tx) error {
		if err := t.SetWaitingLines(batchID, list); err != nil {
			return err
		}
		_, err := t.Record(store.Change{Who: who, BatchID: batchID, Action: "run list waits", Subject: plural(len(list), "line"), Why: "for files that have not come", Before: "{}", After: "{}"})
		return err
	})
	return list, err
}

func waitingOf(table string, own []batch.OwnColumn) ([]store.WaitingLine, error) {
	rows, lines, err := cells.Split(table, maxWaiting+1, maxWaitingColumns)
	if err != nil {
		return nil, refuseAt("/text", "%s", err)
	}
	if len(rows) < 2 {
		return nil, refuseAt("/text", "a run list has a line of headings, as name, role, level, vial, and a line for each injection")
	}
	fields := make([]batch.Field, len(rows[0]))
	for i, h := range rows[0] {
		f, ok := fieldOf(h, own)
		if !ok && strings.TrimSpace(h) != "" {
			return nil, refuseAt("/text", "the heading %q names no column of the run list; known are file, %v and the study's own", h, batch.Fields)
		}
		fields[i] = f
	}
	if !slices.ContainsFunc(fields, func(f batch.Field) bool { return f == "file" || f == batch.FieldVial || f == batch.FieldName }) {
		return nil, refuseAt("/text", "the run list needs a column file, vial or name, by which its lines find their files")
	}
	list := []store.WaitingLine{}
	for n, row := range rows[1:] {
		w := store.WaitingLine{Fields: map[batch.Field]string{}}
		entry := batch.Entry{Dilution: 1, Factor: 1}
		for i, text := range row {
			text = strings.TrimSpace(text)
			if i >= len(fields) || fields[i] == "" || text == "" {
				continue
			}
			if fields[i] == "file" {
				w.File = text
				continue
			}
			if err := setField(&entry, own, fields[i], text); err != nil {
				return nil, refuseAt("/text", "line %d: %s", lines[n+1], err)
			}
			w.Fields[fields[i]] = text
		}
		w.Vial, w.Sample = entry.Vial, entry.Name
		if w.File+w.Vial+w.Sample == "" {
			return nil, refuseAt("/text", "line %d has no file, no vial and no name, so no file would find it", lines[n+1])
		}
		list = append(list, w)
	}
	return list, nil
}

// Waiting lists the lines of a batch that wait for their files.
func (l *Lab) Waiting(ctx context.Context, batchID string) (list []store.WaitingLine, err error) {
	err = l.store.Read(ctx, func(t *store.Tx) error {
		if err := t.HasBatch(batchID); err != nil {
			return err
		}
		list, err = t.WaitingLines(batchID)
		return err
	})
	return list, err
}

// claim fills a new injection from the line that waits for it, and lets the line wait no longer. A line finds its file by the file's name, else by the vial, else
// by the name of the sample; the first that fits is it.
func claim(t *store.Tx, batchID string, in *store.Injection) error {
	list, err := t.WaitingLines(batchID)
	if err != nil || len(list) == 0 {
		return err
	}
	stem := func(name string) string { return strings.ToLower(strings.TrimSuffix(name, path.Ext(name))) }
	at := -1
	for _, fits := range []func(store.WaitingLine) bool{
		func(w store.WaitingLine) bool {
			return w.File != "" && (strings.EqualFold(w.File, in.FileName) || stem(w.File) == stem(in.FileName) || strings.EqualFold(w.File, stem(in.FileName)))
		},
		func(w store.WaitingLine) bool {
			return w.File == "" && w.Vial != "" && strings.EqualFold(w.Vial, in.Header.Vial)
		},
		func(w store.WaitingLine) bool {
			return w.File == "" && (w.Vial == "" || in.Header.Vial == "") && w.Sample != "" && strings.EqualFold(w.Sample, strings.TrimSpace(in.Header.SampleName))
		},
	} {
		if at = slices.IndexFunc(list, fits); at >= 0 {
			break
		}
	}
	if at < 0 {
		return nil
	}
	b, err := t.Batch(batchID)
	if err != nil {
		return err
	}
	for field, text := range list[at].Fields {
		if strings.HasPrefix(string(field), batch.OwnPrefix) && !slices.ContainsFunc(b.OwnColumns, func(c batch.OwnColumn) bool { return c.Field() == field }) {
			continue // the study has that column no longer
		}
		if err := setField(&in.Entry, b.OwnColumns, field, text); err != nil {
			return fmt.Errorf("the waiting run list: %w", err)
		}
	}
	in.Doubts = list[at].Doubts
	return t.SetWaitingLines(batchID, slices.Delete(list, at, at+1))
}
