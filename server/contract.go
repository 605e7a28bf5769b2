package server

import (
	"encoding/json"
	"errors"
	"fmt"
	"github.com/labstack/echo/v5"
	"net/http"
	"reflect"
	"strconv"
	"strings"
	"time"

	"yugen/core/batch"
	"yugen/core/channels"
	"yugen/core/checks"
	"yugen/core/compounds"
	"yugen/core/curves"
	"yugen/core/peaks"
	"yugen/core/screening"
	"yugen/core/summary"
	"yugen/formats/contents"
	"yugen/formats/readings"
	"yugen/formats/text"
	"yugen/instrument"
	"yugen/jobs"
	"yugen/lab"
	"yugen/lab/record"
	"yugen/lab/review"
	"yugen/lab/taking"
	"yugen/people"
	"yugen/report/layouts"
	"yugen/store"
)

// Contract is the OpenAPI document of all operations and streams, written from the very tables that serve them, so that it cannot
// differ from what is served. The front end's types are generated from it.
func Contract() ([]byte, error) {
	s := &schemas{defined: map[string]any{}, types: map[string]reflect.Type{}}
	paths := map[string]map[string]any{}
	var nowhere error
	add := func(route, method string, described map[string]any, more ...any) {
		path, parameters := pathAndParameters(route)
		about, err := subjectOf(path)
		nowhere = errors.Join(nowhere, err)
		described["tags"] = []string{about}
		described["parameters"] = append(parameters, more...)
		if paths[path] == nil {
			paths[path] = map[string]any{}
		}
		paths[path][strings.ToLower(method)] = described
	}
	for _, op := range (&server{}).operations() {
		described := s.described(op.id, op.summary, map[string]any{"200": answerOf(op.summary, "application/json", s.of(reflect.TypeOf(op.answer)))})
		if op.body != nil {
			described["requestBody"] = map[string]any{"required": true, "content": content("application/json", s.of(reflect.TypeOf(op.body).Elem()))}
		}
		parameters := []any{}
		for _, name := range op.query {
			parameters = append(parameters, parameter(name, "query", false))
		}
		if op.changes() {
			parameters = append(parameters, parameter("If-Match", "header", true))
		}
		add(op.path, op.method, described, parameters...)
	}
	for _, r := range (&server{}).streams() {
		answers := map[string]any{}
		for status, a := range r.answers {
			schema := any(map[string]any{"type": "string", "contentMediaType": a.contentType})
			if a.value != nil {
				schema = s.of(reflect.TypeOf(a.value))
			}
			answers[strconv.Itoa(status)] = answerOf(r.summary, a.contentType, schema)
		}
		described := s.described(r.id, r.summary, answers)
		if r.method == http.MethodPost {
			described["requestBody"] = map[string]any{"required": true, "content": content("application/octet-stream", map[string]any{"type": "string", "contentMediaType": "application/octet-stream"})}
		}
		parameters := []any{}
		for _, name := range r.query {
			parameters = append(parameters, parameter(name, "query", false))
		}
		add(r.path, r.method, described, parameters...)
	}
	if len(s.clashes) > 0 {
		return nil, fmt.Errorf("two types of the contract have one name; give one of them another in typeNames: %s", strings.Join(s.clashes, ", "))
	}
	if nowhere != nil {
		return nil, nowhere
	}
	document, err := json.MarshalIndent(map[string]any{
		"openapi":    "3.1.0",
		"info":       map[string]any{"title": "Yugen", "version": "1"},
		"tags":       subjectsTold(),
		"paths":      paths,
		"components": map[string]any{"schemas": s.defined},
	}, "", " ")
	return append(document, '\n'), err
}

// contract hands it out, as what programs are written against.
func contract(c *echo.Context) error {
	document, err := Contract()
	if err != nil {
		return err
	}
	return c.Blob(http.StatusOK, "application/json", document)
}

// pathAndParameters turns a route into a path of the contract with the parameters in it.
func pathAndParameters(route string) (path string, parameters []any) {
	path, parameters = "/api"+route, []any{}
	for _, part := range strings.Split(route, "/") {
		if name, ok := strings.CutPrefix(part, ":"); ok {
			path = strings.Replace(path, ":"+name, "{"+name+"}", 1)
			parameters = append(parameters, parameter(name, "path", true))
		}
	}
	return path, parameters
}

func answerOf(summary, contentType string, schema any) map[string]any {
	return map[string]any{"description": summary, "content": content(contentType, schema)}
}

func (s *schemas) described(id, summary string, answers map[string]any) map[string]any {
	answers["default"] = answerOf("What is wrong and what to do", "application/problem+json", s.of(reflect.TypeOf(problem{})))
	return map[string]any{"operationId": id, "summary": summary, "responses": answers}
}

func parameter(name, in string, required bool) map[string]any {
	return map[string]any{"name": name, "in": in, "required": required, "schema": map[string]any{"type": "string"}}
}

