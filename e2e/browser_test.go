package e2e

import (
	"bufio"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"net/http"
	"net/url"
	"os"
	"os/exec"
	"path/filepath"
	"slices"
	"strings"
	"sync"
	"testing"
	"time"

	"github.com/chromedp/cdproto/network"
	"github.com/chromedp/chromedp"
	"github.com/chromedp/chromedp/kb"

	"yugen/bench"
	"yugen/lab"
)

// desk is the application open in a browser.
type desk struct {
	t       *testing.T
	ctx     context.Context
	address string // of the server
	batch   string
	program *exec.Cmd

	mu       sync.Mutex
	problems []string // console errors and requests that would leave the machine
	requests int
}

// open builds nothing: it starts the program with the demo on a free port and a browser at 1280x800 on its address.
func open(t *testing.T) *desk {
	t.Helper()
	if _, err := os.Stat("../server/dist/index.html"); err != nil {
		t.Fatal("the front end is not built; run make build first")
	}
	program, data := demoFolder(t)
	d := served(t, program, "demo", data)
	d.browse("M. Okada")
	return d
}

// openEmpty is open with nothing on the shelf, for somebody who has not said who is working.
func openEmpty(t *testing.T) *desk {
	t.Helper()
	t.Parallel()
	program, err := build()
	if err != nil {
		t.Fatal(err)
	}
	d := served(t, program, "serve", filepath.Join(t.TempDir(), "data"))
	d.browse("")
	return d
}

var build = sync.OnceValues(func() (string, error) {
	program := filepath.Join(os.TempDir(), fmt.Sprintf("yugen-e2e-%d", os.Getpid()))
	out, err := exec.Command("go", "build", "-o", program, "../cmd/yugen").CombinedOutput()
	if err != nil {
		return "", fmt.Errorf("%w: %s", err, out)
	}
	return program, nil
})

// start runs a command of the program on a data folder and gives its address and the path of its first batch once it is ready.
func start(ctx context.Context, program, command, data string, more ...string) (c *exec.Cmd, address, path string, err error) {
	c = exec.CommandContext(ctx, program, append([]string{command, "--port", "0", "--data", data}, more...)...)
	c.Stderr = os.Stderr // what the log says of a failure
	out, err := c.StdoutPipe()
	if err != nil {
		return nil, "", "", err
	}
	if err := c.Start(); err != nil {
		return nil, "", "", err
	}
	line, err := bufio.NewReader(out).ReadString('\n')
	if err != nil {
		return nil, "", "", errors.Join(err, c.Process.Kill(), c.Wait())
	}
	_, where, _ := strings.Cut(strings.TrimSpace(line), "http://")
	host, path, _ := strings.Cut(where, "/")
	return c, "http://" + host, path, nil
}

// demo is a data folder with the demo loaded and all its results made, which every test begins with a copy of.
var demo = sync.OnceValues(func() (dir string, err error) {
	program, err := build()
	if err != nil {
		return "", err
	}
	if dir, err = os.MkdirTemp("", "yugen-e2e-demo"); err != nil {
		return "", err
	}
	leftovers = append(leftovers, dir, program)
	c, address, _, err := start(context.Background(), program, "demo", dir)
	if err != nil {
		return "", err
	}
	for k, batches := 0, -1; err == nil && batches != len(bench.Demos()); k++ {
		if k == 600 {
			err = fmt.Errorf("of %d batches %d have results", len(bench.Demos()), batches)
			break
		}
		time.Sleep(200 * time.Millisecond)
		batches, err = withResults(address)
	}
	return dir, errors.Join(err, c.Process.Signal(os.Interrupt), c.Wait())
})

// withResults says how many batches have results.
func withResults(address string) (int, error) {
	r, err := http.Get(address + "/api/notices")
	if err != nil {
		return 0, err
	}
	var known []lab.BatchNotices
	err = errors.Join(json.NewDecoder(r.Body).Decode(&known), r.Body.Close())
	return len(known), err
}

