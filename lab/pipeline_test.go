package lab

import (
	"context"
	"encoding/json"
	"flag"
	"os"
	"strconv"
	"testing"

	"yugen/bench"
	"yugen/core/batch"
	"yugen/formats/andi"
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

// numbersOf is a hash of all areas and amounts of a simulated batch, to six digits, so that no machine's rounding shows.
func numbersOf(t *testing.T) string {
	t.Helper()
	study, err := bench.TeaAssay(1)
	if err != nil {
		t.Fatal(err)
	}
	injections := make([]batch.Injection, len(study.Files))
	for i, f := range study.Files {
		file, err := andi.Read(f.Data)
		if err != nil {
			t.Fatal(err)
		}
		injections[i] = batch.Injection{Entry: study.RunList[i], Trace: file.Traces[0]}
		injections[i].ID = strconv.Itoa(i)
	}
	r, err := batch.Process(context.Background(), injections, study.Method, nil)
	if err != nil {
		t.Fatal(err)
	}
	var all []byte
	for _, in := range r.Injections {
		for _, p := range in.Peaks {
			all = strconv.AppendFloat(append(all, ' '), p.AreaS, 'e', 5, 64)
		}
		for _, c := range r.Curves {
			if v := in.Readings[c.CompoundID].Concentration; v != nil {
				all = strconv.AppendFloat(append(all, ' '), *v, 'e', 5, 64)
			}
		}
	}
	return store.Hash(all)
}
