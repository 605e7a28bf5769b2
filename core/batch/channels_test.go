package batch

import (
	"encoding/json"
	"fmt"
	"slices"
	"strings"
	"testing"

	"yugen/core/channels"
	"yugen/core/checks"
	"yugen/core/compounds"
	"yugen/core/peaks"
)

// twoDetectors is the usual run with a second detector, on which A answers half as strongly and B not at all; "sensitivity" of the second is its own.
func twoDetectors(t *testing.T) ([]Injection, Method) {
	t.Helper()
	list := run(t)
	for i := range list {
		content := 0.0
		switch in := list[i]; {
		case in.Level != nil:
			content = *in.Level
		case in.Role == Sample:
			content = 30
		}
		second := injection(t, list[i].ID, list[i].Name, list[i].Role, nil, content/2, 0, 0.5)
		second.Trace.Name = "UV 254 nm"
		list[i].Further = map[string]Signal{"second": {second.Trace, "second/" + list[i].ID}}
	}
	m := method()
	m.Channels = append(m.Channels, Channel{ID: "second", Signal: channels.Signal{Name: "UV 254 nm"}, Peaks: peaks.Settings{WidthMin: 0.1, TimeRules: []peaks.TimeRule{{Kind: peaks.LeaveOut, FromMin: 5, ToMin: 7}}}})
	m.Compounds = append(m.Compounds, compounds.Compound{ID: "a2", Name: "A at 254", Channel: "second", ExpectedMin: apexA, Window: compounds.Window{Kind: compounds.Absolute, Value: 0.2}, Rule: compounds.Nearest, Role: compounds.Target, Against: "none"})
	return list, m
}

func TestEachChannelHasItsOwnPeaksAndCompounds(t *testing.T) {
	list, m := twoDetectors(t)
	r := processed(t, list, m, &Cache{})
	leaf := r.Injections[6]
	if len(leaf.Peaks) != 3 || len(leaf.Further) != 1 || len(leaf.Further[0].Peaks) != 1 {
		t.Fatalf("%d peaks in the first channel, %d in the second, where the internal standard is left out", len(leaf.Peaks), len(leaf.Further[0].Peaks))
	}
	if p := leaf.Further[0].Peaks[0]; p.CompoundID != "a2" || p.Number != 1 || leaf.Peaks[0].CompoundID != "a" {
		t.Errorf("the second channel's peak %d is %q, the first's %q", p.Number, p.CompoundID, leaf.Peaks[0].CompoundID)
	}
	near(t, "read in the first", leaf.Readings["a"].Concentration, 30, 0.5)
	near(t, "read in the second, without internal standard", leaf.Readings["a2"].Concentration, 30, 0.5)
	near(t, "its response", leaf.Readings["a2"].Response, 30/2*perUnitA*0.5, 0.5)
	if e := r.ExpectedOf("second", "UV 254 nm"); e == nil || r.ExpectedOf("second", "") != nil {
		t.Error("the estimates of the channels are mixed up")
	}
}

func TestAnEditIsOfItsChannel(t *testing.T) {
	list, m := twoDetectors(t)
	list[6].Edits = []peaks.Edit{{Kind: peaks.Remove, ApexMin: apexA, Channel: "second"}}
	r := processed(t, list, m, nil)
	if leaf := r.Injections[6]; len(leaf.Peaks) != 3 || len(leaf.Further[0].Peaks) != 0 || len(leaf.Unmatched)+len(leaf.Further[0].Unmatched) != 0 {
		t.Errorf("removing a peak of the second channel leaves %d and %d peaks", len(leaf.Peaks), len(leaf.Further[0].Peaks))
	}
}

func TestAnInjectionWithoutASignalSaysSo(t *testing.T) {
	list, m := twoDetectors(t)
	list[6].Further = nil
	r := processed(t, list, m, nil)
	if got := noticed(r, checks.Unmeasured); len(got) != 1 || !strings.Contains(got[0], "hold no signal UV 254 nm") {
		t.Errorf("notices %q", got)
	}
	near(t, "its first channel", r.Injections[6].Readings["a"].Concentration, 30, 0.5)
	if f := r.Injections[6].Readings["a2"].Flags; !slices.Contains(f, NotFound) {
		t.Errorf("flags of what cannot be there: %v", f)
	}
}

