package lab

import (
	"context"
	"maps"
	"slices"
	"strconv"
	"strings"
	"time"

	"yugen/core/batch"
	"yugen/lab/change"
	"yugen/store"
)

// SaveChoices sets what a batch decides about its own curves: points left out, levels left out or kept.
func (l *Lab) SaveChoices(ctx context.Context, batchID string, revision int, c batch.Choices, reason, who string) (store.Batch, error) {
	if err := c.Validate(); err != nil {
		return store.Batch{}, refuseAt("/choices", "%s", err)
	}
	if reason = strings.TrimSpace(reason); reason == "" || len(reason) > maxReason {
		return store.Batch{}, refuse("a change of a curve needs a reason of at most %d characters", maxReason)
	}
	return l.make(ctx, batchID, revision, who, func(_ *store.Tx, b store.Batch) (change.Change, error) {
		c.Earlier, c.Agreed, c.Screened = b.Choices.Earlier, b.Choices.Agreed, b.Choices.Screened // which are set elsewhere
		if err := knownChoices(b, c); err != nil {
			return change.Change{}, err
		}
		return change.Change{Action: "curves", Subject: changedCurves(b, c), Why: reason, Before: change.ChoicesOf(b), After: change.State{Choices: &c}}, nil
	})
}

// knownChoices refuses choices that newly name a compound or an injection which is not there: they would silently do nothing.
func knownChoices(b store.Batch, c batch.Choices) error {
	known := change.Order(b)
	if e := b.Choices.Earlier; e != nil {
		for _, list := range e.Curves {
			for _, q := range list {
				known = append(known, q.InjectionID)
			}
		}
	}
	for _, id := range slices.Sorted(maps.Keys(c.LeftOut)) {
		before := b.Choices.LeftOut[id]
		if before == nil && !hasCompound(b.Version.Method, id) {
			return refuse("left_out: there is no compound %q in this method", id)
		}
		for _, out := range c.LeftOut[id] {
			isOut := func(o batch.LeftOut) bool { return o.InjectionID == out.InjectionID }
			if !slices.ContainsFunc(before, isOut) && !slices.Contains(known, out.InjectionID) {
				return refuse("curve of %s: left_out names the injection %q, which is not in this batch", id, out.InjectionID)
			}
		}
	}
	for _, id := range slices.Sorted(maps.Keys(c.Levels)) {
		if b.Choices.Levels[id] == nil && !hasCompound(b.Version.Method, id) {
			return refuse("levels: there is no compound %q in this method", id)
		}
	}
	return nil
}

// changedCurves names the compounds whose choices differ.
func changedCurves(b store.Batch, c batch.Choices) string {
	var names []string
	for _, compound := range b.Version.Method.Targets() {
		id := compound.ID
		if change.JSON(b.Choices.LeftOut[id]) != change.JSON(c.LeftOut[id]) || change.JSON(b.Choices.Levels[id]) != change.JSON(c.Levels[id]) {
			names = append(names, compound.Name)
		}
	}
	return strings.Join(names, ", ")
}

// UseEarlier reads a batch from the curves of another one, as they are now; an empty fromID goes back to standards of its own.
func (l *Lab) UseEarlier(ctx context.Context, batchID string, revision int, fromID, reason, who string) (store.Batch, error) {
	if reason = strings.TrimSpace(reason); reason == "" || len(reason) > maxReason {
		return store.Batch{}, refuse("another calibration needs a reason of at most %d characters", maxReason)
	}
	var earlier *batch.Earlier
	subject := "standards of its own"
	if fromID != "" {
		if fromID == batchID {
			return store.Batch{}, refuse("a batch has the curves of its own standards already; choose another batch")
		}
		var err error
		if earlier, err = l.earlier(ctx, fromID); err != nil {
			return store.Batch{}, err
		}
		subject = "curves of " + earlier.Batch
	}
	return l.make(ctx, batchID, revision, who, func(_ *store.Tx, b store.Batch) (change.Change, error) {
		if earlier != nil && !slices.ContainsFunc(slices.Collect(maps.Keys(earlier.Curves)), func(id string) bool { return hasCompound(b.Version.Method, id) }) {
			return change.Change{}, refuse("%s calibrates none of the compounds of this batch", earlier.Batch)
		}
		c := b.Choices
		c.Earlier = earlier
		return change.Change{Action: "curves", Subject: subject, Why: reason, Before: change.ChoicesOf(b), After: change.State{Choices: &c}}, nil
	})
}

