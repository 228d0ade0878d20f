package httpapi

import (
	"database/sql"
	"errors"
	"io"
	"io/fs"
	"mime"
	"net/http"
	"path"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	"orario/core/inspect"
	"orario/internal/mariadb/query"
	"orario/internal/refusal"
	"orario/internal/takeout"
)

// owned serves uploads; their owner is in the request's context.
func owned(uploads http.Handler) gin.HandlerFunc {
	return func(c *gin.Context) { uploads.ServeHTTP(c.Writer, c.Request) }
}

func (s *Server) versionContent(c *gin.Context) {
	id, _ := strconv.ParseInt(c.Param("id"), 10, 64) // 0 is nobody's
	v, err := s.DB.VersionFile(c.Request.Context(), query.VersionFileParams{ID: id, StudentID: c.GetInt64(studentKey)})
	if form := inspect.Shown(v.Kind); form != "" && c.Query("show") != "" {
		s.send(c, v.Digest, v.Bytes, form, "inline", err)
		return
	}
	s.download(c, v.Name, v.Digest, v.Bytes, err)
}

func (s *Server) versionPages(c *gin.Context) {
	id, _ := strconv.ParseInt(c.Param("id"), 10, 64) // 0 is nobody's
	v, err := s.DB.VersionFile(c.Request.Context(), query.VersionFileParams{ID: id, StudentID: c.GetInt64(studentKey)})
	s.pages(c, v.Digest, v.Kind, v.Bytes, err)
}

// pages sends the pages of a document, as a PDF.
func (s *Server) pages(c *gin.Context, digest, kind string, size int64, err error) {
	var made query.LaidOutRow
	if err == nil {
		made, err = s.Workshop.Pages(c.Request.Context(), digest, kind, size)
	}
	s.send(c, made.Made, made.Bytes, "application/pdf", "inline", err)
}

func (s *Server) handoutContent(c *gin.Context) {
	id, _ := strconv.ParseInt(c.Param("id"), 10, 64)
	h, err := s.DB.Handout(c.Request.Context(), query.HandoutParams{ID: id, StudentID: c.GetInt64(studentKey)})
	s.download(c, h.Name, h.Digest, h.Bytes, err)
}

// download sends a file, always to be saved: what a file holds must not run as a page of this site.
func (s *Server) download(c *gin.Context, name, digest string, size int64, err error) {
	s.send(
		c,
		digest,
		size,
		"application/octet-stream",
		mime.FormatMediaType("attachment", map[string]string{"filename": name}),
		err,
	)
}

// send sends a content, or the range of it that is asked for (RFC 9110 §14), or says why not.
func (s *Server) send(c *gin.Context, digest string, size int64, form, disposition string, err error) {
	if errors.Is(err, sql.ErrNoRows) {
		err = refusal.ErrNotFound
	}
	content := &seeking{
		size: size,
		open: func(at int64) (io.Reader, error) { return s.Contents.Open(c.Request.Context(), digest, at) },
	}
	if err == nil {
		_, err = content.Seek(0, io.SeekStart)
	}
	if err != nil {
		s.fail(c, err)
		return
	}
	c.Header("Content-Disposition", disposition)
	c.Header("Content-Type", form)
	http.ServeContent(c.Writer, c.Request, "", time.Time{}, content)
}

// seeking reads a content of a known size from any place on.
type seeking struct {
	size, at int64
	from     io.Reader
	open     func(at int64) (io.Reader, error)
}

func (r *seeking) Seek(offset int64, whence int) (at int64, err error) {
	switch whence {
	case io.SeekCurrent:
		offset += r.at
	case io.SeekEnd:
		offset += r.size
	}
	if offset < 0 {
		return r.at, errors.New("before the beginning")
	}
	if r.from == nil || offset != r.at {
		if r.from, err = r.open(min(offset, r.size)); err != nil {
			return r.at, err
		}
	}
	r.at = offset
	return offset, nil
}

func (r *seeking) Read(p []byte) (n int, err error) {
	n, err = r.from.Read(p)
	r.at += int64(n)
	return n, err
}

// page serves the front end: its files by name, and its one page for every other address.
func (s *Server) page(c *gin.Context) {
	if strings.HasPrefix(c.Request.URL.Path, "/api/") {
		problem(c, http.StatusNotFound, "There is no such address.")
		return
	}
	if c.Request.Method != http.MethodGet && c.Request.Method != http.MethodHead {
		c.AbortWithStatus(http.StatusMethodNotAllowed)
		return
	}
	name := strings.TrimPrefix(path.Clean(c.Request.URL.Path), "/")
	if info, err := fs.Stat(s.Pages, name); err != nil || info.IsDir() {
		name = "index.html"
	}
	if strings.HasPrefix(name, "assets/") {
		c.Header("Cache-Control", "public, max-age=31536000, immutable") // their names hold a digest
	} else {
		c.Header("Cache-Control", "no-cache")
	}
	http.ServeFileFS(c.Writer, c.Request, s.Pages, name)
}

// feed is the calendar behind a secret link: whoever knows the link may read it.
func (s *Server) feed(c *gin.Context) {
	token, named := strings.CutSuffix(c.Param("name"), ".ics")
	if !named {
		token = "" // which is nobody's
	}
	text, err := s.Agenda.Published(c.Request.Context(), token)
	if err != nil {
		s.fail(c, err)
		return
	}
	c.Header("Cache-Control", "private, no-cache")
	c.Data(http.StatusOK, "text/calendar; charset=utf-8", []byte(text))
}

// table is all assignments as CSV.
func (s *Server) table(c *gin.Context) {
	text, err := s.Agenda.Table(c.Request.Context(), c.GetInt64(studentKey))
	if err != nil {
		s.fail(c, err)
		return
	}
	c.Header("Content-Disposition", `attachment; filename="assignments.csv"`)
	c.Data(http.StatusOK, "text/csv; charset=utf-8", []byte(text))
}

// export is everything that is kept of a student's, as a ZIP file. Once it has begun, a failure can only cut it off.
func (s *Server) export(c *gin.Context) {
	c.Header("Content-Type", "application/zip")
	c.Header("Content-Disposition", `attachment; filename="orario.zip"`)
	if err := takeout.Write(c.Request.Context(), s.DB.SQL, c.GetInt64(studentKey), c.Writer); err != nil {
		s.Log.Error("an export broke off", "error", err) // what arrived has no end, and is no ZIP file
	}
}
