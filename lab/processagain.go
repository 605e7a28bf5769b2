package lab

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"math"
	"slices"
	"strings"
	"time"

	"yugen/core/batch"
	"yugen/core/checks"
	"yugen/jobs"
	"yugen/lab/change"
	"yugen/store"
)

// The versions that a batch is processed with once more, besides any by its id.
const (
	NewestVersion = "newest"
	KeptVersion   = "kept" // the one that made the present results
)

// AskedAgain says with which version of its method a batch is processed once more, and what is looked at.
type AskedAgain struct {
	Version string `json:"version"` // newest, kept, or the id of a version; empty is the newest
	// InjectionIDs are those whose results are compared; none are all. An amount needs the curves of its batch, so that the whole batch is processed anyhow.
	InjectionIDs []string `json:"injection_ids"`
}

// ProcessedAgain is what processing a batch once more gives beside its present results. Nothing of the batch is changed by it.
type ProcessedAgain struct {
	JobID   string    `json:"job_id"`
	BatchID string    `json:"batch_id"`
	Batch   string    `json:"batch"`
	At      time.Time `json:"at"`
	Who     string    `json:"who"`
	From    UsedInput `json:"from"`
	To      UsedInput `json:"to"`
	// InjectionIDs are those that were looked at; none are all.
	InjectionIDs []string `json:"injection_ids"`
	Same         int      `json:"same"` // results that came out as they are
	// Moved are those that did not, the largest change first, at most 500 of MovedInAll.
	Moved      []MovedResult `json:"moved"`
	MovedInAll int           `json:"moved_in_all"`
	// NewNotices would appear, EndedNotices would go.
	NewNotices   []string `json:"new_notices"`
	EndedNotices []string `json:"ended_notices"`
}

// UsedInput is a version of a method, and the hash of all that results are made from with it.
type UsedInput struct {
	VersionID  string `json:"version_id"`
	Number     int    `json:"number"`
	Reason     string `json:"reason"`
	InputsHash string `json:"inputs_hash"`
}

// MovedResult is the mean of a compound in a sample that comes out differently.
type MovedResult struct {
	Sample     string   `json:"sample"`
	CompoundID string   `json:"compound_id"`
	Compound   string   `json:"compound"`
	Before     *float64 `json:"before"` // null where there is none
	After      *float64 `json:"after"`
	Percent    *float64 `json:"percent"` // null where one of them is missing or nothing
}

// mostMoved bounds the results that are told one by one, maxAskedInjections those that can be chosen.
const (
	mostMoved          = 500
	maxAskedInjections = 5000
)

// Tell is the comparison in a sentence.
func (p ProcessedAgain) Tell() string {
	parts := []string{fmt.Sprintf("%s the same", plural(p.Same, "result"))}
	if p.MovedInAll > 0 {
		parts = append(parts, fmt.Sprintf("%d moved", p.MovedInAll))
	}
	line := fmt.Sprintf("version %d beside version %d: ", p.To.Number, p.From.Number)
	if p.To.VersionID == p.From.VersionID {
		line = fmt.Sprintf("version %d again: ", p.To.Number)
	}
	line += strings.Join(parts, ", ")
	if len(p.Moved) > 0 && p.Moved[0].Percent != nil {
		line += fmt.Sprintf("; largest %+.1f %%: %s, %s", *p.Moved[0].Percent, p.Moved[0].Compound, p.Moved[0].Sample)
	}
	if n := len(p.NewNotices); n > 0 {
		line += fmt.Sprintf("; %s", plural(n, "new notice"))
	}
	return line
}

// ProcessAgain begins to process a batch once more, by itself, and gives the job. The present results stay as they are.
func (l *Lab) ProcessAgain(ctx context.Context, batchID string, asked AskedAgain, who string) (jobs.Job, error) {
	b, err := l.Batch(ctx, batchID)
	if err != nil {
		return jobs.Job{}, err
	}
	if len(asked.InjectionIDs) > maxAskedInjections {
		return jobs.Job{}, refuseAt("/injection_ids", "at most %d injections are chosen, not %d", maxAskedInjections, len(asked.InjectionIDs))
	}
	for k, id := range asked.InjectionIDs {
		if _, err := injection(b, id); err != nil {
			return jobs.Job{}, refuseAt(fmt.Sprintf("/injection_ids/%d", k), "%s has no injection %s", b.Name, id)
		}
	}
	v, err := l.versionAsked(ctx, b, asked.Version)
	if err != nil {
		return jobs.Job{}, err
	}
	asked.Version = v.ID
	return l.Jobs.Begin(context.WithoutCancel(ctx), againJob(b, asked, who, ""), func(ctx context.Context, p *jobs.Progress) (any, error) {
		return l.processAgain(ctx, batchID, asked, who, p)
	}), nil
}

