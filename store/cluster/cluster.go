// Package cluster runs a PostgreSQL server of the project's own: its files in
// one folder, on loopback, on a port of its own, as a child of this process.
// It never touches another cluster on the machine.
package cluster

import (
	"cmp"
	"context"
	"crypto/rand"
	"errors"
	"fmt"
	"log/slog"
	"net"
	"os"
	"os/exec"
	"os/user"
	"path/filepath"
	"runtime"
	"slices"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"time"

	"github.com/jackc/pgx/v5"
)

// ErrInUse is returned when another process already runs the cluster.
var ErrInUse = errors.New("another Largo already runs the database in this folder")

// Options of a cluster.
type Options struct {
	Dir     string // kept between runs
	NoFsync bool   // for tests alone: a crash may lose data
	Log     *slog.Logger
}

// Cluster is a running PostgreSQL server. Should it end by itself it is started
// again, on the same port, with growing pauses.
type Cluster struct {
	Port     int
	dir      string
	password string
	owner    *syscall.Credential // the server's user, nil: ourselves
	noFsync  bool
	lock     *os.File
	log      *slog.Logger
	watching chan struct{} // closed when nobody watches over the server any more

	mu      sync.Mutex
	process *os.Process   // nil: none runs
	exited  chan struct{} // closed when it has ended
	held    bool          // it is not to be started again
	state   string        // what is wrong, "" when nothing is
}

// Start makes the cluster if there is none, starts it and waits until it
// answers. The server ends with this process, even when that is killed.
func Start(ctx context.Context, o Options) (*Cluster, error) {
	if o.Log == nil {
		o.Log = slog.New(slog.DiscardHandler)
	}
	owner, err := serverUser()
	if err != nil {
		return nil, err
	}
	dir, err := filepath.Abs(o.Dir)
	if err != nil {
		return nil, err
	}
	if err := prepare(dir, owner); err != nil {
		return nil, err
	}
	c := &Cluster{dir: dir, log: o.Log, owner: owner, noFsync: o.NoFsync, watching: make(chan struct{})}
	if c.lock, err = lock(filepath.Join(dir, "lock")); err != nil {
		return nil, err
	}
	if err := c.boot(ctx); err != nil {
		close(c.watching)
		_ = c.Stop()
		return nil, err
	}
	go c.watch()
	return c, nil
}

func (c *Cluster) boot(ctx context.Context) error {
	data := filepath.Join(c.dir, "data")
	if err := c.loadPassword(); err != nil {
		return err
	}
	bin, err := findBinaries(data)
	if err != nil {
		return err
	}
	if _, err := os.Stat(filepath.Join(data, "PG_VERSION")); err != nil {
		c.log.Info("making a database cluster", "folder", c.dir)
		if err := c.initialise(ctx, bin, data, c.owner); err != nil {
			return err
		}
	}
	if err := endLeftover(data); err != nil {
		return err
	}
	if c.Port == 0 { // started again it keeps its port, which others have by now
		if err := c.choosePort(); err != nil {
			return err
		}
	}
	args := []string{"-D", data, "-p", strconv.Itoa(c.Port), "-c", "listen_addresses=127.0.0.1", "-c",
		"unix_socket_directories=",
		"-c", "log_min_messages=warning", "-c", "max_connections=60"}
	if c.noFsync {
		args = append(args, "-c", "fsync=off", "-c", "full_page_writes=off")
	}
	said, err := c.launch(filepath.Join(bin, "postgres"), args)
	if err != nil {
		return err
	}
	return c.wait(ctx, said)
}

// Pauses between tries to start a server that has ended.
const (
	leastPause = 200 * time.Millisecond
	mostPause  = 30 * time.Second
)

// watch starts the server again whenever it ends by itself.
func (c *Cluster) watch() {
	defer close(c.watching)
	pause := leastPause
	for {
		c.mu.Lock()
		exited := c.exited
		c.mu.Unlock()
		<-exited
		ended := time.Now()
		for c.again() {
			c.say("The database has ended and is being started again.")
			c.log.Error("the database has ended by itself; it is started again", "in", pause)
			time.Sleep(pause)
			if !c.again() {
				break
			}
			err := c.boot(context.Background())
			if err == nil {
				c.log.Warn("the database is there again", "after", time.Since(ended))
				c.say("")
				break
			}
			pause = min(2*pause, mostPause)
			c.say(whyNot(err, pause))
			c.log.Error("the database does not start", "error", err, "again in", pause)
		}
		c.mu.Lock()
		over := c.held
		c.mu.Unlock()
		if over {
			return
		}
		if time.Since(ended) > mostPause {
			pause = leastPause
		}
	}
}

// again tells whether the server is to be started again.
func (c *Cluster) again() bool {
	c.mu.Lock()
	defer c.mu.Unlock()
	return !c.held && c.process == nil
}

