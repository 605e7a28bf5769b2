package lab

import (
	"bytes"
	"context"
	"errors"
	"io"
	"path"
	"regexp"
	"strconv"
	"strings"

	"yugen/core/amounts"
	"yugen/core/batch"
	"yugen/core/peaks"
	"yugen/core/spectra"
	"yugen/formats"
	"yugen/formats/read"
	"yugen/formats/runlist"
	"yugen/formats/text"
	"yugen/lab/change"
	"yugen/raw"
	"yugen/store"
)

// Outcome says what became of one file.
type Outcome struct {
	File        string `json:"file"`
	Status      Status `json:"status"`
	InjectionID string `json:"injection_id,omitempty"`
	Message     string `json:"message,omitempty"`
	Unsupported bool   `json:"unsupported,omitempty"` // it is of a kind that is not read; another refused one is damaged
}

// Status is how an import ended.
type Status string

// The ways an import ends.
const (
	Added   Status = "added"
	Joined  Status = "joined"  // it is of an injection that is there, measured by another detector
	Already Status = "already" // the batch holds this very file; nothing was done
	Refused Status = "refused"
	Coming  Status = "coming"  // it has arrived, and is not yet taken in
	Stopped Status = "stopped" // somebody stopped the taking in before it came to this file
)

// Statuses lists them.
var Statuses = []Status{Added, Joined, Already, Refused, Coming, Stopped}

// maxFileName bounds the names of files, in bytes.
const maxFileName = 200

// fileName is the name of a file without its folders, bounded.
func fileName(sent string) string {
	name := path.Base(strings.ReplaceAll(sent, "\\", "/"))
	if len(name) > maxFileName {
		name = strings.ToValidUTF8(name[len(name)-maxFileName:], "")
	}
	return name
}

// decoded is a file on its way into a batch: read and packed, or refused.
type decoded struct {
	out      Outcome
	who      string
	header   formats.Header
	hash     string
	kept     store.Kept
	file     formats.File
	apart    bool           // it is an injection of its own, whatever its name
	signals  []store.Signal // their names and units
	detector int            // the place of the first that is no condition; -1 where there is none
}

// source is a file that is to be read: as it came, or enclosed with the profile by which it is read.
type source struct {
	io.ReaderAt
	size int64
}

func inMemory(data []byte) source { return source{bytes.NewReader(data), int64(len(data))} }

// nowhere takes spectra that nobody wants.
type nowhere struct{}

func (nowhere) Take(spectra.About, spectra.Scan) error { return nil }

// glance reads a file of which nothing is kept. One that cannot be read is refused with its reason.
func glance(name string, from source, who string) (decoded, error) {
	return decode(name, from, who, formats.Streamed, nowhere{})
}

// inFull is glance with the spectra in memory.
func inFull(name string, from source, who string) (decoded, error) {
	return decode(name, from, who, formats.Usual, nil)
}

// keeping is glance for a file that is kept: when it returns, its content is.
func (l *Lab) keeping(ctx context.Context, name string, from source, who string) (decoded, error) {
	hash, err := raw.HashOf(from, from.size)
	if err != nil {
		return decoded{out: Outcome{File: fileName(name), Status: Refused}}, err
	}
	in := l.store.Receive(ctx, hash)
	defer in.Drop()
	d, err := decode(name, from, who, formats.Streamed, in)
	if err != nil || d.out.Status == Refused {
		return d, err
	}
	d.hash = hash
	d.kept, err = l.store.Keep(ctx, in, from, from.size, d.file.Traces)
	d.file = formats.File{} // what was decoded is kept by now, and need not stand in memory
	return d, err
}

// decode reads a file. One that cannot be read is refused with its reason.
func decode(name string, from source, who string, limits formats.Limits, to spectra.Taker) (decoded, error) {
	d := decoded{out: Outcome{File: fileName(name), Status: Refused}, who: who}
	file, err := read.From(from, from.size, text.AxisGuessed, limits, to)
	d.file = file
	var unreadable *formats.Error
	if errors.As(err, &unreadable) {
		d.out.Message, d.out.Unsupported = Reason(unreadable), unreadable.Unsupported
		return d, nil
	}
	if err != nil {
		return d, err
	}
	if len(file.Traces) == 0 {
		d.out.Status, d.out.Message = Refused, "It holds no signal against time that could be integrated, only single spectra."
		return d, nil
	}
	d.header, d.detector = file.Header, -1
	for k, tr := range file.Traces {
		d.signals = append(d.signals, store.Signal{Name: tr.Name, Unit: tr.Unit, Place: k})
		if d.detector < 0 && formats.KindOfChannel(tr.Name, tr.Unit) == formats.Detector {
			d.detector = k
		}
	}
	d.out.Status = Added
	return d, nil
}

// Import adds a file to a batch. A file that cannot be read is refused with its reason and changes nothing; the same file
// twice changes nothing either.
func (l *Lab) Import(ctx context.Context, batchID, name string, data []byte, who string) (Outcome, error) {
	from, err := l.reading(ctx, batchID, nil, inMemory(data))
	if err != nil {
		return Outcome{}, err
	}
	d, err := l.keeping(ctx, name, from, who)
	if err != nil {
		return d.out, err
	}
	outcomes, err := l.add(ctx, batchID, []decoded{d})
	if err != nil {
		return d.out, err
	}
	return outcomes[0], nil
}

