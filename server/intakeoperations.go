package server

import (
	"net/http"

	"github.com/labstack/echo/v5"

	"yugen/core/batch"
	"yugen/formats"
	"yugen/formats/text"
	"yugen/lab"
	"yugen/lab/taking"
	"yugen/store"
)

// IDs name looked-at files.
type IDs struct {
	IDs []string `json:"ids"`
}

// ProfileKept is a profile that is to be kept with a study.
type ProfileKept struct {
	Profile text.Profile `json:"profile"`
}

// ColumnsSet are the columns that a study adds to its run lists.
type ColumnsSet struct {
	Columns []batch.OwnColumn `json:"columns"`
}

// ViewKept is a way of looking under its name.
type ViewKept struct {
	Name string          `json:"name"`
	View lab.LookingView `json:"view"`
}

// Joining names two injections that are one.
type Joining struct {
	InjectionID string `json:"injection_id"`
	OtherID     string `json:"other_id"`
}

// Parting names a file of an injection that is an injection of its own.
type Parting struct {
	InjectionID string `json:"injection_id"`
	RawHash     string `json:"raw_hash"`
}

// intakeOperations are the requests about files on their way in.
func (s *server) intakeOperations(view func(*call, store.Batch, error) (any, error)) []operation {
	const batchPath = "/batches/:batch"
	return []operation{
		{http.MethodGet, batchPath + "/looks", "looks", "The files that were sent to be looked at, with what they hold; nothing is kept of them yet", nil, nil, []taking.Looked{}, func(c *call, _ any) (any, error) {
			return s.lab.LookedAt(c.Request().Context(), c.Param("batch"))
		}},
		{http.MethodPost, batchPath + "/looks/take", "take", "Take in files that were looked at", nil, &lab.TakeAsked{}, []taking.Arrived{}, func(c *call, body any) (any, error) {
			return s.lab.Take(c.Request().Context(), c.Param("batch"), *body.(*lab.TakeAsked), c.who)
		}},
		{http.MethodPost, batchPath + "/looks/put-back", "putBack", "Take looked-at files away, all of them where none is named", nil, &IDs{}, []taking.Looked{}, func(c *call, body any) (any, error) {
			return s.lab.PutBack(c.Request().Context(), c.Param("batch"), body.(*IDs).IDs)
		}},
		{http.MethodGet, batchPath + "/looks/:look/text", "textOf", "A looked-at delimited text, with the profile that it suggests", nil, nil, lab.TextSeen{}, func(c *call, _ any) (any, error) {
			return s.lab.TextOf(c.Request().Context(), c.Param("batch"), c.Param("look"))
		}},
		{http.MethodGet, batchPath + "/looks/:look/results", "tryFile", "What the method and curves of the batch make of one looked-at file; nothing is kept", nil, nil, lab.OneFile{}, func(c *call, _ any) (any, error) {
			return s.lab.TryFile(c.Request().Context(), c.Param("batch"), c.Param("look"))
		}},
		{http.MethodPost, batchPath + "/looks/try", "tryProfile", "What a profile makes of a looked-at text; nothing is kept", nil, &lab.ReadSo{}, lab.SeenSo{}, func(c *call, body any) (any, error) {
			return s.lab.TryProfile(c.Request().Context(), c.Param("batch"), *body.(*lab.ReadSo))
		}},
		{http.MethodGet, batchPath + "/profiles", "profiles", "How delimited texts are read in the study of a batch", nil, nil, []KeptProfile{}, func(c *call, _ any) (any, error) {
			list, err := s.lab.Profiles(c.Request().Context(), c.Param("batch"))
			return each(list, err, profileOf)
		}},
		{http.MethodPost, batchPath + "/profiles", "keepProfile", "Keep a profile with the study of a batch", nil, &ProfileKept{}, []KeptProfile{}, func(c *call, body any) (any, error) {
			list, err := s.lab.KeepProfile(c.Request().Context(), c.Param("batch"), body.(*ProfileKept).Profile, c.who)
			return each(list, err, profileOf)
		}},
		{http.MethodDelete, batchPath + "/profiles/:profile", "dropProfile", "Take a profile away from the study of a batch", nil, nil, []KeptProfile{}, func(c *call, _ any) (any, error) {
			list, err := s.lab.DropProfile(c.Request().Context(), c.Param("batch"), c.Param("profile"), c.who)
			return each(list, err, profileOf)
		}},
		{http.MethodGet, batchPath + "/waiting", "waiting", "Lines of a run list that wait for their files", nil, nil, []WaitingLine{}, func(c *call, _ any) (any, error) {
			list, err := s.lab.Waiting(c.Request().Context(), c.Param("batch"))
			return each(list, err, lineOf)
		}},
		{http.MethodPut, batchPath + "/waiting", "waitFor", "Let the lines of a run list wait for files that have not come; empty text lets none wait", nil, &PastedTable{}, []WaitingLine{}, func(c *call, body any) (any, error) {
			list, err := s.lab.WaitFor(c.Request().Context(), c.Param("batch"), body.(*PastedTable).Text, c.who)
			return each(list, err, lineOf)
		}},
		{http.MethodGet, batchPath + "/views", "views", "Ways of looking that the study of a batch has kept", nil, nil, []lab.KeptView{}, func(c *call, _ any) (any, error) {
			return s.lab.Views(c.Request().Context(), c.Param("batch"))
		}},
		{http.MethodPost, batchPath + "/views", "keepView", "Keep a way of looking with the study of a batch", nil, &ViewKept{}, []lab.KeptView{}, func(c *call, body any) (any, error) {
			v := body.(*ViewKept)
			return s.lab.KeepView(c.Request().Context(), c.Param("batch"), v.Name, v.View)
		}},
		{http.MethodDelete, batchPath + "/views/:view", "dropView", "Drop a way of looking", nil, nil, []lab.KeptView{}, func(c *call, _ any) (any, error) {
			return s.lab.DropView(c.Request().Context(), c.Param("batch"), c.Param("view"))
		}},
		{http.MethodPut, batchPath + "/columns", "setColumns", "Say which columns the study adds to its run lists", nil, &ColumnsSet{}, View{}, func(c *call, body any) (any, error) {
			b, err := s.lab.SetOwnColumns(c.Request().Context(), c.Param("batch"), body.(*ColumnsSet).Columns, c.who)
			return view(c, b, err)
		}},
		{http.MethodPost, batchPath + "/columns/pattern", "byPattern", "What a pattern takes from the names of files or samples; nothing is written", nil, &lab.PatternAsked{}, []lab.PatternFound{}, func(c *call, body any) (any, error) {
			return s.lab.ByPattern(c.Request().Context(), c.Param("batch"), *body.(*lab.PatternAsked))
		}},
		{http.MethodPost, batchPath + "/joins", "join", "Make the files of one injection further files of another", nil, &Joining{}, View{}, func(c *call, body any) (any, error) {
			j := body.(*Joining)
			b, err := s.lab.Join(c.Request().Context(), c.Param("batch"), c.revision, j.InjectionID, j.OtherID, c.who)
			return view(c, b, err)
		}},
		{http.MethodPost, batchPath + "/parts", "part", "Make a further file of an injection an injection of its own", nil, &Parting{}, View{}, func(c *call, body any) (any, error) {
			p := body.(*Parting)
			b, err := s.lab.Part(c.Request().Context(), c.Param("batch"), c.revision, p.InjectionID, p.RawHash, c.who)
			return view(c, b, err)
		}},
	}
}

// lookAt takes one file as the whole body, and tells what it holds; nothing is kept until it is taken.
func (s *server) lookAt(c *echo.Context) error {
	body := &arriving{from: http.MaxBytesReader(c.Response(), c.Request().Body, formats.MaxBytes)}
	out, err := s.lab.Look(c.Request().Context(), c.Param("batch"), c.QueryParam("name"), body, who(c))
	if err != nil {
		return body.problem(err)
	}
	return c.JSON(http.StatusOK, out)
}