// againJob is the job of processing a batch once more; asked names its version by id.
func againJob(b store.Batch, asked AskedAgain, who, jobID string) jobs.Asked {
	args := change.JSON(asked)
	return jobs.Asked{ID: jobID, Kind: jobs.Process, Key: "process " + inputsHash(b) + args, BatchID: b.ID, Subject: b.Name, Who: who, Args: args, Patient: true}
}

// processAgainResumed takes such a job up that was stopped with the program.
func (l *Lab) processAgainResumed(ctx context.Context, j store.KeptJob) error {
	var asked AskedAgain
	if err := json.Unmarshal([]byte(j.Args), &asked); err != nil {
		return err
	}
	b, err := l.Batch(ctx, j.BatchID)
	if err != nil {
		return err
	}
	_, err = l.Jobs.Do(ctx, againJob(b, asked, j.Who, j.ID), func(ctx context.Context, p *jobs.Progress) (any, error) {
		return l.processAgain(ctx, b.ID, asked, j.Who, p)
	})
	return err
}

// versionAsked is the version of a batch's method that is meant.
func (l *Lab) versionAsked(ctx context.Context, b store.Batch, asked string) (store.Version, error) {
	switch asked {
	case KeptVersion:
		return b.Version, nil
	case NewestVersion, "":
		var newest store.Version
		err := l.store.Read(ctx, func(t *store.Tx) error {
			list, err := t.Versions(b.Version.MethodID)
			if err == nil {
				newest, err = t.Version(list[0].ID)
			}
			return err
		})
		return newest, err
	}
	v, err := l.version(ctx, b, asked)
	if errors.Is(err, store.ErrNotFound) {
		return v, refuseAt("/version", "the method of %s has no version %s; say newest, kept, or the id of one of its versions", b.Name, asked)
	}
	return v, err
}

// processAgain computes a batch anew, from its raw data and without what is held of earlier computing, and keeps what would change.
func (l *Lab) processAgain(ctx context.Context, batchID string, asked AskedAgain, who string, progress *jobs.Progress) (ProcessedAgain, error) {
	var out ProcessedAgain
	now, err := l.Process(ctx, batchID)
	if err != nil {
		return out, err
	}
	v, err := l.version(ctx, now.Batch, asked.Version)
	if err != nil {
		return out, err
	}
	tried := now.Batch
	tried.Version = v
	injections, err := l.load(ctx, tried)
	if err != nil {
		return out, err
	}
	r, err := batch.Process(ctx, batch.Input{Injections: injections, Method: v.Method, Choices: tried.Choices, Progress: progress.Set}, nil)
	if err != nil {
		return out, err
	}
	set, of, err := l.compiled(ctx, tried, r, v.Method.Fields)
	if err != nil {
		return out, err
	}
	r.Notices = append(r.Notices, set.Judge(of)...)
	out = ProcessedAgain{JobID: progress.JobID(), BatchID: batchID, Batch: now.Batch.Name, At: time.Now().UTC(), Who: who,
		From: usedInput(now.Batch), To: usedInput(tried), InjectionIDs: append([]string{}, asked.InjectionIDs...)}
	out.compare(now, r, v.Method)
	err = l.store.Write(ctx, func(t *store.Tx) error { return t.PutProcessedAgain(out.JobID, batchID, change.JSON(out)) })
	return out, err
}

func usedInput(b store.Batch) UsedInput {
	return UsedInput{b.Version.ID, b.Version.Number, b.Version.Reason, inputsHash(b)}
}

