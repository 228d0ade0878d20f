package convert

import (
	"context"
	"errors"
	"fmt"
	"slices"
	"strings"
	"time"

	"orario/core/archive"
	"orario/core/inspect"
	"orario/core/wording"
)

// Wishes are what a conversion is asked for beside the form. What a form can't follow is refused.
type Wishes struct {
	Pages    string  // of a PDF: "2-4,7", in that order; empty: all
	Turn     int     // degrees clockwise: 0, 90, 180 or 270
	Turns    []int   // of each page of a PDF, in the order that they come out in; empty: none
	MaxBytes int64   // made smaller until it fits; 0: as it comes
	PDFA     bool    // PDF/A-2b (ISO 19005-2)
	From     float64 // of sound and film: seconds from the beginning
	Length   float64 // of sound and film: seconds; 0: to the end
	Page     Page    // how Markdown is set

	// Beside gives a picture that a Markdown or HTML file refers to by a path below its own folder; nil: none is read.
	Beside func(of inspect.Named, path string) ([]byte, error)
}

// Over says that something could not be made small enough.
type Over struct{ Least, Most int64 }

func (o Over) Error() string {
	return fmt.Sprintf("it could not be made smaller than %s (%d bytes), and %s are asked for",
		wording.Bytes(o.Least), o.Least, wording.Bytes(o.Most))
}

// A Made file is the result of a conversion, with what was done, one sentence each.
type Made struct {
	Data []byte
	Did  []string
}

func (m *Made) did(format string, args ...any) { m.Did = append(m.Did, fmt.Sprintf(format, args...)) }

// forms that files become, by the extension.
var forms = map[string]string{
	"pdf": "pdf", "docx": "docx", "odt": "odt", "rtf": "rtf", "txt": "txt", "jpg": "jpeg", "jpeg": "jpeg", "png": "png",
	"zip": "zip", "mp3": "mp3", "m4a": "m4a", "wav": "wav", "ogg": "ogg", "flac": "flac", "mp4": "mp4", "webm": "webm",
	"mkv": "mkv", "mov": "mov",
}

// Make makes one file, of the form that an extension names, of one or more. Nothing but the given files is read, and
// they are not changed. The error says what to do; [Over] where the size that is asked for can't be reached.
func (t *Tools) Make(ctx context.Context, files []inspect.Named, extension string, w Wishes) (*Made, error) {
	form, known := forms[strings.ToLower(extension)]
	if !known {
		return nil, fmt.Errorf("nothing can be made into .%s; choose pdf, docx, odt, rtf, txt, jpg, png, zip, mp3, "+
			"m4a, wav, ogg, flac, mp4 or webm", extension)
	}
	if err := w.fit(form, len(files)); err != nil {
		return nil, err
	}
	if form == "zip" { // holds files of any kind, as they are
		return packed(files, w.MaxBytes)
	}
	kinds := make([]string, len(files))
	for i, f := range files {
		kind, err := t.usable(ctx, f, "converted")
		if err != nil {
			return nil, err
		}
		if !can(kind, form) {
			return nil, unfit(f, kind, form)
		}
		kinds[i] = kind
	}
	m := &Made{}
	var err error
	switch {
	case form == "pdf":
		err = t.makePDF(ctx, m, files, kinds, w)
	case form == "jpeg" || form == "png":
		err = t.makePicture(ctx, m, files[0], kinds[0], form, w)
	case inspect.IsRecording(form):
		err = t.makeRecording(ctx, m, files[0], form, w)
	default:
		err = t.makeDocument(ctx, m, files[0], kinds[0], form, w)
	}
	if err != nil {
		return nil, err
	}
	return m, nil
}

// fit refuses wishes that a form can't follow.
func (w Wishes) fit(form string, files int) error {
	page := form == "pdf" || form == "jpeg" || form == "png"
	switch {
	case files == 0:
		return errors.New("name at least one file to convert")
	case files > 1 && form != "pdf" && form != "zip":
		return fmt.Errorf("several files can become one PDF or one ZIP, but not one .%s", form)
	case w.Pages != "" && !page:
		return errors.New("pages can be chosen of a PDF only")
	case w.Turn != 0 && !page:
		return errors.New("only pages and pictures can be turned")
	case len(w.Turns) > 0 && form != "pdf":
		return errors.New("only the pages of a PDF can be turned one by one")
	case !(w.From >= 0 && w.Length >= 0) || (w.From > 0 || w.Length > 0) && !inspect.IsRecording(form):
		return errors.New("only sound and film can be cut, by seconds from their beginning on")
	case w.Turn%90 != 0 || w.Turn < 0 || w.Turn > 270:
		return errors.New("turn by 90, 180 or 270 degrees")
	case w.PDFA && form != "pdf":
		return errors.New("PDF/A is a form of PDF: name the result .pdf")
	case w.MaxBytes < 0:
		return errors.New("the most bytes must be more than 0")
	case w.MaxBytes > 0 && slices.Contains([]string{"png", "docx", "odt", "rtf", "txt", "wav", "flac"}, form):
		return fmt.Errorf("a .%s can't be made smaller; choose pdf, jpg, mp3, m4a, ogg, mp4 or webm", form)
	}
	return nil
}

// usable gives the kind of a file, and refuses one that is damaged, breaks off or is locked, so that it cannot be
// done to it what is named.
func (t *Tools) usable(ctx context.Context, f inspect.Named, done string) (string, error) {
	facts, err := t.Facts(ctx, f.Name, f.Data)
	if err != nil {
		facts = inspect.File(f.Name, f.Data)
	}
	for _, p := range facts.Problems {
		switch p.Code {
		case "damaged", "truncated", "encrypted", "bomb":
			return "", fmt.Errorf("%s cannot be %s. %s", f.Name, done, p.Message)
		}
	}
	if facts.Kind == "empty" {
		return "", fmt.Errorf("%s is empty", f.Name)
	}
	return facts.Kind, nil
}

func unfit(f inspect.Named, kind, form string) error {
	err := fmt.Errorf("%s is of the kind %s, which cannot be made into .%s", f.Name, kind, form)
	if list := becomes[sorts[kind]]; len(list) > 0 {
		err = fmt.Errorf("%w; choose %s", err, strings.Join(list, ", "))
	}
	return err
}

// packed puts files into a ZIP under their base names, in their order; most bytes, if it is not 0.
func packed(files []inspect.Named, most int64) (*Made, error) {
	data, names, err := archive.Pack(files, time.Now())
	if err != nil {
		return nil, err
	}
	m := &Made{Data: data}
	for _, name := range names {
		m.did("packed %s", name)
	}
	if most > 0 && int64(len(data)) > most {
		return nil, Over{int64(len(data)), most}
	}
	return m, nil
}
