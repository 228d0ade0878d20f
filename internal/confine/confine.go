// Package confine runs other programs in a box of bubblewrap: no network, a read-only system, a folder of its own, and
// bounds for time, memory, processes and what it writes.
package confine

import (
	"bytes"
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"os/exec"
	"regexp"
	"strings"
	"syscall"
	"time"
)

// A Box is where a program is run: it sees the system read-only, one folder to write in as /box, and nothing else;
// no network, no other processes, no settings of the system but fonts and links of programs.
type Box struct {
	Work    string
	Memory  int64             // bytes of address space; 0: no limit
	Data    int64             // bytes of data; 0: no limit
	Program string            // a program from outside of /usr, seen as /program
	Env     map[string]string // beside PATH, HOME and LANG
}

// MaxOutput bounds what a program says, in bytes.
const MaxOutput = 32 << 20

// Costly says what running a program costs more than it may.
type Costly string

func (c Costly) Error() string { return string(c) }

// maxFile bounds what a program writes into one file.
const maxFile = 1 << 30

// maxProcesses bounds the processes and threads of a box. The kernel does not hold root to it (setrlimit(2)), so
// Orario is best run by a user of its own.
const maxProcesses = 400

// Command is a program with its arguments, to be run in the box.
func (s Box) Command(ctx context.Context, program string, args ...string) *exec.Cmd {
	list := []string{"--ro-bind", "/usr", "/usr"}
	for _, path := range []string{"bin", "lib", "lib64"} {
		list = append(list, "--symlink", "usr/"+path, "/"+path)
	}
	for _, path := range []string{
		"/etc/fonts", "/etc/alternatives", "/etc/libreoffice", "/etc/ld.so.cache", "/var/cache/fontconfig",
	} {
		list = append(list, "--ro-bind-try", path, path)
	}
	if s.Program != "" {
		list = append(list, "--ro-bind", s.Program, "/program")
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
		s.Work,
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
	for name, value := range s.Env {
		list = append(list, "--setenv", name, value)
	}
	list = append(list, "prlimit", "--core=0", fmt.Sprintf("--fsize=%d", int64(maxFile)),
		fmt.Sprintf("--nproc=%d", maxProcesses))
	if s.Memory > 0 {
		list = append(list, fmt.Sprintf("--as=%d", s.Memory))
	}
	if s.Data > 0 {
		list = append(list, fmt.Sprintf("--data=%d", s.Data))
	}
	return exec.CommandContext(ctx, "bwrap", append(append(list, program), args...)...)
}

// Run runs a program for so long at the most and gives what it writes. A program that takes more time or memory, or
// writes more, than it may is [Costly]; one that ends with a code of its own is an [exec.ExitError]; everything else is
// a failure of ours.
func (s Box) Run(
	ctx context.Context,
	most time.Duration,
	in io.Reader,
	program string,
	args ...string,
) ([]byte, error) {
	limited, cancel := context.WithTimeout(ctx, most)
	defer cancel()
	cmd := s.Command(limited, program, args...)
	out, problems := &bounded{most: MaxOutput, full: cancel}, &bounded{most: 4 << 10}
	cmd.Stdin, cmd.Stdout, cmd.Stderr = in, out, problems
	cmd.WaitDelay = time.Second
	err := cmd.Run()
	said := strings.TrimSpace(problems.String())
	var exit *exec.ExitError
	switch {
	case ctx.Err() != nil:
		return nil, ctx.Err()
	case out.over:
		return nil, Costly(fmt.Sprintf("It holds over %d MB of text, so not all is known.", MaxOutput>>20))
	case limited.Err() != nil:
		return nil, Costly(fmt.Sprintf("Looking at it took longer than %s, so not all is known.", most))
	case err == nil:
		return out.Bytes(), nil
	case strings.HasPrefix(said, "bwrap:") || strings.HasPrefix(said, "prlimit:"):
		return nil, fmt.Errorf("the sandbox cannot be had: %s", said)
	case exhausted.MatchString(said) || killed(err):
		return nil, Costly("Looking at it took more memory than there is for it, so not all is known.")
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

// Hold locks a folder for as long as the file is open.
func Hold(dir string) (*os.File, error) {
	f, err := os.Open(dir)
	if err != nil {
		return nil, err
	}
	if err := syscall.Flock(int(f.Fd()), syscall.LOCK_EX|syscall.LOCK_NB); err != nil {
		return nil, errors.Join(err, f.Close())
	}
	return f, nil
}
