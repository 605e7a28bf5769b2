package store

import (
	"bufio"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"log/slog"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"yugen/formats/text"
)

// Arrival is a file that has come, and waits to be taken into a batch. It lies on disk until then, so that nobody has to send it again when the program is
// stopped meanwhile.
type Arrival struct {
	ID      string `json:"id"`
	BatchID string `json:"batch_id"`
	Name    string `json:"name"`
	Who     string `json:"who"`
	Place   string `json:"place"`
	// Apart keeps it an injection of its own, whatever its name.
	Apart bool `json:"apart,omitempty"`
	// Profile is how it is read, where a person chose that; else the study's profiles are tried.
	Profile *text.Profile `json:"profile,omitempty"`
	Size    int64         `json:"-"` // of the file, in bytes
}

const (
	arrivalsFolder = "arriving"
	lookedAtFolder = "looking" // for files that are looked at before they are taken in
	halfArrived    = ".part"
)

// Arrive puts a file down as it comes. It is there only when all of it is on disk.
func (s *Store) Arrive(a Arrival, body io.Reader) (Arrival, error) {
	return s.putDown(arrivalsFolder, a, body)
}

// ArriveToLook is Arrive for a file that is looked at first: it waits until it is taken, and is not taken in by itself.
func (s *Store) ArriveToLook(a Arrival, body io.Reader) (Arrival, error) {
	return s.putDown(lookedAtFolder, a, body)
}

func (s *Store) putDown(folder string, a Arrival, body io.Reader) (_ Arrival, err error) {
	a.ID = NewID()
	dir := filepath.Join(s.dir, folder)
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return a, s.onDisk(err)
	}
	half := filepath.Join(dir, a.ID+halfArrived)
	defer func() {
		if err != nil {
			_ = os.Remove(half)
		}
	}()
	f, err := os.OpenFile(half, os.O_WRONLY|os.O_CREATE|os.O_EXCL, 0o644)
	if err != nil {
		return a, s.onDisk(err)
	}
	head, err := json.Marshal(a)
	if err == nil {
		_, err = f.Write(append(head, '\n'))
	}
	if err != nil {
		return a, errors.Join(s.onDisk(err), f.Close())
	}
	if a.Size, err = io.Copy(disk{f, s}, body); err != nil {
		return a, errors.Join(err, f.Close())
	}
	if err := errors.Join(f.Sync(), f.Close()); err != nil {
		return a, s.onDisk(err)
	}
	return a, s.onDisk(os.Rename(half, filepath.Join(dir, a.ID)))
}

// disk tells what the disk refuses from what does not arrive.
type disk struct {
	file  *os.File
	store *Store
}

func (d disk) Write(p []byte) (int, error) {
	n, err := d.file.Write(p)
	return n, d.store.onDisk(err)
}

// Arrivals lists what waits, in the order in which it came, and takes away what came by half before the program was stopped.
func (s *Store) Arrivals() ([]Arrival, error) { return s.waiting(arrivalsFolder) }

// LookedAt lists what is looked at before it is taken in, in the order in which it came.
func (s *Store) LookedAt() ([]Arrival, error) { return s.waiting(lookedAtFolder) }

// Looked reads a file that is looked at.
func (s *Store) Looked(id string) (Arrival, []byte, error) {
	return readArrival(filepath.Join(s.dir, lookedAtFolder, filepath.Base(id)), true)
}

// Take lets a file that was looked at be taken in, as a says: it waits with the others from here on.
func (s *Store) Take(a Arrival) error {
	from := filepath.Join(s.dir, lookedAtFolder, filepath.Base(a.ID))
	to := filepath.Join(s.dir, arrivalsFolder)
	if err := os.MkdirAll(to, 0o755); err != nil {
		return s.onDisk(err)
	}
	if !a.Apart && a.Profile == nil {
		return s.onDisk(os.Rename(from, filepath.Join(to, a.ID)))
	}
	_, data, err := readArrival(from, true)
	if err != nil {
		return err
	}
	head, err := json.Marshal(a)
	if err != nil {
		return err
	}
	half := filepath.Join(to, a.ID+halfArrived)
	if err := os.WriteFile(half, append(append(head, '\n'), data...), 0o644); err != nil {
		return s.onDisk(errors.Join(err, os.Remove(half)))
	}
	if err := s.onDisk(os.Rename(half, filepath.Join(to, a.ID))); err != nil {
		return err
	}
	return s.PutBack(a.ID)
}

// PutBack takes a file away that was looked at and is not wanted.
func (s *Store) PutBack(id string) error {
	return leave(filepath.Join(s.dir, lookedAtFolder, filepath.Base(id)))
}

func (s *Store) waiting(folder string) ([]Arrival, error) {
	dir := filepath.Join(s.dir, folder)
	entries, err := os.ReadDir(dir)
	if errors.Is(err, os.ErrNotExist) {
		return nil, nil
	}
	if err != nil {
		return nil, err
	}
	var list []Arrival
	for _, e := range entries {
		path := filepath.Join(dir, e.Name())
		if strings.HasSuffix(e.Name(), halfArrived) {
			if err := os.Remove(path); err != nil {
				return nil, err
			}
			continue
		}
		a, _, err := readArrival(path, false)
		if err != nil { // one that cannot be read must not keep the others waiting, nor the program from starting
			slog.Error("an arrived file cannot be read and is left where it is", "error", err)
			continue
		}
		list = append(list, a)
	}
	slices.SortFunc(list, func(a, b Arrival) int { return strings.Compare(a.ID, b.ID) })
	return list, nil
}

// Arrived reads a file that waits.
func (s *Store) Arrived(id string) ([]byte, error) {
	_, data, err := readArrival(filepath.Join(s.dir, arrivalsFolder, id), true)
	return data, err
}

func readArrival(path string, whole bool) (a Arrival, data []byte, err error) {
	f, err := os.Open(path)
	if err != nil {
		return a, nil, err
	}
	defer f.Close()
	r := bufio.NewReader(f)
	head, err := r.ReadBytes('\n')
	if err != nil {
		return a, nil, fmt.Errorf("store: the arrived file %s: %w", path, err)
	}
	if err := json.Unmarshal(head, &a); err != nil {
		return a, nil, fmt.Errorf("store: the arrived file %s: %w", path, err)
	}
	info, err := f.Stat()
	if err != nil {
		return a, nil, err
	}
	if a.Size = info.Size() - int64(len(head)); !whole {
		return a, nil, nil
	}
	data, err = io.ReadAll(r)
	return a, data, err
}

// Leave takes a file away that was taken in, or is not wanted.
func (s *Store) Leave(id string) error { return leave(filepath.Join(s.dir, arrivalsFolder, id)) }

func leave(path string) error {
	err := os.Remove(path)
	if errors.Is(err, os.ErrNotExist) {
		return nil
	}
	return err
}
