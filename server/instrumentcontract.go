package server

import (
	"encoding/json"
	"reflect"
	"strings"

	"yugen/instrument"
)

// InstrumentContract is the OpenAPI document of the protocol that instruments speak, written from the table that the stand-ins serve.
func InstrumentContract() ([]byte, error) {
	s := &schemas{defined: map[string]any{}, types: map[string]reflect.Type{}}
	paths := map[string]map[string]any{}
	for _, op := range instrument.Operations {
		kind := "application/json"
		parameters := []any{}
		if op.ID == "events" {
			kind, parameters = "text/event-stream", []any{parameter("after", "query", false)}
		}
		described := map[string]any{"operationId": op.ID, "summary": op.Summary, "parameters": parameters, "responses": map[string]any{
			"200":     answerOf(op.Summary, kind, s.of(reflect.TypeOf(op.Answer))),
			"default": answerOf("Why it is not done", "application/problem+json", s.of(reflect.TypeOf(instrument.Refusal{}))),
		}}
		if op.Body != nil {
			described["requestBody"] = map[string]any{"required": true, "content": content("application/json", s.of(reflect.TypeOf(op.Body)))}
		}
		path := "/api" + op.Path
		if paths[path] == nil {
			paths[path] = map[string]any{}
		}
		paths[path][strings.ToLower(op.Method)] = described
	}
	document, err := json.MarshalIndent(map[string]any{
		"openapi":    "3.1.0",
		"info":       map[string]any{"title": "What an instrument speaks with the bench", "version": "1"},
		"paths":      paths,
		"components": map[string]any{"schemas": s.defined},
	}, "", " ")
	return append(document, '\n'), err
}
