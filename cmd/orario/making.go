package main

import (
	"errors"
	"fmt"
	"os"
	"path/filepath"
	"slices"
	"strings"

	"github.com/spf13/cobra"

	"orario/core/cleaning"
	"orario/core/imaging"
	"orario/core/inspect"
	"orario/internal/convert"
)

// readAll reads the files of arguments.
func readAll(paths []string) ([]inspect.Named, error) {
	var files []inspect.Named
	for _, path := range paths {
		data, err := os.ReadFile(path)
		if err != nil {
			return nil, unreadable(path, err)
		}
		files = append(files, inspect.Named{Name: path, Data: data})
	}
	return files, nil
}

// mayWrite says before the work whether its result can be put where it is to be.
func mayWrite(path string, force bool) error {
	info, err := os.Lstat(path)
	switch {
	case errors.Is(err, os.ErrNotExist):
	case err != nil:
		return fmt.Errorf("%s cannot be written: %w", path, err)
	case info.IsDir():
		return fmt.Errorf("%s is a folder; name a file", path)
	case !force:
		return fmt.Errorf("%s is there already; choose another name, or --force", path)
	}
	if info, err := os.Stat(filepath.Dir(path)); err != nil || !info.IsDir() {
		return fmt.Errorf("there is no folder %s", filepath.Dir(path))
	}
	return nil
}

// write puts a result in its place, whole or not at all, and without force never in the place of another file.
func write(path string, data []byte, force bool) error {
	part, err := os.CreateTemp(filepath.Dir(path), ".orario-*")
	if err != nil {
		return fmt.Errorf("%s cannot be written: %w", path, err)
	}
	defer os.Remove(part.Name())
	_, err = part.Write(data)
	if err = errors.Join(err, part.Chmod(0o644), part.Sync(), part.Close()); err != nil {
		return fmt.Errorf("%s cannot be written: %w", path, err)
	}
	if force {
		err = os.Rename(part.Name(), path)
	} else {
		err = os.Link(part.Name(), path)
	}
	if errors.Is(err, os.ErrExist) {
		return fmt.Errorf("%s is there already; choose another name, or --force", path)
	}
	return err
}

func convertCommand() *cobra.Command {
	var w convert.Wishes
	var force bool
	cmd := &cobra.Command{
		Use:   "convert IN... OUT",
		Short: "Make a file of another form; several become one PDF or one ZIP",
		Args:  takes(2, 0),
	}
	cmd.Flags().StringVar(&w.Pages, "pages", "", "of a PDF, such as 2-4,7")
	cmd.Flags().IntVar(&w.Turn, "turn", 0, "degrees clockwise: 90, 180 or 270")
	cmd.Flags().Int64Var(&w.MaxBytes, "max-bytes", 0, "smaller until it fits")
	cmd.Flags().BoolVar(&w.PDFA, "pdfa", false, "as PDF/A-2b")
	cmd.Flags().BoolVar(&force, "force", false, "in place of a file that is there")
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		in, out := args[:len(args)-1], args[len(args)-1]
		if cmd.Flags().Changed("max-bytes") && w.MaxBytes <= 0 {
			return errors.New("--max-bytes must be more than 0")
		}
		if cmd.Flags().Changed("pages") && strings.TrimSpace(w.Pages) == "" {
			return errors.New("--pages names no page; write them as 2-4,7")
		}
		if err := mayWrite(out, force); err != nil {
			return err
		}
		files, err := readAll(in)
		if err != nil {
			return err
		}
		w.Beside = besideIt
		return withTools(func(tools *convert.Tools) error {
			made, err := tools.Make(cmd.Context(), files, strings.TrimPrefix(filepath.Ext(out), "."), w)
			var over convert.Over
			if errors.As(err, &over) {
				fmt.Println(over.Error())
				return errNo
			}
			if err != nil {
				return err
			}
			if err := write(out, made.Data, force); err != nil {
				return err
			}
			for _, did := range made.Did {
				fmt.Println(did)
			}
			fmt.Printf("wrote %s, %d bytes\n", out, len(made.Data))
			return nil
		})
	}
	return cmd
}

// besideIt reads a picture that a text refers to, from the text's own folder or below.
func besideIt(of inspect.Named, path string) ([]byte, error) {
	folder, err := os.OpenRoot(filepath.Dir(of.Name))
	if err != nil {
		return nil, err
	}
	defer folder.Close()
	return folder.ReadFile(path)
}

