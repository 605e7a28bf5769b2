// Package running keeps what an instrument tells while it measures, so that nothing measured is lost: each event is on disk before the instrument may forget it, and a
// run becomes an open file from there.
package running

import (
	"bufio"
	"bytes"
	"cmp"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"yugen/core/batch"
	"yugen/core/spectra"
	"yugen/formats"
	"yugen/formats/mzml"
	"yugen/instrument"
)

// List is a list that was given to an instrument, with what became of its rows.
type List struct {
	ID      string    `json:"id"`
	BatchID string    `json:"batch_id"`
	Who     string    `json:"who"`
	Place   string    `json:"place"` // from where it was started
	Begun   time.Time `json:"begun"`
	Method  string    `json:"method"` // its name and version when the list began
	Rows    []Row     `json:"rows"`
	Ended   bool      `json:"ended"`
	// Numbered is the highest number that a row has had; 0 in lists from before it was kept.
	Numbered int `json:"numbered,omitempty"`
}

// Next is a number that no row of the list has had, be it taken back or not.
func (l *List) Next() int {
	l.Numbered = max(l.Numbered, len(l.Rows)) + 1
	return l.Numbered
}

// Row is one row of a list: what the run list gets from it, and what came of it.
type Row struct {
	ID     string                 `json:"id"`
	Name   string                 `json:"name"`
	Vial   string                 `json:"vial"`
	File   string                 `json:"file"` // that it is written to
	Fields map[batch.Field]string `json:"fields"`
	// Of is the row that it was run again of; empty for one of the list as it was given.
	Of string `json:"of,omitempty"`
	// InjectionID is where it was taken in; empty until then.
	InjectionID string `json:"injection_id,omitempty"`
	// Outcome is a sentence where it was not.
	Outcome string              `json:"outcome,omitempty"`
	Doubts  []batch.Doubt       `json:"doubts,omitempty"`
	Trouble *instrument.Trouble `json:"trouble,omitempty"`
}

// Journal is what is on disk of one instrument: a list, events in order, and a file for each row that is measured.
type Journal struct {
	dir   string
	Boot  string // of the instrument that told
	Heard int64
	List  *List
}

const (
	listFile = "list.json"
	toldFile = "told.jsonl"
	rowFile  = "row-"
	// maxTold is after how many bytes what was told beside the rows is begun anew.
	maxTold = 4 << 20
)

// kept is the journal's own state as it is written.
type kept struct {
	Boot string `json:"boot"`
	List *List  `json:"list"`
}

// Open opens the journal in a folder, which is made where it is not there. A line that the power cut is not there: the instrument tells it again.
func Open(dir string) (*Journal, error) {
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return nil, fmt.Errorf("the journal %s cannot be made: %w", dir, err)
	}
	j := &Journal{dir: dir}
	data, err := os.ReadFile(filepath.Join(dir, listFile))
	if err == nil {
		var k kept
		if err = json.Unmarshal(data, &k); err == nil {
			j.Boot, j.List = k.Boot, k.List
		}
	}
	if err != nil && !errors.Is(err, os.ErrNotExist) {
		return nil, fmt.Errorf("the journal %s cannot be read: %w", dir, err)
	}
	names, err := filepath.Glob(filepath.Join(dir, "*.jsonl"))
	if err != nil {
		return nil, err
	}
	for _, name := range names {
		whole := int64(0)
		err := eachLine(name, func(line []byte) error {
			var e struct {
				N int64 `json:"n"`
			}
			if err := json.Unmarshal(line, &e); err != nil {
				return err
			}
			j.Heard, whole = max(j.Heard, e.N), whole+int64(len(line))+1
			return nil
		})
		if err != nil { // cut in the middle of a line
			if err := os.Truncate(name, whole); err != nil {
				return nil, err
			}
		}
	}
	return j, nil
}

