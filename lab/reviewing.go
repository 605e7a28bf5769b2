package lab

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"
	"unicode/utf8"

	"yugen/lab/change"
	"yugen/lab/review"
	"yugen/people"
	"yugen/store"
)

// Review is what a person who looks after another one sees: everything that was changed by hand, by what it does to a reported number, and who signed.
type Review struct {
	Items []ReviewItem `json:"items"` // the largest effect first
	// Reckoning is how many effects are not known yet.
	Reckoning  int               `json:"reckoning"`
	Results    int               `json:"results"` // reported numbers
	Untouched  []UntouchedResult `json:"untouched"`
	Version    int               `json:"version"`
	Approved   *ApprovedVersion  `json:"approved"`
	Open       int               `json:"open_notices"`
	Prepared   []string          `json:"prepared_by"` // who changed anything that results stand on
	Signatures []GivenSignature  `json:"signatures"`
	SentBack   []SentBackItem    `json:"sent_back"`
	Locked     bool              `json:"locked"`
	Seal       review.Seal       `json:"seal"`
	Sealed     review.Counts     `json:"sealed"`
	// May are the meanings that who asks may sign with now; WhyNot says of the others what keeps them.
	May     []MeaningAsked `json:"may"`
	Judging string         `json:"why_not_judge"` // what keeps who asks from saying anything of items; empty for nothing
	Unlock  bool           `json:"may_unlock"`
}

// ReviewItem is one of them, with what it does.
type ReviewItem struct {
	review.Item
	Effect   *review.Effect `json:"effect"`   // nil where no number moves
	Reckoned bool           `json:"reckoned"` // the effect is known
	Problem  string         `json:"problem,omitempty"`
	Drawn    *BeforeAfter   `json:"drawn"`
	Judged   *review.Judged `json:"judged"`
}

// UntouchedResult is a reported number that nothing of the list moves.
type UntouchedResult struct {
	CompoundID string   `json:"compound_id"`
	Group      string   `json:"group,omitempty"`
	Of         string   `json:"of"`
	Value      *float64 `json:"value"`
	Unit       string   `json:"unit"`
}

// GivenSignature is a signature as it is shown.
type GivenSignature struct {
	review.Signature
	At   time.Time    `json:"at"`
	Gone *review.Gone `json:"gone"`
	// Holds says that everything is still as it was signed; Moved that reported numbers are others.
	Holds bool `json:"holds"`
	Moved bool `json:"moved"`
}

// SentBackItem is what was sent back, and whether it is still in the list.
type SentBackItem struct {
	Key   string    `json:"key"`
	What  string    `json:"what"`
	Why   string    `json:"why"`
	Who   string    `json:"who"`
	At    time.Time `json:"at"`
	There bool      `json:"there"`
}

// MeaningAsked is what a signature would mean, and what keeps somebody from giving it.
type MeaningAsked struct {
	Meaning review.Meaning `json:"meaning"`
	Words   string         `json:"words"`
	WhyNot  string         `json:"why_not"`
}

// maxUntouched bounds the list of what nobody touched.
const maxUntouched = 5000

