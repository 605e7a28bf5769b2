package formats

import (
	"errors"
	"fmt"
	"strconv"

	"yugen/core/channels"
	"yugen/core/signal"
	"yugen/core/spectra"
)

// ErrNoSignal says that a file does not hold a signal that is asked for.
var ErrNoSignal = errors.New("there is no such signal")

// Signal is the trace of a file that a definition means, with its place: its number among the traces, or the key of a derived one. Without a definition it is
// the first detector.
func (f *File) Signal(def channels.Signal) (tr signal.Trace, place string, err error) {
	switch def.Kind {
	case channels.LessBlank: // which is another file
		return tr, "", fmt.Errorf("%w: %s needs the file of a blank", ErrNoSignal, def.Title())
	case channels.Ratio:
		tr, err = f.ratio(def)
		return tr, def.Key(), err
	}
	if def.Derived() {
		tr, err = def.Derive(spectra.Sources(f.Spectra))
		if errors.Is(err, channels.ErrAbsent) {
			err = fmt.Errorf("%w: %w", ErrNoSignal, err)
		}
		return tr, def.Key(), err
	}
	if len(f.Traces) == 0 {
		return tr, "", fmt.Errorf("%w: it holds none against time, only single spectra", ErrNoSignal)
	}
	if def.Chosen() {
		k := f.FirstDetector()
		return f.Traces[k], strconv.Itoa(k), nil
	}
	for k, tr := range f.Traces {
		if def.Is(tr.Name, tr.Unit) {
			return tr, strconv.Itoa(k), nil
		}
	}
	return tr, "", fmt.Errorf("%w: it holds no %s", ErrNoSignal, def.Title())
}

// ratio is that of two signals of the file.
func (f *File) ratio(def channels.Signal) (signal.Trace, error) {
	over, _, err := f.Signal(def.Parts[0])
	if err != nil {
		return over, err
	}
	under, _, err := f.Signal(def.Parts[1])
	if err != nil {
		return under, err
	}
	tr, err := channels.RatioOf(over, under)
	if errors.Is(err, channels.ErrApart) {
		err = fmt.Errorf("%w: %w", ErrNoSignal, err)
	}
	tr.Name = def.Title()
	return tr, err
}
