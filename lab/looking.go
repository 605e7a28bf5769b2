package lab

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"math"
	"slices"
	"strings"
	"sync"
	"time"

	"yugen/core/signal"
	"yugen/formats"
	"yugen/formats/read"
	"yugen/formats/text"
	"yugen/raw"
	"yugen/store"
)

// Looked is a file that has come and is looked at before anything is kept.
type Looked struct {
	ID   string `json:"id"`
	File string `json:"file"`
	Size int64  `json:"size"`
	// Status is Coming for one that can be taken in, Already or Refused.
	Status      Status      `json:"status"`
	Message     string      `json:"message,omitempty"`
	Unsupported bool        `json:"unsupported,omitempty"`
	Kind        string      `json:"kind"` // the format in words
	Text        bool        `json:"text"` // it is delimited text, whose reading can be changed
	Profile     string      `json:"profile,omitempty"`
	SampleName  string      `json:"sample_name"`
	Vial        string      `json:"vial"`
	AcquiredAt  *time.Time  `json:"acquired_at"`
	Signals     []SeenThere `json:"signals"`
	// Silhouette is the first detector in little: heights from 0 to 1.
	Silhouette []float64 `json:"silhouette"`
	// Missing is what the file does not say of its injection.
	Missing []string `json:"missing"`
	// With is the file that it belongs to: one that is looked at, or one that is in the batch. Empty where it stands alone.
	With   string `json:"with,omitempty"`
	WithID string `json:"with_id,omitempty"` // of the looked-at file
	Doubt  string `json:"doubt,omitempty"`   // why it is not joined, where it could be

	header formats.Header
	hash   string
}

// SeenThere is a signal of a file that is looked at.
type SeenThere struct {
	Name   string              `json:"name"`
	Unit   string              `json:"unit"`
	Kind   formats.ChannelKind `json:"kind"`
	Points int                 `json:"points"`
}

// looks remembers what was seen in files that are looked at, so that each is read once.
type looks struct {
	mu   sync.Mutex
	seen map[string]Looked // by the file's id
	of   map[string]string // the batch, by the file's id
}

func (k *looks) get(id string) (Looked, bool) {
	k.mu.Lock()
	defer k.mu.Unlock()
	one, ok := k.seen[id]
	return one, ok
}

func (k *looks) put(batchID string, one Looked) {
	k.mu.Lock()
	defer k.mu.Unlock()
	if k.seen == nil {
		k.seen, k.of = map[string]Looked{}, map[string]string{}
	}
	k.seen[one.ID], k.of[one.ID] = one, batchID
}

// drop forgets a file that is looked at no longer.
func (k *looks) drop(id string) {
	k.mu.Lock()
	defer k.mu.Unlock()
	delete(k.seen, id)
	delete(k.of, id)
}

// forget lets everything of a batch be looked at anew.
func (k *looks) forget(batchID string) {
	k.mu.Lock()
	defer k.mu.Unlock()
	for id, batch := range k.of {
		if batch == batchID {
			delete(k.seen, id)
			delete(k.of, id)
		}
	}
}

// Look puts a file down that was sent to a batch, and tells what it holds. Nothing is kept of it until it is taken.
func (l *Lab) Look(ctx context.Context, batchID, name string, body io.Reader, who string) (Looked, error) {
	if err := l.store.Read(ctx, func(t *store.Tx) error { return t.HasBatch(batchID) }); err != nil {
		return Looked{}, err
	}
	a, err := l.store.ArriveToLook(store.Arrival{BatchID: batchID, Name: fileName(name), Who: who, Place: store.PlaceOf(ctx)}, body)
	if err != nil {
		return Looked{}, err
	}
	return l.lookAt(ctx, a)
}

// silhouettePoints are the columns of a silhouette.
const silhouettePoints = 90

func (l *Lab) lookAt(ctx context.Context, a store.Arrival) (out Looked, err error) {
	if one, seen := l.looks.get(a.ID); seen {
		return one, nil
	}
	f, err := l.store.Looked(a.ID)
	if err != nil {
		return out, err
	}
	defer f.Close()
	came := source{f, f.Arrival.Size}
	out = Looked{ID: a.ID, File: a.Name, Size: came.size, Status: Refused, Signals: []SeenThere{}, Silhouette: []float64{}, Missing: []string{}}
	kind, err := kindOf(came)
	if err != nil {
		return out, err
	}
	out.Text = kind == formats.Text
	from, err := l.reading(ctx, a.BatchID, nil, came)
	if err != nil {
		return out, err
	}
	if _, p, _ := read.Enclosed(from, from.size); p != nil {
		out.Profile = p.Name
	}
	d, err := safely(glance, a, from)
	if err != nil {
		return out, err
	}
	out.Message, out.Unsupported, out.Kind = d.out.Message, d.out.Unsupported, d.header.Format
	if d.out.Status != Refused {
		out.Status = Coming
		out.see(d)
	}
	l.looks.put(a.BatchID, out)
	return out, nil
}

