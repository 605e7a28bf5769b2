package server

import (
	"errors"
	"net/http"

	"yugen/jobs"
	"yugen/lab"
	"yugen/store"
)

// jobOperations are those of work that takes its time.
func (s *server) jobOperations(view func(*call, store.Batch, error) (any, error)) []operation {
	const at = "/jobs/:job"
	return []operation{
		{http.MethodGet, "/jobs", "jobs", "Work that takes its time: what is under way, then what has ended", nil, nil, []jobs.Job{}, func(*call, any) (any, error) {
			return s.lab.Jobs.List(), nil
		}},
		{http.MethodPost, at + "/stop", "stopJob", "Stop work that is under way", nil, nil, []jobs.Job{}, s.onJob((*jobs.Queue).Stop)},
		{http.MethodPost, at + "/pause", "pauseJob", "Hold work at its next step; its place goes to another", nil, nil, []jobs.Job{}, s.onJob((*jobs.Queue).Pause)},
		{http.MethodPost, at + "/continue", "continueJob", "Let work go on that is held", nil, nil, []jobs.Job{}, s.onJob((*jobs.Queue).Continue)},
		{http.MethodPost, at + "/first", "putJobFirst", "Let work that waits go before others of its kind", nil, nil, []jobs.Job{}, s.onJob((*jobs.Queue).PutFirst)},
		{http.MethodPost, "/batches/:batch/process", "processAgain", "Process the batch once more, with the newest version of its method, the one of its present results, or another, as a job; nothing is changed", nil, &lab.AskedAgain{}, jobs.Job{}, func(c *call, body any) (any, error) {
			return s.lab.ProcessAgain(c.Request().Context(), c.Param("batch"), *body.(*lab.AskedAgain), c.who)
		}},
		{http.MethodGet, at + "/changes", "jobChanges", "What processing once more would change", nil, nil, lab.ProcessedAgain{}, func(c *call, _ any) (any, error) {
			return s.lab.ProcessedAgainBy(c.Request().Context(), c.Param("job"))
		}},
		{http.MethodPost, at + "/take", "takeProcessed", "Take the version for the batch that it was processed with once more", nil, &Because{}, View{}, func(c *call, body any) (any, error) {
			b, err := s.lab.TakeProcessed(c.Request().Context(), c.Param("job"), c.revision, body.(*Because).Reason, c.who)
			return view(c, b, err)
		}},
	}
}

// onJob does something to the job that is named, and gives the list as it is then.
func (s *server) onJob(do func(q *jobs.Queue, id string) error) func(*call, any) (any, error) {
	return func(c *call, _ any) (any, error) {
		switch err := do(&s.lab.Jobs, c.Param("job")); {
		case errors.Is(err, jobs.ErrUnknown):
			return nil, problem{Status: http.StatusNotFound, Detail: "This job has ended already."}
		case err != nil:
			return nil, problem{Status: http.StatusConflict, Detail: "This job cannot be held: somebody waits for what it gives. It can be stopped."}
		}
		return s.lab.Jobs.List(), nil
	}
}