func TestQualifiersAreHeldAgainstTheStandards(t *testing.T) {
	list, m := twoDetectors(t)
	m.Compounds[0].Qualifiers = []compounds.Qualifier{{Channel: "second", TolerancePercent: 10}}
	r := processed(t, list, m, nil)
	q := r.Injections[6].Qualifiers["a"][0]
	near(t, "ratio in the leaf", q.Ratio, 0.25/0.97, 1)
	// the sensitivity of the five standards rises from 1 to 1.04 in the first channel alone
	near(t, "expected", q.Expected, 0.25*(1+1/1.01+1/1.02+1/1.03+1/1.04)/5, 0.5)
	if got := noticed(r, checks.QualifierRatio+"_second"); !q.Within || len(got) != 0 {
		t.Errorf("within %v, notices %q", q.Within, got)
	}
	m.Compounds[0].Qualifiers[0].Ratio = 0.35 // 26 % above what is there
	r = processed(t, list, m, nil)
	if got := noticed(r, checks.QualifierRatio+"_second"); len(got) != 4 || !strings.Contains(got[0], "0.35 ± 10 % is expected") {
		t.Errorf("notices %q", got)
	}
	i := slices.IndexFunc(r.Outcomes, func(o checks.Outcome) bool { return o.Kind == checks.QualifierRatio })
	if i < 0 || r.Outcomes[i].Outside != 4 || r.Outcomes[i].Count != 4 {
		t.Errorf("the outcome: %+v", r.Outcomes)
	}
	m.Compounds[1].Qualifiers = []compounds.Qualifier{{Channel: "second", Ratio: 0.5, TolerancePercent: 10}}
	r = processed(t, list, m, nil)
	if got := noticed(r, checks.QualifierRatio+"_second"); len(got) != 8 || !slices.ContainsFunc(got, func(s string) bool { return strings.Contains(s, "no peak in UV 254 nm") }) {
		t.Errorf("a qualifier without a peak: %q", got)
	}
}

func TestAMethodOfOneSignalIsReadAsItsFirstChannel(t *testing.T) {
	m, err := ReadMethod([]byte(`{"peaks":{"width_min":0.2,"threshold":5},"compounds":[{"id":"a","name":"A"}]}`))
	if err != nil || len(m.Channels) != 1 || m.Channels[0].ID != FirstChannel || m.Channels[0].Peaks.WidthMin != 0.2 || m.Earlier != nil {
		t.Fatalf("%+v %v", m, err)
	}
	written, err := json.Marshal(m)
	again, errAgain := ReadMethod(written)
	if err != nil || errAgain != nil || len(again.Channels) != 1 || again.Channels[0].Peaks.Threshold != 5 || strings.Contains(string(written), `"peaks":{"width_min":0.2,"threshold":5},"comp`) {
		t.Errorf("%s %v %v", written, err, errAgain)
	}
}

func TestAMethodWithOddChannelsIsRefused(t *testing.T) {
	_, good := twoDetectors(t)
	for what, spoil := range map[string]func(*Method){
		"none":        func(m *Method) { m.Channels = nil },
		"both forms":  func(m *Method) { m.Earlier = &peaks.Settings{} },
		"an id twice": func(m *Method) { m.Channels[1].ID = FirstChannel },
		"no signal":   func(m *Method) { m.Channels[1].Signal = channels.Signal{} },
		"a signal twice": func(m *Method) {
			m.Channels = append(m.Channels, Channel{ID: "third", Signal: channels.Signal{Name: "uv 254  NM"}})
		},
		"settings":           func(m *Method) { m.Channels[1].Peaks.WidthMin = -1 },
		"an unknown channel": func(m *Method) { m.Compounds[0].Channel = "third" },
		"an unknown qualifier": func(m *Method) {
			m.Compounds[0].Qualifiers = []compounds.Qualifier{{Channel: "third", TolerancePercent: 5}}
		},
		"its own qualifier": func(m *Method) { m.Compounds[0].Qualifiers = []compounds.Qualifier{{Channel: "", TolerancePercent: 5}} },
		"no tolerance":      func(m *Method) { m.Compounds[0].Qualifiers = []compounds.Qualifier{{Channel: "second"}} },
		"too many": func(m *Method) {
			for i := range maxChannels {
				m.Channels = append(m.Channels, Channel{ID: fmt.Sprint(i), Signal: channels.Signal{Name: fmt.Sprint(i)}})
			}
		},
	} {
		m := good
		m.Channels, m.Compounds = slices.Clone(good.Channels), slices.Clone(good.Compounds)
		spoil(&m)
		if m.Validate() == nil {
			t.Errorf("%s is taken", what)
		}
	}
	if err := good.Validate(); err != nil {
		t.Error(err)
	}
}
