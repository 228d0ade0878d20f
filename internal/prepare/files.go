package prepare

import (
	"cmp"
	"context"
	"encoding/json"
	"errors"
	"fmt"
	"io"
	"strings"
	"time"

	"orario/core/inspect"
	"orario/core/naming"
	"orario/internal/announce"
	"orario/internal/contents"
	"orario/internal/mariadb"
	"orario/internal/mariadb/query"
	"orario/internal/refusal"
)

// mostText bounds what is kept of a file's text.
const mostText = 4 << 20

// arrived is a finished upload of a student.
func (s Service) arrived(ctx context.Context, student int64, upload string) (inspect.Stored, error) {
	file, err := s.Uploads.Finished(ctx, fmt.Sprint(student), upload)
	if errors.Is(err, contents.ErrNotFound) {
		return inspect.Stored{}, refusal.ErrNotFound
	}
	return inspect.Stored{
		Name:   cmp.Or(file.MetaData["filename"], "unnamed"),
		Bytes:  file.Bytes,
		SHA256: file.Digest,
	}, err
}

// look finds a stored file's facts and text.
func (s Service) look(ctx context.Context, file inspect.Stored) (*inspect.Facts, string, error) {
	return s.Tools.Look(ctx, file, func() (io.Reader, error) { return s.Uploads.Open(ctx, file.SHA256, 0) })
}

// TextOf is the text in a stored file; empty where there is none to be read.
func (s Service) TextOf(ctx context.Context, file inspect.Stored) (string, error) {
	_, text, err := s.look(ctx, file)
	return text, err
}

// Upload reads a finished upload of at most so many bytes.
func (s Service) Upload(
	ctx context.Context,
	student int64,
	upload string,
	most int64,
) (name string, data []byte, err error) {
	file, err := s.arrived(ctx, student, upload)
	if err != nil {
		return "", nil, err
	}
	if file.Bytes > most {
		return "", nil, refusal.Say("%s is too large to be read here. Choose a smaller file.", file.Name)
	}
	data, err = s.Uploads.Read(ctx, file.SHA256)
	return file.Name, data, err
}

// UploadText is the text of a finished upload: instructions as a document or as plain text.
func (s Service) UploadText(ctx context.Context, student int64, upload string) (string, error) {
	file, err := s.arrived(ctx, student, upload)
	if err != nil {
		return "", err
	}
	_, text, err := s.look(ctx, file)
	if err == nil && strings.TrimSpace(text) == "" {
		err = refusal.Say(
			"There is no text to be read in %s. Paste the instructions, or give a PDF, a document or a text file.",
			file.Name,
		)
	}
	return text, err
}

// Keep puts a finished upload into the library.
func (s Service) Keep(ctx context.Context, student int64, upload string) (int64, error) {
	file, err := s.arrived(ctx, student, upload)
	if err != nil {
		return 0, err
	}
	return s.keep(ctx, student, file)
}

// Bring puts what is read into the library, under a name.
func (s Service) Bring(ctx context.Context, student int64, name string, r io.Reader) (int64, error) {
	digest, size, err := s.Uploads.Put(ctx, r)
	if err != nil {
		return 0, fmt.Errorf("keeping %s: %w", name, err)
	}
	return s.keep(ctx, student, inspect.Stored{Name: name, Bytes: size, SHA256: digest})
}

// keep puts a stored file into the library.
func (s Service) keep(ctx context.Context, student int64, file inspect.Stored) (int64, error) {
	version, facts, err := s.version(ctx, student, file, 0)
	if err != nil {
		return 0, err
	}
	var id int64
	err = s.Store.InTx(ctx, func(q *query.Queries) error {
		if id, err = s.addVersion(ctx, q, version, facts); err != nil {
			return err
		}
		return announce.Tell(ctx, q, s.Now(), announce.Event{Student: student, Kind: announce.Library})
	})
	return id, err
}

func clipName(name string) string {
	for len([]rune(name)) > naming.MaxBytes {
		stem, ext := naming.Split(name)
		runes := []rune(stem)
		name = string(runes[:naming.MaxBytes-len(ext)-1]) + "." + ext
	}
	return name
}

// version is a stored file as a version of the library, with its facts; from is the version that it was made from,
// or 0.
func (s Service) version(
	ctx context.Context,
	student int64,
	file inspect.Stored,
	from int64,
) (query.AddVersionParams, *inspect.Facts, error) {
	facts, text, err := s.look(ctx, file)
	if err != nil {
		return query.AddVersionParams{}, nil, fmt.Errorf("looking at %s: %w", file.Name, err)
	}
	if len(text) > mostText {
		text = ""
	}
	encoded, err := json.Marshal(facts)
	return query.AddVersionParams{
		StudentID: student,
		Name:      clipName(file.Name),
		Digest:    file.SHA256,
		Bytes:     file.Bytes,
		Kind:      facts.Kind,
		Facts:     encoded,
		Body:      text,
		MadeFrom:  mariadb.NullInt(from),
		CreatedAt: s.Now().UTC(),
	}, facts, err
}

// LookJob is the kind of the job that looks again at a version that could not be looked at.
const LookJob = "look"

// addVersion puts a version into the library, if it finds room; one that could not be looked at is looked at again.
func (s Service) addVersion(
	ctx context.Context,
	q *query.Queries,
	version query.AddVersionParams,
	facts *inspect.Facts,
) (int64, error) {
	id, err := q.AddVersion(ctx, version)
	if err != nil {
		return 0, fmt.Errorf("keeping %s: %w", version.Name, err)
	}
	if err := s.Fits(ctx, q, version.StudentID); err != nil {
		return 0, err
	}
	if facts.Unseen() {
		err = q.AddJob(ctx, query.AddJobParams{
			Kind: LookJob, Subject: id, StudentID: version.StudentID, RunAt: s.Now().UTC(),
		})
	}
	return id, err
}

// LookAgain is the handler of [LookJob].
func (s Service) LookAgain(ctx context.Context, job query.Job) (time.Duration, error) {
	v, err := s.Store.Version(ctx, query.VersionParams{ID: job.Subject, StudentID: job.StudentID})
	if err != nil {
		return 0, mariadb.Final{Err: err} // it was removed in the meantime
	}
	file := inspect.Stored{Name: v.Name, Bytes: v.Bytes, SHA256: v.Digest}
	version, facts, err := s.version(ctx, job.StudentID, file, 0)
	if err != nil {
		return 0, err
	}
	if facts.Unseen() {
		return 0, fmt.Errorf("%s cannot be looked at: %s", v.Name, facts.Problems[0].Message)
	}
	return 0, s.Store.InTx(ctx, func(q *query.Queries) error {
		err := q.SetVersionFacts(ctx, query.SetVersionFactsParams{
			Kind: version.Kind, Facts: version.Facts, Body: version.Body, ID: v.ID, StudentID: job.StudentID,
		})
		if err != nil {
			return err
		}
		return s.tell(ctx, q, job.StudentID, 0, v.Name+" has been looked at.")
	})
}