// safely reads a file so that one which fails its reader is refused.
func safely(decode func(string, source, string) (decoded, error), a store.Arrival, from source) (d decoded, err error) {
	defer func() {
		if r := recover(); r != nil {
			d, err = decoded{out: Outcome{File: a.Name, Status: Refused, Message: fmt.Sprintf("It cannot be read; it fails Yugen's reader (%v).", r)}}, nil
		}
	}()
	if d, err = decode(a.Name, from, a.Who); err == nil && d.out.Status != Refused {
		d.hash, err = raw.HashOf(from, from.size)
	}
	return d, err
}

// see fills what a file holds and what it does not say.
func (k *Looked) see(d decoded) {
	h := d.header
	k.header, k.hash = h, d.hash
	k.SampleName, k.Vial, k.AcquiredAt = h.SampleName, h.Vial, h.AcquiredAt
	k.Message = strings.Join(h.Doubts, " ")
	for _, tr := range d.file.Traces {
		k.Signals = append(k.Signals, SeenThere{tr.Name, tr.Unit, formats.KindOfChannel(tr.Name, tr.Unit), tr.Len()})
	}
	k.Silhouette = silhouetteOf(d.file.Traces[max(0, d.detector)])
	if strings.TrimSpace(h.SampleName) == "" {
		k.Missing = append(k.Missing, "sample name")
	}
	if h.AcquiredAt == nil {
		k.Missing = append(k.Missing, "time of acquisition")
	}
	if d.detector < 0 {
		k.Missing = append(k.Missing, "detector")
	}
}

// flatBelow is how many times its noise a signal must rise to fill its silhouette: what is only noise lies low in it.
const flatBelow = 30

func silhouetteOf(t signal.Trace) []float64 {
	low, high := slices.Min(t.Values), slices.Max(t.Values)
	high = max(high, low+flatBelow*t.WhiteNoise())
	out := make([]float64, silhouettePoints)
	for i := range out {
		most := math.Inf(-1)
		for j := i * t.Len() / silhouettePoints; j < max((i+1)*t.Len()/silhouettePoints, i*t.Len()/silhouettePoints+1); j++ {
			most = max(most, t.Values[j])
		}
		if high > low {
			out[i] = math.Round(1000*(most-low)/(high-low)) / 1000
		}
	}
	return out
}

// LookedAt lists the files of a batch that are looked at, in the order of their names, with what belongs together.
func (l *Lab) LookedAt(ctx context.Context, batchID string) ([]Looked, error) {
	waiting, err := l.waitingIn(batchID)
	if err != nil {
		return nil, err
	}
	list := []Looked{}
	for _, a := range waiting {
		one, err := l.lookAt(ctx, a)
		if err != nil {
			return nil, err
		}
		list = append(list, one)
	}
	slices.SortStableFunc(list, func(a, b Looked) int { return strings.Compare(strings.ToLower(a.File), strings.ToLower(b.File)) })
	var b store.Batch
	if err := l.store.Read(ctx, func(t *store.Tx) (err error) {
		b, err = t.Batch(batchID)
		return err
	}); err != nil {
		return nil, err
	}
	belong(list, b)
	lead(list)
	return list, nil
}

// lead lets the file with a detector lead those that belong together: the injection bears its name.
func lead(list []Looked) {
	for h := range list {
		if !slices.Contains(list[h].Missing, "detector") || list[h].With != "" {
			continue
		}
		k := slices.IndexFunc(list, func(o Looked) bool { return o.WithID == list[h].ID && !slices.Contains(o.Missing, "detector") })
		if k < 0 {
			continue
		}
		for i := range list {
			if i == h || i != k && list[i].WithID == list[h].ID {
				list[i].WithID, list[i].With = list[k].ID, list[k].File
			}
		}
		list[k].WithID, list[k].With = "", ""
	}
}

func (l *Lab) waitingIn(batchID string) ([]store.Arrival, error) {
	all, err := l.store.LookedAt()
	return slices.DeleteFunc(all, func(a store.Arrival) bool { return a.BatchID != batchID }), err
}