func content(kind string, schema any) map[string]any {
	return map[string]any{kind: map[string]any{"schema": schema}}
}

// schemas turns Go types into JSON schemas.
type schemas struct {
	defined map[string]any
	types   map[string]reflect.Type // by the names they are defined under
	clashes []string
}

// typeNames are the names of types that would share one with a type of another package, or have none that is published.
var typeNames = map[reflect.Type]string{
	reflect.TypeOf(batch.Injection{}):    "BatchInjection",
	reflect.TypeOf(layouts.Block{}):      "LayoutBlock",
	reflect.TypeOf(instrument.Setting{}): "InstrumentSetting",
	reflect.TypeOf(instrument.Reading{}): "InstrumentReading",
	reflect.TypeOf(layouts.Value{}):      "LayoutValue",
	reflect.TypeOf(batch.Result{}):       "BatchResult",
	reflect.TypeOf(readings.Table{}):     "ReadingsTable",
	reflect.TypeOf(readings.Row{}):       "ReadingsRow",
	reflect.TypeOf(readings.Response{}):  "ReadingsResponse",
	reflect.TypeOf(contents.Table{}):     "ContentsTable",
	reflect.TypeOf(contents.Row{}):       "ContentsRow",
	reflect.TypeOf(contents.Amount{}):    "ContentsAmount",
	reflect.TypeOf(channels.Place{}):     "SignalPlace",
	reflect.TypeOf(people.Row{}):         "RightRow",
	reflect.TypeOf(lab.Found{}):          "FoundOnShelf",
	reflect.TypeOf(lab.Settings{}):       "InstallationSettings",
	reflect.TypeOf(review.Effect{}):      "LargestEffect",
	reflect.TypeOf(review.Item{}):        "ChangedItem",
	reflect.TypeOf(review.Batch{}):       "ReviewedBatch",
	reflect.TypeOf(screening.Mark{}):     "ScreenMark",
	reflect.TypeOf(screening.Rules{}):    "ScreenRules",
	reflect.TypeOf(lab.Piece{}):          "ScreenPiece",
	reflect.TypeOf(screening.Evidence{}): "InjectionEvidence",
	reflect.TypeOf(screening.Decision{}): "ScreenDecided",
	reflect.TypeOf(text.Proposal{}):      "ProfileProposal",
	reflect.TypeOf(lab.Fit{}):            "ShapeFit",
	reflect.TypeOf(problem{}):            "Problem",
	reflect.TypeOf(summary.Limit{}):      "SummaryLimit",
	reflect.TypeOf(summary.Statistics{}): "SummaryStatistics",
	reflect.TypeOf(summary.Column{}):     "SummaryColumn",
	reflect.TypeOf(record.Row{}):         "RecordRow",
	reflect.TypeOf(taking.Outcome{}):     "FileOutcome",
}

