package lab

import (
	"context"
	"fmt"
	"strings"
	"time"

	"yugen/core/signal"
	"yugen/formats"
	"yugen/jobs"
	"yugen/lab/change"
	"yugen/lab/record"
	"yugen/lab/review"
	"yugen/report"
	"yugen/store"
)

// Laboratory is whose paper reports are on; a setting of the installation.
type Laboratory struct {
	Name    string `json:"name"`
	Address string `json:"address"`
	// Mark is a PNG that stands before the name.
	Mark []byte `json:"-"`
}

// ReadMark checks a picture that is to be a laboratory's mark.
func ReadMark(data []byte) error { return report.ValidMark(data) }

// Font is a font that reports are set in, by the name of its file; nil where there is none.
func Font(name string) []byte { return report.FontFile(name) }

func (l *Lab) reportInput(ctx context.Context, batchID, layout, injectionID string) (report.Input, error) {
	p, err := l.Process(ctx, batchID)
	if err != nil {
		return report.Input{}, err
	}
	return l.reportOf(ctx, p, layout, injectionID)
}

// reportOf gathers what a report of a processed batch is drawn from.
func (l *Lab) reportOf(ctx context.Context, p Processed, layout, injectionID string) (report.Input, error) {
	head, paper, err := l.Letterhead(ctx)
	if err != nil {
		return report.Input{}, err
	}
	in := report.Input{
		Laboratory: head.Name, Address: head.Address, Mark: head.Mark, Paper: paper, Study: p.Batch.StudyName, Batch: p.Batch.Name, MethodName: p.Batch.Version.Name, Version: p.Batch.Version.Number,
		InputsHash: p.InputsHash, Method: p.Batch.Version.Method, Result: p.Result, Settled: p.Batch.Settled, OwnColumns: p.Batch.OwnColumns,
	}
	list, whole, err := l.register(ctx, p)
	if err != nil {
		return in, err
	}
	in.Whole = whole
	if p.Batch.Version.Method.Screening != nil {
		screened, err := l.screen(ctx, p)
		if err != nil {
			return in, err
		}
		in.Screened = &screened
	}
	for _, q := range list {
		if q.Field {
			in.Fields = append(in.Fields, q)
		}
	}
	err = l.store.Read(ctx, func(t *store.Tx) error {
		newest, err := t.NewestInput(p.Batch.ID)
		// A report is a function of its inputs, so it bears the time of the newest of them, not of the click.
		in.MadeBy, in.MadeAt = strings.Join(newest.Analysts, ", "), newest.At.Truncate(time.Second)
		in.Anchor = fmt.Sprintf("row %d, %.12s", newest.Seq, newest.Hash)
		if err != nil {
			return err
		}
		in.Signed, err = signatures(t, p.Batch)
		return err
	})
	if err != nil {
		return in, err
	}
	for _, i := range p.Batch.Injections {
		in.Lines = append(in.Lines, report.Line{Entry: i.Entry, File: i.FileName, AcquiredAt: i.Header.AcquiredAt, Settings: SettingsOf(i.Header)})
	}
	if one, ships := report.ShippedLayout(report.Layout(layout)); ships {
		return in, l.withTraces(ctx, p, &in, one, report.Subject{InjectionID: injectionID})
	}
	return in, l.withView(ctx, p, &in, layout)
}

// SettingsOf are what a file says of equipment and conditions, as a report has it.
func SettingsOf(h formats.Header) (list []report.Setting) {
	for _, s := range h.Settings {
		list = append(list, report.Setting{Name: s.Name, Value: s.Value, Unit: s.Unit})
	}
	return list
}

