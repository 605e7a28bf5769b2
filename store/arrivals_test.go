package store

import (
	"errors"
	"io"
	"io/fs"
	"os"
	"path/filepath"
	"strings"
	"testing"
)

// breaking is a body that ends in the middle.
type breaking struct{ sent bool }

func (b *breaking) Read(p []byte) (int, error) {
	if b.sent {
		return 0, io.ErrUnexpectedEOF
	}
	b.sent = true
	return copy(p, "half a file"), nil
}

// What has arrived is there whole after the program is started again, in order; what came by half never is.
func TestArrivedFilesWait(t *testing.T) {
	dir := t.TempDir()
	s := open(t, dir)
	for _, text := range []string{"first\nfile", "", "third"} {
		if _, err := s.Arrive(Arrival{BatchID: "b", Name: text, Who: "A", Place: "here"}, strings.NewReader(text)); err != nil {
			t.Fatal(err)
		}
	}
	if _, err := s.Arrive(Arrival{BatchID: "b", Name: "broken"}, &breaking{}); !errors.Is(err, io.ErrUnexpectedEOF) {
		t.Errorf("got %v", err)
	}
	if err := os.WriteFile(filepath.Join(dir, arrivalsFolder, "cut off"+halfArrived), []byte("{"), 0o644); err != nil {
		t.Fatal(err)
	}
	for name, text := range map[string]string{"odd": "no head and no line", "odder": "[1, 2]\n"} { // a foreign file must not stop the others
		if err := os.WriteFile(filepath.Join(dir, arrivalsFolder, name), []byte(text), 0o644); err != nil {
			t.Fatal(err)
		}
	}
	s.Close()
	s = open(t, dir)
	if err := s.DropHalves(); err != nil {
		t.Fatal(err)
	}
	if halves, _ := filepath.Glob(filepath.Join(dir, arrivalsFolder, "*"+halfArrived)); len(halves) > 0 {
		t.Errorf("what came by half is still there: %v", halves)
	}
	list, err := s.Arrivals()
	if err != nil || len(list) != 3 {
		t.Fatalf("%+v %v", list, err)
	}
	for i, want := range []string{"first\nfile", "", "third"} {
		f, err := s.Arrived(list[i].ID)
		if err != nil {
			t.Fatal(err)
		}
		data, err := io.ReadAll(f)
		f.Close()
		if err != nil || string(data) != want || list[i].Name != want || list[i].Size != int64(len(want)) || list[i].Place != "here" {
			t.Errorf("%+v %q %v", list[i], data, err)
		}
		if err := errors.Join(s.Leave(list[i].ID), s.Leave(list[i].ID)); err != nil {
			t.Error(err)
		}
	}
	if left, err := os.ReadDir(filepath.Join(dir, arrivalsFolder)); err != nil || len(left) != 2 {
		t.Errorf("left %v %v", left, err)
	}
}

// A file that is just arriving arrives, whoever asks meanwhile what is there: two people, or two windows, look at files at once.
func TestAListingDoesNotDisturbWhatArrives(t *testing.T) {
	s := open(t, t.TempDir())
	body, sender := io.Pipe()
	done := make(chan error, 1)
	go func() {
		_, err := s.ArriveToLook(Arrival{BatchID: "b", Name: "slow"}, body)
		done <- err
	}()
	if _, err := sender.Write([]byte("first half, ")); err != nil {
		t.Fatal(err)
	}
	if list, err := s.LookedAt(); err != nil || len(list) != 0 {
		t.Errorf("half a file is listed: %+v, %v", list, err)
	}
	if _, err := sender.Write([]byte("second half")); err != nil {
		t.Fatal(err)
	}
	sender.Close()
	if err := <-done; err != nil {
		t.Fatal(err)
	}
	if list, err := s.LookedAt(); err != nil || len(list) != 1 || list[0].Name != "slow" {
		t.Errorf("%+v, %v", list, err)
	}
}

// Only what has the form of an id names a file that is looked at, so that no other file of the machine is opened or taken away.
func TestOnlyIdsNameFilesThatAreLookedAt(t *testing.T) {
	dir := t.TempDir()
	s := open(t, dir)
	secret := filepath.Join(dir, "secret")
	if err := os.WriteFile(secret, []byte("{}\nnot to be seen"), 0o600); err != nil {
		t.Fatal(err)
	}
	for _, id := range []string{"", ".", "..", "../secret", "/etc/passwd", "secret", "..\\secret", strings.Repeat("x", 100_000), "\x00", NewID()} {
		if f, err := s.Looked(id); !errors.Is(err, fs.ErrNotExist) {
			t.Errorf("%.40q opens %v, %v", id, f, err)
		}
		if err := s.PutBack(id); err != nil && !errors.Is(err, fs.ErrNotExist) {
			t.Errorf("%.40q is put back: %v", id, err)
		}
	}
	if _, err := os.Stat(secret); err != nil {
		t.Error(err)
	}
}
