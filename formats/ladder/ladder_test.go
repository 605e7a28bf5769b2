package ladder

import (
	"reflect"
	"strings"
	"testing"

	"yugen/core/compounds"
)

// Tables as they come: with heads and without, in any order, in seconds, with commas for points, with the names of alkanes.
func TestLaddersAsTheyCome(t *testing.T) {
	want := []compounds.Rung{{Carbons: 8, TimeMin: 4.25}, {Carbons: 10, TimeMin: 8.5}, {Carbons: 11, TimeMin: 11}}
	for what, text := range map[string]string{
		"a file":         "carbons,retention_min\n8,4.25\n10,8.5\n11,11\n",
		"pasted":         "8\t4.25\n10\t8.5\n11\t11",
		"another order":  "10,8.5\n8,4.25\n11,11\n",
		"times first":    "RT (min),Carbons\n4.25,8\n8.5,10\n11,11\n",
		"in seconds":     "carbons;time_s\n8;255\n10;510\n11;660\n",
		"commas":         "Alkane;Retention time\nC8;4,25\nn-C10;8,5\nC11;11,0\n",
		"with a further": "carbons,area,retention_min\n8,1000,4.25\n10,900,8.5\n11,800,11\n",
	} {
		got, err := Read(text)
		if err != nil || !reflect.DeepEqual(got, want) {
			t.Errorf("%s: %v, %v", what, got, err)
		}
	}
	for text, says := range map[string]string{"": "", "carbons,time\n": "empty", "a word": "empty", "carbons\n8\n": "two columns", "time\n": "empty", "8\n": "two columns", "8,x\n": "no time", "x8,4\n": "no number of carbons"} {
		if _, err := Read(text); err == nil || !strings.Contains(err.Error(), says) {
			t.Errorf("%q: %v", text, err)
		}
	}
}
