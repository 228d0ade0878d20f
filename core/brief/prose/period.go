package prose

// dayOfRange reads the first day of a period whose month stands only behind the last: "from 4 to 8 May".
func (t *text) dayOfRange(i int) (d day, ok bool) {
	tok := t.tokens
	if i == 0 || i+3 >= len(tok) || !(has(tok[i-1].s, "from", "between") || tok[i-1].s == "the" && i > 1 &&
		has(tok[i-2].s, "from", "between")) || !tok[i].number || len(tok[i].s) > 2 ||
		!has(tok[i+1].s, "to", "and", "-", "until", "till", "through") {
		return d, false
	}
	last := i + 2 + btoi(tok[i+2].s == "the")
	if last+1 >= len(tok) || !tok[last].number || len(tok[last].s) > 2 || tok[i].end == tok[i+1].start &&
		tok[i+1].s != "-" {
		return d, false
	}
	month := t.month(last + 1 + btoi(tok[last+1].s == "of"))
	dayOf := atoi(tok[i].s)
	if month == 0 || dayOf < 1 || dayOf >= atoi(tok[last].s) {
		return d, false
	}
	return day{span: tok[i].span, settle: dated(0, month, dayOf, 0), fixed: true}, true
}
