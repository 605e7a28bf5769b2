package lab

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"slices"
	"strings"
	"sync"

	"yugen/formats"
	"yugen/formats/read"
	"yugen/formats/text"
	"yugen/lab/taking"
	"yugen/store"
)

// looks remembers what was seen in files that are looked at, so that each is read once.
type looks struct {
	mu   sync.Mutex
	seen map[string]taking.Looked // by the file's id
	of   map[string]string        // the batch, by the file's id
	// held is what was read of files, so that those that are taken soon after need not be read again; bounded by its points.
	held   map[string]taking.File
	points int
}

// heldPoints are how many points of looked-at files are held at most, about 100 MB.
const heldPoints = 6_000_000

func (k *looks) hold(id string, d taking.File) {
	k.mu.Lock()
	defer k.mu.Unlock()
	if n := d.Points(); d.Light() && k.points+n <= heldPoints {
		if k.held == nil {
			k.held = map[string]taking.File{}
		}
		k.held[id] = d
		k.points += n
	}
}

// release gives what is held of a file and holds it no longer; nil for nothing.
func (k *looks) release(id string) *taking.File {
	k.mu.Lock()
	defer k.mu.Unlock()
	d, ok := k.held[id]
	if !ok {
		return nil
	}
	delete(k.held, id)
	k.points -= d.Points()
	return &d
}

func (k *looks) get(id string) (taking.Looked, bool) {
	k.mu.Lock()
	defer k.mu.Unlock()
	one, ok := k.seen[id]
	return one, ok
}

func (k *looks) put(batchID string, one taking.Looked) {
	k.mu.Lock()
	defer k.mu.Unlock()
	if k.seen == nil {
		k.seen, k.of = map[string]taking.Looked{}, map[string]string{}
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
func (l *Lab) Look(ctx context.Context, batchID, name string, body io.Reader, who string) (taking.Looked, error) {
	if err := l.store.Read(ctx, func(t *store.Tx) error { return t.HasBatch(batchID) }); err != nil {
		return taking.Looked{}, err
	}
	a, err := l.store.ArriveToLook(store.Arrival{BatchID: batchID, Name: taking.FileName(name), Who: who, Place: store.PlaceOf(ctx)}, body)
	if err != nil {
		return taking.Looked{}, err
	}
	return l.lookAt(ctx, a)
}

func (l *Lab) lookAt(ctx context.Context, a store.Arrival) (out taking.Looked, err error) {
	if one, seen := l.looks.get(a.ID); seen {
		return one, nil
	}
	f, err := l.store.Looked(a.ID)
	if err != nil {
		return out, err
	}
	defer f.Close()
	came := taking.Source{ReaderAt: f, Size: f.Arrival.Size}
	out = taking.Looked{ID: a.ID, File: a.Name, Size: came.Size, Status: taking.Refused, Signals: []taking.SeenThere{}, Silhouette: []float64{}, Missing: []string{}}
	kind, err := taking.KindOf(came)
	if err != nil {
		return out, err
	}
	out.Text = kind == formats.Text
	from, err := l.reading(ctx, a.BatchID, nil, came)
	if err != nil {
		return out, err
	}
	if _, p, _ := read.Enclosed(from, from.Size); p != nil {
		out.Profile = p.Name
	}
	d, err := taking.Safely(taking.Glance, a, from)
	if err != nil {
		return out, err
	}
	out.Message, out.Unsupported, out.Kind = d.Out.Message, d.Out.Unsupported, d.Header.Format
	if d.Out.Status != taking.Refused {
		out.Status = taking.Coming
		out.See(d)
		l.looks.release(a.ID) // of an earlier reading
		l.looks.hold(a.ID, d)
	}
	l.looks.put(a.BatchID, out)
	return out, nil
}

// LookedAt lists the files of a batch that are looked at, in the order of their names, with what belongs together.
func (l *Lab) LookedAt(ctx context.Context, batchID string) ([]taking.Looked, error) {
	waiting, err := l.waitingIn(batchID)
	if err != nil {
		return nil, err
	}
	list := []taking.Looked{}
	for _, a := range waiting {
		one, err := l.lookAt(ctx, a)
		if err != nil {
			return nil, err
		}
		list = append(list, one)
	}
	slices.SortStableFunc(list, func(a, b taking.Looked) int { return strings.Compare(strings.ToLower(a.File), strings.ToLower(b.File)) })
	var b store.Batch
	if err := l.store.Read(ctx, func(t *store.Tx) (err error) {
		b, err = t.Batch(batchID)
		return err
	}); err != nil {
		return nil, err
	}
	taking.Belong(list, b)
	taking.Lead(list)
	return list, nil
}

func (l *Lab) waitingIn(batchID string) ([]store.Arrival, error) {
	all, err := l.store.LookedAt()
	return slices.DeleteFunc(all, func(a store.Arrival) bool { return a.BatchID != batchID }), err
}

// TakeAsked says which looked-at files are taken in.
type TakeAsked struct {
	IDs   []string `json:"ids"`
	Apart []string `json:"apart,omitempty"` // those that stay injections of their own, whatever their names
	// Profiles are how texts are read, by the file's id, where that is not as proposed.
	Profiles map[string]text.Profile `json:"profiles,omitempty"`
}

// Take takes in files that were looked at; the others stay.
func (l *Lab) Take(ctx context.Context, batchID string, asked TakeAsked, who string) ([]taking.Arrived, error) {
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
	slices.SortStableFunc(looked, func(a, b taking.Looked) int { return cmp.Compare(belongs(a), belongs(b)) })
	out := []taking.Arrived{}
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
		out = append(out, taking.Arrived{ID: l.intake.Arrive(a).ID, Outcome: taking.Outcome{File: a.Name, Status: taking.Coming}})
	}
	l.takeIn(ctx, batchID, who)
	return out, nil
}

// belongs is 1 for a file that belongs to another one that is looked at.
func belongs(k taking.Looked) int {
	if k.WithID != "" {
		return 1
	}
	return 0
}

// PutBack takes looked-at files away; nothing of them was kept. Without ids it is all of the batch.
func (l *Lab) PutBack(ctx context.Context, batchID string, ids []string) ([]taking.Looked, error) {
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
			l.looks.release(a.ID)
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
	from := taking.Source{ReaderAt: f, Size: f.Arrival.Size}
	if kind, err := taking.KindOf(from); err != nil || kind != formats.Text || from.Size > formats.MaxWhole {
		return nil, refuse("%s is no delimited text", f.Name)
	}
	return taking.Whole(from)
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
		out.Signals = append(out.Signals, SeenSignal{tr.Name, tr.Unit, tr.Len(), tr.StartS / 60, tr.EndS() / 60, taking.SilhouetteOf(tr)})
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
