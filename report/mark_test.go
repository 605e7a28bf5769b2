package report

import (
	"bytes"
	"image"
	"image/color"
	"image/png"
	"strings"
	"testing"
)

func picture(t *testing.T, width, height int) []byte {
	t.Helper()
	img := image.NewGray(image.Rect(0, 0, width, height))
	img.Set(0, 0, color.White)
	var b bytes.Buffer
	if err := png.Encode(&b, img); err != nil {
		t.Fatal(err)
	}
	return b.Bytes()
}

// A laboratory's own mark stands before its name, on paper and on the screen, and keeps its shape; without one nothing of ours stands there.
func TestTheLaboratorysMark(t *testing.T) {
	in := input(t)
	plain, err := New(WholeBatch, in, "")
	if err != nil {
		t.Fatal(err)
	}
	if strings.Contains(plain.SVG()[0], "<image") {
		t.Error("there is a mark that nobody gave")
	}
	for size, want := range map[[2]int]string{{100, 50}: `width="14.000" height="7.000"`, {900, 30}: `width="40.000" height="1.333"`} {
		in.Mark = picture(t, size[0], size[1])
		if err := ValidMark(in.Mark); err != nil {
			t.Fatal(err)
		}
		r, err := New(WholeBatch, in, "")
		if err != nil {
			t.Fatal(err)
		}
		for i, page := range r.SVG() {
			if strings.Count(page, "<image") != 1 || !strings.Contains(page, want) {
				t.Errorf("%v: page %d has no mark of %s", size, i+1, want)
			}
		}
		pdf, err := r.PDF()
		if err != nil || bytes.Count(pdf, []byte("/Subtype /Image")) != 1 {
			t.Errorf("%v: %v", size, err)
		}
		if again, err := r.PDF(); err != nil || !bytes.Equal(pdf, again) {
			t.Errorf("%v: two makings differ", size)
		}
	}
	whole := picture(t, 40, 40)
	for what, data := range map[string][]byte{"text": []byte("not a picture"), "cut": whole[:len(whole)-20], "too large": append(whole, make([]byte, maxMarkBytes)...), "too wide": picture(t, maxPixels+1, 1)} {
		if ValidMark(data) == nil {
			t.Errorf("%s is taken for a mark", what)
		}
	}
}
