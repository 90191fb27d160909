package main

import (
	"bufio"
	"bytes"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"mime/multipart"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"syscall"
	"testing"
	"time"

	"github.com/spf13/cobra"

	"largo/core/signal"
	"largo/exchange"
)

// run builds nothing: it calls the command as main does.
func run(t *testing.T, args ...string) (out string, code int, said string) {
	return runCommand(t, checkCommand(), args...)
}

func runCommand(t *testing.T, c *cobra.Command, args ...string) (out string, code int, said string) {
	t.Helper()
	var b bytes.Buffer
	c.SetOut(&b)
	c.SetArgs(args)
	c.SilenceErrors, c.SilenceUsage = true, true
	err := c.Execute()
	var e exit
	switch {
	case errors.As(err, &e):
		return b.String(), e.code, e.say
	case err != nil:
		return b.String(), 1, err.Error()
	}
	return b.String(), 0, ""
}

func TestCheckExits(t *testing.T) {
	half := filepath.Join(t.TempDir(), "half.json")
	good, err := os.ReadFile("../../demo/rigs/1-wherry-lock-boathouse.json")
	if err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(half, good[:len(good)/2], 0o600); err != nil {
		t.Fatal(err)
	}
	for _, c := range []struct {
		file string
		code int
		say  string // in what it prints or says
	}{
		{"../../demo/rigs/1-wherry-lock-boathouse.json", 0, "nominal load"},
		{"../../demo/rigs/2-saltpan-quay.json", 0, "[match.too-strong]"},
		{"../../demo/rigs/3-marigold-roller-hall.json", 2, "A1 out A drives 2.67 Ω, below its least of 4 Ω."},
		{half, 1, "ends in the middle"},
		{"nowhere.json", 1, "no such file"},
		{"largo_test.go", 1, "not a JSON file"},
	} {
		for _, flags := range [][]string{{c.file}, {"--json", c.file}} {
			out, code, said := run(t, flags...)
			if code != c.code {
				t.Errorf("%v: exit %d, want %d (%s)", flags, code, c.code, said)
			}
			if len(flags) == 1 && !strings.Contains(out+said, c.say) {
				t.Errorf("%v: %q is nowhere in what it says", flags, c.say)
			}
			if len(flags) == 2 && code != 1 {
				var v struct {
					Worst    string
					Findings []struct{ Code, What string }
					Figures  []struct{ Name string }
				}
				if err := json.Unmarshal([]byte(out), &v); err != nil || len(v.Figures) < 10 || code == 2 && v.Worst != "stop" {
					t.Errorf("%v: %v, worst %q, %d places", flags, err, v.Worst, len(v.Figures))
				}
			}
		}
	}
}