// choices are the string types whose values are known.
var choices = map[reflect.Type]any{
	reflect.TypeOf(channels.Recorded):     channels.Kinds,
	reflect.TypeOf(curves.Linear):         curves.Models,
	reflect.TypeOf(curves.Unweighted):     curves.Weights,
	reflect.TypeOf(compounds.Nearest):     compounds.Rules,
	reflect.TypeOf(compounds.Target):      []compounds.Role{compounds.Target, compounds.InternalStandard},
	reflect.TypeOf(compounds.Absolute):    compounds.WindowKinds,
	reflect.TypeOf(compounds.InPoints):    compounds.ToleranceKinds,
	reflect.TypeOf(compounds.LinearScale): []compounds.LadderScale{compounds.LinearScale, compounds.LogarithmicScale},
	reflect.TypeOf(screening.Proposed):    screening.Words,
	reflect.TypeOf(screening.Retention):   screening.Kinds,
	reflect.TypeOf(people.Reader):         people.Roles,
	reflect.TypeOf(peaks.ByDrop):          peaks.SplitKinds,
	reflect.TypeOf(peaks.OutwardFeet):     []peaks.FeetChoice{peaks.OutwardFeet, peaks.FlankFeet},
	reflect.TypeOf(peaks.ChordBaseline):   peaks.BaselineChoices,
	reflect.TypeOf(peaks.LeaveOut):        peaks.RuleKinds,
	reflect.TypeOf(peaks.Split):           peaks.EditKinds,
	reflect.TypeOf(curves.ByBlanks):       curves.LimitWays,
	reflect.TypeOf(batch.LevelKept):       []batch.LevelUse{batch.LevelLeftOut, batch.LevelKept},
	reflect.TypeOf(checks.Tailing):        checks.Measures,
	reflect.TypeOf(batch.NoRole):          append([]batch.Role{batch.NoRole}, batch.Roles...),
	reflect.TypeOf(batch.TextColumn):      batch.ColumnKinds,
	reflect.TypeOf(batch.Area):            []batch.Response{batch.Area, batch.Height},
	reflect.TypeOf(batch.ByCurve):         []batch.Way{"", batch.ByCurve, batch.ByAddition},
	reflect.TypeOf(batch.MeanOfBrackets):  []batch.Bracketing{"", batch.MeanOfBrackets, batch.BetweenOfBracket},
	reflect.TypeOf(batch.NotFound):        []batch.Flag{batch.AboveRange, batch.BelowRange, batch.NotFound, batch.NotDetected, batch.CheckDrift, batch.NoSampleAmount, batch.Doubtful},
	reflect.TypeOf(checks.Decide):         []checks.Weight{checks.Decide, checks.Know},
	reflect.TypeOf(checks.Results):        []checks.Station{checks.Batch, checks.Traces, checks.Peaks, checks.Compounds, checks.Curves, checks.Results},
	reflect.TypeOf(jobs.TakeIn):           jobs.Kinds,
	reflect.TypeOf(jobs.Waiting):          jobs.States,
	reflect.TypeOf(taking.Added):          taking.Statuses,
	reflect.TypeOf(review.Edited):         review.Kinds,
	reflect.TypeOf(review.Prepared):       review.Meanings,
	reflect.TypeOf(review.Accepted):       []review.Verdict{review.Accepted, review.SentBack},
	reflect.TypeOf(instrument.LC):         instrument.Kinds,
	reflect.TypeOf(instrument.Resting):    instrument.Phases,
	reflect.TypeOf(instrument.True):       instrument.Standings,
	reflect.TypeOf(instrument.Fixed):      instrument.Changes,
	reflect.TypeOf(instrument.RowWaits):   instrument.RowStates,
	reflect.TypeOf(instrument.WhenReady):  instrument.Starts,
	reflect.TypeOf(instrument.Rest):       instrument.Endings,
	reflect.TypeOf(instrument.Begin):      instrument.ActKinds,
	reflect.TypeOf(instrument.FlameOut):   instrument.TroubleKinds,
	reflect.TypeOf(instrument.Measured):   instrument.EventKinds,
	reflect.TypeOf(instrument.PumpDown):   instrument.Thens,
	reflect.TypeOf(instrument.Masses):     []instrument.Axis{"", instrument.Masses, instrument.Wavelengths},
	reflect.TypeOf(store.Person):          []store.Actor{"", store.Person, store.Program},
}

func (s *schemas) of(t reflect.Type) any {
	if t == reflect.TypeOf(time.Time{}) {
		return map[string]any{"type": "string"}
	}
	if values, ok := choices[t]; ok {
		return map[string]any{"type": "string", "enum": values}
	}
	switch t.Kind() {
	case reflect.Pointer:
		return map[string]any{"anyOf": []any{s.of(t.Elem()), map[string]any{"type": "null"}}}
	case reflect.Slice, reflect.Array:
		if t.Elem().Kind() == reflect.Uint8 {
			return map[string]any{"type": "string", "contentEncoding": "base64"}
		}
		return map[string]any{"type": "array", "items": s.of(t.Elem())}
	case reflect.Map:
		return map[string]any{"type": "object", "additionalProperties": s.of(t.Elem())}
	case reflect.Struct:
		name := s.name(t)
		if _, ok := s.defined[name]; !ok {
			s.defined[name] = nil // so that a type may hold itself
			s.defined[name] = s.object(t)
		}
		return map[string]any{"$ref": "#/components/schemas/" + name}
	case reflect.Bool:
		return map[string]any{"type": "boolean"}
	case reflect.Int, reflect.Int64:
		return map[string]any{"type": "integer"}
	case reflect.Float64:
		return map[string]any{"type": "number"}
	}
	return map[string]any{"type": "string"}
}

// name is what a type is defined under. Two types under one name are told.
func (s *schemas) name(t reflect.Type) string {
	name, ok := typeNames[t]
	if !ok {
		name = t.Name()
	}
	if other, taken := s.types[name]; taken && other != t {
		s.clashes = append(s.clashes, fmt.Sprintf("%s and %s", other, t))
	}
	s.types[name] = t
	return name
}

func (s *schemas) object(t reflect.Type) map[string]any {
	properties, required := map[string]any{}, []string{}
	var add func(t reflect.Type, optional bool)
	add = func(t reflect.Type, optional bool) {
		for i := range t.NumField() {
			f := t.Field(i)
			tag, options, _ := strings.Cut(f.Tag.Get("json"), ",")
			if f.Anonymous && tag == "" {
				if f.Type.Kind() == reflect.Pointer { // where it is nil, its fields are not there
					add(f.Type.Elem(), true)
				} else {
					add(f.Type, optional)
				}
				continue
			}
			if !f.IsExported() || tag == "-" || tag == "" {
				continue
			}
			properties[tag] = s.of(f.Type)
			if !optional && !strings.Contains(options, "omitempty") {
				required = append(required, tag)
			}
		}
	}
	add(t, false)
	return map[string]any{"type": "object", "properties": properties, "required": required}
}