// Review is how a batch stands for somebody.
func (l *Lab) Review(ctx context.Context, batchID string, by people.Actor) (Review, error) {
	p, err := l.Process(ctx, batchID)
	if err != nil {
		return Review{}, err
	}
	looked, state, prepared, err := l.lookedAt(ctx, p)
	if err != nil {
		return Review{}, err
	}
	items, err := review.Items(looked)
	if err != nil {
		return Review{}, err
	}
	reports, err := l.Reports(ctx, batchID)
	if err != nil {
		return Review{}, err
	}
	reckoned := l.reckonings.of(ctx, l, p, items)
	out := Review{Items: []ReviewItem{}, Untouched: []UntouchedResult{}, Version: p.Batch.Version.Number, Prepared: prepared, Signatures: []GivenSignature{}, SentBack: []SentBackItem{}, Locked: state.Locked, May: []MeaningAsked{}}
	touched := map[string]bool{}
	there := map[string]bool{}
	for _, i := range items {
		one := ReviewItem{Item: i, Reckoned: i.Without == nil}
		if r, known := reckoned[i.Key]; known {
			one.Effect, one.Problem, one.Drawn, one.Reckoned = r.effect, r.problem, r.drawn, true
			if r.effect != nil && !i.RunList {
				for _, key := range r.effect.Moved {
					touched[key] = true
				}
			}
		}
		if !one.Reckoned {
			out.Reckoning++
		}
		if i.Kind == review.Edited && one.CompoundID == "" {
			one.CompoundID = compoundNear(p.Result, i)
		}
		if j, said := state.Verdicts[i.Key]; said {
			one.Judged = &j
		}
		there[i.Key] = true
		out.Items = append(out.Items, one)
	}
	slices.SortStableFunc(out.Items, func(a, b ReviewItem) int {
		switch x, y := a.Effect.Size(), b.Effect.Size(); {
		case x > y:
			return -1
		case x < y:
			return 1
		}
		return strings.Compare(string(a.Kind), string(b.Kind))
	})
	for _, s := range state.SentBack {
		out.SentBack = append(out.SentBack, SentBackItem{s.Key, s.What, s.Remark, s.Who, s.At, there[s.Key]})
	}
	out.untouched(p, touched)
	for _, n := range p.Result.Notices {
		if !slices.Contains(p.Batch.Settled, n.Key) {
			out.Open++
		}
	}
	if looked.Approved != nil {
		out.Approved = &ApprovedVersion{ID: looked.Approved.ID, Number: looked.Approved.Number}
	}
	out.Seal = review.SealOf(p.Batch, p.Result, reports)
	out.Sealed = review.Counts{Results: out.Results, Injections: len(p.Batch.Injections), ByHand: len(items), Version: out.Version, Reports: len(reports)}
	for _, g := range state.Signatures {
		out.Signatures = append(out.Signatures, GivenSignature{Signature: g, At: g.At, Gone: g.Gone, Holds: g.Seal.Holds(p.Batch), Moved: g.Seal.Results != out.Seal.Results})
	}
	words, err := l.Meanings(ctx)
	if err != nil {
		return out, err
	}
	for _, m := range words {
		m.WhyNot = out.keepsFromSigning(m.Meaning, by)
		out.May = append(out.May, m)
	}
	out.Judging, out.Unlock = out.keepsFromJudging(by), out.Locked && by.May(people.Review)
	return out, nil
}

// lookedAt is what the record and the methods say of a batch, where its review stands, and who prepared it.
func (l *Lab) lookedAt(ctx context.Context, p Processed) (b review.Batch, state review.State, prepared []string, err error) {
	b = review.Batch{Now: p.Batch, Notices: p.Result.Notices}
	err = l.store.Read(ctx, func(t *store.Tx) error {
		if b.Rows, err = t.ChangesOf(p.Batch.ID); err != nil {
			return err
		}
		rows, err := t.SigningRows(p.Batch.ID)
		if err != nil {
			return err
		}
		if state, err = review.StateOf(rows); err != nil {
			return err
		}
		newest, err := t.NewestInput(p.Batch.ID)
		if err != nil {
			return err
		}
		prepared = append([]string{}, newest.Analysts...)
		b.Withdrawn = state.Withdrawn
		b.Approved, b.Versions, err = approvedBefore(t, p.Batch.Version)
		return err
	})
	return b, state, prepared, err
}

// untouched are the reported numbers that nothing moves.
func (r *Review) untouched(p Processed, touched map[string]bool) {
	for _, n := range review.Listed(p.Batch, p.Result) {
		if n.Value == nil {
			continue
		}
		r.Results++
		if !touched[n.Key] && len(r.Untouched) < maxUntouched {
			r.Untouched = append(r.Untouched, UntouchedResult{n.CompoundID, n.Group, n.Of, n.Value, n.Unit})
		}
	}
}

// keepsFromJudging says what keeps somebody from accepting items or sending them back; empty for nothing.
func (r *Review) keepsFromJudging(by people.Actor) string {
	switch {
	case r.Locked:
		return "It is signed. Unlock it to look at it anew."
	case by.Limits != nil:
		return "A token does not review."
	case !by.May(people.Review):
		return by.Name + " may not review."
	case !by.Alone && slices.Contains(r.Prepared, by.Name):
		return "You prepared this, so somebody else looks at it."
	}
	return ""
}

// standing tells whether a signature of a meaning stands, over everything as it is now.
func (r *Review) standing(m review.Meaning) bool {
	return slices.ContainsFunc(r.Signatures, func(g GivenSignature) bool { return g.Meaning == m && g.Gone == nil && g.Holds })
}

