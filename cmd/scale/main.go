// Command scale simulates years of a laboratory straight in the store, and measures what a person waits for then: shelf, find, record, trends, a batch, backup, check.
package main

import (
	"context"
	"flag"
	"fmt"
	"math"
	"math/rand/v2"
	"os"
	"path/filepath"
	"time"

	"yugen/bench"
	"yugen/core/batch"
	"yugen/lab"
	"yugen/lab/change"
	"yugen/lab/taking"
	"yugen/store"
)

// Of the laboratory that is simulated.
const (
	years          = 5
	perBatch       = 50  // injections
	imported       = 100 // of so many injections one is truly imported
	perMethod      = 3 * years
	methods        = 20
	samplesOfBatch = 20
	who            = "M. Okada"
)

func main() {
	injections := flag.Int("injections", 365_000, "how many")
	dir := flag.String("data", "", "the folder to make; a temporary one where it is not said")
	flag.Parse()
	if err := run(context.Background(), *injections, *dir); err != nil {
		fmt.Fprintln(os.Stderr, err)
		os.Exit(1)
	}
}

func run(ctx context.Context, injections int, dir string) error {
	if dir == "" {
		made, err := os.MkdirTemp("", "yugen-scale")
		if err != nil {
			return err
		}
		defer os.RemoveAll(made)
		dir = filepath.Join(made, "data")
	}
	s, err := store.Open(ctx, dir)
	if err != nil {
		return err
	}
	defer s.Close()
	l := lab.New(s)
	defer l.Close()
	start := time.Now()
	first, err := importTruly(ctx, l, injections/imported)
	if err != nil {
		return err
	}
	fmt.Printf("imported truly in %s\n", time.Since(start).Round(time.Second))
	start = time.Now()
	batches, err := seed(ctx, s, l, first, injections)
	if err != nil {
		return err
	}
	var rows int64
	if err := s.Read(ctx, func(t *store.Tx) error {
		newest, err := t.FindChanges(store.Wanted{}, 0, 1)
		rows = newest[0].Seq
		return err
	}); err != nil {
		return err
	}
	fmt.Printf("seeded %d injections in %d batches, %d rows of the record, in %s\n\n", injections, batches, rows, time.Since(start).Round(time.Second))
	return measure(ctx, s, l, dir, first)
}

// importTruly takes in so many files in the usual way, a study of tea after the other, and processes each batch.
func importTruly(ctx context.Context, l *lab.Lab, n int) (first string, err error) {
	for done, k := 0, 0; first == "" || done < n; k++ {
		study, err := bench.TeaAssay(uint64(7000 + k%10))
		if err != nil {
			return "", err
		}
		id, err := l.NewBatch(ctx, "Truly imported", fmt.Sprintf("Teas %d", k+1), "Tea catechins 278", bench.TeaMethod(), who)
		if err != nil {
			return "", err
		}
		for _, f := range study.Files {
			out, err := l.Import(ctx, id, f.Name, f.Data, who)
			if err != nil || out.Status == taking.Refused {
				return "", fmt.Errorf("%s: %v %w", f.Name, out, err)
			}
			done++
		}
		if _, err := l.Process(ctx, id); err != nil {
			return "", err
		}
		if first == "" {
			first = id
		}
	}
	return first, nil
}

// seed writes batches as if they had been worked on: their injections with files that were taken in before, rows of the record for each step, what they report.
func seed(ctx context.Context, s *store.Store, l *lab.Lab, first string, injections int) (batches int, err error) {
	r := rand.New(rand.NewPCG(365, 5))
	like, err := l.Batch(ctx, first)
	if err != nil {
		return 0, err
	}
	versions, err := seedMethods(ctx, s, like.Version.Method)
	if err != nil {
		return 0, err
	}
	begin := time.Date(2021, 3, 1, 8, 0, 0, 0, time.UTC)
	total := max(1, injections/perBatch)
	for b := 0; b < total; {
		err := s.Write(ctx, func(t *store.Tx) error { // several in one go
			for range min(20, total-b) {
				at := begin.Add(time.Duration(float64(b) / float64(total) * years * 365 * 24 * float64(time.Hour)))
				if err := seedBatch(t, like, versions, b, total, at, r); err != nil {
					return err
				}
				b++
			}
			return nil
		})
		if err != nil {
			return 0, err
		}
	}
	return total, nil
}

