package campus

import (
	"bytes"
	"embed"
	"encoding/json"
	"fmt"
	"html/template"
	"io"
	"net/http"
	"strconv"
	"strings"
	"time"

	"github.com/gin-gonic/gin"

	api "orario/internal/campus/campusapi"
	"orario/internal/contents"
)

//go:embed pages/*.html
var pageFiles embed.FS

var pageTemplates = template.Must(template.New("").Funcs(template.FuncMap{
	"when": func(t time.Time) string { return t.Format("2 Jan 2006, 15:04") + " UTC" },
}).ParseFS(pageFiles, "pages/*.html"))

// pages are the site's own web pages. They ask for no sign-in: the practice campus stands on loopback,
// and practising both sides of the desk is what it is for.
func (c *Campus) pages(r *gin.Engine) {
	r.GET("/", c.page("catalogue", c.catalogue))
	r.GET("/mailbox", c.page("mailbox", c.mailbox))
	r.GET("/control", c.page("control", c.control))
	r.POST("/control", c.changeControl)
	r.GET("/marking", c.page("marking", c.marking))
	r.GET("/marking/:number", c.page("submission", c.submissionPage))
	r.POST("/marking/:number", c.mark)
	r.GET("/marking/:number/files/:digest", c.submittedFile)
}

func (c *Campus) page(name string, data func(*gin.Context) (any, error)) gin.HandlerFunc {
	return func(g *gin.Context) {
		content, err := data(g)
		if err != nil {
			c.log.Error("a page failed", "path", g.Request.URL.Path, "error", err)
			g.String(http.StatusInternalServerError, "The page could not be made. Go back and try again.")
			return
		}
		now, err := c.now(g.Request.Context())
		if err != nil {
			g.String(http.StatusInternalServerError, "The campus's clock cannot be read.")
			return
		}
		var b bytes.Buffer
		if err := pageTemplates.ExecuteTemplate(
			&b,
			name+".html",
			map[string]any{"Name": Name, "Now": now, "Page": name, "Data": content},
		); err != nil {
			c.log.Error("a page failed", "path", g.Request.URL.Path, "error", err)
			g.String(http.StatusInternalServerError, "The page could not be made. Go back and try again.")
			return
		}
		g.Header("Content-Security-Policy", "default-src 'none'; style-src 'unsafe-inline'; form-action 'self'")
		g.Data(http.StatusOK, "text/html; charset=utf-8", b.Bytes())
	}
}

func (c *Campus) catalogue(g *gin.Context) (any, error) {
	courses, err := c.courses(g.Request.Context())
	if err != nil {
		return nil, err
	}
	assignments, err := c.assignments(g.Request.Context())
	type entry struct {
		api.Course
		Assignments []api.Assignment
	}
	var list []entry
	for _, course := range courses {
		e := entry{Course: course}
		for _, a := range assignments {
			if a.Course == course.Key {
				e.Assignments = append(e.Assignments, a)
			}
		}
		list = append(list, e)
	}
	return list, err
}

type letter struct {
	Recipient, Subject, Body string
	SentAt                   time.Time
}

func (c *Campus) mailbox(g *gin.Context) (any, error) {
	rows, err := c.db.QueryContext(
		g.Request.Context(),
		"SELECT recipient, subject, body, sent_at FROM mail ORDER BY id DESC LIMIT 100",
	)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var list []letter
	for rows.Next() {
		var l letter
		if err := rows.Scan(&l.Recipient, &l.Subject, &l.Body, &l.SentAt); err != nil {
			return nil, err
		}
		list = append(list, l)
	}
	return list, rows.Err()
}

func (c *Campus) control(g *gin.Context) (any, error) {
	f, err := c.faults(g.Request.Context())
	if err != nil {
		return nil, err
	}
	speed, err := c.setting(g.Request.Context(), "speed", "1")
	if err != nil {
		return nil, err
	}
	offset, err := c.setting(g.Request.Context(), "clock_offset", "0s")
	return map[string]any{"Faults": f, "Speed": speed, "Offset": offset}, err
}

func (c *Campus) changeControl(g *gin.Context) {
	err := func() error {
		if forward := g.PostForm("forward"); forward != "" {
			step, err := time.ParseDuration(forward)
			if err != nil {
				return fmt.Errorf("%q is no length of time; write 90m or 24h", forward)
			}
			text, err := c.setting(g.Request.Context(), "clock_offset", "0s")
			if err != nil {
				return err
			}
			offset, err := time.ParseDuration(text)
			if err != nil {
				return err
			}
			return c.MoveClock(g.Request.Context(), offset+step)
		}
		if text := g.PostForm("speed"); text != "" {
			speed, err := strconv.ParseFloat(text, 64)
			if err != nil || speed < 1 || speed > 100_000 {
				return fmt.Errorf("the speed is a number from 1 to 100000")
			}
			return c.SetSpeed(g.Request.Context(), speed)
		}
		return c.SetFaults(g.Request.Context(), Faults{
			g.PostForm("slow") != "",
			g.PostForm("refuse") != "",
			g.PostForm("cut") != "",
			g.PostForm("lose") != "",
		})
	}()
	if err != nil {
		g.String(http.StatusBadRequest, "%s", err)
		return
	}
	g.Redirect(http.StatusSeeOther, "/control")
}

