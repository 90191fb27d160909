// Command mutate breaks rules of the core one at a time and runs the core's
// tests over each: a rule that can be broken without a test failing is printed.
// The tree itself is never touched; each broken file lies in an overlay.
//
// It exits 1 when more than one in twenty survives, or when a rule is no longer
// where the list says.
package main

import (
	"bytes"
	"encoding/json"
	"fmt"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"sync"
)

// most is how many in a hundred may survive.
const most = 5

func main() {
	dir, err := os.MkdirTemp("", "mutate-")
	if err != nil {
		fail(err)
	}
	defer os.RemoveAll(dir)
	if out, err := tests(""); err != nil {
		fail(fmt.Errorf("the tests fail before anything is broken: %s", tail(out)))
	}
	work := make(chan int)
	survived := make([]bool, len(rules))
	var all sync.WaitGroup
	for range 2 {
		all.Go(func() {
			for i := range work {
				overlay, err := breakRule(dir, i)
				if err != nil {
					fail(err)
				}
				out, err := tests(overlay)
				if bytes.Contains(out, []byte("[build failed]")) { // else it would count as noticed
					fail(fmt.Errorf("%s becomes what does not compile: %s", rules[i].is, tail(out)))
				}
				survived[i] = err == nil
				fmt.Fprint(os.Stderr, map[bool]string{true: "S", false: "."}[survived[i]])
			}
		})
	}
	for i := range rules {
		work <- i
	}
	close(work)
	all.Wait()
	fmt.Fprintln(os.Stderr)
	n := 0
	for i, r := range rules {
		if survived[i] {
			n++
			fmt.Printf("survives: %s: %s becomes %s\n", r.file, r.is, r.becomes)
		}
	}
	fmt.Printf("%d of %d broken rules survive\n", n, len(rules))
	if n*100 > most*len(rules) {
		os.Exit(1)
	}
}

func fail(err error) {
	fmt.Fprintln(os.Stderr, "mutate:", err)
	os.Exit(2)
}

// breakRule writes a file with one rule broken and an overlay that puts it in
// place of the true one.
func breakRule(dir string, i int) (overlay string, err error) {
	path := filepath.Join("core", rules[i].file)
	text, err := rules[i].broken(path)
	if err != nil {
		return "", err
	}
	broken := filepath.Join(dir, fmt.Sprintf("%d.go", i))
	if err := os.WriteFile(broken, []byte(text), 0o600); err != nil {
		return "", err
	}
	whole, err := filepath.Abs(path)
	if err != nil {
		return "", err
	}
	b, err := json.Marshal(map[string]map[string]string{"Replace": {whole: broken}})
	if err != nil {
		return "", err
	}
	overlay = filepath.Join(dir, fmt.Sprintf("%d.json", i))
	return overlay, os.WriteFile(overlay, b, 0o600)
}

// broken is the text of a file of the core with the rule broken in it.
func (r rule) broken(path string) (string, error) {
	source, err := os.ReadFile(path)
	if err != nil {
		return "", err
	}
	if n := strings.Count(string(source), r.is); n != 1 {
		return "", fmt.Errorf("%s stands %d times in %s, and should once", r.is, n, path)
	}
	return strings.Replace(string(source), r.is, r.becomes, 1), nil
}

func tests(overlay string) ([]byte, error) {
	args := []string{"test", "-failfast", "-vet=off"}
	if overlay != "" {
		args = append(args, "-overlay", overlay)
	}
	return exec.Command("go", append(args, "./core/...")...).CombinedOutput()
}

func tail(out []byte) string {
	return string(out[max(0, len(out)-2000):])
}