// copied copies a data folder. The files that instruments left are only linked: nobody writes into them, and there are 100 MB of them for each test.
func copied(to, from string) error {
	return filepath.WalkDir(from, func(path string, e fs.DirEntry, err error) error {
		if err != nil {
			return err
		}
		inside, err := filepath.Rel(from, path)
		if err != nil {
			return err
		}
		there := filepath.Join(to, inside)
		switch {
		case e.IsDir():
			return os.MkdirAll(there, 0o755)
		case strings.HasPrefix(inside, "demo"+string(filepath.Separator)):
			return os.Link(path, there)
		}
		data, err := os.ReadFile(path)
		if err != nil {
			return err
		}
		return os.WriteFile(there, data, 0o644)
	})
}

// demoFolder is a data folder of the test's own with the demo in it, and the program that serves it. The test runs beside others from here on.
func demoFolder(t *testing.T) (program, data string) {
	t.Helper()
	t.Parallel()
	program, err := build()
	if err != nil {
		t.Fatal(err)
	}
	from, err := demo()
	if err != nil {
		t.Fatal(err)
	}
	data = filepath.Join(t.TempDir(), "data")
	if err := copied(data, from); err != nil {
		t.Fatal(err)
	}
	return program, data
}

// served is the program at work until the test ends, with a command of its own.
func served(t *testing.T, program, command, data string, more ...string) *desk {
	t.Helper()
	c, address, path, err := start(t.Context(), program, command, data, more...)
	if err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = c.Process.Kill(); _ = c.Wait() })
	return &desk{t: t, program: c, address: address, batch: strings.TrimSuffix(path, "/batch")}
}

// chromium is the one browser of all tests: it costs more to start than a test takes. Each test has a window and a storage of its own in it.
var chromium = sync.OnceValues(func() (context.Context, error) {
	path, err := exec.LookPath("chromium-headless-shell") // the same browser without its own window, a third quicker
	if err != nil {
		path = "/usr/bin/chromium"
	}
	options := append(chromedp.DefaultExecAllocatorOptions[:],
		chromedp.ExecPath(path), chromedp.NoSandbox, chromedp.DisableGPU, chromedp.WindowSize(1280, 800),
		chromedp.Flag("disable-quic", true), chromedp.Flag("disable-component-update", true), chromedp.Flag("hide-scrollbars", true))
	allocator, stop := chromedp.NewExecAllocator(context.Background(), options...)
	ctx, _ := chromedp.NewContext(allocator)
	closing = append(closing, stop)
	return ctx, chromedp.Do(ctx)
})

// browse opens a window in which this analyst has said who is working; nobody has where the name is empty.
func (d *desk) browse(analyst string) {
	d.t.Helper()
	browser, err := chromium()
	if err != nil {
		d.t.Fatal(err)
	}
	ctx, stopTab := chromedp.NewContext(browser, chromedp.WithNewBrowserContext())
	d.t.Cleanup(stopTab)
	ctx, stopTime := context.WithTimeout(ctx, 4*time.Minute)
	d.t.Cleanup(stopTime)
	d.ctx = ctx
	console := chromedp.Console(ctx)
	requests := chromedp.Events(ctx, network.RequestWillBeSent)
	go func() {
		for m, err := range console {
			if err != nil {
				return
			}
			if m.Type == "error" || m.Type == chromedp.ConsoleException {
				d.problem("console: " + m.Text + " " + strings.TrimPrefix(m.URL, d.address))
			}
		}
	}()
	go func() {
		for e, err := range requests {
			if err != nil {
				return
			}
			d.mu.Lock()
			d.requests++
			d.mu.Unlock()
			u, err := url.Parse(e.Request.URL)
			if err != nil || (u.Scheme != "data" && u.Scheme != "blob" && "http://"+u.Host != d.address) {
				d.problem("request to " + e.Request.URL)
			}
		}
	}()
	d.do(chromedp.EmulateViewport(1280, 800))
	if analyst != "" {
		d.do(chromedp.Navigate(d.address+"/api/installation"), chromedp.Evaluate[chromedp.Void](`localStorage.setItem("yugen-analyst", `+quote(analyst)+`)`))
	}
}

func (d *desk) problem(text string) {
	d.mu.Lock()
	defer d.mu.Unlock()
	d.problems = append(d.problems, text)
}

