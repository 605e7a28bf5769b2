package lab

import (
	"context"
	"encoding/json"
	"flag"
	"fmt"
	"os"
	"strconv"
	"testing"

	"yugen/bench"
	"yugen/core/batch"
	"yugen/formats/read"
	"yugen/store"
)

var writePipeline = flag.Bool("write-pipeline", false, "write the fingerprint of the present computation")

// A result kept under a pipeline's number must be what that pipeline computes. When this fails, the computation has changed:
// raise pipeline in process.go and run this test once with -write-pipeline.
func TestThePipelineNumberFollowsTheComputation(t *testing.T) {
	const file = "testdata/pipeline.json"
	type fingerprint struct{ Pipeline, Numbers string }
	now := fingerprint{pipeline, numbersOf(t)}
	if *writePipeline {
		text, _ := json.MarshalIndent(now, "", " ")
		if err := os.WriteFile(file, append(text, '\n'), 0o644); err != nil {
			t.Fatal(err)
		}
		return
	}
	raw, err := os.ReadFile(file)
	if err != nil {
		t.Fatal(err)
	}
	var kept fingerprint
	if err := json.Unmarshal(raw, &kept); err != nil {
		t.Fatal(err)
	}
	if kept != now {
		t.Errorf("pipeline %s had the numbers %.12s, pipeline %s has %.12s", kept.Pipeline, kept.Numbers, now.Pipeline, now.Numbers)
	}
}

// numbersOf is a hash of all areas, amounts, means and their uncertainties of a simulated batch, to a few digits, so that no machine's rounding shows.
func numbersOf(t *testing.T) string {
	t.Helper()
	study, err := bench.TeaAssay(1)
	if err != nil {
		t.Fatal(err)
	}
	injections := make([]batch.Injection, len(study.Files))
	for i, f := range study.Files {
		file, err := read.File(f.Data)
		if err != nil {
			t.Fatal(err)
		}
		injections[i] = batch.Injection{Entry: study.RunList[i], Trace: file.Traces[0]}
		injections[i].ID = strconv.Itoa(i)
	}
	r, err := batch.Process(context.Background(), batch.Input{Injections: injections, Method: study.Method}, nil)
	if err != nil {
		t.Fatal(err)
	}
	var all []byte
	number := func(v *float64) {
		if v == nil {
			all = append(all, " -"...)
			return
		}
		all = strconv.AppendFloat(append(all, ' '), *v, 'e', 4, 64)
	}
	for _, in := range r.Injections {
		for _, p := range in.Peaks {
			number(&p.AreaS)
			number(&p.AreaSE)
		}
		for _, c := range r.Curves {
			v := in.Readings[c.CompoundID]
			number(v.Concentration)
			number(v.ConcentrationSE)
			number(v.Amount)
			number(v.AmountSE)
		}
	}
	for _, s := range r.Samples {
		for _, c := range r.Curves {
			v := s.Values[c.CompoundID]
			number(v.Mean)
			number(v.SE)
			all = append(all, fmt.Sprint(v.Flags)...)
		}
	}
	for _, c := range r.Curves {
		number(c.LOD)
		number(c.LOQ)
	}
	return store.Hash(all)
}