// compare fills in what another result of the batch says otherwise than its present one, of the injections that are looked at.
func (p *ProcessedAgain) compare(now Processed, other batch.Result, m batch.Method) {
	names := map[string]string{}
	for _, c := range slices.Concat(now.Batch.Version.Method.Compounds, m.Compounds) {
		names[c.ID] = c.Name
	}
	looked := func(ids ...string) bool {
		return len(p.InjectionIDs) == 0 || slices.ContainsFunc(ids, func(id string) bool { return slices.Contains(p.InjectionIDs, id) })
	}
	p.Moved = []MovedResult{}
	for i, row := range now.Result.Samples {
		if i >= len(other.Samples) || !looked(row.InjectionIDs...) {
			continue
		}
		for _, e := range effectsOn(row, other.Samples[i], compoundsOf(now.Result, other)) {
			switch {
			case e.Before == nil && e.After == nil:
			case e.Percent != nil && math.Abs(*e.Percent) < 1e-9, e.Percent == nil && e.Before != nil && e.After != nil && *e.Before == *e.After:
				p.Same++
			default:
				p.Moved = append(p.Moved, MovedResult{row.Name, e.CompoundID, names[e.CompoundID], e.Before, e.After, e.Percent})
			}
		}
	}
	size := func(m MovedResult) float64 {
		if m.Percent == nil {
			return math.Inf(1)
		}
		return math.Abs(*m.Percent)
	}
	slices.SortStableFunc(p.Moved, func(a, b MovedResult) int { return cmp.Compare(size(b), size(a)) })
	p.MovedInAll = len(p.Moved)
	p.Moved = p.Moved[:min(len(p.Moved), mostMoved)]
	p.NewNotices, p.EndedNotices = onlyIn(other.Notices, now.Result.Notices, looked), onlyIn(now.Result.Notices, other.Notices, looked)
}

// onlyIn are the sentences of notices that are in one list and not in the other, of the injections that are looked at or of none.
func onlyIn(list, other []checks.Notice, looked func(...string) bool) []string {
	keys := map[string]bool{}
	for _, n := range other {
		keys[n.Key] = true
	}
	out := []string{}
	for _, n := range list {
		if !keys[n.Key] && (n.InjectionID == "" || looked(n.InjectionID)) && len(out) < mostMoved {
			out = append(out, n.Subject+": "+n.Text)
		}
	}
	return out
}

// ProcessedAgainBy gives what a job of processing once more found.
func (l *Lab) ProcessedAgainBy(ctx context.Context, jobID string) (out ProcessedAgain, err error) {
	err = l.store.Read(ctx, func(t *store.Tx) error {
		document, err := t.ProcessedAgain(jobID)
		if err != nil {
			return err
		}
		return json.Unmarshal([]byte(document), &out)
	})
	return out, err
}

// TakeProcessed takes the version that a batch was processed with once more, after all of what it changes could be seen.
func (l *Lab) TakeProcessed(ctx context.Context, jobID string, revision int, reason, who string) (store.Batch, error) {
	reason, err := bounded(reason)
	if err != nil {
		return store.Batch{}, err
	}
	found, err := l.ProcessedAgainBy(ctx, jobID)
	if err != nil {
		return store.Batch{}, err
	}
	switch {
	case found.From.VersionID == found.To.VersionID:
		return store.Batch{}, refuse("%s was processed with the version that it has: there is nothing to take", found.Batch)
	case len(found.InjectionIDs) > 0:
		return store.Batch{}, refuse("only %s were looked at; process the whole of %s to take version %d", plural(len(found.InjectionIDs), "injection"), found.Batch, found.To.Number)
	}
	b, err := l.Batch(ctx, found.BatchID)
	if err != nil {
		return store.Batch{}, err
	}
	v, err := l.version(ctx, b, found.To.VersionID)
	if err != nil {
		return store.Batch{}, err
	}
	if err := l.validFields(ctx, b.ID, v.Method); err != nil {
		return store.Batch{}, err
	}
	return l.make(ctx, b.ID, revision, who, func(t *store.Tx, b store.Batch) (change.Change, error) {
		if inputsHash(b) != found.From.InputsHash {
			return change.Change{}, refuse("%s has changed since it was processed: process it once more, and look at what changes", b.Name)
		}
		other, err := newestApproved(t, v.MethodID)
		if err != nil {
			return change.Change{}, err
		}
		if other != nil && other.ID != v.ID && reason == "" {
			return change.Change{}, refuseAt("/reason", "version %d of %s is approved, and this is version %d: say why it is used", other.Number, v.Name, v.Number)
		}
		return toVersion(b, v, reason), nil
	})
}
