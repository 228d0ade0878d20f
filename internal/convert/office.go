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
  timeout 85 soffice "$profile" --headless --norestore --convert-to pdf \
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
	cmd := sandbox{work: o.work, memory: maxMemory}.command(context.Background(), "sh", "-c", worker)
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

// convert waits for its turn, and then takes so long at the most.
func (o *office) convert(ctx context.Context, most time.Duration, name string, data []byte) ([]byte, error) {
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
	if err := os.WriteFile(filepath.Join(folder, name), data, 0o600); err != nil {
		return nil, fmt.Errorf("converting: %w", err)
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
	_, err := fmt.Fprintf(o.in, "%s %s\n", job, name)
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
	pdf, err := os.ReadFile(filepath.Join(folder, strings.TrimSuffix(name, filepath.Ext(name))+".pdf"))
	if errors.Is(err, os.ErrNotExist) {
		log, _ := os.ReadFile(filepath.Join(folder, "log"))
		return nil, fmt.Errorf("LibreOffice made no PDF of it: %s", lastLine(string(log)))
	}
	return pdf, err
}

func lastLine(text string) string {
	lines := strings.Split(strings.TrimSpace(text), "\n")
	return strings.ReplaceAll(lines[len(lines)-1], "/box/", "")
}
