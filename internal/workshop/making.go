package workshop

import (
	"cmp"
	"context"
	"errors"
	"fmt"
	"strings"

	"orario/core/archive"
	"orario/core/imaging"
	"orario/core/inspect"
	"orario/core/naming"
	"orario/core/wording"
	"orario/internal/convert"
	"orario/internal/refusal"
)

// named is a file with the name that is wished for, or that its first source has, and an extension.
func named(of []inspect.Named, w Wishes, extension string, data []byte) inspect.Named {
	stem := w.Name
	if stem == "" && len(of) > 0 {
		stem, _ = naming.Split(of[0].Name)
	}
	return inspect.Named{Name: cmp.Or(stem, "unnamed") + "." + extension, Data: data}
}

func (s Service) convert(ctx context.Context, of []inspect.Named, w Wishes, _ func(int, int)) (result, error) {
	m, err := s.Tools.Make(ctx, of, w.Form, convert.Wishes{
		Pages: w.Pages, Turns: w.Turns, MaxBytes: w.MaxBytes, PDFA: w.PDFA, From: w.From, Length: w.Length,
	})
	if err != nil {
		return result{}, err
	}
	return result{files: []inspect.Named{named(of, w, strings.ToLower(w.Form), m.Data)}, said: m.Did}, nil
}

func (s Service) split(ctx context.Context, of []inspect.Named, w Wishes, _ func(int, int)) (result, error) {
	parts, err := s.Tools.Split(ctx, of[0], w.Every, w.MaxBytes)
	said := fmt.Sprintf("%s of %s", wording.Count(len(parts), "file", "files"), of[0].Name)
	return result{files: parts, said: []string{said}}, err
}

// gather makes one PDF of several pieces of evidence, each behind a page with its heading and what is said of it.
func (s Service) gather(ctx context.Context, of []inspect.Named, w Wishes, _ func(int, int)) (result, error) {
	var all []inspect.Named
	for n, f := range of {
		h := Heading{}
		if n < len(w.Headings) {
			h = w.Headings[n]
		}
		if strings.TrimSpace(h.Title) == "" {
			return result{}, fmt.Errorf("%s has no heading yet", f.Name)
		}
		if inspect.IsRecording(inspect.Kind(f.Name, f.Data)) {
			return result{}, fmt.Errorf("%s is no page: put sound and film beside the PDF", f.Name)
		}
		text := fmt.Sprintf("# %d. %s\n\n%s\n", n+1, strings.Join(strings.Fields(h.Title), " "), h.Text)
		all = append(all, inspect.Named{Name: "heading.md", Data: []byte(text)}, f)
	}
	m, err := s.Tools.Make(ctx, all, "pdf", convert.Wishes{})
	if err != nil {
		return result{}, err
	}
	said := wording.Count(len(of), "piece", "pieces") + ", each behind its heading"
	return result{files: []inspect.Named{named(of, w, "pdf", m.Data)}, said: []string{said}}, nil
}

// warnings are what a scan warns of, in words with the measure.
var warnings = map[string]string{
	"blurred": "is blurred (clarity %.3f; from 0.012 on letters are told apart). Hold still, and photograph it again",
	"dark":    "is dark. Photograph it again in better light",
	"cut_off": "is cut off at the photograph's edge. Photograph all of it, or draw its corners yourself",
	"no_page": "shows no page that could be found, so all of it was taken. Draw its corners yourself",
}

func (s Service) scan(ctx context.Context, of []inspect.Named, w Wishes, step func(int, int)) (result, error) {
	strength := imaging.DefaultStrength
	if w.Strength != nil {
		strength = *w.Strength
	}
	step(0, len(of))
	made, err := s.Tools.Scan(ctx, of, convert.ScanWishes{
		Paper: w.Paper, Strength: strength, Text: w.Text, Settled: w.Settled, Progress: step,
	})
	if err != nil {
		return result{}, err
	}
	r := result{files: []inspect.Named{named(of, w, "pdf", made.PDF)}}
	r.said = append(r.said, wording.Count(len(made.Pages), "page", "pages"))
	for n, p := range made.Pages {
		if p.Turned != 0 {
			r.said = append(r.said, fmt.Sprintf("Page %d was turned by %d degrees.", n+1, p.Turned))
		}
		for _, code := range p.Warnings {
			text := warnings[code]
			if strings.Contains(text, "%") {
				text = fmt.Sprintf(text, p.Sharpness)
			}
			r.said = append(r.said, fmt.Sprintf("Page %d %s.", n+1, text))
		}
	}
	if w.Text != "" {
		return r, s.tellRead(ctx, &r, made.PDF)
	}
	return r, nil
}

