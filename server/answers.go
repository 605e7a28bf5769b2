package server

import (
	"time"

	"yugen/core/batch"
	"yugen/core/peaks"
	"yugen/formats"
	"yugen/formats/text"
	"yugen/store"
)

// What is said over HTTP has types of its own, so that what is kept can change its form without the contract changing, and the other way round.

// Study is a folder of work on one question.
type Study struct {
	ID      string    `json:"id"`
	Name    string    `json:"name"`
	Batches []Listing `json:"batches"`
}

// Listing is a batch in its study's list.
type Listing struct {
	ID         string    `json:"id"`
	Name       string    `json:"name"`
	Injections int       `json:"injections"`
	Reported   bool      `json:"reported"`
	ChangedAt  time.Time `json:"changed_at"`
	ChangedBy  string    `json:"changed_by"`
	Revision   int       `json:"revision"`
	Away       bool      `json:"away"`
	StartedAt  time.Time `json:"started_at"`
	Method     string    `json:"method"`
	Version    int       `json:"version"`
	Signing    string    `json:"signing"` // waits for review, sent back, signed, or nothing
}

func studiesOf(list []store.Study) []Study {
	out := make([]Study, len(list))
	for i, s := range list {
		out[i] = Study{s.ID, s.Name, make([]Listing, len(s.Batches))}
		for k, b := range s.Batches {
			out[i].Batches[k] = Listing{b.ID, b.Name, b.Injections, b.Reported, b.ChangedAt, b.ChangedBy, b.Revision, b.Away, b.StartedAt, b.Method, b.Version, b.Signing}
		}
	}
	return out
}

// Version is a saved state of a method with its document.
type Version struct {
	ID       string       `json:"id"`
	MethodID string       `json:"method_id"`
	Name     string       `json:"name"`
	Number   int          `json:"number"`
	Author   string       `json:"author"`
	Reason   string       `json:"reason"`
	SavedAt  time.Time    `json:"saved_at"`
	Hash     string       `json:"hash"`
	Method   batch.Method `json:"method"`
}

// Batch is a batch with its run list.
type Batch struct {
	ID         string            `json:"id"`
	StudyID    string            `json:"study_id"`
	StudyName  string            `json:"study_name"`
	Name       string            `json:"name"`
	Revision   int               `json:"revision"`
	Version    Version           `json:"version"`
	Injections []Injection       `json:"injections"`
	Settled    []string          `json:"settled"`
	OwnColumns []batch.OwnColumn `json:"own_columns"`
	Choices    batch.Choices     `json:"choices"`
	Away       bool              `json:"away"`
	Reported   bool              `json:"reported"`
	Signed     bool              `json:"signed"`    // a signature locks it
	Reviewing  bool              `json:"reviewing"` // somebody has begun to review or sign it
	Replicates []string          `json:"replicates"`
}

// Injection is one line of a batch with what its files said and the edits made to it.
type Injection struct {
	batch.Entry
	RawHash  string         `json:"raw_hash"`
	Trace    int            `json:"trace"`
	Signal   string         `json:"signal"`
	Unit     string         `json:"unit"`
	FileName string         `json:"file_name"`
	Header   formats.Header `json:"header"`
	More     []FurtherFile  `json:"more,omitempty"`
	Edits    []peaks.Edit   `json:"edits"`
}

// FurtherFile is a further file of an injection, as that of a second detector.
type FurtherFile struct {
	RawHash  string         `json:"raw_hash"`
	FileName string         `json:"file_name"`
	Header   formats.Header `json:"header"`
}

func batchOf(b store.Batch) Batch {
	v := b.Version
	out := Batch{
		ID: b.ID, StudyID: b.StudyID, StudyName: b.StudyName, Name: b.Name, Revision: b.Revision,
		Version:    Version{v.ID, v.MethodID, v.Name, v.Number, v.Author, v.Reason, v.SavedAt, v.Hash, v.Method},
		Injections: make([]Injection, len(b.Injections)), Settled: b.Settled, OwnColumns: b.OwnColumns, Choices: b.Choices,
		Away: b.Away, Reported: b.Reported, Signed: b.Signed, Reviewing: b.Reviewing, Replicates: b.Replicates,
	}
	for i, in := range b.Injections {
		out.Injections[i] = Injection{Entry: in.Entry, RawHash: in.RawHash, Trace: in.Trace, Signal: in.Signal, Unit: in.Unit, FileName: in.FileName, Header: in.Header, Edits: in.Edits}
		for _, f := range in.More {
			out.Injections[i].More = append(out.Injections[i].More, FurtherFile(f))
		}
	}
	return out
}

// KeptReport is a report as it was made.
type KeptReport struct {
	ID          string    `json:"id"`
	Layout      string    `json:"layout"`
	InjectionID string    `json:"injection_id"`
	InputsHash  string    `json:"inputs_hash"`
	PDFHash     string    `json:"pdf_hash"`
	MadeAt      time.Time `json:"made_at"`
	MadeBy      string    `json:"made_by"`
}

// KeptProfile is how delimited text of one shape is read, kept with a study.
type KeptProfile struct {
	ID      string       `json:"id"`
	MadeBy  string       `json:"made_by"`
	MadeAt  time.Time    `json:"made_at"`
	Profile text.Profile `json:"profile"`
}

// WaitingLine is a line of a run list that came before its file: what it is known by, and the fields that it sets as they were written.
type WaitingLine struct {
	File   string                 `json:"file,omitempty"`
	Vial   string                 `json:"vial,omitempty"`
	Sample string                 `json:"sample,omitempty"`
	Fields map[batch.Field]string `json:"fields"`
}

// each says every one of a list.
func each[From, To any](list []From, err error, say func(From) To) ([]To, error) {
	out := make([]To, len(list))
	for i, one := range list {
		out[i] = say(one)
	}
	return out, err
}

func reportOf(r store.Report) KeptReport    { return KeptReport(r) }
func profileOf(p store.Profile) KeptProfile { return KeptProfile(p) }
func lineOf(w store.WaitingLine) WaitingLine {
	return WaitingLine{File: w.File, Vial: w.Vial, Sample: w.Sample, Fields: w.Fields}
}
