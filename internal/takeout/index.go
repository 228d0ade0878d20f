package takeout

import (
	"context"
	"database/sql"
	"fmt"
	"html/template"
	"strings"
)

// index is a page that names every file, with where it was sent.
var index = template.Must(template.New("index").Parse(`<!doctype html>
<meta charset="utf-8">
<title>Files</title>
<style>body{font:15px/1.5 sans-serif;margin:2em}td,th{text-align:left;padding:2px 14px 2px 0;vertical-align:top}</style>
<h1>Files</h1>
<table>
<tr><th>added</th><th>file</th><th>made from</th><th>sent</th></tr>
{{range .}}<tr><td>{{.Added}}</td><td><a href="{{.Path}}">{{.Name}}</a></td><td>{{.From}}</td><td>{{.Sent}}</td></tr>
{{end}}</table>
`))

// indexed is a line of the index.
type indexed struct{ Added, Path, Name, From, Sent string }

func pathOf(v map[string]any) string {
	return fmt.Sprintf("files/%v-%s", v["id"], plain(fmt.Sprint(v["name"])))
}

// indexPage writes the index of versions.
func indexPage(ctx context.Context, tx *sql.Tx, student int64, versions []map[string]any) (string, error) {
	sent, err := records(ctx, tx, "SELECT f.version_id, GROUP_CONCAT(CONCAT(c.code, ', ', a.title, ', ', s.number) "+
		"ORDER BY s.id SEPARATOR '; ') AS places FROM submission_file f JOIN submission s ON s.id = f.submission_id "+
		"JOIN attempt t ON t.id = s.attempt_id JOIN part p ON p.id = t.part_id JOIN assignment a ON "+
		"a.id = p.assignment_id JOIN course c ON c.id = a.course_id WHERE s.student_id = ? AND s.state = 'accepted' "+
		"GROUP BY f.version_id", student)
	if err != nil {
		return "", fmt.Errorf("reading what was sent: %w", err)
	}
	places, names := map[string]string{}, map[string]string{}
	for _, s := range sent {
		places[fmt.Sprint(s["version_id"])] = fmt.Sprint(s["places"])
	}
	lines := make([]indexed, 0, len(versions))
	for _, v := range versions {
		id := fmt.Sprint(v["id"])
		names[id] = fmt.Sprint(v["name"])
		lines = append(lines, indexed{
			Added: strings.TrimSuffix(fmt.Sprint(v["created_at"]), " +0000 UTC"), Path: pathOf(v), Name: names[id],
			From: names[fmt.Sprint(v["made_from"])], Sent: places[id],
		})
	}
	var page strings.Builder
	err = index.Execute(&page, lines)
	return page.String(), err
}
