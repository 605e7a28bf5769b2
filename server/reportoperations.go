package server

import (
	"fmt"
	"net/http"
	"strconv"

	"github.com/labstack/echo/v5"

	"yugen/core/batch"
	"yugen/core/trends"
	"yugen/lab"
	"yugen/report/layouts"
)

// LayoutKept is a layout that is to be saved: a new one without an id, else the version after base.
type LayoutKept struct {
	ID     string         `json:"id,omitempty"`
	Base   int            `json:"base,omitempty"`
	Layout layouts.Layout `json:"layout"`
}

// LayoutAsked is a layout that is to be drawn, of an injection, a sample, or the batch.
type LayoutAsked struct {
	Layout      layouts.Layout `json:"layout"`
	InjectionID string         `json:"injection_id,omitempty"`
	Sample      string         `json:"sample,omitempty"`
}

// LayoutUsed names the layout that a batch is looked at with.
type LayoutUsed struct {
	ID string `json:"id"`
}

// Targets are where reports can go.
type Targets struct {
	Folder   string `json:"folder"`
	Receiver string `json:"receiver"`
}

// SetHalted says how a set is stopped.
type SetHalted struct {
	ForGood bool `json:"for_good"`
}

// FieldsRenamed asks for fields in which a short name is another.
type FieldsRenamed struct {
	Fields []batch.LabField `json:"fields"`
	From   string           `json:"from"`
	To     string           `json:"to"`
}

// trendsQuery are the parameters that say what trends are of.
var trendsQuery = []string{"quantities", "compound", "of", "along", "rules"}

func trendsAsked(c *echo.Context) lab.TrendsAsked {
	asked := lab.TrendsAsked{Quantities: between(c.QueryParam("quantities")), CompoundID: c.QueryParam("compound"), Of: c.QueryParam("of"), Along: c.QueryParam("along")}
	for _, r := range between(c.QueryParam("rules")) {
		asked.Rules = append(asked.Rules, trends.Rule(r))
	}
	return asked
}

// FieldSetKept are fields that are to be kept by name; instead of one of that name where it says so.
type FieldSetKept struct {
	Name    string           `json:"name"`
	Fields  []batch.LabField `json:"fields"`
	Instead bool             `json:"instead,omitempty"`
}

// FieldSetNamed names a set of fields.
type FieldSetNamed struct {
	Name string `json:"name"`
}

// TrendMarked says what was changed before an injection.
type TrendMarked struct {
	InjectionID string `json:"injection_id"`
	Says        string `json:"says"`
}

