package formats

import "testing"

func TestErrorsSayWhere(t *testing.T) {
	for want, e := range map[string]*Error{
		"line 7: odd":           {Line: 7, Reason: "odd"},
		"line 7, column 2: odd": {Line: 7, Column: 2, Reason: "odd"},
		"byte 160: cut":         {Offset: 160, Reason: "cut"},
		"empty":                 {Reason: "empty"},
	} {
		if e.Error() != want {
			t.Errorf("%q, want %q", e.Error(), want)
		}
	}
}
