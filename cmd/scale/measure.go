package main

import (
	"context"
	"fmt"
	"os"
	"path/filepath"
	"time"

	"yugen/lab"
	"yugen/store"
)

// measure prints what each thing takes that a person waits for, the best of three where it is short.
func measure(ctx context.Context, s *store.Store, l *lab.Lab, dir, first string) error {
	row := func(what string, n int, f func() (string, error)) error {
		least, says := time.Duration(1<<62), ""
		for range n {
			start := time.Now()
			answer, err := f()
			if err != nil {
				return fmt.Errorf("%s: %w", what, err)
			}
			least, says = min(least, time.Since(start)), answer
		}
		fmt.Printf("%-58s %9.1f ms   %s\n", what, float64(least.Microseconds())/1000, says)
		return nil
	}
	find := func(text string) func() (string, error) {
		return func() (string, error) {
			f, err := l.FindOnShelf(ctx, text)
			return fmt.Sprintf("%d found, more: %v", len(f.Results)+len(f.Batches), f.More), err
		}
	}
	page := func(w store.Wanted, before int64) func() (string, error) {
		return func() (string, error) {
			p, err := l.FindRecord(ctx, w, before)
			return fmt.Sprintf("%d rows", len(p.Rows)), err
		}
	}
	for _, one := range []struct {
		what string
		n    int
		f    func() (string, error)
	}{
		{"shelf: all studies with their batches", 3, func() (string, error) {
			list, err := l.Studies(ctx)
			n := 0
			for _, s := range list {
				n += len(s.Batches)
			}
			return fmt.Sprintf("%d batches", n), err
		}},
		{"find: gyokuro", 3, find("gyokuro")},
		{"find: a single lot", 3, find("lot 123456")},
		{"find: EGCG > 60 mg/g", 3, find("EGCG > 60 mg/g")},
		{"find: EGCG > 2000 mg/g, of which there is nothing", 3, find("EGCG > 2000 mg/g")},
		{"find: gyokuro by Okada", 3, find("gyokuro by Okada")},
		{"find: vial D3", 3, find("vial D3")},
		{"find: March 2024", 3, find("March 2024")},
		{"find: above range", 3, find("above range")},
		{"find: gyokoro, which is nowhere", 3, find("gyokoro")},
		{"record: the newest page", 3, page(store.Wanted{}, 0)},
		{"record: a page in the middle", 3, page(store.Wanted{}, 300_000)},
		{"record: a person", 3, page(store.Wanted{Who: "J. Keller"}, 0)},
		{"record: a common word", 3, page(store.Wanted{Words: "looked"}, 0)},
		{"record: a rare word", 3, page(store.Wanted{Words: "lot 123456"}, 0)},
		{"record: a word, a person and a kind", 3, page(store.Wanted{Words: "hojicha", Who: "J. Keller", Action: "document"}, 0)},
		{"a batch with its result", 3, func() (string, error) {
			p, err := l.Process(ctx, first)
			return fmt.Sprintf("%d injections", len(p.Batch.Injections)), err
		}},
		{"trends of caffeine over a study", 2, func() (string, error) {
			t, err := l.TrendsOf(ctx, first, lab.TrendsAsked{Along: "time", Quantities: []string{"amount"}})
			return fmt.Sprintf("%d charts", len(t.Charts)), err
		}},
		{"a change: one field of the run list", 3, func() (string, error) {
			b, err := l.Batch(ctx, first)
			if err != nil {
				return "", err
			}
			vial := "Z1"
			if b.Injections[0].Vial == vial {
				vial = "Z2"
			}
			_, err = l.ChangeEntries(ctx, first, 0, []lab.EntryChange{{InjectionID: b.Injections[0].ID, Field: "vial", Value: vial}}, "", who)
			return "", err
		}},
		{"backup, checked", 1, func() (string, error) {
			to, err := s.Backup(ctx, filepath.Join(filepath.Dir(dir), "backups"), nil)
			return size(to), err
		}},
		{"check of all but what files decode to", 1, func() (string, error) {
			v, err := l.VerifyQuickly(ctx)
			return fmt.Sprintf("%d rows, %d files, wrong: %v", v.Changes, v.Files, v.Wrong), err
		}},
	} {
		if err := row(one.what, one.n, one.f); err != nil {
			return err
		}
	}
	fmt.Printf("%-58s %s\n", "the data folder", size(dir))
	return nil
}

// size is how much a folder holds.
func size(dir string) string {
	total := int64(0)
	_ = filepath.WalkDir(dir, func(_ string, e os.DirEntry, err error) error {
		if err != nil {
			return nil
		}
		if i, err := e.Info(); err == nil && !e.IsDir() {
			total += i.Size()
		}
		return nil
	})
	return fmt.Sprintf("%.2f GB", float64(total)/1e9)
}
