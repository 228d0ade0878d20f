// Command torture sends submissions by the thousand over a bad line, while programs are killed at random, and then
// looks whether every one is settled rightly: at the site once, proved, and told so. It runs everything by itself.
package main

import (
	"context"
	"errors"
	"flag"
	"fmt"
	"log"
	"math/rand/v2"
	"net"
	"net/http"
	"os"
	"os/exec"
	"os/signal"
	"path/filepath"
	"strconv"
	"strings"
	"sync"
	"syscall"
	"time"
)

func main() {
	t := &trial{}
	flag.IntVar(&t.submissions, "submissions", 2000, "how many")
	flag.IntVar(&t.accounts, "accounts", 20, "of how many students")
	flag.IntVar(&t.large, "large", 2, "one in how many has a second file, of several pieces")
	flag.IntVar(&t.processes, "processes", 3, "of Orario")
	flag.Int64Var(&t.faults, "faults", 50, "in a thousand requests to the site")
	flag.DurationVar(&t.between, "between", 2*time.Second, "kills, about")
	flag.DurationVar(&t.most, "most", 30*time.Minute, "of time until all must be settled")
	flag.IntVar(&t.disk, "disk", 0, "megabytes of a disk of its own that fills up now and then; 0: none. Needs root")
	flag.StringVar(&t.binary, "binary", "bin/orario", "the program")
	flag.StringVar(&t.root, "root", ".", "folder of the project")
	flag.StringVar(&t.dir, "dir", "", "folder for the database and all else; empty: a temporary one")
	flag.Parse()
	ctx, stop := signal.NotifyContext(context.Background(), os.Interrupt, syscall.SIGTERM)
	defer stop()
	if err := t.run(ctx); err != nil {
		log.Fatal(err)
	}
}

// A trial is one run.
type trial struct {
	submissions, accounts, processes int
	large                            int
	faults                           int64
	between, most                    time.Duration
	disk                             int
	binary, dir, root                string

	source  string // of the database
	env     []string
	proxy   *proxy
	mu      sync.Mutex // held while programs are started or killed
	running map[string]*exec.Cmd
	had     map[string]int // what was done to them
}

func (t *trial) run(ctx context.Context) error {
	if t.dir == "" {
		dir, err := os.MkdirTemp("", "torture-")
		if err != nil {
			return err
		}
		t.dir = dir
		defer os.RemoveAll(dir)
	}
	t.running, t.had = map[string]*exec.Cmd{}, map[string]int{}
	if t.disk > 0 {
		unmount, err := smallDisk(t.dir, t.disk)
		if err != nil {
			return err
		}
		defer unmount()
	}
	if err := t.database("start"); err != nil {
		return err
	}
	defer t.database("stop") //nolint:errcheck // it goes with the folder
	campus, way := free(), free()
	t.env = append(os.Environ(), "ORARIO_DB="+t.source, "ORARIO_CAMPUS_ADDR="+campus, "ORARIO_CAMPUS_MAIL_ADDR="+free(),
		"ORARIO_ALLOW_INTERNAL=true", "ORARIO_WORK="+filepath.Join(t.dir, "work"), "ORARIO_LOOK_EVERY=1s",
		"ORARIO_KEY_FILE="+filepath.Join(t.dir, "key"), "ORARIO_LOG=ERROR", "ORARIO_FREE_MB=0",
		fmt.Sprintf("ORARIO_SYNC_EVERY=%ds", max(30, t.accounts))) // a sync a second in all at the most
	proxy, err := newProxy("http://" + campus)
	if err != nil {
		return err
	}
	t.proxy = proxy
	line, err := net.Listen("tcp", way)
	if err != nil {
		return err
	}
	server := &http.Server{Handler: proxy, ErrorLog: log.New(quiet{}, "", 0)}
	go server.Serve(line) //nolint:errcheck // it ends with the program
	defer server.Close()

	t.start("campus")
	defer t.stopAll()
	if err := reachable(ctx, campus); err != nil {
		return fmt.Errorf("the campus: %w", err)
	}
	world, err := t.settle(ctx, "http://"+way)
	if err != nil {
		return fmt.Errorf("setting up: %w", err)
	}
	defer world.close()
	for n := range t.processes {
		t.start("serve " + strconv.Itoa(n))
	}
	return t.torment(ctx, world)
}

// patiently repeats what fails while the database comes up again, for half a minute.
func patiently(ctx context.Context, do func() error) (err error) {
	for range 60 {
		if err = do(); err == nil || ctx.Err() != nil {
			return err
		}
		time.Sleep(500 * time.Millisecond)
	}
	return err
}

