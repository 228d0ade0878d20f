// Package wording writes amounts as a person reads them: lengths of time, work, sizes, counts and times of
// day as a timetable prints them. It knows no rules.
package wording

import (
	"fmt"
	"math"
	"strings"
	"time"
	"unicode/utf8"
)

// TimeForm is how a timetable prints an instant, and WallForm how a wall time is written down.
const (
	TimeForm = "Mon 2 Jan 15:04"
	WallForm = "2006-01-02T15:04"
)

// Span writes a length of time in its two largest units: "3 d 9 h", "2 h 10 min", "5 min".
func Span(d time.Duration) string {
	minutes := int(d.Round(time.Minute) / time.Minute)
	switch {
	case minutes >= 48*60:
		return fmt.Sprintf("%d d %d h", minutes/1440, minutes%1440/60)
	case minutes >= 60 && minutes%60 != 0:
		return fmt.Sprintf("%d h %d min", minutes/60, minutes%60)
	case minutes >= 60:
		return fmt.Sprintf("%d h", minutes/60)
	}
	return fmt.Sprintf("%d min", minutes)
}

// Work writes an amount of work, in hours and minutes however much it is: "21 h 50 min".
func Work(d time.Duration) string {
	minutes := int(d.Round(time.Minute) / time.Minute)
	if minutes < 60 || minutes%60 != 0 && minutes < 48*60 {
		return Span(d)
	}
	return fmt.Sprintf("%d h", (minutes+30)/60)
}

// Bytes writes a size in decimal units, as requirements do (1 MB is 1,000,000 bytes).
func Bytes(n int64) string {
	switch {
	case n >= 1_000_000_000:
		return tenths(float64(n)/1e9) + " GB"
	case n >= 1_000_000:
		return tenths(float64(n)/1e6) + " MB"
	case n >= 1_000:
		return fmt.Sprintf("%d kB", (n+500)/1000)
	}
	return fmt.Sprintf("%d bytes", n)
}

func tenths(f float64) string { return strings.TrimSuffix(fmt.Sprintf("%.1f", f), ".0") }

// Count writes how many of something there are: "1 file", "3 files".
func Count(n int, one, many string) string {
	if n == 1 {
		return "1 " + one
	}
	return Thousands(n) + " " + many
}

// Thousands writes a whole number with its thousands apart: "12,345".
func Thousands(n int) string {
	text := fmt.Sprint(n)
	first := 0
	if n < 0 {
		first = 1
	}
	for i := len(text) - 3; i > first; i -= 3 {
		text = text[:i] + "," + text[i:]
	}
	return text
}

// OfTheCourse writes a share of a course's mark, in percent to a tenth.
func OfTheCourse(percent float64) string {
	return fmt.Sprintf("%g %% of a course's mark", math.Round(percent*10)/10)
}

// Wall writes a wall time (see [WallForm]) as a timetable prints it; other text stays as it is.
func Wall(wall string) string {
	at, err := time.Parse(WallForm, wall)
	if err != nil {
		return wall
	}
	return at.Format(TimeForm)
}

// Upper is text with its first letter in upper case, unless it begins with the name of a file, which stays as it is.
func Upper(text string) string {
	first, size := utf8.DecodeRuneInString(text)
	word, _, _ := strings.Cut(text, " ")
	if dot := strings.LastIndexByte(word, '.'); size == 0 || dot > 0 && dot < len(word)-1 {
		return text
	}
	return strings.ToUpper(string(first)) + text[size:]
}

// Clip cuts a text to so many code points at the most.
func Clip(text string, most int) string {
	if utf8.RuneCountInString(text) <= most {
		return text
	}
	return string([]rune(text)[:most])
}
