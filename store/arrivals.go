package store

import (
	"bufio"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"io/fs"
	"log/slog"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"github.com/google/uuid"

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
	count := &counted{from: body}
	err = s.putAs(folder, a, count)
	a.Size = count.bytes
	return a, err
}

// counted counts what is read.
type counted struct {
	from  io.Reader
	bytes int64
}

func (c *counted) Read(p []byte) (int, error) {
	n, err := c.from.Read(p)
	c.bytes += int64(n)
	return n, err
}

func (s *Store) putAs(folder string, a Arrival, body io.Reader) (err error) {
	dir := filepath.Join(s.dir, folder)
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return s.onDisk(err)
	}
	half := filepath.Join(dir, a.ID+halfArrived)
	defer func() {
		if err != nil {
			_ = os.Remove(half)
		}
	}()
	f, err := os.OpenFile(half, os.O_WRONLY|os.O_CREATE|os.O_EXCL, 0o644)
	if err != nil {
		return s.onDisk(err)
	}
	head, err := json.Marshal(a)
	if err == nil {
		_, err = f.Write(append(head, '\n'))
	}
	if err != nil {
		return errors.Join(s.onDisk(err), f.Close())
	}
	if _, err = io.Copy(disk{f, s}, body); err != nil {
		return errors.Join(err, f.Close())
	}
	if err := errors.Join(f.Sync(), f.Close()); err != nil {
		return s.onDisk(err)
	}
	return s.onDisk(os.Rename(half, filepath.Join(dir, a.ID)))
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

// Arrivals lists what waits, in the order in which it came.
func (s *Store) Arrivals() ([]Arrival, error) { return s.waiting(arrivalsFolder) }

// DropHalves takes away what came by half before the program was stopped. Nothing may be arriving meanwhile.
func (s *Store) DropHalves() error {
	for _, folder := range []string{arrivalsFolder, lookedAtFolder} {
		halves, err := filepath.Glob(filepath.Join(s.dir, folder, "*"+halfArrived))
		if err != nil {
			return err
		}
		for _, half := range halves {
			if err := leave(half); err != nil {
				return err
			}
		}
	}
	return nil
}

// LookedAt lists what is looked at before it is taken in, in the order in which it came.
func (s *Store) LookedAt() ([]Arrival, error) { return s.waiting(lookedAtFolder) }

// ArrivedFile is the content of a file that has come, read as it is asked for.
type ArrivedFile struct {
	Arrival
	*io.SectionReader
	file *os.File
}

// Close lets go of the file.
func (f *ArrivedFile) Close() error { return f.file.Close() }

// Looked opens a file that is looked at.
func (s *Store) Looked(id string) (*ArrivedFile, error) {
	if uuid.Validate(id) != nil { // it is asked for by whoever asks, and names a file
		return nil, fs.ErrNotExist
	}
	return openArrival(filepath.Join(s.dir, lookedAtFolder, id))
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
	f, err := openArrival(from)
	if err != nil {
		return err
	}
	defer f.Close()
	if err := s.putAs(arrivalsFolder, a, f); err != nil {
		return err
	}
	return s.PutBack(a.ID)
}

// PutBack takes a file away that was looked at and is not wanted.
func (s *Store) PutBack(id string) error {
	if uuid.Validate(id) != nil {
		return fs.ErrNotExist
	}
	return leave(filepath.Join(s.dir, lookedAtFolder, id))
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
			continue // it is just arriving
		}
		f, err := openArrival(path)
		if errors.Is(err, os.ErrNotExist) {
			continue // it was taken meanwhile
		}
		if err == nil {
			err = f.Close()
		}
		if err != nil { // one that cannot be read must not keep the others waiting, nor the program from starting
			slog.Error("an arrived file cannot be read and is left where it is", "error", err)
			continue
		}
		list = append(list, f.Arrival)
	}
	slices.SortFunc(list, func(a, b Arrival) int { return strings.Compare(a.ID, b.ID) })
	return list, nil
}

// Arrived opens a file that waits.
func (s *Store) Arrived(id string) (*ArrivedFile, error) {
	return openArrival(filepath.Join(s.dir, arrivalsFolder, id))
}

func openArrival(path string) (*ArrivedFile, error) {
	f, err := os.Open(path)
	if err != nil {
		return nil, err
	}
	a := &ArrivedFile{file: f}
	head, err := bufio.NewReader(f).ReadBytes('\n')
	if err == nil {
		err = json.Unmarshal(head, &a.Arrival)
	}
	info, errStat := f.Stat()
	if err := errors.Join(err, errStat); err != nil {
		return nil, fmt.Errorf("store: the arrived file %s: %w", path, errors.Join(err, f.Close()))
	}
	a.Arrival.Size = info.Size() - int64(len(head))
	a.SectionReader = io.NewSectionReader(f, int64(len(head)), a.Arrival.Size)
	return a, nil
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