// torment sends everything while things go wrong, then lets all settle, and counts.
func (t *trial) torment(ctx context.Context, w *world) error {
	begun := time.Now()
	t.proxy.share.Store(t.faults)
	wrong, stop := context.WithCancel(ctx)
	var killing sync.WaitGroup
	killing.Go(func() { t.torture(wrong, w) })
	ids, err := w.sendAll(ctx)
	if err != nil {
		stop()
		return fmt.Errorf("sending: %w", err)
	}
	// Half of the time is left for settling while things still go wrong.
	w.wait(ctx, t.most/2)
	stop()
	killing.Wait()
	t.proxy.share.Store(0)
	if err := patiently(ctx, func() error { return w.site.MoveClock(ctx, 0) }); err != nil {
		return fmt.Errorf("setting the site's clock right: %w", err)
	}
	w.wait(ctx, t.most/2)
	result, err := w.count(ctx, ids)
	if err != nil {
		return err
	}
	fmt.Printf("%d submissions of %d students by %d processes in %s; %d faults on the line; killed or spoilt: %v\n%s\n",
		len(ids), t.accounts, t.processes, time.Since(begun).Round(time.Second), t.proxy.had.Load(), t.had, result)
	if !result.right(len(ids), t.had["site's clock"]) {
		return errors.New("not every submission is settled rightly")
	}
	return nil
}

// torture ends programs at random, without a word, and starts them again, each with a clock of its own; it moves the
// site's clock and fills the disk.
func (t *trial) torture(ctx context.Context, w *world) {
	for {
		select {
		case <-ctx.Done():
			return
		case <-time.After(t.between/2 + rand.N(t.between)):
		}
		switch n := rand.IntN(12); {
		case n == 0:
			t.note("database")
			t.killDatabase()
			if err := t.database("start"); err != nil {
				log.Printf("starting the database again: %v", err)
			}
		case n <= 2:
			t.again("campus")
		case n == 3:
			if err := w.site.MoveClock(ctx, wrongClock()); err == nil {
				t.note("site's clock")
			}
		case n == 4 && t.disk > 0:
			t.note("disk")
			if err := fillDisk(ctx, t.dir, rand.N(3*time.Second)); err != nil {
				log.Printf("filling the disk: %v", err)
			}
		default:
			t.again("serve " + strconv.Itoa(rand.IntN(t.processes)))
		}
	}
}

// wrongClock is how far a clock is ahead: behind and ahead by up to ten minutes, every other one right.
func wrongClock() time.Duration {
	if rand.IntN(2) == 0 {
		return 0
	}
	return rand.N(20*time.Minute) - 10*time.Minute
}

// killDatabase ends MariaDB without a word, and waits until it is gone.
func (t *trial) killDatabase() {
	text, err := os.ReadFile(filepath.Join(t.dir, "db", "pid"))
	if err != nil {
		return
	}
	pid, err := strconv.Atoi(strings.TrimSpace(string(text)))
	if err != nil {
		return
	}
	_ = syscall.Kill(pid, syscall.SIGKILL)
	for range 500 {
		if _, err := os.Stat(fmt.Sprintf("/proc/%d/exe", pid)); err != nil {
			return
		}
		time.Sleep(10 * time.Millisecond)
	}
}

func (t *trial) note(what string) { t.had[what]++ }

func (t *trial) again(what string) {
	t.note(strings.Fields(what)[0])
	t.end(what, syscall.SIGKILL)
	t.start(what)
}

// start starts a program; one that ends by itself, since the database was away, is started again.
func (t *trial) start(what string) {
	name, _, _ := strings.Cut(what, " ")
	cmd := exec.Command(t.binary, name)
	cmd.Env = append(t.env, "ORARIO_ADDR="+free(), "ORARIO_CLOCK_AHEAD="+wrongClock().String())
	if err := cmd.Start(); err != nil {
		log.Fatalf("starting %s: %v", what, err)
	}
	t.mu.Lock()
	t.running[what] = cmd
	t.mu.Unlock()
	go func() {
		err := cmd.Wait()
		t.mu.Lock()
		mine := t.running[what] == cmd
		t.mu.Unlock()
		if mine && err != nil {
			time.Sleep(300 * time.Millisecond)
			t.start(what)
		}
	}()
}

func (t *trial) end(what string, how syscall.Signal) {
	t.mu.Lock()
	defer t.mu.Unlock()
	if cmd := t.running[what]; cmd != nil {
		delete(t.running, what)
		_ = cmd.Process.Signal(how)
	}
}

func (t *trial) stopAll() {
	for what := range t.running {
		t.end(what, syscall.SIGKILL)
	}
}

func (t *trial) database(action string) error {
	out, err := exec.Command(filepath.Join(t.root, "scripts/mariadb.sh"), action, filepath.Join(t.dir, "db")).Output()
	if err != nil {
		return fmt.Errorf("MariaDB: %w", err)
	}
	if action == "start" {
		t.source = strings.TrimSpace(string(out))
	}
	return nil
}

func free() string {
	l, err := net.Listen("tcp", "127.0.0.1:0")
	if err != nil {
		log.Fatal(err)
	}
	defer l.Close()
	return l.Addr().String()
}

func reachable(ctx context.Context, addr string) error {
	for range 200 {
		if answer, err := http.Get("http://" + addr + "/"); err == nil {
			return answer.Body.Close()
		}
		select {
		case <-ctx.Done():
			return ctx.Err()
		case <-time.After(50 * time.Millisecond):
		}
	}
	return errors.New("it does not answer")
}

type quiet struct{}

func (quiet) Write(p []byte) (int, error) { return len(p), nil }