// conditionsOf are the conditions of the run that the files of an injection hold.
func (l *Lab) conditionsOf(ctx context.Context, in store.Injection) ([]signal.Trace, error) {
	var found []store.Signal
	err := l.store.Read(ctx, func(t *store.Tx) (err error) {
		found, err = t.InjectionSignals(in.ID)
		return err
	})
	if err != nil {
		return nil, err
	}
	var list []signal.Trace
	for _, s := range found {
		if formats.KindOfChannel(s.Name, s.Unit) != formats.Condition {
			continue
		}
		one, err := l.recorded(ctx, in, s.Place)
		if err != nil {
			return nil, err
		}
		list = append(list, one.Trace)
	}
	return list, nil
}

func laidOut(in report.Input, layout, injectionID string) (*report.Report, error) {
	if _, is := viewOfLayout(layout); is {
		layout = report.ViewLayout
	}
	r, err := report.New(report.Layout(layout), in, injectionID)
	if err != nil {
		return nil, refuse("%s", err)
	}
	return r, nil
}

// Document makes report.pdf, results.csv or results.xlsx.
func (l *Lab) Document(ctx context.Context, batchID, name, layout, injectionID string) ([]byte, error) {
	if name != "report.pdf" {
		layout, injectionID = "", ""
	}
	in, err := l.reportInput(ctx, batchID, layout, injectionID)
	if err != nil {
		return nil, err
	}
	return drawn(ctx, l, in, batchID, viewKey(in)+name+" "+layout+" "+injectionID, func() ([]byte, error) {
		switch name {
		case "report.pdf":
			r, err := laidOut(in, layout, injectionID)
			if err != nil {
				return nil, err
			}
			return r.PDF()
		case "results.csv":
			return report.CSV(in)
		case "results.xlsx":
			return report.XLSX(in)
		}
		return nil, fmt.Errorf("document %s: %w", name, store.ErrNotFound)
	})
}

// Pages draws the pages of a report for the screen.
func (l *Lab) Pages(ctx context.Context, batchID, layout, injectionID string) ([]string, error) {
	in, err := l.reportInput(ctx, batchID, layout, injectionID)
	if err != nil {
		return nil, err
	}
	return drawn(ctx, l, in, batchID, viewKey(in)+"pages "+layout+" "+injectionID, func() ([]string, error) {
		r, err := laidOut(in, layout, injectionID)
		if err != nil {
			return nil, err
		}
		return r.SVG(), nil
	})
}

// viewKey tells views of one batch apart, which can change without the batch.
func viewKey(in report.Input) string {
	if in.View == nil {
		return ""
	}
	return fmt.Sprintf("%s %s %v %v %d ", in.View.Name, in.View.Way+in.View.Done, in.View.FromMin, in.View.ToMin, len(in.View.Traces))
}

// drawn draws as a job, shared by all who ask for the same of the same state.
func drawn[T any](ctx context.Context, l *Lab, in report.Input, batchID, what string, draw func() (T, error)) (T, error) {
	asked := jobs.Asked{Kind: jobs.Report, Key: strings.Join([]string{batchID, in.InputsHash, in.Anchor, what}, " "), BatchID: batchID, Subject: in.Batch}
	v, err := l.Jobs.Do(ctx, asked, func(context.Context, *jobs.Progress) (any, error) { return draw() })
	if err != nil {
		var none T
		return none, err
	}
	return v.(T), nil
}

// reportAsked says which report is to be kept.
type reportAsked struct {
	Layout      string `json:"layout"`
	InjectionID string `json:"injection_id"`
}

// KeepReport keeps a report as it is now, for good.
func (l *Lab) KeepReport(ctx context.Context, batchID, layout, injectionID, who string) (kept store.Report, err error) {
	return l.keepReport(ctx, batchID, reportAsked{layout, injectionID}, who, "")
}

