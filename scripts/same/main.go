// Command same compares this tree with an earlier commit, as a refactoring must
// leave what the program says: check and match, as text and as JSON, over the demo
// rigs and some hundreds of random ones, and every page of the demo that can be
// reached by links. It prints what differs and exits 1 when anything does.
//
//	go run ./scripts/same HEAD~1
package main

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"net"
	"net/http"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"time"

	"largo/core/rigtest"
	"largo/demo"
	"largo/exchange"
)

// random is how many random rigs are compared, planned how many of them are
// planned too, which takes longer.
const random, planned = 300, 40

func main() {
	if len(os.Args) != 2 {
		fail(errors.New("name one commit to compare with"))
	}
	dir, err := os.MkdirTemp("", "same-")
	if err != nil {
		fail(err)
	}
	defer os.RemoveAll(dir)
	before, after := filepath.Join(dir, "before"), filepath.Join(dir, "after")
	tree := filepath.Join(dir, "tree")
	run("git", "worktree", "add", "--detach", tree, os.Args[1])
	defer run("git", "worktree", "remove", "--force", tree)
	run("go", "-C", tree, "build", "-o", before, "./cmd/largo")
	run("go", "build", "-o", after, "./cmd/largo")
	n := compareRigs(dir, before, after) + comparePages(dir, before, after)
	if n > 0 {
		fmt.Printf("%d differ\n", n)
		run("git", "worktree", "remove", "--force", tree)
		os.RemoveAll(dir)
		os.Exit(1)
	}
	fmt.Println("All the same.")
}

// compareRigs compares what both say of rigs, and tells of how many they differ.
func compareRigs(dir, before, after string) (differ int) {
	files, err := rigFiles(dir)
	if err != nil {
		fail(err)
	}
	unread := 0
	for i, file := range files {
		asks := [][]string{{"check", file}, {"check", "--json", file}}
		if i < planned {
			asks = append(asks, []string{"match", file}, []string{"match", "--json", file})
		}
		for _, ask := range asks {
			was, is := said(before, ask), said(after, ask)
			switch {
			case bytes.Contains(was, []byte("The file says format")):
				unread++
			case !bytes.Equal(was, is):
				differ++
				fmt.Printf("largo %s: %s\n", strings.Join(ask, " "), firstDifference(was, is))
			}
		}
	}
	fmt.Printf("%d rigs compared", len(files))
	if unread > 0 {
		fmt.Printf("; %d answers left out, for the earlier program does not read this format", unread)
	}
	fmt.Println(".")
	return differ
}

// rigFiles writes the demo rigs and random ones.
func rigFiles(dir string) (files []string, err error) {
	rigs, err := demo.Rigs()
	if err != nil {
		return nil, err
	}
	models, err := demo.Gear()
	if err != nil {
		return nil, err
	}
	for seed := range uint64(random) {
		rigs = append(rigs, rigtest.Random(models, seed))
	}
	for i, r := range rigs {
		var b bytes.Buffer
		if err := exchange.WriteRig(&b, r); err != nil {
			return nil, err
		}
		files = append(files, filepath.Join(dir, fmt.Sprintf("rig-%03d.json", i)))
		if err := os.WriteFile(files[i], b.Bytes(), 0o644); err != nil {
			return nil, err
		}
	}
	return files, nil
}

func said(program string, args []string) []byte {
	out, _ := exec.Command(program, args...).CombinedOutput() // an exit of 2 is an answer too
	return out
}

// comparePages serves the demo by both and compares all pages.
func comparePages(dir, before, after string) (differ int) {
	was, is := pagesOf(dir, before), pagesOf(dir, after)
	for path, page := range is {
		old, known := was[path]
		switch {
		case !known:
			differ++
			fmt.Printf("%s is new\n", path)
		case old != page:
			differ++
			fmt.Printf("%s: %s\n", path, firstDifference([]byte(old), []byte(page)))
		}
	}
	for path := range was {
		if _, still := is[path]; !still {
			differ++
			fmt.Printf("%s is gone\n", path)
		}
	}
	fmt.Printf("%d pages compared.\n", len(is))
	return differ
}

// pagesOf serves the demo from a database of its own and reads all its pages.
func pagesOf(dir, program string) map[string]string {
	addr := freeAddr()
	ctx, end := context.WithCancel(context.Background())
	defer end()
	data := filepath.Join(dir, "data-"+filepath.Base(program))
	c := exec.CommandContext(ctx, program, "demo", "--data", data, "--addr", addr)
	c.Cancel = func() error { return c.Process.Signal(os.Interrupt) }
	c.Stderr = os.Stderr
	if err := c.Start(); err != nil {
		fail(err)
	}
	defer func() { end(); _ = c.Wait() }()
	for range 300 {
		if ready("http://" + addr) {
			return crawl("http://" + addr)
		}
		time.Sleep(100 * time.Millisecond)
	}
	fail(fmt.Errorf("%s did not begin to serve", program))
	return nil
}

// ready tells whether a site answers and has judged its jobs.
func ready(site string) bool {
	res, err := http.Get(site + "/")
	if err != nil {
		return false
	}
	defer res.Body.Close()
	b, err := io.ReadAll(res.Body)
	return err == nil && res.StatusCode == http.StatusOK && !bytes.Contains(b, []byte("judged yet"))
}

func freeAddr() string {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		fail(err)
	}
	defer l.Close()
	return l.Addr().String()
}

// fetched reads a page, with what differs in every answer taken out.
func fetched(url string) string {
	res, err := http.Get(url)
	if err != nil {
		fail(err)
	}
	defer res.Body.Close()
	b, err := io.ReadAll(res.Body)
	if err != nil {
		fail(err)
	}
	return fmt.Sprintln(res.StatusCode) + alike(string(b))
}

// firstDifference shows the first line in which two texts differ.
func firstDifference(a, b []byte) string {
	was, is := strings.Split(string(a), "\n"), strings.Split(string(b), "\n")
	for i := range min(len(was), len(is)) {
		if was[i] != is[i] {
			return fmt.Sprintf("line %d\n  - %.300s\n  + %.300s", i+1, strings.TrimSpace(was[i]), strings.TrimSpace(is[i]))
		}
	}
	return fmt.Sprintf("%d lines, before %d", len(is), len(was))
}

func run(name string, args ...string) {
	if out, err := exec.Command(name, args...).CombinedOutput(); err != nil {
		fail(fmt.Errorf("%s %s: %w\n%s", name, strings.Join(args, " "), err, out))
	}
}

func fail(err error) {
	fmt.Fprintln(os.Stderr, "same:", err)
	os.Exit(1)
}
