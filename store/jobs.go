package store

import (
	"context"
	"database/sql"

	"yugen/jobs"
)

// KeptJob is work that was under way when the program was stopped.
type KeptJob struct {
	jobs.Job
	Args string
}

// KeepJob remembers a job that is under way.
func (s *Store) KeepJob(j jobs.Job, args string) error {
	return s.Write(context.Background(), func(t *Tx) error {
		return t.exec("INSERT INTO jobs(id, kind, batch_id, subject, who, asked, since) VALUES (?,?,?,?,?,?,?)", j.ID, string(j.Kind), j.BatchID, j.Subject, j.Who, args, stamp(j.Since))
	})
}

// DropJob forgets a job that has ended.
func (s *Store) DropJob(id string) error {
	return s.Write(context.Background(), func(t *Tx) error { return t.exec("DELETE FROM jobs WHERE id = ?", id) })
}

// Jobs lists the jobs that were under way when the program was stopped, the oldest first.
func (t *Tx) Jobs() (list []KeptJob, err error) {
	err = t.each("SELECT id, kind, batch_id, subject, who, asked, since FROM jobs ORDER BY since, id", nil, func(r *sql.Rows) error {
		var j KeptJob
		var kind, since string
		err := r.Scan(&j.ID, &kind, &j.BatchID, &j.Subject, &j.Who, &j.Args, &since)
		j.Kind, j.Since = jobs.Kind(kind), unstamp(since)
		list = append(list, j)
		return err
	})
	return list, err
}
