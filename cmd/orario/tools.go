package main

import (
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io/fs"
	"os"
	"path/filepath"

	"github.com/spf13/cobra"

	"orario/core/finding"
	"orario/core/inspect"
	"orario/core/naming"
	"orario/core/receipt"
	"orario/core/similarity"
	"orario/internal/convert"
)

// show writes a result as JSON or, for people, in their own way.
func show(asJSON bool, result any, people func()) error {
	if !asJSON {
		people()
		return nil
	}
	e := json.NewEncoder(os.Stdout)
	e.SetEscapeHTML(false)
	return e.Encode(result)
}

// withTools gives a command the outside programs, in a folder that is gone afterwards.
func withTools(do func(*convert.Tools) error) error {
	dir, err := os.MkdirTemp("", "orario-")
	if err != nil {
		return err
	}
	defer os.RemoveAll(dir)
	tools, err := convert.New(dir)
	if err != nil {
		return err
	}
	defer tools.Close()
	return do(tools)
}

func readText(ctx context.Context, tools *convert.Tools, path string) (string, error) {
	data, err := os.ReadFile(path)
	if err != nil {
		return "", unreadable(path, err)
	}
	text, err := tools.Text(ctx, inspect.Kind(path, data), data)
	if err != nil {
		return "", fmt.Errorf("%s: %w", path, err)
	}
	return text, nil
}

func unreadable(path string, err error) error {
	var failure *fs.PathError
	if errors.As(err, &failure) {
		err = failure.Err
	}
	return fmt.Errorf("%s cannot be read: %w", path, err)
}

func similarityCommand() *cobra.Command {
	var against []string
	var options similarity.Options
	var asJSON bool
	cmd := &cobra.Command{
		Use:   "similarity --against PATH FILE",
		Short: "Find the passages that a document shares with others",
		Args:  takes(1, 1),
	}
	cmd.Flags().StringArrayVar(&against, "against", nil, "a file or folder to compare with (repeatable)")
	cmd.Flags().
		IntVar(&options.MinWords, "min-words", similarity.DefaultMinWords, "passages of fewer words do not count")
	cmd.Flags().BoolVar(&options.KeepQuotes, "keep-quotes", false, "let attributed quotations count")
	cmd.Flags().BoolVar(&asJSON, "json", false, "print JSON")
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		if len(against) == 0 {
			return errors.New("name at least one file or folder with --against")
		}
		if options.MinWords < 0 {
			return errors.New("--min-words must not be negative")
		}
		return withTools(func(tools *convert.Tools) error {
			document, err := readText(cmd.Context(), tools, args[0])
			if err != nil {
				return err
			}
			var sources []similarity.Source
			for _, path := range against {
				found, err := readSources(cmd.Context(), tools, path)
				if err != nil {
					return err
				}
				sources = append(sources, found...)
			}
			report := similarity.NewIndex(sources).Check(document, options)
			result := struct {
				Document string `json:"document"`
				similarity.Report
			}{args[0], report}
			return show(asJSON, result, func() {
				fmt.Printf("%.1f %% of %d characters\n", 100*report.Share, report.Length)
				for _, p := range report.Passages {
					fmt.Printf(
						"%6d–%-6d %-8s %-12s %3.0f %% of %s\n",
						p.Start,
						p.End,
						p.Remedy,
						p.Excluded,
						100*p.Exact,
						p.Source,
					)
				}
			})
		})
	}
	return cmd
}

// readSources reads a file, or every file of a folder that holds text; others are passed over with a word.
func readSources(ctx context.Context, tools *convert.Tools, path string) ([]similarity.Source, error) {
	info, err := os.Stat(path)
	if err != nil {
		return nil, unreadable(path, err)
	}
	if !info.IsDir() {
		text, err := readText(ctx, tools, path)
		return []similarity.Source{{Name: filepath.Base(path), Text: text}}, err
	}
	var sources []similarity.Source
	err = filepath.WalkDir(path, func(file string, entry fs.DirEntry, err error) error {
		if err != nil {
			return unreadable(file, err)
		}
		if !entry.Type().IsRegular() {
			return nil
		}
		text, err := readText(ctx, tools, file)
		if err != nil {
			fmt.Fprintf(os.Stderr, "orario: passed over: %v\n", err)
			return nil
		}
		name, err := filepath.Rel(path, file)
		sources = append(sources, similarity.Source{Name: filepath.ToSlash(name), Text: text})
		return err
	})
	return sources, err
}

