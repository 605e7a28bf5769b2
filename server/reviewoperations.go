package server

import (
	"net/http"

	"yugen/lab"
	"yugen/lab/review"
)

// Verdicts are what somebody says of items of a review.
type Verdicts struct {
	Keys    []string       `json:"keys"`
	Verdict review.Verdict `json:"verdict"`
	Remark  string         `json:"remark,omitempty"`
}

// Signing asks for a signature, with the password of who signs.
type Signing struct {
	Meaning  review.Meaning `json:"meaning"`
	Password string         `json:"password,omitempty"`
}

// Unlocking takes signatures off, for a reason.
type Unlocking struct {
	Reason   string `json:"reason"`
	Password string `json:"password,omitempty"`
}

// Approving is the password of who approves.
type Approving struct {
	Password string `json:"password,omitempty"`
}

// reviewOperations are those of looking at what others did, and of signing it.
func (s *server) reviewOperations() []operation {
	const batchPath = "/batches/:batch"
	return []operation{
		{http.MethodGet, batchPath + "/review", "review", "What persons changed, the largest effect first, and who signed", nil, nil, lab.Review{}, func(c *call, _ any) (any, error) {
			return s.lab.Review(c.Request().Context(), c.Param("batch"), c.actor)
		}},
		{http.MethodPost, batchPath + "/review", "judge", "Accept changes, or send them back with a remark", nil, &Verdicts{}, lab.Review{}, func(c *call, body any) (any, error) {
			v := body.(*Verdicts)
			return s.lab.Judge(c.Request().Context(), c.Param("batch"), v.Keys, v.Verdict, v.Remark, c.actor)
		}},
		{http.MethodPost, batchPath + "/signatures", "sign", "Sign the batch as it was looked at", nil, &Signing{}, lab.Review{}, func(c *call, body any) (any, error) {
			g := body.(*Signing)
			return s.lab.Sign(c.Request().Context(), c.Param("batch"), c.revision, g.Meaning, g.Password, c.actor)
		}},
		{http.MethodPost, batchPath + "/unlock", "unlock", "Take the signatures off, with a reason", nil, &Unlocking{}, lab.Review{}, func(c *call, body any) (any, error) {
			u := body.(*Unlocking)
			return s.lab.Unlock(c.Request().Context(), c.Param("batch"), u.Reason, u.Password, c.actor)
		}},
		{http.MethodPost, "/methods/versions/:version/approval", "approve", "Approve a version of a method", nil, &Approving{}, lab.ApprovedVersion{}, func(c *call, body any) (any, error) {
			return s.lab.Approve(c.Request().Context(), c.Param("version"), body.(*Approving).Password, c.actor)
		}},
	}
}