// belong says which files are here already, and which are of one injection.
func belong(list []Looked, b store.Batch) {
	for i := range list {
		one := &list[i]
		if one.Status != Coming {
			continue
		}
		var with []string
		for _, in := range b.Injections {
			if slices.Contains(in.Hashes(), one.hash) {
				one.Status, one.Message = Already, "This file is in the batch already."
			}
			own := slices.ContainsFunc(one.Signals, func(s SeenThere) bool { return s.Name == in.Signal && s.Unit == in.Unit }) // the same measurement again
			if in.Typed == nil && !own && formats.OneInjection(in.FileName, in.Header, one.File, one.header) {
				with = append(with, in.FileName)
			}
		}
		for k := range list[:i] {
			other := list[k]
			if other.Status == Coming && other.WithID == "" && formats.OneInjection(other.File, other.header, one.File, one.header) && !sameSignal(other, *one) {
				with = append(with, other.File)
				one.WithID = other.ID
			}
		}
		switch {
		case one.Status == Already || len(with) == 0:
			one.WithID = ""
		case len(with) == 1:
			one.With = with[0]
		default:
			one.WithID, one.Doubt = "", fmt.Sprintf("It could belong to %s or to %s; it stands alone until it is joined by hand.", with[0], with[1])
		}
	}
}

func sameSignal(a, b Looked) bool {
	return slices.ContainsFunc(a.Signals, func(x SeenThere) bool {
		return slices.ContainsFunc(b.Signals, func(y SeenThere) bool { return x.Name == y.Name && x.Unit == y.Unit })
	})
}

// TakeAsked says which looked-at files are taken in.
type TakeAsked struct {
	IDs   []string `json:"ids"`
	Apart []string `json:"apart,omitempty"` // those that stay injections of their own, whatever their names
	// Profiles are how texts are read, by the file's id, where that is not as proposed.
	Profiles map[string]text.Profile `json:"profiles,omitempty"`
}

// Take takes in files that were looked at; the others stay.
func (l *Lab) Take(ctx context.Context, batchID string, asked TakeAsked, who string) ([]Arrived, error) {
	waiting, err := l.waitingIn(batchID)
	if err != nil {
		return nil, err
	}
	for _, p := range asked.Profiles {
		if err := p.Validate(); err != nil {
			return nil, refuseAt("/profiles", "%s", err)
		}
	}
	looked, err := l.LookedAt(ctx, batchID)
	if err != nil {
		return nil, err
	}
	// In their order, so that the injections come in it; what leads before all that belongs to another.
	slices.SortStableFunc(looked, func(a, b Looked) int { return cmp.Compare(belongs(a), belongs(b)) })
	out := []Arrived{}
	for _, one := range looked {
		i := slices.IndexFunc(waiting, func(a store.Arrival) bool { return a.ID == one.ID })
		if i < 0 || !slices.Contains(asked.IDs, one.ID) {
			continue
		}
		a := waiting[i]
		a.Apart = slices.Contains(asked.Apart, a.ID)
		if p, chosen := asked.Profiles[a.ID]; chosen {
			a.Profile = &p
		}
		if err := l.store.Take(a); err != nil {
			return out, err
		}
		l.looks.drop(a.ID)
		out = append(out, Arrived{l.intake.arrive(a).ID, Outcome{File: a.Name, Status: Coming}})
	}
	l.takeIn(ctx, batchID, who)
	return out, nil
}

// belongs is 1 for a file that belongs to another one that is looked at.
func belongs(k Looked) int {
	if k.WithID != "" {
		return 1
	}
	return 0
}

// PutBack takes looked-at files away; nothing of them was kept. Without ids it is all of the batch.
func (l *Lab) PutBack(ctx context.Context, batchID string, ids []string) ([]Looked, error) {
	waiting, err := l.waitingIn(batchID)
	if err != nil {
		return nil, err
	}
	for _, a := range waiting {
		if len(ids) == 0 || slices.Contains(ids, a.ID) {
			if err := l.store.PutBack(a.ID); err != nil {
				return nil, err
			}
			l.looks.drop(a.ID)
		}
	}
	return l.LookedAt(ctx, batchID)
}

// TextSeen is a delimited text as it stands, with how it could be read.
type TextSeen struct {
	Lines    []string      `json:"lines"` // the first of them
	More     int           `json:"more"`  // how many there are beyond
	Proposal text.Proposal `json:"proposal"`
	Problem  string        `json:"problem,omitempty"` // why none is proposed
}

// textLines are how many lines of a text are shown.
const textLines = 120

