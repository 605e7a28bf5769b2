package server

import (
	"encoding/json"
	"reflect"
	"strings"
	"time"

	"yugen/core/batch"
	"yugen/core/checks"
	"yugen/core/compounds"
	"yugen/core/curves"
	"yugen/core/peaks"
	"yugen/formats/contents"
	"yugen/formats/readings"
	"yugen/store"
)

// Contract is the OpenAPI document of all typed operations, written from the very table that serves them, so that it cannot
// differ from what is served. The front end's types are generated from it.
func Contract() ([]byte, error) {
	s := &schemas{defined: map[string]any{}}
	paths := map[string]map[string]any{}
	for _, op := range (&server{}).operations() {
		path := "/api" + op.path
		parameters := []any{}
		for _, part := range strings.Split(op.path, "/") {
			if name, ok := strings.CutPrefix(part, ":"); ok {
				path = strings.Replace(path, ":"+name, "{"+name+"}", 1)
				parameters = append(parameters, parameter(name, "path", true))
			}
		}
		for _, name := range op.query {
			parameters = append(parameters, parameter(name, "query", false))
		}
		if op.method != "GET" {
			parameters = append(parameters, parameter("If-Match", "header", false))
		}
		described := map[string]any{
			"operationId": op.id, "summary": op.summary, "parameters": parameters,
			"responses": map[string]any{
				"200":     map[string]any{"description": op.summary, "content": content("application/json", s.of(reflect.TypeOf(op.answer)))},
				"default": map[string]any{"description": "What is wrong and what to do", "content": content("application/problem+json", s.of(reflect.TypeOf(problem{})))},
			},
		}
		if op.body != nil {
			described["requestBody"] = map[string]any{"required": true, "content": content("application/json", s.of(reflect.TypeOf(op.body).Elem()))}
		}
		if paths[path] == nil {
			paths[path] = map[string]any{}
		}
		paths[path][strings.ToLower(op.method)] = described
	}
	document, err := json.MarshalIndent(map[string]any{
		"openapi":    "3.1.0",
		"info":       map[string]any{"title": "Yugen", "version": "1"},
		"paths":      paths,
		"components": map[string]any{"schemas": s.defined},
	}, "", " ")
	return append(document, '\n'), err
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
}

// choices are the string types whose values are known.
var choices = map[reflect.Type]any{
	reflect.TypeOf(curves.Linear):         curves.Models,
	reflect.TypeOf(curves.Unweighted):     curves.Weights,
	reflect.TypeOf(compounds.Nearest):     compounds.Rules,
	reflect.TypeOf(compounds.Target):      []compounds.Role{compounds.Target, compounds.InternalStandard},
	reflect.TypeOf(compounds.Absolute):    compounds.WindowKinds,
	reflect.TypeOf(compounds.LinearScale): []compounds.LadderScale{compounds.LinearScale, compounds.LogarithmicScale},
	reflect.TypeOf(peaks.ByDrop):          peaks.SplitKinds,
	reflect.TypeOf(peaks.OutwardFeet):     []peaks.FeetChoice{peaks.OutwardFeet, peaks.FlankFeet},
	reflect.TypeOf(peaks.ChordBaseline):   peaks.BaselineChoices,
	reflect.TypeOf(peaks.LeaveOut):        peaks.RuleKinds,
	reflect.TypeOf(peaks.Split):           peaks.EditKinds,
	reflect.TypeOf(curves.ByBlanks):       curves.LimitWays,
	reflect.TypeOf(batch.LevelKept):       []batch.LevelUse{batch.LevelLeftOut, batch.LevelKept},
	reflect.TypeOf(checks.Tailing):        checks.Measures,
	reflect.TypeOf(batch.NoRole):          append([]batch.Role{batch.NoRole}, batch.Roles...),
	reflect.TypeOf(batch.FieldName):       batch.Fields,
	reflect.TypeOf(batch.Area):            []batch.Response{batch.Area, batch.Height},
	reflect.TypeOf(batch.ByCurve):         []batch.Way{"", batch.ByCurve, batch.ByAddition},
	reflect.TypeOf(batch.MeanOfBrackets):  []batch.Bracketing{"", batch.MeanOfBrackets, batch.BetweenOfBracket},
	reflect.TypeOf(batch.NotFound):        []batch.Flag{batch.AboveRange, batch.BelowRange, batch.NotFound, batch.NotDetected, batch.CheckDrift, batch.NoSampleAmount},
	reflect.TypeOf(checks.Decide):         []checks.Weight{checks.Decide, checks.Know},
	reflect.TypeOf(checks.Results):        []checks.Station{checks.Batch, checks.Peaks, checks.Compounds, checks.Curves, checks.Results},
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

// name is the type's own name, with its package where two packages share it.
func (s *schemas) name(t reflect.Type) string {
	switch t {
	case reflect.TypeOf(batch.Injection{}), reflect.TypeOf(batch.Result{}):
		return "Batch" + t.Name()
	}
	switch t {
	case reflect.TypeOf(readings.Table{}), reflect.TypeOf(readings.Row{}), reflect.TypeOf(readings.Response{}):
		return "Readings" + t.Name()
	case reflect.TypeOf(contents.Table{}), reflect.TypeOf(contents.Row{}), reflect.TypeOf(contents.Amount{}):
		return "Contents" + t.Name()
	}
	if t.Name() == "problem" {
		return "Problem"
	}
	return t.Name()
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
