package demo

import (
	"bytes"
	"context"
	"fmt"
	"strings"

	api "orario/internal/campus/campusapi"
)

// handouts are what the instructors give out, by the assignment's key: a template with gaps, readings that are packed,
// and a worksheet to be written on.
func (p *player) handouts(ctx context.Context) (map[string][]api.Handout, error) {
	template := DOCX("Oda Farrobo", "Lab 4: Tide tables against the gauge",
		"# Purpose", "[Your text]", "# Method", "# Result", "# Discussion")
	all := map[string][]api.Handout{}
	for _, h := range []struct {
		key, name string
		data      []byte
	}{
		{"hyd-lab-4", "lab4-template.docx", template},
		{"hyd-lab-4", "lab4-gauge.zip", archive([][2]string{
			{"lab4/gauge-south-quay.csv", "time,metres\n00:00,1.42\n00:15,1.51\n00:30,1.63\n"},
			{"lab4/how-it-was-read.txt", "Every quarter of an hour, by float.\n"},
		})},
		{"prb-sheet-6", "sheet6.pdf", Worksheet("Sheet 6: waiting times",
			"A ferry leaves every 20 minutes. You come at any time. What is your mean wait?",
			"The same, if every third ferry is left out.",
			"How likely is a wait of more than 30 minutes?",
			"Draw the distribution of the wait.")},
	} {
		digest, size, err := p.Campus.AddHandout(ctx, h.data)
		if err != nil {
			return nil, err
		}
		all[h.key] = append(all[h.key], api.Handout{Name: h.name, Bytes: size, Digest: digest})
	}
	return all, nil
}

// Worksheet writes a PDF (ISO 32000-1) to be written on: a title, fields for name and number, and exercises with ruled
// lines under them. It holds ASCII only.
func Worksheet(title string, exercises ...string) []byte {
	var page strings.Builder
	text := func(size, x, y int, words string) {
		words = strings.NewReplacer(`\`, `\\`, "(", `\(`, ")", `\)`).Replace(words)
		fmt.Fprintf(&page, "BT /F %d Tf %d %d Td (%s) Tj ET\n", size, x, y, words)
	}
	text(18, 60, 770, title)
	text(10, 60, 738, "Name")
	text(10, 340, 738, "Number")
	y := 690
	for n, exercise := range exercises {
		text(11, 60, y, fmt.Sprintf("%d.  %s", n+1, exercise))
		page.WriteString("0.6 w 0.75 G\n")
		for line := 1; line <= 5; line++ {
			fmt.Fprintf(&page, "60 %d m 535 %d l S\n", y-line*22, y-line*22)
		}
		y -= 150
	}
	field := func(name string, x, right int) string {
		return fmt.Sprintf("<</Type/Annot/Subtype/Widget/FT/Tx/T(%s)/Rect[%d 732 %d 750]/F 4/P 3 0 R/DA(/F 11 Tf 0 g)>>",
			name, x, right)
	}
	objects := []string{
		"<</Type/Catalog/Pages 2 0 R/AcroForm<</Fields[6 0 R 7 0 R]/DA(/F 11 Tf 0 g)/DR<</Font<</F 5 0 R>>>>>>>>",
		"<</Type/Pages/Kids[3 0 R]/Count 1>>",
		"<</Type/Page/Parent 2 0 R/MediaBox[0 0 595 842]/Contents 4 0 R/Resources<</Font<</F 5 0 R>>>>/Annots[6 0 R 7 0 R]>>",
		fmt.Sprintf("<</Length %d>>\nstream\n%s\nendstream", page.Len(), page.String()),
		"<</Type/Font/Subtype/Type1/BaseFont/Helvetica>>",
		field("name", 100, 320), field("number", 390, 535),
	}
	var out bytes.Buffer
	out.WriteString("%PDF-1.5\n")
	var at []int
	for n, o := range objects {
		at = append(at, out.Len())
		fmt.Fprintf(&out, "%d 0 obj\n%s\nendobj\n", n+1, o)
	}
	table := out.Len()
	fmt.Fprintf(&out, "xref\n0 %d\n0000000000 65535 f \n", len(objects)+1)
	for _, offset := range at {
		fmt.Fprintf(&out, "%010d 00000 n \n", offset)
	}
	fmt.Fprintf(&out, "trailer\n<</Size %d/Root 1 0 R>>\nstartxref\n%d\n%%%%EOF\n", len(objects)+1, table)
	return out.Bytes()
}