// tellRead says how much text can be read in each page.
func (s Service) tellRead(ctx context.Context, r *result, pdf []byte) error {
	pages, err := s.Tools.PDFPages(ctx, pdf)
	if err != nil {
		return err
	}
	for n, text := range pages {
		if words := len(strings.Fields(text)); words == 0 {
			r.said = append(r.said, fmt.Sprintf("No text was read in page %d.", n+1))
		} else {
			r.said = append(r.said, fmt.Sprintf("%s read in page %d.", wording.Count(words, "word", "words"), n+1))
		}
	}
	return nil
}

func (s Service) searchable(ctx context.Context, of []inspect.Named, w Wishes, _ func(int, int)) (result, error) {
	pdf, err := s.Tools.Searchable(ctx, of[0].Data)
	if err != nil {
		return result{}, err
	}
	r := result{files: []inspect.Named{named(of, w, "pdf", pdf)}}
	return r, s.tellRead(ctx, &r, pdf)
}

func (s Service) write(ctx context.Context, of []inspect.Named, w Wishes, _ func(int, int)) (result, error) {
	pdf, err := s.Tools.Write(ctx, of[0], *w.Ink)
	said := []string{"What was written is part of the pages."}
	return result{files: []inspect.Named{named(of, w, "pdf", pdf)}, said: said}, err
}

// typed makes a file of a typed answer, with the pictures in it that it refers to by their names.
func (s Service) typed(ctx context.Context, of []inspect.Named, w Wishes, _ func(int, int)) (result, error) {
	source := inspect.Named{Name: cmp.Or(w.Name, "answer") + ".md", Data: []byte(w.Text)}
	if w.Form == "md" || w.Form == "txt" {
		source.Name = cmp.Or(w.Name, "answer") + "." + w.Form
		return result{files: []inspect.Named{source}}, nil
	}
	m, err := s.Tools.Make(ctx, []inspect.Named{source}, w.Form, convert.Wishes{
		Page: w.Page, Beside: func(_ inspect.Named, path string) ([]byte, error) { return s.pictureOf(ctx, of, path) },
	})
	if err != nil {
		return result{}, err
	}
	return result{files: []inspect.Named{named([]inspect.Named{source}, w, w.Form, m.Data)}, said: nil}, nil
}

// pictureOf is a picture upright, as a text refers to it: by its name, as .jpg whatever its form is.
func (s Service) pictureOf(ctx context.Context, of []inspect.Named, path string) ([]byte, error) {
	wanted, _ := naming.Split(path)
	for _, f := range of {
		if stem, _ := naming.Split(f.Name); stem != wanted {
			continue
		}
		p, err := s.Tools.Show(ctx, f)
		if err != nil {
			return nil, err
		}
		return p.JPEG, nil
	}
	return nil, refusal.ErrNotFound
}

func (s Service) pack(ctx context.Context, of []inspect.Named, w Wishes, _ func(int, int)) (result, error) {
	m, err := s.Tools.Make(ctx, of, "zip", convert.Wishes{MaxBytes: w.MaxBytes})
	if err != nil {
		return result{}, err
	}
	return result{files: []inspect.Named{named(of, w, "zip", m.Data)}, said: m.Did}, nil
}

func (s Service) unpack(ctx context.Context, of []inspect.Named, _ Wishes, _ func(int, int)) (result, error) {
	r := result{}
	skipped, err := archive.Each(of[0].Data, func(f inspect.Named) error {
		p, err := s.keep(ctx, f)
		r.kept = append(r.kept, p)
		return err
	})
	if err != nil {
		return result{}, err
	}
	if len(r.kept) == 0 {
		return result{}, errors.New("there is no file in it that can be unpacked")
	}
	for _, left := range skipped {
		r.said = append(r.said, fmt.Sprintf("%s was left out: %s.", left.Name, left.Why))
	}
	return r, nil
}

func (s Service) clean(ctx context.Context, of []inspect.Named, w Wishes, _ func(int, int)) (result, error) {
	_, extension := naming.Split(of[0].Name)
	extension = cmp.Or(w.Form, extension)
	data, removed, err := s.Tools.Clean(ctx, of[0], extension, w.Keep)
	if err != nil {
		return result{}, err
	}
	if len(removed) == 0 {
		return result{}, errors.New("there is nothing in it to be taken out")
	}
	r := result{files: []inspect.Named{named(of, w, strings.ToLower(extension), data)}}
	for _, what := range removed {
		r.said = append(r.said, what.Sentence())
	}
	return r, nil
}