// earlier takes the curves of a batch as they stand.
func (l *Lab) earlier(ctx context.Context, batchID string) (*batch.Earlier, error) {
	p, err := l.Process(ctx, batchID)
	if err != nil {
		return nil, err
	}
	b, m := p.Batch, p.Batch.Version.Method
	if from := b.Choices.Earlier; from != nil {
		return nil, refuse("%s is itself read from the curves of %s; use that batch", b.Name, from.Batch)
	}
	e := &batch.Earlier{BatchID: b.ID, Batch: b.Name, Study: b.StudyName, Response: m.Curves.Response, Unit: m.Curves.Unit}
	if e.Curves, e.Against = batch.EarlierOf(m, p.Result); len(e.Curves) == 0 {
		return nil, refuse("%s has no curve to read from", b.Name)
	}
	for _, in := range b.Injections {
		if at := in.Header.AcquiredAt; in.Role == batch.Standard && at != nil && (e.MeasuredAt == nil || at.After(*e.MeasuredAt)) {
			e.MeasuredAt = at
		}
	}
	return e, nil
}

// MethodChoice is a method that a new batch can start with.
type MethodChoice struct {
	ID       string          `json:"id"`
	Name     string          `json:"name"`
	Study    string          `json:"study"`
	Batches  int             `json:"batches"` // that use a version of it
	Versions []MethodVersion `json:"versions"`
}

// MethodVersion is a version in that list.
type MethodVersion struct {
	ID      string    `json:"id"`
	Number  int       `json:"number"`
	Reason  string    `json:"reason"`
	SavedAt time.Time `json:"saved_at"`
	Author  string    `json:"author"`
	// Approved is by whom and when it was approved; nil where nobody has.
	Approved *ApprovedVersion `json:"approved"`
}

// Methods lists the methods of all studies with their versions, the newest first.
func (l *Lab) Methods(ctx context.Context) ([]MethodChoice, error) {
	list := []MethodChoice{}
	err := l.store.Read(ctx, func(t *store.Tx) error {
		approved, err := approvals(t)
		if err != nil {
			return err
		}
		methods, err := t.Methods()
		for _, m := range methods {
			c := MethodChoice{m.ID, m.Name, m.Study, m.Batches, []MethodVersion{}}
			for _, v := range m.Versions {
				one := MethodVersion{v.ID, v.Number, v.Reason, v.SavedAt, v.Author, nil}
				if a, is := approved[v.ID]; is {
					one.Approved = &a
				}
				c.Versions = append(c.Versions, one)
			}
			list = append(list, c)
		}
		return err
	})
	return list, err
}

// maxNames bounds the names that are offered.
const maxNames = 2000

// CompoundNames are the names that compounds have in the methods of this shelf, to be completed from.
func (l *Lab) CompoundNames(ctx context.Context) (names []string, err error) {
	err = l.store.Read(ctx, func(t *store.Tx) error {
		names, err = t.CompoundNames(maxNames)
		return err
	})
	return append([]string{}, names...), err
}

// NewBatchBy starts a batch by a saved method version, of any study: by the version itself, or by a copy that becomes a method of the batch's study.
// Where a version of the method is approved, that one is used, or there is a reason why not.
func (l *Lab) NewBatchBy(ctx context.Context, study, name, versionID string, copied bool, reason, who string) (id string, err error) {
	reason, err = bounded(reason)
	if err != nil {
		return "", err
	}
	var v store.Version
	err = l.store.Read(ctx, func(t *store.Tx) error {
		if v, err = t.Version(versionID); err != nil || copied || reason != "" {
			return err
		}
		other, err := newestApproved(t, v.MethodID)
		if err == nil && other != nil && other.ID != v.ID {
			return refuseAt("/reason", "version %d of %s is approved, and this is version %d: say why it is used", other.Number, v.Name, v.Number)
		}
		return err
	})
	if err != nil {
		return "", err
	}
	if copied {
		return l.newBatch(ctx, study, name, reason, who, func(t *store.Tx, studyID string) (store.Version, error) {
			return firstVersion(t, studyID, v.Name, v.Method, "copied from "+v.Name+", version "+strconv.Itoa(v.Number), who)
		})
	}
	return l.newBatch(ctx, study, name, reason, who, func(*store.Tx, string) (store.Version, error) { return v, nil })
}
