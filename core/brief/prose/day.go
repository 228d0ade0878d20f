package prose

import (
	"fmt"
	"strings"
	"time"
)

// almanac is what a day is settled with. Days are midnights in UTC.
type almanac struct {
	today time.Time
	from  time.Time // the earliest that it can be: today, or for closes the day of due
	upTo  time.Time // for opens: the day of due; else zero
	order string    // of slashed dates in this text: "dm", "md" or not known
}

// day is a date as written; settle is its date, or the question that it leaves.
type day struct {
	span
	settle func(almanac) (date time.Time, question string)
	part   string // of the day, named with it: "Friday evening"
	whole  bool   // the end of the day is named: no time is missing
	event  bool   // not a date, but something that has one elsewhere
	fixed  bool   // a full date or one with a month
	slash  [2]int
	week   int // weekday named with a slashed date, 0 for none, Sunday 7
}

var months = map[string]time.Month{
	"january":   1,
	"february":  2,
	"march":     3,
	"april":     4,
	"may":       5,
	"june":      6,
	"july":      7,
	"august":    8,
	"september": 9,
	"october":   10,
	"november":  11,
	"december":  12,
	"jan":       1,
	"feb":       2,
	"mar":       3,
	"apr":       4,
	"jun":       6,
	"jul":       7,
	"aug":       8,
	"sep":       9,
	"sept":      9,
	"oct":       10,
	"nov":       11,
	"dec":       12,
	// Of languages that many instructions in English keep on their forms.
	"januar": 1, "januari": 1, "janvier": 1, "enero": 1, "janeiro": 1, "gennaio": 1,
	"februar": 2, "februari": 2, "febrero": 2, "fevereiro": 2, "febbraio": 2,
	"maerz": 3, "marzo": 3, "maart": 3, "avril": 4, "abril": 4, "aprile": 4,
	"mai": 5, "mayo": 5, "maj": 5, "maio": 5, "maggio": 5, "mei": 5,
	"juni": 6, "juin": 6, "junio": 6, "junho": 6, "giugno": 6, "juli": 7, "juillet": 7, "julio": 7, "julho": 7, "luglio": 7,
	"agosto": 8, "augusti": 8, "augustus": 8, "septembre": 9, "septiembre": 9, "setembro": 9, "settembre": 9,
	"oktober": 10, "octobre": 10, "octubre": 10, "outubro": 10, "ottobre": 10, "okt": 10,
	"novembre": 11, "noviembre": 11, "novembro": 11,
	"dezember": 12, "diciembre": 12, "dezembro": 12, "dicembre": 12, "dez": 12,
}

var weekdays = map[string]int{
	"monday":    1,
	"tuesday":   2,
	"wednesday": 3,
	"thursday":  4,
	"friday":    5,
	"saturday":  6,
	"sunday":    7,
	"mon":       1,
	"tue":       2,
	"tues":      2,
	"wed":       3,
	"thu":       4,
	"thur":      4,
	"thurs":     4,
	"fri":       5,
	"sat":       6,
	"sun":       7,
	"mondays":   0,
}

var shortWeekdays = map[string]int{"mo": 1, "tu": 2, "we": 3, "th": 4, "fr": 5, "sa": 6, "su": 7}

var weekdayNames = []string{"", "Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"}

func weekday(d time.Time) int { return (int(d.Weekday())+6)%7 + 1 }

func ymd(y int, m time.Month, d int) time.Time { return time.Date(y, m, d, 0, 0, 0, 0, time.UTC) }