func (c *Cluster) say(state string) {
	c.mu.Lock()
	defer c.mu.Unlock()
	c.state = state
}

// State is what is wrong with the server, in a sentence; "" when nothing is
// known to be.
func (c *Cluster) State() string {
	c.mu.Lock()
	defer c.mu.Unlock()
	return c.state
}

func whyNot(err error, pause time.Duration) string {
	if strings.Contains(err.Error(), "No space left on device") {
		return fmt.Sprintf("The database cannot start: its disk is full. Make room on it; it is tried again within %.0f s.",
			pause.Seconds())
	}
	return fmt.Sprintf("The database does not start; the log says why. It is tried again within %.0f s.", pause.Seconds())
}

// DSN is how to connect to a database of the cluster.
func (c *Cluster) DSN(database string) string {
	return fmt.Sprintf("postgres://largo:%s@127.0.0.1:%d/%s?sslmode=disable&connect_timeout=3", c.password,
		c.Port, database)
}

// CreateDatabase makes a database unless it is there.
func (c *Cluster) CreateDatabase(ctx context.Context, name string) error {
	conn, err := pgx.Connect(ctx, c.DSN("postgres"))
	if err != nil {
		return err
	}
	defer conn.Close(ctx)
	var there bool
	if err := conn.QueryRow(ctx, "SELECT EXISTS (SELECT FROM pg_database WHERE datname = $1)",
		name).Scan(&there); err != nil || there {
		return err
	}
	_, err = conn.Exec(ctx, "CREATE DATABASE "+pgx.Identifier{name}.Sanitize())
	return err
}

// Stop ends the server cleanly: running statements are broken off, nothing
// that was acknowledged is lost.
func (c *Cluster) Stop() error {
	err := c.end(syscall.SIGINT)
	<-c.watching
	if c.lock != nil {
		c.lock.Close()
		c.lock = nil
	}
	return err
}

// Kill ends the server as a power cut would, and holds it back until Restart;
// for tests of failure.
func (c *Cluster) Kill() error {
	err := c.end(syscall.SIGQUIT)
	<-c.watching
	return err
}

// Process is the id of the running server, 0 when none runs; for tests of
// failure.
func (c *Cluster) Process() int {
	c.mu.Lock()
	defer c.mu.Unlock()
	if c.process == nil {
		return 0
	}
	return c.process.Pid
}

// end ends the server and holds it back.
func (c *Cluster) end(s syscall.Signal) error {
	c.mu.Lock()
	c.held = true
	process, exited := c.process, c.exited
	c.mu.Unlock()
	if process == nil {
		return nil
	}
	if err := process.Signal(s); err != nil && !errors.Is(err, os.ErrProcessDone) {
		return err
	}
	select {
	case <-exited:
		return nil
	case <-time.After(20 * time.Second):
		_ = process.Kill()
		return errors.New("the database did not stop within 20 s and was killed")
	}
}

// Restart starts a killed server again on the same port; for tests of failure.
func (c *Cluster) Restart(ctx context.Context) error {
	c.mu.Lock()
	c.held = false
	c.mu.Unlock()
	if err := c.boot(ctx); err != nil {
		return err
	}
	c.watching = make(chan struct{})
	go c.watch()
	return nil
}

// findBinaries finds the PostgreSQL that made the cluster, or the newest one
// where there is none yet; Debian keeps them off the PATH.
func findBinaries(data string) (string, error) {
	installed := installedVersions()
	made, err := os.ReadFile(filepath.Join(data, "PG_VERSION"))
	if err != nil {
		if len(installed) > 0 {
			return installed[0].bin, nil
		}
		if p, err := exec.LookPath("postgres"); err == nil {
			return filepath.Dir(p), nil
		}
		return "", errors.New("PostgreSQL is not installed; `make demo` installs it, or: apt-get install postgresql")
	}
	version := strings.TrimSpace(string(made))
	var others []string
	for _, i := range installed {
		if i.version == version {
			return i.bin, nil
		}
		others = append(others, i.version)
	}
	if p, err := exec.LookPath("postgres"); err == nil && len(installed) == 0 {
		return filepath.Dir(p), nil
	}
	have := "none is"
	if len(others) > 0 {
		have = strings.Join(others, ", ") + " is"
	}
	return "", fmt.Errorf("the database in %s was made by PostgreSQL %s, and %s installed here; install that version "+
		"(apt-get install postgresql-%s), or move the data as docs/running.md says", data, version, have, version)
}

// installation is one installed PostgreSQL.
type installation struct{ version, bin string }

// binaries is where Debian puts each version; tests look elsewhere.
var binaries = "/usr/lib/postgresql"