func (r *Review) count(v review.Verdict) (n int) {
	for _, i := range r.Items {
		if i.Judged != nil && i.Judged.Verdict == v {
			n++
		}
	}
	return n
}

// keepsFromSigning says what keeps somebody from signing; empty for nothing.
func (r *Review) keepsFromSigning(m review.Meaning, by people.Actor) string {
	accepted, sentBack := r.count(review.Accepted), r.count(review.SentBack)
	right := map[review.Meaning]people.Right{review.Prepared: people.Work, review.Reviewed: people.Review, review.Approved: people.Approve}[m]
	own := !by.Alone && slices.Contains(r.Prepared, by.Name)
	switch {
	case by.Limits != nil:
		return "A token does not sign."
	case !by.May(right):
		return by.Name + " may not sign as " + string(m) + "."
	case r.standing(m):
		return "It is signed as " + string(m) + " already."
	case r.Reckoning > 0:
		return "Effects are still being reckoned."
	case m == review.Prepared && r.Locked:
		return "It is signed. Unlock it first."
	case m == review.Prepared && sentBack > 0:
		return fmt.Sprintf("%d sent back: mend or take back what was sent back first.", sentBack)
	case m == review.Prepared:
		return ""
	case own:
		return "You cannot sign as " + string(m) + " what you prepared."
	case !by.Alone && !r.standing(review.Prepared):
		return "Who prepared it has not signed, or it was changed since."
	case sentBack > 0:
		return fmt.Sprintf("%d sent back.", sentBack)
	case accepted < len(r.Items):
		return fmt.Sprintf("%d to look at.", len(r.Items)-accepted)
	case m == review.Approved && !r.standing(review.Reviewed):
		return "Nobody has signed as reviewed yet."
	}
	return ""
}

// maxRemark bounds what is said of an item.
const maxRemark = 500

// maxJudged bounds how many items are judged together.
const maxJudged = 20_000

// Judge accepts items or sends them back with a remark.
func (l *Lab) Judge(ctx context.Context, batchID string, keys []string, v review.Verdict, remark string, by people.Actor) (Review, error) {
	remark = strings.TrimSpace(remark)
	switch {
	case len(keys) == 0 || len(keys) > maxJudged:
		return Review{}, refuseAt("/keys", "between 1 and %d items are judged together, not %d", maxJudged, len(keys))
	case v != review.Accepted && v != review.SentBack:
		return Review{}, refuseAt("/verdict", "an item is accepted or sent back, not %q", v)
	case v == review.SentBack && remark == "":
		return Review{}, refuseAt("/remark", "what is sent back has a remark that says why")
	case utf8.RuneCountInString(remark) > maxRemark:
		return Review{}, refuseAt("/remark", "a remark has at most %d characters", maxRemark)
	}
	now, err := l.Review(ctx, batchID, by)
	if err != nil {
		return now, err
	}
	if now.Judging != "" {
		return now, refuse("%s", now.Judging)
	}
	var items []review.Item
	for k, key := range keys {
		at := slices.IndexFunc(now.Items, func(i ReviewItem) bool { return i.Key == key })
		if at < 0 {
			return now, refuseAt(fmt.Sprintf("/keys/%d", k), "this is not in the list any more; it was changed meanwhile")
		}
		items = append(items, now.Items[at].Item)
	}
	subject := string(v) + ": " + strings.TrimSpace(items[0].What+" "+items[0].Where)
	if len(items) > 1 {
		subject = fmt.Sprintf("%s: %d changes", v, len(items))
	}
	err = l.store.Write(ctx, func(t *store.Tx) error {
		if locked, err := t.Locked(batchID); err != nil || locked {
			return errors.Join(err, refuse("it was signed meanwhile"))
		}
		if _, err := t.Touch(batchID, 0); err != nil {
			return err
		}
		_, err := t.Record(store.Change{Who: by.Name, BatchID: batchID, Action: store.ReviewAction, Subject: subject, Why: remark, After: review.Judgement(v, remark, items)})
		return err
	})
	if err != nil {
		return now, err
	}
	l.tellOf(ctx, batchID)
	return l.Review(ctx, batchID, by)
}

// tellOf tells those who watch that something about a batch is new.
func (l *Lab) tellOf(ctx context.Context, batchID string) {
	if b, err := l.Batch(ctx, batchID); err == nil {
		l.watch.tell(Event{BatchID: batchID, Revision: b.Revision})
	}
}

