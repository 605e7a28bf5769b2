package lab

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"os"
	"path/filepath"
	"slices"
	"strings"
	"time"

	"yugen/core/batch"
	"yugen/lab/taking"
	"yugen/store"
)

// WatchRule says what becomes of the files that appear in a folder.
type WatchRule struct {
	Folder string `json:"folder"`
	// Pattern is which files are meant, as *.mzML; empty for all.
	Pattern string `json:"pattern"`
	Study   string `json:"study"`
	// Batch is the name of the batch; {day} in it is the day on which a file comes.
	Batch string `json:"batch"`
	// Method is the name of a method of the study, which a batch that is made for the files begins with; empty for a new one.
	Method string `json:"method"`
}

const (
	maxWatchRules = 50
	watchEvery    = time.Second
	// watchStill is for how long a file must not have changed before it is whole.
	watchStill = 3 * time.Second
	watchedBy  = "Watched folder"
	watchFile  = "watched.jsonl"
)

// ReadWatchRules reads rules as they stand in a file: a JSON list.
func ReadWatchRules(data []byte) ([]WatchRule, error) {
	var rules []WatchRule
	d := json.NewDecoder(bytes.NewReader(data))
	d.DisallowUnknownFields()
	if err := d.Decode(&rules); err != nil {
		return nil, refuse("the rules of watched folders cannot be read: %s", err)
	}
	if _, err := d.Token(); !errors.Is(err, io.EOF) {
		return nil, refuse("the rules of watched folders: there is more behind the list")
	}
	if len(rules) == 0 || len(rules) > maxWatchRules {
		return nil, refuse("1 to %d folders are watched, not %d", maxWatchRules, len(rules))
	}
	for n, r := range rules {
		info, err := os.Stat(r.Folder)
		switch {
		case r.Folder == "" || err != nil || !info.IsDir():
			return nil, refuse("rule %d: %q is no folder", n+1, r.Folder)
		case strings.TrimSpace(r.Study) == "" || strings.TrimSpace(r.Batch) == "":
			return nil, refuse("rule %d: a study and the name of a batch are wanted", n+1)
		}
		if _, err := filepath.Match(r.Pattern, ""); err != nil {
			return nil, refuse("rule %d: the pattern %q cannot be read", n+1, r.Pattern)
		}
	}
	return rules, nil
}

// stamp is a file as it was seen.
type stamp struct {
	Path string    `json:"path"`
	Size int64     `json:"size"`
	At   time.Time `json:"at"`
}

func (s stamp) is(o stamp) bool { return s.Path == o.Path && s.Size == o.Size && s.At.Equal(o.At) }

// watcher takes in what appears in folders, each file once, when it has stood still.
type watcher struct {
	lab   *Lab
	rules []WatchRule
	still time.Duration
	taken map[string]stamp
	seen  map[string]stamp
	since map[string]time.Time // from when a file has been as it was seen
	away  map[string]bool      // folders that could not be read when they were last looked at
	kept  string
}

// WatchFolders takes in the files that appear in folders until the context ends. Which were taken stands on disk, so that none is taken again after a restart.
func (l *Lab) WatchFolders(ctx context.Context, rules []WatchRule) error {
	w := l.watcher(rules)
	if err := w.remember(); err != nil {
		return err
	}
	t := time.NewTicker(watchEvery)
	defer t.Stop()
	for {
		w.look(ctx, time.Now())
		select {
		case <-ctx.Done():
			return nil
		case <-t.C:
		}
	}
}

func (l *Lab) watcher(rules []WatchRule) *watcher {
	return &watcher{lab: l, rules: rules, still: watchStill, taken: map[string]stamp{}, seen: map[string]stamp{}, since: map[string]time.Time{}, away: map[string]bool{}, kept: filepath.Join(l.store.Folder(), watchFile)}
}

// remember reads which files were taken; a line that the power cut is that of a file that is taken again, and found to be there.
func (w *watcher) remember() error {
	f, err := os.Open(w.kept)
	if errors.Is(err, os.ErrNotExist) {
		return nil
	}
	if err != nil {
		return fmt.Errorf("what was taken from watched folders cannot be read: %w", err)
	}
	defer f.Close()
	lines := bufio.NewScanner(f)
	for lines.Scan() {
		var s stamp
		if json.Unmarshal(lines.Bytes(), &s) == nil {
			w.taken[s.Path] = s
		}
	}
	return lines.Err()
}