// fieldOperations are those of the laboratory's own quantities.
func (s *server) fieldOperations() []operation {
	const path = "/batches/:batch/fields"
	return []operation{
		{http.MethodPost, path + "/try", "tryFields", "What fields would be, one of which is being written: what is wrong with it, its values, and what can stand at the cursor", nil, &lab.FieldTry{}, lab.FieldTrial{}, func(c *call, body any) (any, error) {
			return s.lab.TryFields(c.Request().Context(), c.Param("batch"), *body.(*lab.FieldTry))
		}},
		{http.MethodGet, "/batches/:batch/trends", "trends", "Quantities along the run, the batches of the study, time or another quantity, with limits and the rules that are broken", trendsQuery, nil, lab.Trends{}, func(c *call, _ any) (any, error) {
			return s.lab.TrendsOf(c.Request().Context(), c.Param("batch"), trendsAsked(c.Context))
		}},
		{http.MethodGet, "/figure-styles", "figureStyles", "How figures can be drawn", nil, nil, []lab.FigureStyle{}, func(*call, any) (any, error) {
			return lab.FigureStyles(), nil
		}},
		{http.MethodPost, "/batches/:batch/trends/marks", "markTrends", "Mark that something was changed before an injection", nil, &TrendMarked{}, lab.TrendNotes{}, func(c *call, body any) (any, error) {
			m := body.(*TrendMarked)
			return s.lab.MarkTrends(c.Request().Context(), c.Param("batch"), m.InjectionID, m.Says, c.who)
		}},
		{http.MethodDelete, "/batches/:batch/trends/marks/:mark", "unmarkTrends", "Take a mark away", nil, nil, lab.TrendNotes{}, func(c *call, _ any) (any, error) {
			return s.lab.UnmarkTrends(c.Request().Context(), c.Param("batch"), c.Param("mark"), c.who)
		}},
		{http.MethodPost, "/batches/:batch/trends/limits", "limitTrends", "Set limits of trends, or take them away", nil, &lab.TrendLimit{}, lab.TrendNotes{}, func(c *call, body any) (any, error) {
			return s.lab.LimitTrends(c.Request().Context(), c.Param("batch"), *body.(*lab.TrendLimit), c.who)
		}},
		{http.MethodGet, path + "/sets", "fieldSets", "Sets of fields that the study keeps by name", nil, nil, []lab.KeptFields{}, func(c *call, _ any) (any, error) {
			return s.lab.FieldSets(c.Request().Context(), c.Param("batch"))
		}},
		{http.MethodPost, path + "/sets", "keepFieldSet", "Keep a set of fields by name in the study", nil, &FieldSetKept{}, []lab.KeptFields{}, func(c *call, body any) (any, error) {
			k := body.(*FieldSetKept)
			return s.lab.KeepFieldSet(c.Request().Context(), c.Param("batch"), k.Name, k.Fields, k.Instead, c.who)
		}},
		{http.MethodPost, path + "/sets/away", "putFieldSetAway", "Take a set of fields out of the study", nil, &FieldSetNamed{}, []lab.KeptFields{}, func(c *call, body any) (any, error) {
			return s.lab.PutFieldSetAway(c.Request().Context(), c.Param("batch"), body.(*FieldSetNamed).Name, c.who)
		}},
		{http.MethodGet, path + "/examples", "exampleFields", "Ten fields to begin with", nil, nil, []batch.LabField{}, func(c *call, _ any) (any, error) {
			return s.lab.ExampleFields(c.Request().Context(), c.Param("batch"))
		}},
		{http.MethodPost, path + "/rename", "renameField", "Fields with every use of a short name as another", nil, &FieldsRenamed{}, []batch.LabField{}, func(_ *call, body any) (any, error) {
			r := body.(*FieldsRenamed)
			return lab.RenameField(r.Fields, r.From, r.To), nil
		}},
	}
}