// add keeps files that were read, all of them or none, and says what became of each.
func (l *Lab) add(ctx context.Context, batchID string, files []decoded) ([]Outcome, error) {
	outcomes := make([]Outcome, len(files))
	revision := 0
	err := l.store.Write(ctx, func(t *store.Tx) error {
		m, err := t.MethodOf(batchID)
		if err != nil {
			return err
		}
		for i, d := range files {
			outcomes[i] = d.out
			if d.out.Status == Refused {
				continue
			}
			if outcomes[i], err = keepFile(t, batchID, d, m.Curves.Unit); err != nil {
				return err
			}
			if outcomes[i].Status == Already {
				continue
			}
			if revision, err = t.Touch(batchID, 0); err != nil {
				return err
			}
		}
		return nil
	})
	if err == nil && revision > 0 {
		l.watch.tell(Event{BatchID: batchID, Revision: revision})
	}
	return outcomes, err
}

// keepFile keeps one file that was read: as a further file of an injection that it belongs to, else as an injection of its own.
func keepFile(t *store.Tx, batchID string, d decoded, levelUnit string) (Outcome, error) {
	out := d.out
	if err := t.PutKept(d.kept); err != nil {
		return out, err
	}
	id, there, err := t.FileIn(batchID, d.hash)
	if err != nil {
		return out, err
	}
	if there {
		out.InjectionID, out.Status, out.Message = id, Already, "This file is in the batch already."
		return out, nil
	}
	var into *store.Injection
	var doubt string
	if !d.apart {
		into, doubt, err = joining(t, batchID, d)
	}
	if err != nil {
		return out, err
	}
	if into != nil {
		out.InjectionID, out.Status, out.Message = into.ID, Joined, "It belongs to "+into.FileName+": the same name, started at the same time."
		c, err := withFile(t, *into, store.FurtherFile{RawHash: d.hash, FileName: d.out.File, Header: d.header}, d.detector)
		if err != nil {
			return out, err
		}
		if err := c.After.Apply(t, batchID); err != nil {
			return out, err
		}
		_, err = t.Record(store.Change{Who: d.who, BatchID: batchID, Action: "import", Subject: c.Subject, Before: change.JSON(c.Before), After: change.JSON(c.After)})
		return out, err
	}
	in := store.Injection{FileName: d.out.File, Header: d.header, Entry: proposedEntry(d.out.File, d.header, levelUnit), RawHash: d.hash, Trace: max(0, d.detector)}
	if err := claim(t, batchID, &in); err != nil {
		return out, err
	}
	if in.ID, _, err = t.AddInjection(batchID, in); err != nil {
		return out, err
	}
	in.Edits = []peaks.Edit{}
	out.InjectionID, out.Message = in.ID, strings.TrimSpace(strings.Join(append(d.header.Doubts, doubt), " "))
	_, err = t.Record(store.Change{Who: d.who, BatchID: batchID, Action: "import", Subject: d.out.File,
		Before: change.JSON(change.State{Gone: []string{in.ID}}), After: change.JSON(change.State{Back: []store.Injection{in}})})
	return out, err
}

var contentInName = regexp.MustCompile(`(\d+(?:[.,]\d+)?)\s*((?:g|mg|µg|ug|ng|pg|mmol|µmol|umol|nmol)/[mµu]?[Ll])(?:[^A-Za-z]|$)`)

// proposedEntry fills a line of the run list from what a file says of its injection; the file name stands in for a sample
// without a name. A level that is written in a standard's name comes with its unit and is turned into that of the levels; where that cannot be, it is left open.
func proposedEntry(fileName string, h formats.Header, levelUnit string) batch.Entry {
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
		e.Level = levelIn(m[1], m[2], levelUnit)
	}
	return e
}

// levelIn is a number with its unit, in another unit; nil where one does not become the other.
func levelIn(number, unit, in string) *float64 {
	v, err := strconv.ParseFloat(strings.Replace(number, ",", ".", 1), 64)
	if err != nil {
		return nil
	}
	from, errFrom := amounts.ParseUnit(unit)
	to, errTo := amounts.ParseUnit(in)
	if errFrom != nil || errTo != nil {
		return nil
	}
	q, err := amounts.Quantity{Value: v, Unit: from}.In(to)
	if err != nil {
		return nil
	}
	rounded, err := strconv.ParseFloat(strconv.FormatFloat(q.Value, 'g', 12, 64), 64) // powers of ten leave no dust
	if err != nil {
		return nil
	}
	return &rounded
}

// ApplyRunList sets the entries of a batch from a run list, by file name.
func (l *Lab) ApplyRunList(ctx context.Context, batchID string, lines []runlist.Line, who string) (store.Batch, error) {
	b, err := l.Batch(ctx, batchID)
	if err != nil {
		return b, err
	}
	return l.make(ctx, batchID, b.Revision, who, func(_ *store.Tx, b store.Batch) (change.Change, error) {
		c := change.Change{Action: change.RunListAction, Why: "from a file", Subject: "a run list of " + strconv.Itoa(len(lines)) + " lines", Before: change.State{Entries: map[string]batch.Entry{}}, After: change.State{Entries: map[string]batch.Entry{}}}
		for _, line := range lines {
			found := false
			for _, in := range b.Injections {
				if in.FileName == line.File {
					found = true
					entry := line.Entry
					entry.ID = in.ID
					c.Before.Entries[in.ID], c.After.Entries[in.ID] = in.Entry, entry
				}
			}
			if !found {
				return c, refuse("the run list names %s, which is not among the files", line.File)
			}
		}
		return c, nil
	})
}