// dated is a day of a month, in a year or without one (0), with a weekday to agree with or none (0).
func dated(year int, month time.Month, dayOf, week int) func(almanac) (time.Time, string) {
	return func(a almanac) (time.Time, string) {
		if year >= farYear {
			return time.Time{}, fmt.Sprintf("No course has a time in the year %d; which year is meant?", year)
		}
		date := ymd(year, month, dayOf)
		if year == 0 {
			date = ymd(a.from.Year(), month, dayOf)
			if month == time.February && dayOf == 29 {
				for y := a.from.Year(); date.Day() != 29 || date.Before(a.from); y++ {
					date = ymd(y, month, dayOf)
				}
			} else if date.Before(a.from) {
				date = ymd(a.from.Year()+1, month, dayOf)
			}
			if !a.upTo.IsZero() { // opens: the last before due
				for date = ymd(a.upTo.Year(), month, dayOf); date.After(a.upTo); {
					date = ymd(date.Year()-1, month, dayOf)
				}
			}
		}
		if soon := ymd(a.today.Year(), month, dayOf); year == 0 && week != 0 && weekday(date) != week &&
			weekday(soon) == week && !soon.Before(a.today) {
			date = soon // the weekday tells the year
		}
		if date.Day() != dayOf || dayOf == 0 {
			return date, "There is no such day; which date is meant?"
		}
		if week != 0 && weekday(date) != week {
			return date, "The weekday and the date do not agree: " + date.Format(
				"2 January 2006",
			) + " is a " + date.Weekday().
				String() +
				". Which is meant?"
		}
		return date, ""
	}
}

// nextWeekday is the first such weekday on or after a day.
func nextWeekday(from time.Time, week int) time.Time {
	return from.AddDate(0, 0, (week-weekday(from)+7)%7)
}

func onWeekday(week, plusDays int) func(almanac) (time.Time, string) {
	return func(a almanac) (time.Time, string) {
		date := nextWeekday(a.from, week).AddDate(0, 0, plusDays)
		if !a.upTo.IsZero() && date.After(a.upTo) {
			date = date.AddDate(0, 0, -7*((int(date.Sub(a.upTo).Hours()/24)+6)/7))
		}
		return date, ""
	}
}

// weekdayOfNextWeek is settled only where the first such day after today lies in the week after this.
func weekdayOfNextWeek(week int) func(almanac) (time.Time, string) {
	return func(a almanac) (time.Time, string) {
		date := nextWeekday(a.today.AddDate(0, 0, 1), week)
		monday := a.today.AddDate(0, 0, 1-weekday(a.today))
		if date.Before(monday.AddDate(0, 0, 7)) {
			name := weekdayNames[week]
			return date, "Which " + name + " is meant: " + date.Format(
				"2 January",
			) + " or " + date.AddDate(0, 0, 7).
				Format("2 January") +
				"?"
		}
		return date, ""
	}
}

// inWeek is a weekday of this week (0), the next (1) and so on, Monday to Sunday.
func inWeek(n, week int) func(almanac) (time.Time, string) {
	return func(a almanac) (time.Time, string) { return a.today.AddDate(0, 0, 7*n+week-weekday(a.today)), "" }
}

func inDays(n int) func(almanac) (time.Time, string) {
	return func(a almanac) (time.Time, string) { return a.today.AddDate(0, 0, n), "" }
}

func asked(question string) func(almanac) (time.Time, string) {
	return func(almanac) (time.Time, string) { return time.Time{}, question }
}

// dayOfMonth is the first such day on or after: "the 13th", "Monday the 6th".
func dayOfMonth(dayOf, week int) func(almanac) (time.Time, string) {
	return func(a almanac) (time.Time, string) {
		from := a.from
		if !a.upTo.IsZero() {
			for date := a.upTo; date.After(a.upTo.AddDate(-2, 0, 0)); date = date.AddDate(0, 0, -1) {
				if date.Day() == dayOf && (week == 0 || weekday(date) == week) {
					return date, ""
				}
			}
		}
		for date := from; date.Before(from.AddDate(8, 0, 0)); date = date.AddDate(0, 0, 1) {
			if date.Day() == dayOf && (week == 0 || weekday(date) == week) {
				return date, ""
			}
		}
		return from, "There is no such day; which date is meant?"
	}
}