// installedVersions lists what is installed, the newest first.
func installedVersions() []installation {
	var list []installation
	found, _ := filepath.Glob(filepath.Join(binaries, "*/bin/postgres"))
	for _, p := range found {
		bin := filepath.Dir(p)
		if _, err := os.Stat(filepath.Join(bin, "initdb")); err == nil {
			list = append(list, installation{filepath.Base(filepath.Dir(bin)), bin})
		}
	}
	slices.SortFunc(list, func(a, b installation) int {
		x, _ := strconv.ParseFloat(a.version, 64)
		y, _ := strconv.ParseFloat(b.version, 64)
		return cmp.Compare(y, x)
	})
	return list
}

// serverUser is whom the server runs as: PostgreSQL refuses root, so as root
// it is the user "postgres" of Debian's package; otherwise ourselves (nil).
func serverUser() (*syscall.Credential, error) {
	if os.Geteuid() != 0 {
		return nil, nil
	}
	u, err := user.Lookup("postgres")
	if err != nil {
		return nil, fmt.Errorf("as root the database runs as user postgres, who is missing: %w", err)
	}
	uid, _ := strconv.Atoi(u.Uid)
	gid, _ := strconv.Atoi(u.Gid)
	return &syscall.Credential{Uid: uint32(uid), Gid: uint32(gid)}, nil
}

// prepare makes the folder and gives it to the server's user.
func prepare(dir string, owner *syscall.Credential) error {
	if err := os.MkdirAll(dir, 0o755); err != nil {
		return err
	}
	if owner == nil {
		return nil
	}
	if at, ok := Reachable(dir); !ok {
		return fmt.Errorf("the database's user cannot enter %s; choose another folder with --data", at)
	}
	return os.Chown(dir, int(owner.Uid), int(owner.Gid))
}

// Reachable tells whether every user may pass through the folders above dir,
// and names the first that stops them.
func Reachable(dir string) (string, bool) {
	for at := filepath.Dir(dir); ; at = filepath.Dir(at) {
		if info, err := os.Stat(at); err == nil && info.Mode().Perm()&0o001 == 0 {
			return at, false
		}
		if at == filepath.Dir(at) {
			return "", true
		}
	}
}

// lock keeps a second Largo off the folder. The descriptor is not inherited,
// so the lock goes with this process.
func lock(path string) (*os.File, error) {
	f, err := os.OpenFile(path, os.O_CREATE|os.O_RDWR, 0o600)
	if err != nil {
		return nil, err
	}
	if err := syscall.Flock(int(f.Fd()), syscall.LOCK_EX|syscall.LOCK_NB); err != nil {
		f.Close()
		return nil, ErrInUse
	}
	return f, nil
}

func (c *Cluster) loadPassword() error {
	path := filepath.Join(c.dir, "password")
	b, err := os.ReadFile(path)
	if errors.Is(err, os.ErrNotExist) {
		b = []byte(rand.Text())
		err = os.WriteFile(path, b, 0o600)
	}
	c.password = strings.TrimSpace(string(b))
	return err
}

// initialise makes the data folder beside its final place, so that a run that
// was broken off leaves nothing half made.
func (c *Cluster) initialise(ctx context.Context, bin, data string, owner *syscall.Credential) error {
	fresh := data + ".new"
	if err := os.RemoveAll(fresh); err != nil {
		return err
	}
	pwfile := filepath.Join(c.dir, "initdb.pw")
	if err := os.WriteFile(pwfile, []byte(c.password), 0o600); err != nil {
		return err
	}
	defer os.Remove(pwfile)
	if owner != nil {
		if err := os.Chown(pwfile, int(owner.Uid), int(owner.Gid)); err != nil {
			return err
		}
	}
	cmd := exec.CommandContext(ctx, filepath.Join(bin, "initdb"), "-D", fresh, "-U", "largo", "-A", "scram-sha-256",
		"--pwfile", pwfile,
		"-E", "UTF8", "--locale=C.UTF-8", "--no-instructions")
	c.dress(cmd, owner)
	if out, err := cmd.CombinedOutput(); err != nil {
		return fmt.Errorf("initdb: %w: %s", err, strings.TrimSpace(string(out)))
	}
	return os.Rename(fresh, data)
}

// dress gives a command the server's user, a folder that user can enter, and
// an environment without settings meant for another cluster.
func (c *Cluster) dress(cmd *exec.Cmd, owner *syscall.Credential) {
	cmd.Dir = "/"
	cmd.SysProcAttr = &syscall.SysProcAttr{Credential: owner, Setpgid: true}
	cmd.Env = slices.DeleteFunc(os.Environ(), func(kv string) bool { return strings.HasPrefix(kv, "PG") })
}

