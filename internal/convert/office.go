package convert

import (
	"bufio"
	"context"
	"errors"
	"fmt"
	"io"
	"os"
	"os/exec"
	"path/filepath"
	"strings"
	"time"

	"orario/internal/confine"
)

// worker runs inside the sandbox. It keeps one LibreOffice waiting, to which the next conversion is
// handed over; that one ends with the conversion, so another is started behind it.
const worker = `
profile=-env:UserInstallation=file:///box/profile
waiting=
stand_by() {
  if [ -z "$waiting" ] || ! kill -0 "$waiting" 2>/dev/null; then
    soffice "$profile" --headless --norestore --nodefault --nofirststartwizard --nologo \
      --accept='pipe,name=orario;urp' >/dev/null 2>&1 &
    waiting=$!
  fi
}
stand_by
while read -r job name; do
  set --
  while IFS= read -r argument; do set -- "$@" "$argument"; done <"/box/$job/arguments"
  timeout 85 soffice "$profile" --headless --norestore "$@" \
      --outdir "/box/$job" "/box/$job/$name" >"/box/$job/log" 2>&1 </dev/null
  echo "$job done"
  sleep 0.2
  stand_by
done
`

// office does one conversion at a time in a sandbox that stays up between them.
type office struct {
	work string

	turn chan struct{} // held by whoever uses what follows
	cmd  *exec.Cmd
	in   io.WriteCloser
	out  *bufio.Reader
	jobs int
}

func newOffice(work string) *office {
	return &office{work: work, turn: make(chan struct{}, 1)}
}

func (o *office) warm() {
	o.turn <- struct{}{}
	defer func() { <-o.turn }()
	_ = o.start() // the conversion that needs it will tell
}

func (o *office) close() {
	o.turn <- struct{}{}
	defer func() { <-o.turn }()
	o.stop()
	os.RemoveAll(o.work)
}

func (o *office) start() error {
	if o.cmd != nil {
		return nil
	}
	cmd := confine.Box{Work: o.work, Memory: maxMemory}.Command(context.Background(), "sh", "-c", worker)
	in, err := cmd.StdinPipe()
	if err != nil {
		return err
	}
	out, err := cmd.StdoutPipe()
	if err != nil {
		return err
	}
	if err := cmd.Start(); err != nil {
		return fmt.Errorf("starting LibreOffice in its sandbox: %w", err)
	}
	o.cmd, o.in, o.out = cmd, in, bufio.NewReader(out)
	return nil
}

func (o *office) stop() {
	if o.cmd == nil {
		return
	}
	_ = o.cmd.Process.Kill() // everything in the sandbox dies with it
	_ = o.cmd.Wait()
	o.cmd = nil
}

// An officeJob is one conversion by LibreOffice.
type officeJob struct {
	name string // of the file that is converted, with the extension of its form
	data []byte
	to   string // extension of the form that it becomes
	how  string // LibreOffice's filter for that; empty: its usual one
	read string // LibreOffice's filter for reading; empty: what it finds out
}

func (j officeJob) arguments() string {
	to := j.to
	if j.how != "" {
		to += ":" + j.how
	}
	list := []string{"--convert-to", to}
	if j.read != "" {
		list = append(list, "--infilter="+j.read)
	}
	return strings.Join(list, "\n") + "\n"
}

// convert waits for its turn, and then takes so long at the most.
func (o *office) convert(ctx context.Context, most time.Duration, j officeJob) ([]byte, error) {
	select {
	case o.turn <- struct{}{}:
		defer func() { <-o.turn }()
	case <-ctx.Done():
		return nil, ctx.Err()
	}
	ctx, cancel := context.WithTimeout(ctx, most)
	defer cancel()
	o.jobs++
	job := fmt.Sprintf("job%d", o.jobs)
	folder := filepath.Join(o.work, job)
	if err := os.Mkdir(folder, 0o700); err != nil {
		return nil, fmt.Errorf("converting: %w", err)
	}
	defer os.RemoveAll(folder)
	for name, data := range map[string][]byte{j.name: j.data, "arguments": []byte(j.arguments())} {
		if err := os.WriteFile(filepath.Join(folder, name), data, 0o600); err != nil {
			return nil, fmt.Errorf("converting: %w", err)
		}
	}
	if err := o.start(); err != nil {
		return nil, err
	}
	done := make(chan error, 1)
	out := o.out
	go func() {
		_, err := out.ReadString('\n')
		done <- err
	}()
	_, err := fmt.Fprintf(o.in, "%s %s\n", job, j.name)
	if err == nil {
		select {
		case err = <-done:
		case <-ctx.Done():
			o.stop()
			return nil, ctx.Err()
		}
	}
	if err != nil {
		o.stop()
		return nil, fmt.Errorf("LibreOffice stopped while it converted: %w", err)
	}
	made, err := os.ReadFile(filepath.Join(folder, strings.TrimSuffix(j.name, filepath.Ext(j.name))+"."+j.to))
	if errors.Is(err, os.ErrNotExist) {
		log, _ := os.ReadFile(filepath.Join(folder, "log"))
		return nil, fmt.Errorf("LibreOffice made no %s of it: %s", strings.ToUpper(j.to), lastLine(string(log)))
	}
	return made, err
}

func lastLine(text string) string {
	lines := strings.Split(strings.TrimSpace(text), "\n")
	return strings.ReplaceAll(lines[len(lines)-1], "/box/", "")
}