// look goes over the folders once.
func (w *watcher) look(ctx context.Context, now time.Time) {
	for _, r := range w.rules {
		entries, err := os.ReadDir(r.Folder)
		if err != nil && !w.away[r.Folder] {
			slog.Error("a watched folder cannot be read", "folder", r.Folder, "error", err)
			w.lab.message("A watched folder cannot be read", "%s: %s. What appears in it is taken in when it is there again.", r.Folder, err)
		}
		if w.away[r.Folder] = err != nil; err != nil {
			continue
		}
		for _, e := range entries {
			if ctx.Err() != nil {
				return
			}
			if fits, _ := filepath.Match(r.Pattern, e.Name()); r.Pattern != "" && !fits || strings.HasPrefix(e.Name(), ".") {
				continue
			}
			info, err := e.Info()
			if err != nil || !info.Mode().IsRegular() {
				continue
			}
			s := stamp{filepath.Join(r.Folder, e.Name()), info.Size(), info.ModTime()}
			if w.taken[s.Path].is(s) {
				continue
			}
			if !w.seen[s.Path].is(s) {
				w.seen[s.Path], w.since[s.Path] = s, now
				continue
			}
			if now.Sub(w.since[s.Path]) >= w.still && s.Size > 0 {
				w.take(ctx, r, s, now)
			}
		}
	}
}

// take takes one file in and writes down that it was.
func (w *watcher) take(ctx context.Context, r WatchRule, s stamp, now time.Time) {
	w.since[s.Path] = now // where it fails it is tried again after a while
	out, err := w.lab.takeWatched(ctx, r, s.Path, now)
	if err != nil {
		if ctx.Err() == nil {
			slog.Error("a file of a watched folder is not taken in; it is tried again", "file", s.Path, "error", err)
		}
		return
	}
	if out.Status == taking.Refused {
		slog.Warn("a file of a watched folder is refused", "file", s.Path, "why", out.Message)
		w.lab.message("Refused: "+filepath.Base(s.Path), "%s\n%s", out.Message, s.Path)
	}
	line, err := json.Marshal(s)
	if err == nil {
		var f *os.File
		if f, err = os.OpenFile(w.kept, os.O_CREATE|os.O_APPEND|os.O_WRONLY, 0o644); err == nil {
			_, err = f.Write(append(line, '\n'))
			err = errors.Join(err, f.Sync(), f.Close())
		}
	}
	if err != nil {
		slog.Error("what was taken from a watched folder is not written down", "file", s.Path, "error", err)
	}
	w.taken[s.Path] = s
}

func (l *Lab) takeWatched(ctx context.Context, r WatchRule, path string, now time.Time) (taking.Outcome, error) {
	id, err := l.watchedBatch(ctx, r, now)
	if err != nil {
		return taking.Outcome{}, err
	}
	f, err := os.Open(path)
	if err != nil {
		return taking.Outcome{}, err
	}
	defer f.Close()
	out, err := l.Receive(ctx, id, filepath.Base(path), f, watchedBy)
	if err != nil || out.Status == taking.Refused {
		return out, err
	}
	_, err = l.Process(ctx, id)
	return out, err
}

// watchedBatch is the batch of a rule, made where it is not there.
func (l *Lab) watchedBatch(ctx context.Context, r WatchRule, now time.Time) (string, error) {
	name := strings.ReplaceAll(r.Batch, "{day}", now.Format("2006-01-02"))
	studies, err := l.Studies(ctx)
	if err != nil {
		return "", err
	}
	for _, s := range studies {
		if s.Name != r.Study {
			continue
		}
		if k := slices.IndexFunc(s.Batches, func(b store.Listing) bool { return b.Name == name }); k >= 0 {
			return s.Batches[k].ID, nil
		}
	}
	if r.Method == "" {
		m := batch.NewMethod()
		m.Amounts.AsMeasured = true // until somebody says what was weighed
		return l.NewBatch(ctx, r.Study, name, r.Study, m, watchedBy)
	}
	methods, err := l.Methods(ctx)
	if err != nil {
		return "", err
	}
	for _, m := range methods {
		if m.Name != r.Method || m.Study != r.Study || len(m.Versions) == 0 {
			continue
		}
		use := m.Versions[0]
		if k := slices.IndexFunc(m.Versions, func(v MethodVersion) bool { return v.Approved != nil }); k >= 0 {
			use = m.Versions[k]
		}
		return l.NewBatchBy(ctx, r.Study, name, use.ID, false, "by the rule of a watched folder", watchedBy)
	}
	return "", refuse("the study %s has no method %s, which the rule of %s asks for", r.Study, r.Method, r.Folder)
}
