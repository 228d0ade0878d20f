package convert

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"regexp"
	"strings"
	"syscall"
	"time"
)

// A sandbox is where a program is run: it sees the system read-only, one folder to write in as /box, and nothing else;
// no network, no other processes, no settings of the system but fonts and links of programs.
type sandbox struct {
	work    string
	memory  int64             // bytes of address space; 0: no limit
	data    int64             // bytes of data; 0: no limit
	program string            // a program from outside of /usr, seen as /program
	env     map[string]string // beside PATH, HOME and LANG
}

// maxFile bounds what a program writes into one file.
const maxFile = 1 << 30

// maxProcesses bounds the processes and threads of a sandbox. The kernel does not hold root to it (setrlimit(2)), so
// Orario is best run by a user of its own.
const maxProcesses = 400

func (s sandbox) command(ctx context.Context, program string, args ...string) *exec.Cmd {
	list := []string{"--ro-bind", "/usr", "/usr"}
	for _, path := range []string{"bin", "lib", "lib64"} {
		list = append(list, "--symlink", "usr/"+path, "/"+path)
	}
	for _, path := range []string{
		"/etc/fonts", "/etc/alternatives", "/etc/libreoffice", "/etc/ld.so.cache", "/var/cache/fontconfig",
	} {
		list = append(list, "--ro-bind-try", path, path)
	}
	if s.program != "" {
		list = append(list, "--ro-bind", s.program, "/program")
	}
	list = append(
		list,
		"--proc",
		"/proc",
		"--dev",
		"/dev",
		"--tmpfs",
		"/tmp",
		"--bind",
		s.work,
		"/box",
		"--chdir",
		"/box",
		"--unshare-all",
		"--die-with-parent",
		"--new-session",
		"--clearenv",
		"--setenv",
		"HOME",
		"/box",
		"--setenv",
		"PATH",
		"/usr/bin:/bin",
		"--setenv",
		"LANG",
		"C.UTF-8",
	)
	for name, value := range s.env {
		list = append(list, "--setenv", name, value)
	}
	list = append(list, "prlimit", "--core=0", fmt.Sprintf("--fsize=%d", int64(maxFile)),
		fmt.Sprintf("--nproc=%d", maxProcesses))
	if s.memory > 0 {
		list = append(list, fmt.Sprintf("--as=%d", s.memory))
	}
	if s.data > 0 {
		list = append(list, fmt.Sprintf("--data=%d", s.data))
	}
	return exec.CommandContext(ctx, "bwrap", append(append(list, program), args...)...)
}

// run runs a program for so long at the most and gives what it writes. A program that takes more time or memory, or
// writes more, than it may is [costly]; one that ends with a code of its own is an [exec.ExitError]; everything else is
// a failure of ours.
func (s sandbox) run(
	ctx context.Context,
	most time.Duration,
	in io.Reader,
	program string,
	args ...string,
) ([]byte, error) {
	limited, cancel := context.WithTimeout(ctx, most)
	defer cancel()
	cmd := s.command(limited, program, args...)
	out, problems := &bounded{most: maxOutput, full: cancel}, &bounded{most: 4 << 10}
	cmd.Stdin, cmd.Stdout, cmd.Stderr = in, out, problems
	cmd.WaitDelay = time.Second
	err := cmd.Run()
	said := strings.TrimSpace(problems.String())
	var exit *exec.ExitError
	switch {
	case ctx.Err() != nil:
		return nil, ctx.Err()
	case out.over:
		return nil, costly(fmt.Sprintf("It holds over %d MB of text, so not all is known.", maxOutput>>20))
	case limited.Err() != nil:
		return nil, costly(fmt.Sprintf("Looking at it took longer than %s, so not all is known.", most))
	case err == nil:
		return out.Bytes(), nil
	case strings.HasPrefix(said, "bwrap:") || strings.HasPrefix(said, "prlimit:"):
		return nil, fmt.Errorf("the sandbox cannot be had: %s", said)
	case exhausted.MatchString(said) || killed(err):
		return nil, costly("Looking at it took more memory than there is for it, so not all is known.")
	case errors.As(err, &exit):
		return nil, fmt.Errorf("%w: %s", err, said)
	}
	return nil, fmt.Errorf("the sandbox cannot be had: %w", err)
}

// exhausted is what programs say that got no more memory.
var exhausted = regexp.MustCompile(
	`(?i)out of memory|cannot allocate memory|bad_alloc|pthread_create failed|stack exceeds`,
)

// killed says that the kernel ended a program; the sandbox tells it by 128 and the signal.
func killed(err error) bool {
	var exit *exec.ExitError
	if !errors.As(err, &exit) {
		return false
	}
	code := exit.ExitCode()
	return code == 128+int(syscall.SIGKILL) || code == 128+int(syscall.SIGABRT) || code == 128+int(syscall.SIGSEGV) ||
		exit.Sys().(syscall.WaitStatus).Signaled()
}

// bounded keeps what is written up to a limit; what is more is dropped, and told.
type bounded struct {
	bytes.Buffer
	most int
	over bool
	full func()
}

func (b *bounded) Write(p []byte) (int, error) {
	if room := b.most - b.Len(); len(p) > room {
		b.Buffer.Write(p[:room])
		if !b.over && b.full != nil {
			b.full()
		}
		b.over = true
		return len(p), nil
	}
	return b.Buffer.Write(p)
}

// sweep removes the folders that processes of before left when they were killed. The office's folder is locked while
// its process lives; the others are there for seconds.
func sweep(dir string) {
	entries, err := os.ReadDir(dir)
	if err != nil {
		return
	}
	for _, e := range entries {
		path := filepath.Join(dir, e.Name())
		kind, _, _ := strings.Cut(e.Name(), "-")
		info, err := e.Info()
		if err != nil || !e.IsDir() || time.Since(info.ModTime()) < time.Minute {
			continue
		}
		switch kind {
		case "look", "pdf":
			if time.Since(info.ModTime()) > time.Hour {
				_ = os.RemoveAll(path)
			}
		case "office":
			if lock, err := hold(path); err == nil {
				_ = os.RemoveAll(path)
				_ = lock.Close()
			}
		}
	}
}

// hold locks a folder for as long as the file is open.
func hold(dir string) (*os.File, error) {
	f, err := os.Open(dir)
	if err != nil {
		return nil, err
	}
	if err := syscall.Flock(int(f.Fd()), syscall.LOCK_EX|syscall.LOCK_NB); err != nil {
		return nil, errors.Join(err, f.Close())
	}
	return f, nil
}