// quiet fails the test when the console had errors or a request went elsewhere. expected are pieces of messages that the test
// brought about on purpose.
func (d *desk) quiet(expected ...string) {
	d.t.Helper()
	time.Sleep(200 * time.Millisecond) // events come after what caused them
	d.mu.Lock()
	defer d.mu.Unlock()
	for _, p := range d.problems {
		if !slices.ContainsFunc(expected, func(e string) bool { return strings.Contains(p, e) }) {
			d.t.Error(p)
		}
	}
	if d.requests < 5 {
		d.t.Errorf("only %d requests were seen: the watch over them does not work", d.requests)
	}
	d.problems = nil
}

func (d *desk) do(steps ...chromedp.Action[chromedp.Void]) {
	d.t.Helper()
	if err := chromedp.Do(d.ctx, steps...); err != nil {
		picture, _ := chromedp.Run(context.WithoutCancel(d.ctx), chromedp.CaptureScreenshot())
		file := filepath.Join(os.TempDir(), "yugen-"+strings.ReplaceAll(d.t.Name(), "/", "-")+".png")
		_ = os.WriteFile(file, picture, 0o644)
		d.t.Fatalf("%v; the screen at that moment is in %s", err, file)
	}
}

// station goes to a station with a query: within the page where the batch is open, else as bookmark does.
func (d *desk) station(name, query string) {
	d.t.Helper()
	if read[bool](d, `location.pathname.startsWith("/`+d.batch+`/") && document.querySelector("header nav a[aria-current=page]") !== null`) {
		d.walk(name, query)
		return
	}
	d.bookmark(name, query)
}

// bookmark opens a station with a query anew, with nothing remembered of what was looked at before.
func (d *desk) bookmark(name, query string) {
	d.t.Helper()
	d.do(chromedp.Navigate(d.address + "/" + d.batch + "/" + name + query))
}

// walk goes to a station within the page that is open, as its links do.
func (d *desk) walk(name, query string) {
	d.t.Helper()
	d.do(chromedp.Evaluate[chromedp.Void](`history.pushState(null, "", ` + quote("/"+d.batch+"/"+name+query) + `); dispatchEvent(new PopStateEvent("popstate"))`))
	d.until("the station "+name, `document.querySelector("header nav a[aria-current=page]")?.getAttribute("href").endsWith(`+quote("/"+name)+`)`)
}

// until waits for a condition in the page.
func (d *desk) until(what, expression string) {
	d.t.Helper()
	poll := chromedp.Poll[any](expression, chromedp.WithPollingInterval(40*time.Millisecond), chromedp.WithPollingTimeout(45*time.Second))
	_, err := chromedp.Run(d.ctx, poll)
	for range 3 {
		if err == nil || !strings.Contains(err.Error(), "Cannot find context") { // of a page that another has just taken the place of
			break
		}
		_, err = chromedp.Run(d.ctx, poll)
	}
	if err != nil {
		picture, _ := chromedp.Run(context.WithoutCancel(d.ctx), chromedp.CaptureScreenshot())
		file := filepath.Join(os.TempDir(), "yugen-"+strings.ReplaceAll(d.t.Name(), "/", "-")+".png")
		_ = os.WriteFile(file, picture, 0o644)
		d.t.Fatalf("waited for %s: %v; the screen at that moment is in %s", what, err, file)
	}
}

// read evaluates an expression in the page.
func read[T any](d *desk, expression string, options ...chromedp.EvaluateOption) T {
	d.t.Helper()
	v, err := chromedp.Run(d.ctx, chromedp.Evaluate[T](expression, options...))
	if err != nil {
		d.t.Fatalf("%s: %v", expression, err)
	}
	return v
}

func (d *desk) click(selector string) {
	d.t.Helper()
	d.do(chromedp.Click(chromedp.CSS(selector)))
}

// press sends keys to whatever has the focus.
func (d *desk) press(keys ...string) {
	d.t.Helper()
	for _, k := range keys {
		d.do(chromedp.KeyEvent(k))
	}
}

// reason answers the question for a reason.
func (d *desk) reason(text string) {
	d.t.Helper()
	d.until("the question for a reason", `document.activeElement?.id === "reason"`)
	d.press(text, kb.Enter)
	d.until("the answer", `!document.querySelector("[role=dialog]:not([hidden]) #reason")`)
}