// nthWeekday is the nth such weekday of a month, the last for n < 0; month 0 is that of now, 13 the next.
func nthWeekday(n, week int, month time.Month, year int) func(almanac) (time.Time, string) {
	return func(a almanac) (time.Time, string) {
		find := func(y int, m time.Month) time.Time {
			if n < 0 {
				last := ymd(y, m+1, 0)
				return last.AddDate(0, 0, -((weekday(last) - week + 7) % 7))
			}
			return nextWeekday(ymd(y, m, 1), week).AddDate(0, 0, 7*(n-1))
		}
		switch {
		case month == 0:
			return find(a.today.Year(), a.today.Month()), ""
		case month == 13:
			return find(a.today.Year(), a.today.Month()+1), ""
		case year != 0:
			return find(year, month), ""
		}
		date := find(a.from.Year(), month)
		if date.Before(a.from) {
			date = find(a.from.Year()+1, month)
		}
		if !a.upTo.IsZero() && date.After(a.upTo) {
			date = find(date.Year()-1, month)
		}
		return date, ""
	}
}

func endOfMonth(month time.Month, year int) func(almanac) (time.Time, string) {
	return func(a almanac) (time.Time, string) {
		switch {
		case month == 0:
			return ymd(a.today.Year(), a.today.Month()+1, 0), ""
		case month == 13:
			return ymd(a.today.Year(), a.today.Month()+2, 0), ""
		case year != 0:
			return ymd(year, month+1, 0), ""
		}
		date := ymd(a.from.Year(), month+1, 0)
		if date.Before(a.from) {
			date = ymd(a.from.Year()+1, month+1, 0)
		}
		return date, ""
	}
}

// slashed is a date with slashes; the order is settled by a number over 12, by equal numbers, by the
// weekday, or by another such date of the text.
func slashed(a1, b1, year, week int) func(almanac) (time.Time, string) {
	return func(a almanac) (time.Time, string) {
		dm, md := dated(year, time.Month(b1), a1, week), dated(year, time.Month(a1), b1, week)
		switch order := slashOrder(a1, b1, year, week, a); {
		case a1 > 12 && b1 > 12:
			return time.Time{}, "There is no such date; which is meant?"
		case order == "dm" || a1 == b1:
			return dm(a)
		case order == "md":
			return md(a)
		case a.order == "dm":
			return dm(a)
		case a.order == "md":
			return md(a)
		}
		x, _ := dated(year, time.Month(b1), a1, 0)(a)
		y, _ := dated(year, time.Month(a1), b1, 0)(a)
		return x, "Is the day or the month first: " + x.Format("2 January") + " or " + y.Format("2 January") + "?"
	}
}

func slashOrder(a1, b1, year, week int, a almanac) string {
	switch {
	case a1 > 12 && b1 <= 12:
		return "dm"
	case b1 > 12 && a1 <= 12:
		return "md"
	case week != 0 && a1 != b1:
		_, dmWrong := dated(year, time.Month(b1), a1, week)(a)
		_, mdWrong := dated(year, time.Month(a1), b1, week)(a)
		if dmWrong == "" && mdWrong != "" {
			return "dm"
		}
		if mdWrong == "" && dmWrong != "" {
			return "md"
		}
	}
	return ""
}

// Years from farYear on are a mistake, and four figures from noClock on can be no time of day but a year.
const (
	farYear = 2200
	noClock = 2400
)

func fullYear(s string) int {
	n := atoi(s)
	switch {
	case len(s) == 2:
		return 2000 + n
	case len(s) == 4 && (n >= 1900 && n < farYear || n >= noClock):
		return n
	}
	return 0
}

func has(word string, in ...string) bool {
	for _, w := range in {
		if w == word {
			return true
		}
	}
	return false
}

// singular drops the plural of a unit of time.
func singular(word string) string { return strings.TrimSuffix(word, "s") }