func (s *server) reportOperations() []operation {
	const batchPath = "/batches/:batch"
	const setPath = batchPath + "/sets/:set"
	id := func(c *call) string { return c.Param("batch") }
	return []operation{
		{http.MethodGet, batchPath + "/layouts", "layouts", "The layouts that a batch can be reported by: those it used last first, then those of its study, then those that ship", nil, nil, []lab.KeptLayout{}, func(c *call, _ any) (any, error) {
			return s.lab.Layouts(c.Request().Context(), id(c))
		}},
		{http.MethodPost, batchPath + "/layouts", "keepLayout", "Save a layout with the study of a batch", nil, &LayoutKept{}, lab.KeptLayout{}, func(c *call, body any) (any, error) {
			k := body.(*LayoutKept)
			return s.lab.KeepLayout(c.Request().Context(), id(c), k.ID, k.Base, k.Layout.JSON(), c.who)
		}},
		{http.MethodPost, batchPath + "/layouts/used", "useLayout", "Note that a batch is looked at with a layout", nil, &LayoutUsed{}, LayoutUsed{}, func(c *call, body any) (any, error) {
			u := body.(*LayoutUsed)
			return *u, s.lab.UseLayout(c.Request().Context(), id(c), u.ID)
		}},
		{http.MethodPost, batchPath + "/layouts/draw", "drawLayout", "Draw a layout, saved or not: its pages, and where everything stands on them", nil, &LayoutAsked{}, lab.Drawn{}, func(c *call, body any) (any, error) {
			a := body.(*LayoutAsked)
			return s.lab.DrawLayout(c.Request().Context(), id(c), a.Layout.JSON(), a.InjectionID, a.Sample)
		}},
		{http.MethodDelete, batchPath + "/layouts/:layout", "putLayoutAway", "Take a layout off the list of the study of a batch", nil, nil, []lab.KeptLayout{}, func(c *call, _ any) (any, error) {
			if err := s.lab.PutLayoutAway(c.Request().Context(), id(c), c.Param("layout"), c.who); err != nil {
				return nil, err
			}
			return s.lab.Layouts(c.Request().Context(), id(c))
		}},
		{http.MethodGet, "/targets", "targets", "Where reports can go besides being kept", nil, nil, Targets{}, func(*call, any) (any, error) {
			return Targets{s.lab.Folder, s.lab.Receiver}, nil
		}},
		{http.MethodPost, batchPath + "/sets/plan", "planSet", "What would be made together, under which names, and what would be held back", nil, &lab.SetAsked{}, lab.ReportSet{}, func(c *call, body any) (any, error) {
			return s.lab.PlanSet(c.Request().Context(), id(c), *body.(*lab.SetAsked))
		}},
		{http.MethodGet, batchPath + "/sets", "sets", "The reports that were made together, with what became of each", nil, nil, []lab.ReportSet{}, func(c *call, _ any) (any, error) {
			return s.lab.Sets(c.Request().Context(), id(c))
		}},
		{http.MethodPost, batchPath + "/sets", "makeSet", "Make reports together", nil, &lab.SetAsked{}, lab.ReportSet{}, func(c *call, body any) (any, error) {
			return s.lab.MakeSet(c.Request().Context(), id(c), *body.(*lab.SetAsked), c.who)
		}},
		{http.MethodPost, setPath + "/halt", "haltSet", "Stop making reports, for now or for good; what is made stays", nil, &SetHalted{}, lab.ReportSet{}, func(c *call, body any) (any, error) {
			return s.lab.HaltSet(c.Request().Context(), id(c), c.Param("set"), body.(*SetHalted).ForGood, c.who)
		}},
		{http.MethodPost, setPath + "/go-on", "goOn", "Make what waits of a set, and try again what failed", nil, nil, lab.ReportSet{}, func(c *call, _ any) (any, error) {
			return s.lab.GoOn(c.Request().Context(), id(c), c.Param("set"), c.who)
		}},
		{http.MethodPost, setPath + "/files/:position/release", "release", "Make a report that was held back all the same", nil, nil, lab.ReportSet{}, func(c *call, _ any) (any, error) {
			position, err := positionOf(c)
			if err != nil {
				return nil, err
			}
			return s.lab.Release(c.Request().Context(), id(c), c.Param("set"), position, c.who)
		}},
		{http.MethodPost, setPath + "/files/:position/again", "makeAgain", "Make a report again, and compare the bytes", nil, nil, lab.Again{}, func(c *call, _ any) (any, error) {
			position, err := positionOf(c)
			if err != nil {
				return nil, err
			}
			return s.lab.MakeAgain(c.Request().Context(), id(c), c.Param("set"), position)
		}},
		{http.MethodPost, "/deliveries", "deliver", "Send what waits to be sent now", nil, nil, Targets{}, func(c *call, _ any) (any, error) {
			s.lab.Deliver(c.Request().Context())
			return Targets{s.lab.Folder, s.lab.Receiver}, nil
		}},
	}
}

// positionOf is the place of a report in its set.
func positionOf(c *call) (int, error) {
	position, err := strconv.Atoi(c.Param("position"))
	if err != nil {
		return 0, problem{Status: http.StatusNotFound, Detail: fmt.Sprintf("There is no report %q.", c.Param("position"))}
	}
	return position, nil
}

// setFile hands a report of a set back as it was made.
func (s *server) setFile(c *echo.Context) error {
	position, err := strconv.Atoi(c.Param("position"))
	if err != nil {
		return problem{Status: http.StatusNotFound, Detail: "There is no such report."}
	}
	name, data, err := s.lab.SetFile(c.Request().Context(), c.Param("batch"), c.Param("set"), position)
	if err != nil {
		return err
	}
	kind := "application/octet-stream"
	if len(name) > 4 && name[len(name)-4:] == ".pdf" {
		kind = "application/pdf"
	}
	if c.QueryParam("open") == "" || kind != "application/pdf" {
		attach(c, name)
	}
	return c.Blob(http.StatusOK, kind, data)
}

func (s *server) setZip(c *echo.Context) error {
	data, err := s.lab.SetZip(c.Request().Context(), c.Param("batch"), c.Param("set"))
	if err != nil {
		return err
	}
	attach(c, "reports.zip")
	return c.Blob(http.StatusOK, "application/zip", data)
}