type received struct {
	Number, Student, Assignment, Comment string
	Attempt                              int
	ReceivedAt                           time.Time
	Mark                                 *float64
	Invited                              bool
	Comments                             []api.Comment
	Files                                []api.DraftFile
	Points                               float64
}

const receivedQuery = `SELECT s.number, t.name, s.assignment_key, s.attempt, s.received_at, s.comment,
	s.mark, s.invited, s.comments, s.files
	FROM submission s JOIN student t ON t.id = s.student_id WHERE s.number IS NOT NULL`

func (c *Campus) received(g *gin.Context, query string, args ...any) ([]received, error) {
	rows, err := c.db.QueryContext(g.Request.Context(), query, args...)
	if err != nil {
		return nil, err
	}
	defer rows.Close()
	var list []received
	for rows.Next() {
		var r received
		var comments, files []byte
		if err := rows.Scan(
			&r.Number,
			&r.Student,
			&r.Assignment,
			&r.Attempt,
			&r.ReceivedAt,
			&r.Comment,
			&r.Mark,
			&r.Invited,
			&comments,
			&files,
		); err != nil {
			return nil, err
		}
		if err := json.Unmarshal(comments, &r.Comments); err != nil {
			return nil, err
		}
		if err := json.Unmarshal(files, &r.Files); err != nil {
			return nil, err
		}
		list = append(list, r)
	}
	return list, rows.Err()
}

func (c *Campus) marking(g *gin.Context) (any, error) {
	return c.received(g, receivedQuery+" ORDER BY s.id DESC LIMIT 200")
}

func (c *Campus) submissionPage(g *gin.Context) (any, error) {
	list, err := c.received(g, receivedQuery+" AND s.number = ?", g.Param("number"))
	if err != nil {
		return nil, err
	}
	if len(list) == 0 {
		return nil, fmt.Errorf("no submission %q", g.Param("number"))
	}
	a, err := c.assignment(g.Request.Context(), list[0].Assignment)
	list[0].Points = a.Points
	return list[0], err
}

// Remarks reads an instructor's lines: "text", or "points: text" for what asks for a correction.
func remarks(text string) []api.Comment {
	list := []api.Comment{}
	for line := range strings.Lines(text) {
		if line = strings.TrimSpace(line); line == "" {
			continue
		}
		comment := api.Comment{Text: line}
		if before, after, ok := strings.Cut(line, ":"); ok {
			if points, err := strconv.ParseFloat(strings.TrimSpace(before), 64); err == nil {
				comment = api.Comment{Text: strings.TrimSpace(after), Open: true, Points: &points}
			}
		}
		list = append(list, comment)
	}
	return list
}

// Mark stores an instructor's mark, remarks and invitation.
func (c *Campus) mark(g *gin.Context) {
	content, err := c.submissionPage(g)
	if err != nil {
		g.String(http.StatusNotFound, "There is no such submission.")
		return
	}
	r := content.(received)
	mark, err := strconv.ParseFloat(g.PostForm("mark"), 64)
	if err != nil || mark < 0 || mark > r.Points {
		g.String(http.StatusBadRequest, "The mark is a number from 0 to %g.", r.Points)
		return
	}
	invited := g.PostForm("invited") != ""
	if err := c.Return(g.Request.Context(), r.Number, mark, remarks(g.PostForm("comments")), invited); err != nil {
		c.log.Error("a mark was not stored", "submission", r.Number, "error", err)
		g.String(http.StatusInternalServerError, "The mark could not be stored. Go back and try again.")
		return
	}
	g.Redirect(http.StatusSeeOther, "/marking")
}

func (c *Campus) submittedFile(g *gin.Context) {
	list, err := c.received(g, receivedQuery+" AND s.number = ?", g.Param("number"))
	if err == nil && len(list) == 1 {
		for _, f := range list[0].Files {
			if f.Sha256 != g.Param("digest") {
				continue
			}
			r, err := contents.Store{DB: c.db}.Open(g.Request.Context(), f.Sha256, 0)
			if err != nil {
				break
			}
			g.Header("Content-Disposition", fmt.Sprintf("attachment; filename=%q", f.Name))
			g.Header("Content-Type", "application/octet-stream")
			_, _ = io.Copy(g.Writer, r)
			return
		}
	}
	g.String(http.StatusNotFound, "There is no such file.")
}
