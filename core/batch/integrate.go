package batch

import (
	"context"
	"fmt"
	"runtime"
	"sync"
	"sync/atomic"

	"yugen/core/peaks"
)

// integrated is what integrating one channel of one injection gave, or why it gave nothing.
type integrated struct {
	peaks.Result
	trace   string
	unit    string
	problem string
	absent  bool // the injection does not have the signal
}

// integrate integrates every channel of every injection: the outer list is of injections, the inner one of the method's channels.
func integrate(ctx context.Context, in Input, cache *Cache) (results [][]integrated, expected []Expected, err error) {
	results, expected = make([][]integrated, len(in.Injections)), []Expected{}
	for k, c := range in.Method.Channels {
		told := func(half int) func(int) { // each injection is looked at twice: what to expect of all together, then its peaks
			return func(n int) {
				if in.Progress != nil {
					all := len(in.Injections)
					in.Progress(((2*k+half)*all+n)/(2*len(in.Method.Channels)), all)
				}
			}
		}
		found, common, err := integrateChannel(ctx, in, k, cache, told)
		if err != nil {
			return nil, nil, err
		}
		for i := range found {
			if found[i].absent && in.Injections[i].Typed == nil && len(in.Method.LookedForIn(c.ID)) > 0 {
				found[i].problem = "its files hold no signal " + c.Signal.Title()
			}
			results[i] = append(results[i], found[i])
		}
		expected = append(expected, common...)
	}
	return results, expected, nil
}

// integrateChannel estimates widths and noise over all injections with the same trace, and integrates each with what is common, so that one does not differ from
// the next by the estimate alone. An injection that fails is told as such, and the others go on without it.
func integrateChannel(ctx context.Context, in Input, k int, cache *Cache, told func(half int) func(int)) (found []integrated, expected []Expected, err error) {
	channel, injections := in.Method.Channels[k], in.Injections
	estimates, failed, err := forEach(ctx, injections, told(0), func(i Injection) (peaks.Estimate, error) {
		s, ok := i.signalOf(in.Method, k)
		if !ok {
			return peaks.Estimate{}, nil
		}
		return cache.estimate(s)
	})
	if err != nil {
		return nil, nil, err
	}
	of := map[string]int{} // index into expected, by the injection's id
	byTrace := map[string]int{}
	var together [][]peaks.Estimate
	for i, injection := range injections {
		s, ok := injection.signalOf(in.Method, k)
		if !ok || failed[i] != nil {
			continue
		}
		e, known := byTrace[s.Trace.Name]
		if !known {
			e = len(expected)
			byTrace[s.Trace.Name], expected, together = e, append(expected, Expected{Channel: channel.ID, Trace: s.Trace.Name}), append(together, nil)
		}
		of[injection.ID], together[e] = e, append(together[e], estimates[i])
	}
	for e := range expected {
		expected[e].Estimate, expected[e].Injections = peaks.Together(together[e]), len(together[e])
	}
	results, later, err := forEach(ctx, injections, told(1), func(i Injection) (peaks.Result, error) {
		e, known := of[i.ID]
		if !known {
			return peaks.Result{}, nil
		}
		s, _ := i.signalOf(in.Method, k)
		return cache.integrate(s, in.Method.EditsOn(i.Edits, channel.ID), channel.Peaks, expected[e].Estimate)
	})
	if err != nil {
		return nil, nil, err
	}
	found = make([]integrated, len(injections))
	for i := range injections {
		s, ok := injections[i].signalOf(in.Method, k)
		found[i] = integrated{Result: results[i], trace: s.Trace.Name, unit: s.Trace.Unit, absent: !ok}
		if failed[i] == nil {
			failed[i] = later[i]
		}
		if failed[i] != nil {
			found[i].problem = failed[i].Error()
		}
	}
	return found, expected, nil
}

// forEach does one thing with every injection, on all processors, tells how many are done, and gives what came of each. It fails only when the context ends. What panics is an
// error of its injection: one odd trace must not take the others with it.
func forEach[T any](ctx context.Context, injections []Injection, told func(int), do func(Injection) (T, error)) (results []T, errs []error, err error) {
	results, errs = make([]T, len(injections)), make([]error, len(injections))
	next := make(chan int)
	var workers sync.WaitGroup
	var done atomic.Int64
	for range min(runtime.GOMAXPROCS(0), max(1, len(injections))) {
		workers.Go(func() {
			for i := range next {
				results[i], errs[i] = safely(injections[i], do)
				told(int(done.Add(1)))
			}
		})
	}
	for i := range injections {
		if err = ctx.Err(); err != nil {
			break
		}
		next <- i
	}
	close(next)
	workers.Wait()
	return results, errs, err
}

func safely[T any](in Injection, do func(Injection) (T, error)) (v T, err error) {
	defer func() {
		if r := recover(); r != nil {
			var none T
			v, err = none, fmt.Errorf("its integration failed inside Yugen: %v", r)
		}
	}()
	return do(in)
}
