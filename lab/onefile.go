package lab

import (
	"context"
	"errors"

	"yugen/core/batch"
	"yugen/formats"
	"yugen/lab/taking"
)

// OneFile is what the method and the curves of a batch make of one file. Nothing is kept of it.
type OneFile struct {
	Injection batch.Injected `json:"injection"`
	Unit      string         `json:"unit"` // of its signal
	// Notices are those that the file alone would bring.
	Notices []string `json:"notices"`
}

// TryFile processes a looked-at file by a batch's method and curves, as a sample of the batch. Nothing is written.
func (l *Lab) TryFile(ctx context.Context, batchID, id string) (OneFile, error) {
	f, err := l.lookedFile(batchID, id)
	if err != nil {
		return OneFile{}, err
	}
	defer f.Close()
	b, err := l.Batch(ctx, batchID)
	if err != nil {
		return OneFile{}, err
	}
	from, err := l.reading(ctx, batchID, nil, taking.Source{ReaderAt: f, Size: f.Arrival.Size})
	if err != nil {
		return OneFile{}, err
	}
	d, err := taking.Safely(taking.InFull, f.Arrival, from)
	if err != nil {
		return OneFile{}, err
	}
	if d.Out.Status == taking.Refused {
		return OneFile{}, refuse("%s", d.Out.Message)
	}
	injections, err := l.load(ctx, b)
	if err != nil {
		return OneFile{}, err
	}
	const own = "the file"
	one, err := InjectionOf(d.Decoded, d.Hash, b.Version.Method)
	if err != nil {
		return OneFile{}, refuse("%s: %s", f.Name, err)
	}
	one.Entry = taking.ProposedEntry(f.Name, d.Header, b.Version.Method.Curves.Unit)
	one.ID, one.Role = own, batch.Sample
	r, err := batch.Process(ctx, batch.Input{Injections: append(injections, one), Method: b.Version.Method, Choices: b.Choices}, &l.peaks)
	if err != nil {
		if ctx.Err() != nil {
			return OneFile{}, err
		}
		return OneFile{}, refuse("%s", err)
	}
	out := OneFile{Injection: r.Injections[len(injections)], Unit: one.Trace.Unit, Notices: []string{}}
	for _, n := range r.Notices {
		if n.InjectionID == own {
			out.Notices = append(out.Notices, n.Text)
		}
	}
	return out, nil
}

// InjectionOf takes from a taking.File file the signals and conditions that a method asks for; the hash is that of its bytes.
func InjectionOf(file formats.File, hash string, m batch.Method) (batch.Injection, error) {
	var in batch.Injection
	for k, c := range m.Channels {
		tr, place, err := file.Signal(c.Signal)
		switch {
		case errors.Is(err, formats.ErrNoSignal) && k > 0:
			continue
		case err != nil:
			return in, err
		case k == 0:
			in.Trace, in.TraceHash = tr, hash+"/"+place
			continue
		}
		in.Put(c.ID, batch.Signal{Trace: tr, Hash: hash + "/" + place})
	}
	for _, asked := range m.ConditionsAsked() {
		if tr, _, err := file.Signal(asked); err == nil {
			in.PutCondition(asked.Key(), tr)
		}
	}
	return in, nil
}