// TextOf gives a looked-at text with the profile that it suggests.
func (l *Lab) TextOf(ctx context.Context, batchID, id string) (TextSeen, error) {
	data, err := l.lookedText(batchID, id)
	if err != nil {
		return TextSeen{}, err
	}
	lines := strings.Split(strings.ReplaceAll(string(formats.Decoded(data)), "\r\n", "\n"), "\n")
	out := TextSeen{Lines: lines[:min(len(lines), textLines)], More: max(0, len(lines)-textLines)}
	for i, line := range out.Lines {
		if r := []rune(line); len(r) > 400 {
			out.Lines[i] = string(r[:400]) + "…"
		}
	}
	if out.Proposal, err = text.Propose(data); err != nil {
		out.Problem = Reason(err)
		out.Proposal.Profile = text.Profile{Delimiter: ",", Decimal: ".", Data: 1, TimeUnit: text.Minutes, Columns: []text.Column{{Column: 1, Role: text.TimeColumn}, {Column: 2, Role: text.SignalColumn}}}
	}
	return out, nil
}

// lookedFile opens a file of a batch that is looked at.
func (l *Lab) lookedFile(batchID, id string) (*store.ArrivedFile, error) {
	if id == "" {
		return nil, fmt.Errorf("a file without an id: %w", store.ErrNotFound)
	}
	f, err := l.store.Looked(id)
	if errors.Is(err, fs.ErrNotExist) {
		return nil, fmt.Errorf("file %s: %w", id, store.ErrNotFound)
	}
	if err == nil && f.BatchID != batchID {
		return nil, errors.Join(fmt.Errorf("file %s: %w", id, store.ErrNotFound), f.Close())
	}
	return f, err
}

func (l *Lab) lookedText(batchID, id string) ([]byte, error) {
	f, err := l.lookedFile(batchID, id)
	if err != nil {
		return nil, err
	}
	defer f.Close()
	from := source{f, f.Arrival.Size}
	if kind, err := kindOf(from); err != nil || kind != formats.Text || from.size > formats.MaxWhole {
		return nil, refuse("%s is no delimited text", f.Name)
	}
	return whole(from)
}

// ReadSo asks what a profile makes of a looked-at text.
type ReadSo struct {
	ID      string       `json:"id"`
	Profile text.Profile `json:"profile"`
}

// SeenSo is what a profile makes of a text, and of the other texts that are looked at.
type SeenSo struct {
	Signals []SeenSignal   `json:"signals"`
	Header  formats.Header `json:"header"`
	Fields  [][]string     `json:"fields"` // of the first lines
	Problem string         `json:"problem,omitempty"`
	Line    int            `json:"line,omitempty"` // where that is
	Column  int            `json:"column,omitempty"`
	// Fits tells of every looked-at text whether it has the shape.
	Fits []Fit `json:"fits"`
}

// SeenSignal is a trace as it is read, in little.
type SeenSignal struct {
	Name    string    `json:"name"`
	Unit    string    `json:"unit"`
	Points  int       `json:"points"`
	FromMin float64   `json:"from_min"`
	ToMin   float64   `json:"to_min"`
	Heights []float64 `json:"heights"`
}

// Fit is whether a text has the shape of a profile, and why not.
type Fit struct {
	ID   string `json:"id"`
	File string `json:"file"`
	Why  string `json:"why,omitempty"`
}

// TryProfile reads a looked-at text by a profile. Nothing is kept.
func (l *Lab) TryProfile(ctx context.Context, batchID string, asked ReadSo) (SeenSo, error) {
	data, err := l.lookedText(batchID, asked.ID)
	if err != nil {
		return SeenSo{}, err
	}
	out := SeenSo{Signals: []SeenSignal{}, Fields: [][]string{}, Fits: []Fit{}}
	lines := strings.Split(strings.ReplaceAll(string(formats.Decoded(data)), "\r\n", "\n"), "\n")
	for _, line := range lines[:min(len(lines), textLines)] {
		if asked.Profile.Delimiter == "" {
			break
		}
		out.Fields = append(out.Fields, asked.Profile.Fields(line))
	}
	file, err := read.ByProfile(asked.Profile, data)
	var unreadable *formats.Error
	if errors.As(err, &unreadable) {
		out.Problem, out.Line, out.Column = Reason(unreadable), unreadable.Line, unreadable.Column
		return out, nil
	}
	if err != nil {
		return out, err
	}
	out.Header = file.Header
	for _, tr := range file.Traces {
		out.Signals = append(out.Signals, SeenSignal{tr.Name, tr.Unit, tr.Len(), tr.StartS / 60, tr.EndS() / 60, silhouetteOf(tr)})
	}
	waiting, err := l.waitingIn(batchID)
	if err != nil {
		return out, err
	}
	for _, a := range waiting {
		data, err := l.lookedText(batchID, a.ID)
		if err != nil {
			continue // it is of another kind
		}
		fit := Fit{ID: a.ID, File: a.Name}
		if err := asked.Profile.Fits(data); err != nil {
			fit.Why = Reason(err)
		}
		out.Fits = append(out.Fits, fit)
	}
	return out, nil
}