// endLeftover makes way where an earlier run was killed: a server still at
// work is asked to stop, a stale pid file is removed.
func endLeftover(data string) error {
	path := filepath.Join(data, "postmaster.pid")
	b, err := os.ReadFile(path)
	if err != nil {
		return nil
	}
	pid, err := strconv.Atoi(strings.TrimSpace(strings.SplitN(string(b), "\n", 2)[0]))
	if err != nil {
		return os.Remove(path)
	}
	for range 100 {
		if !serves(pid, data) {
			if err := os.Remove(path); err != nil && !errors.Is(err, os.ErrNotExist) {
				return err
			}
			return nil
		}
		_ = syscall.Kill(pid, syscall.SIGINT)
		time.Sleep(100 * time.Millisecond)
	}
	return fmt.Errorf("a database server of an earlier run, process %d, does not stop", pid)
}

// serves tells whether a process is a living server of this very folder.
func serves(pid int, data string) bool {
	cmdline, err := os.ReadFile(fmt.Sprintf("/proc/%d/cmdline", pid))
	return err == nil && strings.Contains(string(cmdline), data)
}

// choosePort takes the port of the last run, or a free one.
func (c *Cluster) choosePort() error {
	path := filepath.Join(c.dir, "port")
	if b, err := os.ReadFile(path); err == nil {
		if port, err := strconv.Atoi(strings.TrimSpace(string(b))); err == nil && free(port) {
			c.Port = port
			return nil
		}
	}
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		return err
	}
	c.Port = l.Addr().(*net.TCPAddr).Port
	l.Close()
	return os.WriteFile(path, []byte(strconv.Itoa(c.Port)), 0o644)
}

func free(port int) bool {
	l, err := net.Listen("tcp", fmt.Sprintf("127.0.0.1:%d", port))
	if err == nil {
		l.Close()
	}
	return err == nil
}

// mostLog is how large the server's log may grow before it is begun anew, in
// bytes.
const mostLog = 8 << 20

// launch starts the server on a thread of its own, kept until the server
// ends: the kernel sends the parent-death signal when that thread goes. It
// gives where in the log this start begins.
func (c *Cluster) launch(postgres string, args []string) (said int64, err error) {
	logPath := filepath.Join(c.dir, "server.log")
	if info, err := os.Stat(logPath); err == nil {
		if said = info.Size(); said > mostLog {
			_ = os.Truncate(logPath, 0)
			said = 0
		}
	}
	started := make(chan error)
	go func() {
		runtime.LockOSThread()
		cmd := exec.Command(postgres, args...)
		c.dress(cmd, c.owner)
		cmd.SysProcAttr.Pdeathsig = syscall.SIGINT
		logFile, err := os.OpenFile(logPath, os.O_CREATE|os.O_WRONLY|os.O_APPEND, 0o644)
		if err != nil {
			started <- err
			return
		}
		defer logFile.Close()
		cmd.Stdout, cmd.Stderr = logFile, logFile
		if err := cmd.Start(); err != nil {
			started <- err
			return
		}
		exited := make(chan struct{})
		c.mu.Lock()
		c.process, c.exited = cmd.Process, exited
		c.mu.Unlock()
		started <- nil
		_ = cmd.Wait()
		c.mu.Lock()
		c.process = nil
		c.mu.Unlock()
		close(exited)
	}()
	return said, <-started
}

// wait waits until the server answers; said is where its log begins.
func (c *Cluster) wait(ctx context.Context, said int64) error {
	ctx, cancel := context.WithTimeout(ctx, 60*time.Second)
	defer cancel()
	c.mu.Lock()
	exited := c.exited
	c.mu.Unlock()
	for {
		conn, err := pgx.Connect(ctx, c.DSN("postgres"))
		if err == nil {
			return conn.Close(ctx)
		}
		select {
		case <-exited:
			return fmt.Errorf("the database did not start: %s", c.logSince(said))
		case <-ctx.Done():
			return fmt.Errorf("the database does not answer: %w", err)
		case <-time.After(30 * time.Millisecond):
		}
	}
}

// logSince is what the server's log says from a place on, the end of it.
func (c *Cluster) logSince(said int64) string {
	text, _ := os.ReadFile(filepath.Join(c.dir, "server.log"))
	text = text[min(said, int64(len(text))):]
	return strings.TrimSpace(string(text[max(0, len(text)-4000):]))
}

// Running gives how to connect to a database of a cluster that another process
// runs, on this machine and for the same user.
func Running(dir, database string) (dsn string, err error) {
	port, err := os.ReadFile(filepath.Join(dir, "port"))
	if err != nil {
		return "", err
	}
	password, err := os.ReadFile(filepath.Join(dir, "password"))
	if err != nil {
		return "", err
	}
	c := Cluster{password: strings.TrimSpace(string(password))}
	if c.Port, err = strconv.Atoi(strings.TrimSpace(string(port))); err != nil {
		return "", fmt.Errorf("the port of the database in %s cannot be read: %w", dir, err)
	}
	return c.DSN(database), nil
}
