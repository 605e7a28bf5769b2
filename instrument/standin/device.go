package standin

import (
	"yugen/bench"
	"yugen/instrument"
)

// device is what instruments differ in.
type device interface {
	says() string
	// on turns on what a list wants, off leaves on what an ending leaves.
	on(list instrument.List)
	end(e instrument.Ending)
	// left tells what was measured once an ending is done, and whether it is.
	left(e instrument.Ending) (string, bool)
	endings() []instrument.EndingChoice
	// step lets time pass; inRun is the minute of the run, or below 0.
	step(inRun float64)
	conditions(looked map[string]bool) []instrument.Condition
	supplies() []supply
	settings(inRun float64) []instrument.Setting
	set(id string, value float64) error
	inject(s bench.Solution)
	// measure records what detectors see at a time of the run.
	measure(tMin float64, r recorder)
	runMin() float64
	betweenS() float64
	// back tells whether it is where a run begins.
	back() bool
	readings() []instrument.Reading
	// failing is what has just gone wrong; nil where nothing has. inRun as in step.
	failing(inRun float64) *instrument.Trouble
	// mended is what must be true before it goes on after trouble.
	mended(t instrument.Trouble, looked map[string]bool) []instrument.Condition
	world(what string) error
	faults() []string
	fault(name string) error
	// unit is that of a scan's values, axis what stands along it.
	unit() string
	axis() instrument.Axis
}

// supply is a supply with how much an injection takes of it.
type supply struct {
	instrument.Supply
	each float64
}

// recorder takes what detectors see.
type recorder interface {
	signal(name, unit string, everyS, tMin, value float64)
	scan(s instrument.Scan)
}
