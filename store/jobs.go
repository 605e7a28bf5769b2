package store

import (
	"context"
	"database/sql"
	"encoding/json"
	"time"

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

// endedFor is how long what has ended is remembered.
const endedFor = 90 * 24 * time.Hour

// EndJob keeps a job that has ended, and forgets those that ended long ago.
func (s *Store) EndJob(j jobs.Job) error {
	return s.Write(context.Background(), func(t *Tx) error {
		document, err := json.Marshal(j)
		if err != nil {
			return err
		}
		at := t.now
		if j.Ended != nil {
			at = *j.Ended
		}
		if err := t.exec("INSERT OR REPLACE INTO ended_jobs(id, ended, document) VALUES (?,?,?)", j.ID, stamp(at), string(document)); err != nil {
			return err
		}
		if err := t.exec("DELETE FROM processed_again WHERE at < ?", stamp(t.now.Add(-endedFor))); err != nil {
			return err
		}
		return t.exec("DELETE FROM ended_jobs WHERE ended < ?", stamp(t.now.Add(-endedFor)))
	})
}

// EndedJobs are the jobs that ended last, at most so many, the oldest first.
func (t *Tx) EndedJobs(most int) (list []jobs.Job, err error) {
	err = t.each("SELECT document FROM (SELECT document, ended, id FROM ended_jobs ORDER BY ended DESC, id DESC LIMIT ?) ORDER BY ended, id", []any{most}, func(r *sql.Rows) error {
		var document string
		if err := r.Scan(&document); err != nil {
			return err
		}
		var j jobs.Job
		err := json.Unmarshal([]byte(document), &j)
		list = append(list, j)
		return err
	})
	return list, err
}

// PutProcessedAgain keeps what processing a batch once more would change, as a document.
func (t *Tx) PutProcessedAgain(jobID, batchID, document string) error {
	return t.exec("INSERT OR REPLACE INTO processed_again(job_id, batch_id, at, document) VALUES (?,?,?,?)", jobID, batchID, stamp(t.now), document)
}

// ProcessedAgain reads that document.
func (t *Tx) ProcessedAgain(jobID string) (document string, err error) {
	err = t.row("SELECT document FROM processed_again WHERE job_id = ?", []any{jobID}, &document)
	return document, err
}
