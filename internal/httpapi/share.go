package httpapi

import (
	"errors"
	"fmt"
	"io"
	"net/http"
	"strings"

	"github.com/gin-gonic/gin"
)

// mostShared bounds the words that come with what is shared.
const mostShared = 64 << 10

// share takes what another program shares to the installed page (W3C Web Share Target) into the library: its files, and
// the words and the address that come with them as a text file. It leads to the library.
func (s *Server) share(c *gin.Context) {
	student := c.GetInt64(studentKey)
	if c.Request.ContentLength < 0 {
		problem(c, http.StatusLengthRequired, "What is shared has to say how long it is. Add the file by its bundle.")
		return
	}
	if err := s.Prepare.Admit(c.Request.Context(), fmt.Sprint(student), c.Request.ContentLength); err != nil {
		s.fail(c, err)
		return
	}
	c.Request.Body = http.MaxBytesReader(c.Writer, c.Request.Body, maxUpload)
	parts, err := c.Request.MultipartReader()
	if err != nil {
		malformed(c, err)
		return
	}
	var words, came []string
	for {
		part, err := parts.NextPart()
		if errors.Is(err, io.EOF) {
			break
		}
		if err != nil {
			malformed(c, err)
			return
		}
		if part.FileName() == "" {
			text, err := io.ReadAll(io.LimitReader(part, mostShared))
			if err != nil {
				malformed(c, err)
				return
			}
			if len(text) > 0 {
				words = append(words, string(text))
			}
			continue
		}
		id, err := s.Prepare.Bring(c.Request.Context(), student, part.FileName(), part)
		if err != nil {
			s.fail(c, err)
			return
		}
		came = append(came, fmt.Sprint(id))
	}
	if len(words) > 0 {
		text := strings.NewReader(strings.Join(words, "\n") + "\n")
		id, err := s.Prepare.Bring(c.Request.Context(), student, "shared.txt", text)
		if err != nil {
			s.fail(c, err)
			return
		}
		came = append(came, fmt.Sprint(id))
	}
	c.Redirect(http.StatusSeeOther, "/library?came="+strings.Join(came, ",")) // where it is asked where they belong
}