// eachLine calls for every whole line of a file; one without its end is an error.
func eachLine(name string, call func([]byte) error) error {
	f, err := os.Open(name)
	if err != nil {
		return err
	}
	defer f.Close()
	r := bufio.NewReaderSize(f, 1<<16)
	for {
		line, err := r.ReadBytes('\n')
		if errors.Is(err, io.EOF) && len(line) == 0 {
			return nil
		}
		if err != nil {
			return err
		}
		if len(line) > instrument.MaxLine {
			return errors.New("a line is larger than an event may be")
		}
		if err := call(bytes.TrimSuffix(line, []byte("\n"))); err != nil {
			return err
		}
	}
}

// Save writes list and boot anew, so that after a power cut there is the one or the other.
func (j *Journal) Save() error {
	data, err := json.MarshalIndent(kept{j.Boot, j.List}, "", " ")
	if err != nil {
		return err
	}
	name := filepath.Join(j.dir, listFile)
	if err := write(name+".part", os.O_CREATE|os.O_TRUNC, data); err != nil {
		return err
	}
	return os.Rename(name+".part", name)
}

// Restart forgets what another boot of the instrument told; rows that were measured stay.
func (j *Journal) Restart(boot string) error {
	if err := os.Remove(filepath.Join(j.dir, toldFile)); err != nil && !errors.Is(err, os.ErrNotExist) {
		return err
	}
	j.Boot, j.Heard = boot, 0
	return j.Save()
}

func write(name string, flags int, data []byte) error {
	f, err := os.OpenFile(name, flags|os.O_WRONLY, 0o644)
	if err != nil {
		return err
	}
	_, err = f.Write(data)
	return errors.Join(cmp.Or(err, f.Sync()), f.Close())
}

func (j *Journal) row(id string) string {
	safe := strings.Map(func(r rune) rune {
		if r >= 'a' && r <= 'z' || r >= 'A' && r <= 'Z' || r >= '0' && r <= '9' || r == '-' {
			return r
		}
		return '_'
	}, id)
	return filepath.Join(j.dir, rowFile+safe+".jsonl")
}

// Keep puts events on disk; when it returns without error the instrument may forget them.
func (j *Journal) Keep(events []instrument.Event) error {
	lines := map[string][]byte{}
	var names []string
	for _, e := range events {
		line, err := e.Line()
		if err != nil {
			return err
		}
		name := filepath.Join(j.dir, toldFile)
		if e.Kind == instrument.Measured || e.Kind == instrument.Injected {
			name = j.row(e.RowID)
		}
		if lines[name] == nil {
			names = append(names, name)
		}
		lines[name] = append(append(lines[name], line...), '\n')
	}
	for _, name := range names {
		if info, err := os.Stat(name); err == nil && filepath.Base(name) == toldFile && info.Size() > maxTold {
			if err := write(name, os.O_TRUNC, lines[name]); err != nil {
				return err
			}
			continue
		}
		if err := write(name, os.O_CREATE|os.O_APPEND, lines[name]); err != nil {
			return err
		}
	}
	for _, e := range events {
		j.Heard = max(j.Heard, e.N)
	}
	return nil
}

// Recording is what was measured of a row.
type Recording struct {
	Begun    time.Time
	Settings []instrument.Setting
	Signals  []formats.Channel
	Scans    []spectra.Scan
	Unit     string          // of the scans
	Axis     instrument.Axis // along them
	LastMin  float64
}

// Measured reads what is on disk of a row; false where there is nothing.
func (j *Journal) Measured(rowID string) (r Recording, there bool, err error) {
	err = eachLine(j.row(rowID), func(line []byte) error {
		var e instrument.Event
		if err := json.Unmarshal(line, &e); err != nil {
			return err
		}
		there = true
		r.Add(e)
		return nil
	})
	if errors.Is(err, os.ErrNotExist) {
		return r, false, nil
	}
	return r, there, err
}

