package main

import (
	"context"
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"syscall"
	"time"
)

// smallDisk puts a disk of so many megabytes over a folder.
func smallDisk(dir string, megabytes int) (unmount func(), err error) {
	if err := syscall.Mount("tmpfs", dir, "tmpfs", 0, fmt.Sprintf("size=%dm,mode=755", megabytes)); err != nil {
		return nil, fmt.Errorf("a small disk: %w", err)
	}
	return func() { _ = syscall.Unmount(dir, syscall.MNT_DETACH) }, nil
}

// fillDisk takes all the room that is left on a folder's disk, for some time.
func fillDisk(ctx context.Context, dir string, hold time.Duration) error {
	name := filepath.Join(dir, "ballast")
	f, err := os.Create(name)
	if err != nil && !errors.Is(err, syscall.ENOSPC) {
		return err
	}
	defer os.Remove(name)
	piece := make([]byte, 1<<20)
	for err == nil {
		_, err = f.Write(piece)
	}
	if !errors.Is(err, syscall.ENOSPC) {
		return errors.Join(err, f.Close())
	}
	select {
	case <-ctx.Done():
	case <-time.After(hold):
	}
	return f.Close()
}