// keepReportOnce keeps a report whose making was stopped with the program, unless it was kept just before.
func (l *Lab) keepReportOnce(ctx context.Context, j store.KeptJob, asked reportAsked) (store.Report, error) {
	list, err := l.Reports(ctx, j.BatchID)
	if err != nil {
		return store.Report{}, err
	}
	for _, r := range list {
		if r.Layout == asked.Layout && r.InjectionID == asked.InjectionID && r.MadeBy == j.Who && r.MadeAt.After(j.Since) {
			return r, l.store.DropJob(j.ID)
		}
	}
	return l.keepReport(ctx, j.BatchID, asked, j.Who, j.ID)
}

func (l *Lab) keepReport(ctx context.Context, batchID string, asked reportAsked, who, jobID string) (store.Report, error) {
	p, err := l.Process(ctx, batchID)
	if err != nil {
		return store.Report{}, err
	}
	in, err := l.reportOf(ctx, p, asked.Layout, asked.InjectionID) // drawn from the very inputs that it will name
	if err != nil {
		return store.Report{}, err
	}
	args := change.JSON(asked)
	job := jobs.Asked{ID: jobID, Kind: jobs.Report, Key: "keep " + batchID + " " + in.InputsHash + " " + args + " " + who, BatchID: batchID, Subject: in.Batch, Who: who, Args: args}
	kept, err := l.Jobs.Do(ctx, job, func(ctx context.Context, _ *jobs.Progress) (any, error) {
		return l.drawAndKeep(ctx, batchID, in, asked, who)
	})
	if err != nil {
		return store.Report{}, err
	}
	return kept.(store.Report), nil
}

func (l *Lab) drawAndKeep(ctx context.Context, batchID string, in report.Input, asked reportAsked, who string) (kept store.Report, err error) {
	r, err := laidOut(in, asked.Layout, asked.InjectionID)
	if err != nil {
		return kept, err
	}
	data, err := r.PDF()
	if err != nil {
		return kept, err
	}
	err = l.store.Write(ctx, func(t *store.Tx) error {
		hash, err := t.PutBlob(data)
		if err != nil {
			return err
		}
		kept, err = t.PutReport(batchID, store.Report{Layout: asked.Layout, InjectionID: asked.InjectionID, InputsHash: in.InputsHash, PDFHash: hash, MadeBy: who})
		if err != nil {
			return err
		}
		_, err = t.Record(store.Change{Who: who, BatchID: batchID, Action: change.ReportAction, Subject: asked.Layout, After: record.KeptText(kept)})
		return err
	})
	return kept, err
}

// Reports lists the kept reports of a batch.
func (l *Lab) Reports(ctx context.Context, batchID string) (list []store.Report, err error) {
	err = l.store.Read(ctx, func(t *store.Tx) error {
		list, err = t.Reports(batchID)
		return err
	})
	return list, err
}

// KeptReport hands a kept report back as it was made.
func (l *Lab) KeptReport(ctx context.Context, batchID, id string) ([]byte, error) {
	list, err := l.Reports(ctx, batchID)
	if err != nil {
		return nil, err
	}
	for _, r := range list {
		if r.ID == id {
			return l.blob(ctx, r.PDFHash)
		}
	}
	return nil, fmt.Errorf("report %s: %w", id, store.ErrNotFound)
}

// signatures are those of a batch as a page has them. One that only says who prepared it is none any more where the batch was changed since.
func signatures(t *store.Tx, b store.Batch) (list []report.Signature, err error) {
	rows, err := t.SigningRows(b.ID)
	if err != nil {
		return nil, err
	}
	state, err := review.StateOf(rows)
	for _, g := range state.Signatures {
		if !g.Locks && (g.Gone != nil || !g.Seal.Holds(b)) {
			continue
		}
		one := report.Signature{Meaning: string(g.Meaning), Words: g.Words, Name: g.Name, At: g.At, Seal: g.Seal.All, Alone: g.Alone, Proven: g.Proven}
		if g.Gone != nil {
			one.Gone = &report.Withdrawn{Who: g.Gone.Who, Why: g.Gone.Why, At: g.Gone.At}
		}
		list = append(list, one)
	}
	return list, err
}
