package prepare

import (
	"context"
	"database/sql"
	"encoding/json"
	"errors"
	"fmt"
	"strings"

	"orario/core/inspect"
	"orario/core/naming"
	"orario/internal/contents"
	"orario/internal/mariadb/query"
)

// mostText bounds what is kept of a file's text.
const mostText = 4 << 20

// arrived is a finished upload with its content.
type arrived struct {
	name, digest string
	data         []byte
}

func (s Service) arrived(ctx context.Context, student int64, upload string) (arrived, error) {
	file, err := s.Uploads.Finished(ctx, fmt.Sprint(student), upload)
	if errors.Is(err, contents.ErrNotFound) {
		return arrived{}, ErrNotFound
	}
	if err != nil {
		return arrived{}, err
	}
	name := file.MetaData["filename"]
	if name == "" {
		name = "unnamed"
	}
	data, err := s.Uploads.Read(ctx, file.Digest)
	return arrived{name, file.Digest, data}, err
}

// Upload reads a finished upload.
func (s Service) Upload(ctx context.Context, student int64, upload string) (name string, data []byte, err error) {
	file, err := s.arrived(ctx, student, upload)
	return file.name, file.data, err
}

// UploadText is the text of a finished upload: instructions as a document or as plain text.
func (s Service) UploadText(ctx context.Context, student int64, upload string) (string, error) {
	name, data, err := s.Upload(ctx, student, upload)
	if err != nil {
		return "", err
	}
	text, err := s.Tools.Text(ctx, inspect.Kind(name, data), data)
	if err != nil || strings.TrimSpace(text) == "" {
		return "", Complaint{fmt.Sprintf("There is no text to be read in %s. Paste the instructions, or give a PDF, a document or a text file.", name)}
	}
	return text, nil
}

// Keep puts a finished upload into the library.
func (s Service) Keep(ctx context.Context, student int64, upload string) (int64, error) {
	file, err := s.arrived(ctx, student, upload)
	if err != nil {
		return 0, err
	}
	version, _, err := s.version(ctx, student, file.name, file.digest, file.data, sql.NullInt64{})
	if err != nil {
		return 0, err
	}
	var id int64
	err = s.Store.InTx(ctx, func(q *query.Queries) error {
		id, err = q.AddVersion(ctx, version)
		return err
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

func (s Service) version(ctx context.Context, student int64, name, digest string, data []byte, from sql.NullInt64) (query.AddVersionParams, *inspect.Facts, error) {
	facts := s.Tools.Facts(ctx, name, data)
	text, err := s.Tools.Text(ctx, facts.Kind, data)
	if err != nil || len(text) > mostText {
		text = "" // the facts tell what is wrong with it
	}
	encoded, err := json.Marshal(facts)
	return query.AddVersionParams{
		StudentID: student, Name: clipName(name), Digest: digest, Bytes: int64(len(data)), Kind: facts.Kind, Facts: encoded, Body: text, MadeFrom: from, CreatedAt: s.Now().UTC(),
	}, facts, err
}