// Add takes up what an event tells of the row.
func (r *Recording) Add(e instrument.Event) {
	if e.Kind == instrument.Injected {
		r.Begun, r.Settings, r.Unit, r.Axis = e.At, e.Settings, e.Unit, e.Axis
	}
	for _, s := range e.Signals {
		k := slices.IndexFunc(r.Signals, func(c formats.Channel) bool { return c.Name == s.Name })
		if k < 0 {
			k = len(r.Signals)
			r.Signals = append(r.Signals, formats.Channel{Name: s.Name, Unit: s.Unit, Kind: formats.KindOfChannel(s.Name, s.Unit)})
		}
		c := &r.Signals[k]
		for i, v := range s.Values {
			at := s.FromS + float64(i)*s.EveryS
			if n := len(c.TimesS); n > 0 && at <= c.TimesS[n-1] { // told twice
				continue
			}
			c.TimesS, c.Values = append(c.TimesS, at), append(c.Values, v)
			r.LastMin = max(r.LastMin, at/60)
		}
	}
	if len(e.Scans) > 0 {
		r.Unit, r.Axis = cmp.Or(e.Unit, r.Unit), e.Axis
	}
	for _, s := range e.Scans {
		if n := len(r.Scans); n > 0 && s.AtS <= r.Scans[n-1].TimeS {
			continue
		}
		r.Scans = append(r.Scans, spectra.Scan{TimeS: s.AtS, Axis: s.Axis, Values: s.Values})
		r.LastMin = max(r.LastMin, s.AtS/60)
	}
}

// File is what was measured as an open file. It says in its comments what went wrong.
func (r Recording) File(row Row, list List, instrumentName string) ([]byte, error) {
	h := formats.Header{SampleName: row.Name, Vial: row.Vial, Operator: list.Who, MethodName: list.Method, AcquiredAt: &r.Begun, Detector: instrumentName}
	for _, s := range r.Settings {
		h.Settings = append(h.Settings, formats.Setting{Name: s.Name, Value: s.Says})
		if s.ID == "volume" {
			v := s.Asked
			h.Volume = &v
		}
	}
	for _, d := range row.Doubts {
		h.Comments = strings.TrimSpace(h.Comments + " " + fmt.Sprintf("%s (%.2f to %.2f min).", d.Says, d.FromMin, d.ToMin))
	}
	f := formats.File{Header: h, Channels: r.Signals}
	if len(r.Scans) > 0 {
		about := spectra.About{Kind: spectra.Mass, Level: 1, Polarity: spectra.Positive, Unit: cmp.Or(r.Unit, "counts")}
		if r.Axis == instrument.Wavelengths {
			about = spectra.About{Kind: spectra.Wavelength, Unit: cmp.Or(r.Unit, "mAU")}
		}
		f.Spectra = []spectra.Run{{About: about, Scans: r.Scans}}
	}
	return mzml.Write(f)
}

// Ended gives the events by which rows ended that are on disk, in order.
func (j *Journal) Ended() (list []instrument.Event, err error) {
	err = eachLine(filepath.Join(j.dir, toldFile), func(line []byte) error {
		var e instrument.Event
		if err := json.Unmarshal(line, &e); err != nil {
			return err
		}
		if e.Kind == instrument.Finished {
			list = append(list, e)
		}
		return nil
	})
	if errors.Is(err, os.ErrNotExist) {
		return nil, nil
	}
	return list, err
}

// Beside keeps a file that its batch did not take, and says where.
func (j *Journal) Beside(name string, data []byte) (string, error) {
	path := filepath.Join(j.dir, name)
	return path, write(path, os.O_CREATE|os.O_TRUNC, data)
}

// Drop forgets what was measured of a row; its file was taken in.
func (j *Journal) Drop(rowID string) error {
	err := os.Remove(j.row(rowID))
	if errors.Is(err, os.ErrNotExist) {
		return nil
	}
	return err
}