// seedMethods saves three versions of each method a year.
func seedMethods(ctx context.Context, s *store.Store, m batch.Method) (versions [methods][]store.Version, err error) {
	err = s.Write(ctx, func(t *store.Tx) error {
		for k := range methods {
			study, err := t.PutStudy(fmt.Sprintf("Study %d", k+1))
			if err != nil {
				return err
			}
			id, err := t.NewMethod(study, fmt.Sprintf("Method %d", k+1))
			if err != nil {
				return err
			}
			for n := range perMethod {
				v, err := t.SaveVersion(id, "A. Brandt", fmt.Sprintf("as in the spring of year %d", n/3+1), m)
				if err != nil {
					return err
				}
				versions[k] = append(versions[k], v)
			}
		}
		return nil
	})
	return versions, err
}

var teas = []string{"Sencha", "Gyokuro", "Hojicha", "Genmaicha", "Matcha", "Oolong", "Pouchong", "White peony", "Pu-erh", "Keemun", "Assam", "Darjeeling"}

func seedBatch(t *store.Tx, like store.Batch, versions [methods][]store.Version, n, total int, at time.Time, r *rand.Rand) error {
	study := n % methods
	v := versions[study][min(perMethod-1, n*perMethod/total)]
	studyID, err := t.PutStudy(fmt.Sprintf("Study %d", study+1))
	if err != nil {
		return err
	}
	name := fmt.Sprintf("Run %d", n+1)
	id, err := t.NewBatch(studyID, name, v.ID)
	if err != nil {
		return err
	}
	person := []string{"M. Okada", "K. Adeyemi", "J. Keller", "A. Brandt"}[n%4]
	if _, err := t.Record(store.Change{Who: person, BatchID: id, Action: change.BatchAction, Subject: name, Why: "seeded", After: change.JSON(change.State{Version: v.ID, VersionHash: v.Hash})}); err != nil {
		return err
	}
	count := min(perBatch, len(like.Injections))
	for k := range count {
		in := like.Injections[k]
		in.ID, in.Edits, in.More, in.Trace = store.NewID(), nil, nil, 0
		in.Name = fmt.Sprintf("%s lot %d", teas[r.IntN(len(teas))], n*perBatch+k)
		in.Vial = fmt.Sprintf("%c%d", 'A'+k/10, k%10+1)
		in.FileName = fmt.Sprintf("run-%05d-%02d.cdf", n+1, k+1)
		taken := at.Add(time.Duration(k) * 20 * time.Minute)
		in.Header.AcquiredAt = &taken
		if err := t.RestoreInjection(id, in); err != nil {
			return err
		}
		if _, err := t.Record(store.Change{Who: person, BatchID: id, Action: "import", Subject: in.FileName, Before: "{}", After: change.JSON(change.State{Back: []store.Injection{in}})}); err != nil {
			return err
		}
	}
	// What is done by hand: as many rows again, and most of another half.
	for k := range count + count*4/5 {
		if _, err := t.Record(store.Change{Who: person, BatchID: id, Action: store.DocumentAction, Subject: fmt.Sprintf("looked at %s lot %d", teas[k%len(teas)], n*perBatch+k), Why: "within its limits", Before: "{}", After: "{}"}); err != nil {
			return err
		}
	}
	var list []store.Reported
	for k := range samplesOfBatch {
		for _, c := range v.Method.Targets() {
			amount := math.Exp(2 + 1.2*r.NormFloat64())
			flags := ""
			if r.IntN(50) == 0 {
				flags = string(batch.AboveRange)
			}
			list = append(list, store.Reported{BatchID: id, Sample: fmt.Sprintf("%s lot %d", teas[k%len(teas)], n*perBatch+k), Compound: c.Name, Amount: &amount, Unit: "mg/g", Flags: flags})
		}
	}
	return t.PutReported(id, "seeded", list)
}