func verifyCommand() *cobra.Command {
	var keyFile string
	var asJSON bool
	cmd := &cobra.Command{
		Use:   "verify RECEIPT.json FILE...",
		Short: "Hold a receipt against files",
		Args:  takes(1, 0),
	}
	cmd.Flags().StringVar(&keyFile, "key", "", "file with the site's public key")
	cmd.Flags().BoolVar(&asJSON, "json", false, "print JSON")
	cmd.RunE = func(_ *cobra.Command, args []string) error {
		text, err := os.ReadFile(args[0])
		if err != nil {
			return unreadable(args[0], err)
		}
		var r receipt.Receipt
		if err := decode(text, &r); err != nil {
			return fmt.Errorf("%s is no receipt: %w", args[0], err)
		}
		var sent receipt.Sent
		if keyFile != "" {
			text, err := os.ReadFile(keyFile)
			if err != nil {
				return unreadable(keyFile, err)
			}
			if sent.Key, err = receipt.ParseKey(string(text)); err != nil {
				return fmt.Errorf("%s: %w", keyFile, err)
			}
		}
		for _, path := range args[1:] {
			data, err := os.ReadFile(path)
			if err != nil {
				return unreadable(path, err)
			}
			facts := inspect.Digest(data)
			sent.Files = append(
				sent.Files,
				receipt.File{Name: filepath.Base(path), Bytes: int64(len(data)), SHA256: facts},
			)
		}
		proof := receipt.Compare(r, sent)
		err = show(asJSON, proof, func() {
			for _, p := range proof.Parts {
				fmt.Printf("%-10s %-9s %s\n", p.Part, yes(p.OK), p.Found)
			}
			for _, f := range proof.Files {
				fmt.Printf("%-10s %-9s %s %s\n", "file", yes(f.OK), f.File, f.Why)
			}
		})
		if err == nil && !proof.Agrees {
			err = errNo
		}
		return err
	}
	return cmd
}

func yes(ok bool) string {
	if ok {
		return "agrees"
	}
	return "DISAGREES"
}

func inspectCommand() *cobra.Command {
	var asJSON bool
	cmd := &cobra.Command{
		Use:   "inspect FILE...|-",
		Short: "Say what files are, by their content",
		Args:  takes(1, 0),
	}
	cmd.Flags().BoolVar(&asJSON, "json", false, "print JSON")
	cmd.RunE = func(cmd *cobra.Command, args []string) error {
		return withTools(func(tools *convert.Tools) error {
			list := []*inspect.Facts{}
			for _, path := range args {
				data, err := readFileOrInput(path)
				if err != nil {
					return err
				}
				facts, err := tools.Facts(cmd.Context(), path, data)
				if err != nil { // without a sandbox one's own files are looked at all the same
					facts = inspect.File(path, data)
				}
				list = append(list, facts)
			}
			return show(asJSON, list, func() {
				for _, f := range list {
					fmt.Printf("%s: %s, %d bytes\n", f.File, f.Kind, f.Bytes)
					for _, p := range f.Problems {
						fmt.Printf("  %s: %s\n", p.Code, p.Message)
					}
				}
			})
		})
	}
	return cmd
}

func nameCommand() *cobra.Command {
	var pattern, fieldsFile, read string
	var beside []string
	var plain, asJSON bool
	cmd := &cobra.Command{
		Use:   "name --pattern P --fields FIELDS.json",
		Short: "Make a file name from a pattern, or read one",
		Args:  cobra.NoArgs,
	}
	cmd.Flags().StringVar(&pattern, "pattern", "", "text with fields in braces")
	cmd.Flags().StringVar(&fieldsFile, "fields", "", "file with the fields' values")
	cmd.Flags().StringVar(&read, "read", "", "a name to hold against the pattern")
	cmd.Flags().StringArrayVar(&beside, "beside", nil, "a name that will lie in the same place (repeatable)")
	cmd.Flags().BoolVar(&plain, "plain", false, "plain letters only")
	cmd.Flags().BoolVar(&asJSON, "json", false, "print JSON")
	cmd.RunE = func(*cobra.Command, []string) error {
		p, err := naming.Parse(pattern)
		if err != nil {
			return err
		}
		text, err := os.ReadFile(fieldsFile)
		if err != nil {
			return unreadable(fieldsFile, err)
		}
		fields, err := naming.ParseFields(text)
		if err != nil {
			return fmt.Errorf("%s: %w", fieldsFile, err)
		}
		result, err := named(p, fields, plain, read, beside)
		if err != nil {
			return err
		}
		err = show(asJSON, result, func() {
			fmt.Println(result.Name)
			for _, problem := range result.Problems {
				fmt.Printf("  %s (%s): %s\n", problem.Code, problem.Weight, problem.Message)
			}
		})
		no := result.Agrees != nil && !*result.Agrees
		for _, problem := range result.Problems {
			no = no || problem.Weight == finding.Must
		}
		if err == nil && no {
			err = errNo
		}
		return err
	}
	return cmd
}

// aName is what the name command answers.
type aName struct {
	Name     string            `json:"name"`
	Problems []naming.Problem  `json:"problems"`
	Agrees   *bool             `json:"agrees,omitempty"`
	Parts    *[]naming.Reading `json:"parts,omitempty"`
}

// named makes the name; where one is given to be read, it is held against the pattern.
func named(p naming.Pattern, fields naming.Fields, plain bool, read string, beside []string) (aName, error) {
	name, problems, err := naming.Make(p, fields, plain)
	if err != nil {
		return aName{}, err
	}
	result := aName{Name: name, Problems: problems}
	if read == "" {
		for _, problem := range naming.Lint(name, beside, plain) {
			if problem.Code == "collides" {
				result.Problems = append(result.Problems, problem)
			}
		}
		return result, nil
	}
	agrees, parts, err := naming.Read(p, fields, plain, read)
	if err != nil {
		return aName{}, err
	}
	result.Agrees, result.Parts, result.Problems = &agrees, &parts, naming.Lint(read, beside, plain)
	return result, nil
}
