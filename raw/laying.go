package raw

import (
	"fmt"
	"sync"

	"yugen/core/spectra"
)

// waitingScans is how many spectra may wait to be laid down.
const waitingScans = 64

// laying lays spectra down in their order, one after the other, beside whoever gives them.
type laying struct {
	given  chan givenScan
	over   chan struct{}
	ending sync.Once
	mu     sync.Mutex
	err    error // the first that went wrong
}

type givenScan struct {
	of spectra.About
	s  spectra.Scan
}

func lay(take func(spectra.About, spectra.Scan) error) *laying {
	l := &laying{given: make(chan givenScan, waitingScans), over: make(chan struct{})}
	go func() {
		defer close(l.over)
		for g := range l.given {
			if l.wrong() == nil { // after an error the rest is let go
				l.set(safely(take, g))
			}
		}
	}()
	return l
}

// safely turns a panic into an error: it would end the program here, where nobody who takes a file in could recover from it.
func safely(take func(spectra.About, spectra.Scan) error, g givenScan) (err error) {
	defer func() {
		if p := recover(); p != nil {
			err = fmt.Errorf("a spectrum at %g s cannot be kept: %v", g.s.TimeS, p)
		}
	}()
	return take(g.of, g.s)
}

func (l *laying) wrong() error {
	l.mu.Lock()
	defer l.mu.Unlock()
	return l.err
}

func (l *laying) set(err error) {
	l.mu.Lock()
	defer l.mu.Unlock()
	if l.err == nil {
		l.err = err
	}
}

// give hands a spectrum over, and tells what went wrong with those before.
func (l *laying) give(of spectra.About, s spectra.Scan) error {
	if err := l.wrong(); err != nil {
		return err
	}
	l.given <- givenScan{of, s}
	return nil
}

// end waits until all that was given is laid down. More than once does no harm, and of nothing given it is done.
func (l *laying) end() error {
	if l == nil {
		return nil
	}
	l.ending.Do(func() { close(l.given) })
	<-l.over
	return l.wrong()
}
