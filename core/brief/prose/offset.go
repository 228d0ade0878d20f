package prose

import "fmt"

// halves are zones that are some hours and a part of one ahead of UTC, all the year.
var halves = map[string]string{
	"+3:30": "Asia/Tehran", "+4:30": "Asia/Kabul", "+5:30": "Asia/Kolkata", "+5:45": "Asia/Kathmandu", "+6:30": "Asia/Yangon",
	"+8:45": "Australia/Eucla", "+9:30": "Australia/Darwin", "-9:30": "Pacific/Marquesas",
}

// offset reads what follows UTC: "+2", "+05:30", " -5"; ok is false where nothing does, or no zone has it.
func (t *text) offset(i int) (zone string, next int, ok bool) {
	tok := t.tokens
	if i+1 >= len(tok) || tok[i].s != "+" && tok[i].s != "-" || !tok[i+1].number || len(tok[i+1].s) > 2 ||
		tok[i+1].start != tok[i].end {
		return "", i, false
	}
	hours := atoi(tok[i+1].s)
	next = i + 2
	if next+1 < len(tok) && has(tok[next].s, ":", ".") && tok[next+1].number && len(tok[next+1].s) == 2 && tok[next].start == tok[next-1].end &&
		tok[next+1].start == tok[next].end {
		if minutes := tok[next+1].s; minutes != "00" {
			zone, ok = halves[fmt.Sprintf("%s%d:%s", tok[i].s, hours, minutes)]
			return zone, next + 2, ok
		}
		next += 2
	}
	if hours == 0 {
		return "UTC", next, true
	}
	sign := map[string]string{"+": "-", "-": "+"}[tok[i].s] // POSIX counts westwards
	return fmt.Sprintf("Etc/GMT%s%d", sign, hours), next, hours <= 14
}

// numericOffset reads an offset right behind a time: "17:00:00 +0200", "17:00+02:00".
func (t *text) numericOffset(i int) (zone string, next int, ok bool) {
	tok := t.tokens
	if i == 0 || i+1 >= len(tok) || !has(tok[i].s, "+", "-") || !tok[i-1].number || !tok[i+1].number || tok[i+1].start != tok[i].end {
		return "", i, false
	}
	if hours := tok[i+1].s; len(hours) == 4 && hours[2:] == "00" && atoi(hours[:2]) <= 14 {
		sign := map[string]string{"+": "-", "-": "+"}[tok[i].s]
		if atoi(hours) == 0 {
			return "UTC", i + 2, true
		}
		return fmt.Sprintf("Etc/GMT%s%d", sign, atoi(hours[:2])), i + 2, true
	}
	if i+3 < len(tok) && tok[i+2].s == ":" {
		return t.offset(i)
	}
	return "", i, false
}