// Sign signs a batch as it was looked at: revision is what stood on the screen. Who signs in proves themselves by their password again.
func (l *Lab) Sign(ctx context.Context, batchID string, revision int, m review.Meaning, password string, by people.Actor) (Review, error) {
	if !slices.Contains(review.Meanings, m) {
		return Review{}, refuseAt("/meaning", "a signature means prepared, reviewed or approved, not %q", m)
	}
	now, err := l.Review(ctx, batchID, by)
	if err != nil {
		return now, err
	}
	var asked MeaningAsked
	for _, one := range now.May {
		if one.Meaning == m {
			asked = one
		}
	}
	if asked.WhyNot != "" {
		return now, refuseAt("/meaning", "%s", asked.WhyNot)
	}
	if !by.Alone {
		if err := l.proveAgain(ctx, by, password, "gave the password to sign", "an attempt to sign failed"); err != nil {
			return now, err
		}
	}
	g := review.Signature{Meaning: m, Words: asked.Words, Name: by.Name, Seal: now.Seal, Locks: m.Locks(), Proven: !by.Alone, Alone: by.Alone && m != review.Prepared, Counts: now.Sealed}
	err = l.store.Write(ctx, func(t *store.Tx) error {
		b, err := t.Batch(batchID)
		if err != nil {
			return err
		}
		if !g.Seal.Holds(b) {
			return store.ErrStale
		}
		if _, err := t.Touch(batchID, revision); err != nil {
			return err
		}
		_, err = t.Record(store.Change{Who: by.Name, BatchID: batchID, Action: store.SignatureAction, Subject: string(m), Why: asked.Words, After: change.JSON(g)})
		return err
	})
	if err != nil {
		return now, err
	}
	l.tellOf(ctx, batchID)
	return l.Review(ctx, batchID, by)
}

// proveAgain asks for somebody's password once more.
func (l *Lab) proveAgain(ctx context.Context, by people.Actor, password, well, ill string) error {
	p, err := l.prove(ctx, by.Name, password, well, ill)
	if !errors.Is(err, ErrNotThem) {
		return err
	}
	if left := failuresAtOnce - p.Failures; left > 0 {
		return refuseAt("/password", "not this one; %d more before you wait", left)
	}
	return refuseAt("/password", "not this one; wait before the next try")
}

// Unlock takes the signatures of a batch off, with a reason.
func (l *Lab) Unlock(ctx context.Context, batchID, reason, password string, by people.Actor) (Review, error) {
	reason = strings.TrimSpace(reason)
	switch {
	case reason == "" || len(reason) > maxReason:
		return Review{}, refuseAt("/reason", "unlocking needs a reason of at most %d characters", maxReason)
	case by.Limits != nil || !by.May(people.Review):
		return Review{}, refuse("%s may not unlock what is signed", by.Name)
	}
	if !by.Alone {
		if err := l.proveAgain(ctx, by, password, "gave the password to unlock", "an attempt to unlock failed"); err != nil {
			return Review{}, err
		}
	}
	err := l.store.Write(ctx, func(t *store.Tx) error {
		if locked, err := t.Locked(batchID); err != nil || !locked {
			return errors.Join(err, refuse("it is not signed"))
		}
		if _, err := t.Touch(batchID, 0); err != nil {
			return err
		}
		_, err := t.Record(store.Change{Who: by.Name, BatchID: batchID, Action: store.UnlockAction, Subject: "signatures withdrawn", Why: reason, After: "{}"})
		return err
	})
	if err != nil {
		return Review{}, err
	}
	l.tellOf(ctx, batchID)
	return l.Review(ctx, batchID, by)
}

var usualWords = map[review.Meaning]string{
	review.Prepared: "I made this, and looked at every peak, curve and check",
	review.Reviewed: "I looked at every change in this list, and at the curves and checks",
	review.Approved: "Released to who asked for it",
}

// Meanings are what signatures mean here.
func (l *Lab) Meanings(ctx context.Context) ([]MeaningAsked, error) {
	own, err := l.Settings(ctx)
	list := []MeaningAsked{}
	for _, m := range review.Meanings {
		words := own.Meanings[m]
		if words == "" {
			words = usualWords[m]
		}
		list = append(list, MeaningAsked{Meaning: m, Words: words})
	}
	return list, err
}