// The plan of the command is the one that GLPK finds in the MPS file that it
// writes; without one it says why, and what to give up.
func TestMatchCommand(t *testing.T) {
	quay := "../../demo/rigs/2-saltpan-quay.json"
	owned := []string{"--stock", "../../demo/stock.csv", "--gear", "../../demo/gear.json"}
	mps := filepath.Join(t.TempDir(), "out.mps")
	out, code, said := runCommand(t, matchCommand(), append(owned, quay, "--json", "--mps", mps)...)
	var plan struct {
		Proved     bool
		Amplifiers int
		Weight     float64
		Plan       []struct{ Outputs []struct{ Boxes []string } }
	}
	if err := json.Unmarshal([]byte(out), &plan); err != nil || code != 0 {
		t.Fatalf("%d %s: %v", code, said, err)
	}
	boxes := 0
	for _, a := range plan.Plan {
		for _, o := range a.Outputs {
			boxes += len(o.Boxes)
		}
	}
	if !plan.Proved || plan.Amplifiers != 3 || plan.Weight != 36 || boxes != 8 {
		t.Errorf("%+v, %d boxes", plan, boxes)
	}
	if out, code, said := runCommand(t, matchCommand(), "../../demo/rigs/4-copperas-meadow.json"); code != 0 ||
		!strings.Contains(out, "TWIN L low") || !strings.Contains(out, "TWIN L high") {
		t.Errorf("%d %s: the ways of a box are not told apart:\n%s", code, said, out)
	}
	judge, err := exec.Command("glpsol", "--freemps", mps, "--min").CombinedOutput()
	if err != nil || !bytes.Contains(judge, []byte("INTEGER OPTIMAL SOLUTION FOUND")) ||
		!bytes.Contains(judge, []byte("mip =   3.")) {
		t.Errorf("glpsol: %v\n%s", err, judge)
	}
	empty := filepath.Join(t.TempDir(), "empty.json")
	nothing := `{"format": "largo-rig/1", "brief": {"title": "Nothing Yet"}, "policy": "headroom", "bridging": "never",
		"models": [], "devices": [], "links": []}`
	if err := os.WriteFile(empty, []byte(nothing), 0o600); err != nil {
		t.Fatal(err)
	}
	if _, code, said = runCommand(t, matchCommand(), empty); code != 2 ||
		!strings.Contains(said, "there is no box to plan for") {
		t.Errorf("%d, %q: want that a rig without boxes has no plan", code, said)
	}
	if _, code, said = runCommand(t, matchCommand(), quay); code != 2 ||
		!strings.Contains(said, "Nothing here suits Column 6") {
		t.Errorf("%d, %q: want why nothing suits the columns", code, said)
	}
	if _, code, said = runCommand(t, matchCommand(), append(owned, quay, "--spare", "9")...); code != 2 ||
		!strings.Contains(said, "spare amplifiers in the truck") {
		t.Errorf("%d, %q: want what to give up", code, said)
	}
	// with one of each model left in the truck some boxes get less than asked: too
	// weak is a price, and no ban
	out, code, said = runCommand(t, matchCommand(), append(owned, quay, "--spare", "1")...)
	if code != 0 || !strings.Contains(out, "get less than the policy") {
		t.Errorf("%d, %q, %q: want a plan that says which boxes get less", code, said, out)
	}
	for _, bad := range [][]string{{quay, "--aim", "prettiest"}, {quay, "--circuits", "many"},
		{quay, "--stock", "../../demo/stock.csv"}, {"nowhere.json"}} {
		if _, code, said = runCommand(t, matchCommand(), bad...); code != 1 || said == "" {
			t.Errorf("%v: %d, %q; want 1 and a sentence", bad, code, said)
		}
	}
}

