package store

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"strconv"
	"strings"
	"time"
)

// Recovered says how far a copy goes with which a second machine goes on.
type Recovered struct {
	EndsAt   int64     // the newest row of the record that is in it
	At       time.Time // when that was written
	Lost     int64     // rows that were written after it, as the ends of the record tell, which were copied apart
	LostFrom int64     // the first of them
}

// RecoverAction marks the row that tells of a copy with which a second machine goes on.
const RecoverAction = "recover"

// strayTables begin the names of tables that a program which copies the database continuously leaves in it.
const strayTables = "_litestream_"

// Recover makes a copy of a data folder, which was taken while the first machine worked, one that can be worked in: what the copying left in it is taken out, ends of the
// record that are not in the copy are laid aside in record.heads.lost, and the record tells how far the copy goes. Nobody may be using the folder.
func Recover(ctx context.Context, dir, who string) (r Recovered, err error) {
	if _, err := os.Stat(filepath.Join(dir, databaseFile)); err != nil {
		return r, fmt.Errorf("there is no Yugen database in %s", dir)
	}
	release, err := Lock(dir)
	if err != nil {
		return r, err
	}
	defer release()
	s, err := Open(ctx, dir)
	if err != nil {
		return r, err
	}
	defer func() { err = errors.Join(err, s.Close()) }()
	if err := s.dropStray(ctx); err != nil {
		return r, err
	}
	var hash, at string
	err = s.Read(ctx, func(t *Tx) error {
		return t.row("SELECT seq, hash, at FROM record ORDER BY seq DESC LIMIT 1", nil, &r.EndsAt, &hash, &at)
	})
	switch {
	case err == nil:
		r.At = unstamp(at)
	case !errors.Is(err, ErrNotFound): // nothing was done yet in what was copied
		return r, err
	}
	if err := s.layAside(&r); err != nil {
		return r, err
	}
	says := fmt.Sprintf("went on from a copy that ends at row %d", r.EndsAt)
	if r.Lost > 0 {
		says += fmt.Sprintf("; %d rows after it are not in it", r.Lost)
	}
	return r, s.Write(ctx, func(t *Tx) error {
		_, err := t.Record(Change{Who: who, Action: RecoverAction, Subject: says})
		return err
	})
}

func (s *Store) dropStray(ctx context.Context) error {
	rows, err := s.db.QueryContext(ctx, "SELECT name FROM sqlite_master WHERE type = 'table' AND substr(name, 1, ?) = ?", len(strayTables), strayTables)
	if err != nil {
		return err
	}
	var names []string
	for rows.Next() {
		var name string
		if err := rows.Scan(&name); err != nil {
			return err
		}
		names = append(names, name)
	}
	if err := errors.Join(rows.Err(), rows.Close()); err != nil {
		return err
	}
	for _, name := range names {
		if _, err := s.db.ExecContext(ctx, `DROP TABLE "`+strings.ReplaceAll(name, `"`, `""`)+`"`); err != nil {
			return err
		}
	}
	return nil
}

// layAside parts the ends of the record into those that are in the copy and those that are not.
func (s *Store) layAside(r *Recovered) error {
	path := filepath.Join(s.dir, headsFile)
	file, err := os.Open(path)
	if errors.Is(err, os.ErrNotExist) {
		return nil
	}
	if err != nil {
		return err
	}
	defer file.Close()
	var kept, lost strings.Builder
	lines := bufio.NewScanner(file)
	for lines.Scan() {
		number, _, _ := strings.Cut(lines.Text(), " ")
		seq, err := strconv.ParseInt(number, 10, 64)
		if err == nil && seq > r.EndsAt {
			if r.LostFrom == 0 {
				r.LostFrom = r.EndsAt + 1
			}
			r.Lost = max(r.Lost, seq-r.EndsAt)
			fmt.Fprintln(&lost, lines.Text())
			continue
		}
		fmt.Fprintln(&kept, lines.Text())
	}
	if err := lines.Err(); err != nil || r.Lost == 0 {
		return err
	}
	aside, err := os.OpenFile(path+".lost", os.O_CREATE|os.O_APPEND|os.O_WRONLY, 0o600) // behind what an earlier copy lacked
	if err != nil {
		return err
	}
	_, err = aside.WriteString(lost.String())
	if err := errors.Join(err, aside.Sync(), aside.Close()); err != nil {
		return err
	}
	return os.WriteFile(path, []byte(kept.String()), 0o600)
}