func scanCommand() *cobra.Command {
	w := convert.ScanWishes{}
	var out string
	var force, asJSON bool
	cmd := &cobra.Command{
		Use:   "scan PHOTO... -o OUT.pdf",
		Short: "Make a PDF of photographed pages: found, straightened, turned, cleaned",
		Args:  takes(1, 0),
	}
	cmd.Flags().StringVarP(&out, "output", "o", "", "the PDF to write")
	cmd.Flags().StringVar(&w.Paper, "paper", "", "a4, letter, or photo for the whole photograph; else what is seen")
	cmd.Flags().Float64Var(&w.Strength, "strength", imaging.DefaultStrength, "of the cleaning, 0 to 1")
	cmd.Flags().StringVar(&w.Text, "text", "", "add a text layer read in these languages, such as eng+por")
	cmd.Flags().BoolVar(&asJSON, "json", false, "print JSON")
	cmd.Flags().BoolVar(&force, "force", false, "in place of a file that is there")
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		if !strings.EqualFold(filepath.Ext(out), ".pdf") {
			return errors.New("name the PDF to write with -o OUT.pdf")
		}
		if cmd.Flags().Changed("paper") && w.Paper == "" || cmd.Flags().Changed("text") && w.Text == "" {
			return errors.New("--paper and --text need a value")
		}
		if err := mayWrite(out, force); err != nil {
			return err
		}
		photos, err := readAll(args)
		if err != nil {
			return err
		}
		return withTools(func(tools *convert.Tools) error {
			scan, err := tools.Scan(cmd.Context(), photos, w)
			if err != nil {
				return err
			}
			if err := write(out, scan.PDF, force); err != nil {
				return err
			}
			result := struct {
				Pages []convert.ScannedPage `json:"pages"`
			}{scan.Pages}
			return show(asJSON, result, func() {
				for _, p := range scan.Pages {
					fmt.Printf("%s: turned by %d degrees%s\n", p.Photo, p.Turned, warned(p.Warnings))
				}
				fmt.Printf("wrote %s, %d bytes\n", out, len(scan.PDF))
			})
		})
	}
	return cmd
}

// warnings in words.
var warnings = map[string]string{
	"blurred": "it is blurred, small print cannot be read", "dark": "it is dark",
	"cut_off": "a corner lies outside of the photograph",
	"no_page": "no page was found, so the whole photograph is taken",
}

func warned(codes []string) (said string) {
	for _, code := range codes {
		said += "; " + warnings[code]
	}
	return said
}

func cleanCommand() *cobra.Command {
	var keep []string
	var force, asJSON bool
	cmd := &cobra.Command{
		Use:   "clean IN OUT",
		Short: "Take out what readers are not meant to see: changes, comments, names, positions, programs",
		Args:  takes(2, 2),
	}
	cmd.Flags().StringArrayVar(&keep, "keep", nil, "a kind that stays (repeatable): "+strings.Join(cleaning.Kinds, " "))
	cmd.Flags().BoolVar(&asJSON, "json", false, "print JSON")
	cmd.Flags().BoolVar(&force, "force", false, "in place of a file that is there")
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		for _, kind := range keep {
			if !slices.Contains(cleaning.Kinds, kind) {
				return fmt.Errorf("%q is no kind that can be kept; choose of %s", kind,
					strings.Join(cleaning.Kinds, ", "))
			}
		}
		if err := mayWrite(args[1], force); err != nil {
			return err
		}
		files, err := readAll(args[:1])
		if err != nil {
			return err
		}
		return withTools(func(tools *convert.Tools) error {
			to := strings.TrimPrefix(filepath.Ext(args[1]), ".")
			data, removed, err := tools.Clean(cmd.Context(), files[0], to, keep)
			if err != nil {
				return err
			}
			if err := write(args[1], data, force); err != nil {
				return err
			}
			result := struct {
				Removed []cleaning.Removed `json:"removed"`
			}{removed}
			return show(asJSON, result, func() {
				for _, r := range removed {
					fmt.Printf("%-16s %3d  %s\n", strings.ReplaceAll(r.Kind, "_", " "), r.Count, r.Detail)
				}
				if len(removed) == 0 {
					fmt.Println("there was nothing to remove")
				}
				fmt.Printf("wrote %s, %d bytes\n", args[1], len(data))
			})
		})
	}
	return cmd
}
