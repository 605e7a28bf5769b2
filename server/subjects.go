package server

import (
	"fmt"
	"slices"
	"strings"
)

// subject is what a part of the contract is about, with the words of the paths that belong to it.
type subject struct {
	name, says string
	words      []string
}

// subjects lists them in the order of the work. A path belongs where its first word after the batch or the injection is.
var subjects = []subject{
	{"Batches", "Begin one, read one, find one, take a step back.", []string{"batches", "studies", "find", "notices", "settled", "shelf", "undo", "redo", "demo", "events"}},
	{"Files", "What instruments wrote: looked at, taken in, handed back.", []string{"files", "looks", "arrivals", "waiting", "joins", "parts", "profiles", "raw", "removals", "readings", "whole-way"}},
	{"Run list", "Who is who: names, roles, levels, weights, columns of one's own.", []string{"entries", "order", "columns", "contents"}},
	{"Signals", "Traces, conditions, and what several injections show beside each other.", []string{"signal", "signals", "channels", "trace", "ridges", "above", "views"}},
	{"Method and peaks", "How a batch is processed, and what is changed by hand.", []string{"method", "methods", "method-trials", "versions", "since", "peaks", "edits", "preview", "proposals", "suggestions", "compound-names", "ladders", "process"}},
	{"Spectra", "What a peak is by its spectrum, and what is in the samples without being told.", []string{"spectrum", "map", "purity", "identify", "rejections", "ions", "libraries", "resolving", "resolved.csv", "resolved.xlsx"}},
	{"Curves", "Calibration: points, limits, what another curve would give.", []string{"choices", "curve-trials", "earlier", "limits", "control"}},
	{"Results", "Amounts with their working, tables over many injections, trends, fields, screening.", []string{"result", "results.csv", "results.xlsx", "working", "matrix", "table.csv", "quantities", "summary", "summary.csv", "summary.xlsx", "trends", "trends.svg", "trends.pdf", "figure-styles", "fields", "screening", "against", "targets", "taken"}},
	{"Review and record", "What was done, by whom and why; signed and locked.", []string{"review", "signatures", "unlock", "record", "record.csv", "record.jsonl"}},
	{"Reports", "Pages, their layouts, and many of them.", []string{"report.pdf", "reports", "pages", "layouts", "sets", "deliveries", "fonts"}},
	{"Bench", "Instruments, or what stands in for them.", []string{"bench", "bench-troubles"}},
	{"Jobs", "Work that takes its time.", []string{"jobs", "backups", "checks"}},
	{"House", "Whose installation it is, and who may come in.", []string{"installation", "settings", "people", "session", "tokens", "openapi.json"}},
}

// subjectOf is the subject of a path; an error where nobody has said which that is.
func subjectOf(path string) (string, error) {
	words := strings.Split(strings.TrimPrefix(path, "/api/"), "/")
	for _, above := range []string{"batches", "injections"} {
		if len(words) > 2 && words[0] == above {
			words = words[2:]
		}
	}
	at := slices.IndexFunc(subjects, func(s subject) bool { return slices.Contains(s.words, words[0]) })
	if at < 0 {
		return "", fmt.Errorf("the path %s belongs to no subject of the contract; give its word %q to one", path, words[0])
	}
	return subjects[at].name, nil
}

// subjectsTold are the subjects as a contract lists them.
func subjectsTold() (told []any) {
	for _, s := range subjects {
		told = append(told, map[string]any{"name": s.name, "description": s.says})
	}
	return told
}