func TestOnlyLoopbackIsServed(t *testing.T) {
	for _, addr := range []string{"0.0.0.0:0", ":0", "192.0.2.1:80", "example.org:80", "nonsense"} {
		if l, err := listen(addr); err == nil {
			l.Close()
			t.Errorf("%s was served", addr)
		}
	}
	l, err := listen("127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	defer l.Close()
	if _, err := listen(l.Addr().String()); err == nil || !strings.Contains(err.Error(), "is taken") {
		t.Errorf("a taken address: %v", err)
	}
}

// largo is the program in a process of its own.
type largo struct {
	cmd *exec.Cmd
	url string
}

var build = func() func(t testing.TB) string {
	var path string
	return func(t testing.TB) string {
		t.Helper()
		if path != "" {
			return path
		}
		dir, err := os.MkdirTemp("", "largo-bin-")
		if err != nil {
			t.Fatal(err)
		}
		path = filepath.Join(dir, "largo")
		if out, err := exec.Command("go", "build", "-o", path, ".").CombinedOutput(); err != nil {
			t.Fatalf("%v: %s", err, out)
		}
		return path
	}
}()

func startDemo(t testing.TB, data string) *largo {
	t.Helper()
	cmd := exec.Command(build(t), "demo", "--addr", "127.0.0.1:0", "--data", data)
	stdout, err := cmd.StdoutPipe()
	if err != nil {
		t.Fatal(err)
	}
	cmd.Stderr = os.Stderr
	if err := cmd.Start(); err != nil {
		t.Fatal(err)
	}
	t.Cleanup(func() { _ = cmd.Process.Kill(); _ = cmd.Wait() })
	l := &largo{cmd: cmd}
	lines := bufio.NewScanner(stdout)
	for lines.Scan() {
		if m := regexp.MustCompile(`http://\S+`).FindString(lines.Text()); m != "" {
			l.url = m
			return l
		}
	}
	t.Fatal("the program never printed its address")
	return nil
}

// importRig uploads a rig file and gives the path of its job.
func (l *largo) importRig(t testing.TB, file string, n int) string {
	t.Helper()
	b, err := os.ReadFile(file)
	if err != nil {
		t.Fatal(err)
	}
	var body bytes.Buffer
	w := multipart.NewWriter(&body)
	_ = w.WriteField("command", fmt.Sprintf("00000000-0000-4000-8000-%012d", 777000+n))
	part, err := w.CreateFormFile("file", "rig.json")
	if err != nil {
		t.Fatal(err)
	}
	if _, err := part.Write(b); err != nil {
		t.Fatal(err)
	}
	if err := w.Close(); err != nil {
		t.Fatal(err)
	}
	res, err := http.Post(l.url+"/jobs/import", w.FormDataContentType(), &body)
	if err != nil {
		t.Fatal(err)
	}
	res.Body.Close()
	if res.StatusCode != http.StatusOK {
		t.Fatalf("the import answers %d", res.StatusCode)
	}
	return strings.TrimSuffix(res.Request.URL.Path, "/match")
}

func (l *largo) get(t *testing.T, path string) (int, string) {
	t.Helper()
	res, err := http.Get(l.url + path)
	if err != nil {
		t.Fatal(err)
	}
	defer res.Body.Close()
	b, _ := io.ReadAll(res.Body)
	return res.StatusCode, string(b)
}

func (l *largo) stop(t *testing.T, s syscall.Signal) error {
	t.Helper()
	if err := l.cmd.Process.Signal(s); err != nil {
		t.Fatal(err)
	}
	return l.cmd.Wait()
}

// Stopped and started again it keeps the data; stopping it stops the database
// cleanly, and killing it leaves nothing that the next start trips over.
func TestDemoKeepsItsData(t *testing.T) {
	data := openFolder(t)
	first := startDemo(t, data)
	if status, page := first.get(t, "/"); status != 200 || !strings.Contains(page, "Marigold Roller Hall") {
		t.Fatalf("%d: the tour is not there", status)
	}
	res, err := http.PostForm(first.url+"/jobs/saltpan-quay/undo", nil)
	if err != nil {
		t.Fatal(err)
	}
	res.Body.Close()
	res, err = http.PostForm(first.url+"/jobs/saltpan-quay/match/wishes",
		map[string][]string{"rev": {"1"}, "command": {"00000000-0000-4000-8000-0000000000aa"}, "policy": {"within"},
			"bridging": {"never"}})
	if err != nil {
		t.Fatal(err)
	}
	res.Body.Close()

	second := exec.Command(build(t), "demo", "--addr", "127.0.0.1:0", "--data", data)
	if out, err := second.CombinedOutput(); err == nil || !strings.Contains(string(out), "another Largo already runs") {
		t.Errorf("a second Largo on the same folder: %v, %s", err, out)
	}
	if err := first.stop(t, syscall.SIGTERM); err != nil {
		t.Errorf("after SIGTERM: %v", err)
	}
	if _, err := os.Stat(filepath.Join(data, "data", "postmaster.pid")); err == nil {
		t.Error("the database was not stopped cleanly")
	}

	again := startDemo(t, data)
	if _, page := again.get(t, "/jobs/saltpan-quay/match"); !strings.Contains(page, `value="within" selected`) ||
		!strings.Contains(page, "revision 2,") {
		t.Error("the edit of the first run is gone")
	}
	_ = again.stop(t, syscall.SIGKILL)
	third := startDemo(t, data)
	if status, page := third.get(t, "/jobs/saltpan-quay/match"); status != 200 || !strings.Contains(page, "revision 2,") {
		t.Errorf("%d after a kill", status)
	}
	if status, _ := third.get(t, "/healthz"); status != 200 {
		t.Errorf("healthz %d", status)
	}
}

// An open stream of events does not hold up the shutdown, and is no fault of it.
func TestAnOpenStreamIsEnded(t *testing.T) {
	data := openFolder(t)
	l := startDemo(t, data)
	res, err := http.Get(l.url + "/jobs/saltpan-quay/events")
	if err != nil {
		t.Fatal(err)
	}
	defer res.Body.Close()
	if _, err := bufio.NewReader(res.Body).ReadString('\n'); err != nil {
		t.Fatal(err)
	}
	begun := time.Now()
	if err := l.stop(t, syscall.SIGTERM); err != nil {
		t.Errorf("with an open stream it ends as %v", err)
	}
	if took := time.Since(begun); took > 5*time.Second {
		t.Errorf("an open stream held it up for %s", took)
	}
}

// A request that is under way when the server is told to stop is answered.
func TestOpenRequestsAreEnded(t *testing.T) {
	l, err := listen("127.0.0.1:0")
	if err != nil {
		t.Fatal(err)
	}
	entered := make(chan struct{})
	h := http.HandlerFunc(func(w http.ResponseWriter, _ *http.Request) {
		close(entered)
		time.Sleep(200 * time.Millisecond)
		fmt.Fprint(w, "done")
	})
	ctx, cancel := context.WithCancel(context.Background())
	ended := make(chan error, 1)
	go func() { ended <- serveUntil(ctx, l, h, func() {}) }()
	answer := make(chan string, 1)
	go func() {
		res, err := http.Get("http://" + l.Addr().String())
		if err != nil {
			answer <- err.Error()
			return
		}
		defer res.Body.Close()
		b, _ := io.ReadAll(res.Body)
		answer <- string(b)
	}()
	<-entered
	cancel()
	if got := <-answer; got != "done" {
		t.Errorf("the open request got %q", got)
	}
	if err := <-ended; err != nil {
		t.Error(err)
	}
}

// A backup of a running Largo is restored into another, which then shows the
// same; what is there is not overwritten without being told.
func TestBackupAndRestore(t *testing.T) {
	dir := filepath.Dir(openFolder(t))
	first, second, file := filepath.Join(dir, "a"), filepath.Join(dir, "b"), filepath.Join(dir, "copy.largo")
	l := startDemo(t, first)
	if _, page := l.get(t, "/"); !strings.Contains(page, "No backup was made yet") {
		t.Error("the page does not say that there is no backup")
	}
	if out, code, said := runCommand(t, backupCommand(), file, "--data", first); code != 0 ||
		!strings.Contains(out, "rows copied") {
		t.Fatalf("%d %s %s", code, out, said)
	}
	if _, page := l.get(t, "/"); !strings.Contains(page, "The last backup was made on") {
		t.Error("the page does not say when the last backup was made")
	}
	if _, code, said := runCommand(t, backupCommand(), file, "--data", first); code != 1 ||
		!strings.Contains(said, "is there already") {
		t.Errorf("%d %q: a backup was written over", code, said)
	}
	if out, code, said := runCommand(t, restoreCommand(), file, "--data", second); code != 0 ||
		!strings.Contains(out, "4 jobs") {
		t.Fatalf("%d %s %s", code, out, said)
	}
	if _, code, said := runCommand(t, restoreCommand(), file, "--data", first); code != 1 ||
		!strings.Contains(said, "--replace") {
		t.Errorf("%d %q: a restore over what a running Largo holds", code, said)
	}
	half := filepath.Join(dir, "half.largo")
	whole, err := os.ReadFile(file)
	if err != nil {
		t.Fatal(err)
	}
	if err := os.WriteFile(half, whole[:len(whole)/2], 0o600); err != nil {
		t.Fatal(err)
	}
	if _, code, said := runCommand(t, restoreCommand(), half, "--data", second, "--replace"); code != 1 ||
		!strings.Contains(said, "nothing was restored") {
		t.Errorf("%d %q: half a file", code, said)
	}
	twin := startDemo(t, second)
	for _, path := range []string{"/jobs/saltpan-quay/match", "/jobs/marigold-roller-hall/sheet", "/stock.csv",
		"/gear.csv"} {
		_, a := l.get(t, path)
		_, b := twin.get(t, path)
		if unlike(a) != unlike(b) {
			t.Errorf("%s is another after the restore", path)
		}
	}
}

// passing is what differs in every answer.
var passing = regexp.MustCompile(`name="command" value="[^"]*"|[0-9a-f]{8}-[0-9a-f-]{27}|just now|\d+ min ago`)

// unlike takes out of a page what differs in every answer.
func unlike(page string) string {
	return passing.ReplaceAllString(page, "")
}

// A mend of check, made by apply, takes its finding away; what cannot be made
// or read says why.
func TestApplyMakesAMend(t *testing.T) {
	hall := "../../demo/rigs/3-marigold-roller-hall.json"
	type found struct {
		Findings []struct {
			Code  string
			At    struct{ Device, Port string }
			Mends []struct{ Edit json.RawMessage }
		}
	}
	check := func(file string) (f found) {
		out, _, _ := run(t, "--json", file)
		if err := json.Unmarshal([]byte(out), &f); err != nil {
			t.Fatal(err)
		}
		return f
	}
	made := 0
	for _, f := range check(hall).Findings {
		for _, m := range f.Mends {
			dir := t.TempDir()
			edit, next := filepath.Join(dir, "edit.json"), filepath.Join(dir, "rig.json")
			if err := os.WriteFile(edit, m.Edit, 0o600); err != nil {
				t.Fatal(err)
			}
			out, code, said := runCommand(t, applyCommand(), hall, "--edit", edit)
			if code != 0 {
				t.Fatalf("%s: %d %s", f.Code, code, said)
			}
			if err := os.WriteFile(next, []byte(out), 0o600); err != nil {
				t.Fatal(err)
			}
			for _, still := range check(next).Findings {
				if still.Code == f.Code && still.At == f.At {
					t.Errorf("%s is still there after its mend", f.Code)
				}
			}
			made++
		}
	}
	if made < 3 {
		t.Errorf("only %d mends were made", made)
	}
	bad := filepath.Join(t.TempDir(), "bad.json")
	for text, say := range map[string]string{`{"edit":"remove device","with":{"tag":"GHOST"}}`: "no device",
		`{"edit":"explode"}`: "There is no edit", `nonsense`: "This is no edit"} {
		if err := os.WriteFile(bad, []byte(text), 0o600); err != nil {
			t.Fatal(err)
		}
		if _, code, said := runCommand(t, applyCommand(), hall, "--edit", bad); code != 1 || !strings.Contains(said, say) {
			t.Errorf("%s: %d %q", text, code, said)
		}
	}
}

// A test signal is written whole or not at all, and what cannot be played is said.
func TestSignalCommand(t *testing.T) {
	dir := t.TempDir()
	file := filepath.Join(dir, "x.wav")
	for _, c := range []struct {
		args []string
		code int
		want string
	}{
		{[]string{"rating", "--seconds", "2"}, 0, "−20.0 dBFS rms, peaks −17.0 dBFS, crest 6.0 dB"},
		{[]string{"sine", "--hz", "50000"}, 1, "cannot be played"}, {[]string{"pink", "--level", "-3"}, 1, "would not fit"},
		{[]string{"song"}, 1, "is no signal"}, {[]string{"sweep", "--low", "500"}, 1, "is no band"},
		{[]string{"sine", "--seconds", "NaN"}, 1, "cannot be made"}, {[]string{"sine", "--level", "5"}, 1, "cannot be right"},
	} {
		_ = os.Remove(file)
		out, code, said := runCommand(t, signalCommand(), append(c.args, "--out", file)...)
		_, err := os.Stat(file)
		if code != c.code || !strings.Contains(out+said, c.want) || (err == nil) != (code == 0) {
			t.Errorf("%q: exit %d, %s%s; %v", c.args, code, out, said, err)
		}
	}
	if left, _ := os.ReadDir(dir); len(left) > 0 {
		t.Errorf("%s is left behind", left[0].Name())
	}
}

// A sum is worked out from what is typed, signs and all, and what is none ends with 1.
func TestSumCommand(t *testing.T) {
	for _, c := range []struct {
		args []string
		code int
		want string
	}{
		{[]string{"3", "x", "8", "ohm"}, 0, "Side by side they are 2.67 Ω"}, {[]string{"-10 dBV"}, 0, "0.316 V rms"},
		{[]string{"500 W 8 ohm", "--json"}, 0, `"kind": "power to volts"`}, {[]string{"nothing"}, 1, "Ask with figures"},
		{[]string{"--help"}, 0, "700 W 99 dB 22 m"},
	} {
		out, code, said := runCommand(t, sumCommand(), c.args...)
		if code != c.code || !strings.Contains(out+said, c.want) {
			t.Errorf("%q: exit %d, %s%s; want %d, %q", c.args, code, out, said, c.code, c.want)
		}
	}
}

// A programme through limiters on the command line: noise, a file, and what cannot be.
func TestLimit(t *testing.T) {
	run := func(args ...string) (string, error) {
		var out strings.Builder
		c := limitCommand()
		c.SetArgs(args)
		c.SetOut(&out)
		c.SilenceUsage, c.SilenceErrors = true, true
		err := c.Execute()
		return out.String(), err
	}
	said, err := run("--average", "80", "--crest", "9", "--minutes", "2", "--rms", "40", "--peak", "90")
	if err != nil || !strings.Contains(said, "the rms limiter at 40.0 V turns down 6.") || !strings.Contains(said,
		"2 min") {
		t.Errorf("%s, %v", said, err)
	}
	file := filepath.Join(t.TempDir(), "a.wav")
	f, err := os.Create(file)
	if err != nil {
		t.Fatal(err)
	}
	if err := exchange.WriteWAV(f, signal.Rate, signal.Sine(100, 4)); err != nil {
		t.Fatal(err)
	}
	f.Close()
	// full scale 56.57 V of the peak: 40 V rms, 200 W into 8 Ω
	if said, err = run("--wav", file, "--full", "56.5685"); err != nil || !strings.Contains(said,
		"200 W on average into 8 Ω") {
		t.Errorf("%s, %v", said, err)
	}
	hear := hearCommand() // a sine: 3.01 dB of crest, all of the power
	var heard strings.Builder
	hear.SetArgs([]string{file})
	hear.SetOut(&heard)
	if err := hear.Execute(); err != nil || heard.String() != "4 s, crest 3.0 dB, 1.00 of the rated sine power\n" {
		t.Errorf("%q, %v", heard.String(), err)
	}
	for want, args := range map[string][]string{"--average": {}, "--full": {"--wav", file}, "no WAV": {"--wav", "limit.go",
		"--full", "1"}, "cannot be": {"--average", "10", "--rms", "-3"}} {
		if _, err := run(args...); err == nil || !strings.Contains(err.Error(), want) {
			t.Errorf("%v: %v", args, err)
		}
	}
}
