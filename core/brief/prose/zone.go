package prose

import (
	_ "embed"
	"strings"
	"unicode"
)

//go:embed zones.txt
var zoneList string

// regions are names and abbreviations that stand for the zone of their usual city: common practice.
var regions = map[string]string{
	"utc":                   "UTC",
	"gmt":                   "UTC",
	"greenwich":             "UTC",
	"greenwich mean":        "UTC",
	"universal":             "UTC",
	"coordinated universal": "UTC",
	"pacific":               "America/Los_Angeles",
	"mountain":              "America/Denver",
	"central":               "America/Chicago",
	"eastern":               "America/New_York",
	"atlantic":              "America/Halifax",
	"newfoundland":          "America/St_Johns",
	"pt":                    "America/Los_Angeles",
	"pst":                   "America/Los_Angeles",
	"pdt":                   "America/Los_Angeles",
	"mt":                    "America/Denver",
	"mst":                   "America/Denver",
	"mdt":                   "America/Denver",
	"ct":                    "America/Chicago",
	"cst":                   "America/Chicago",
	"cdt":                   "America/Chicago",
	"et":                    "America/New_York",
	"est":                   "America/New_York",
	"edt":                   "America/New_York",
	"at":                    "America/Halifax",
	"ast":                   "America/Halifax",
	"adt":                   "America/Halifax",
	"nst":                   "America/St_Johns",
	"ndt":                   "America/St_Johns",
	"akst":                  "America/Anchorage",
	"akdt":                  "America/Anchorage",
	"hst":                   "Pacific/Honolulu",
	"hawaii":                "Pacific/Honolulu",
	"alaska":                "America/Anchorage",
	"british":               "Europe/London",
	"uk":                    "Europe/London",
	"bst":                   "Europe/London",
	"brasilia":              "America/Sao_Paulo",
	"irish":                 "Europe/Dublin",
	"ireland":               "Europe/Dublin",
	"wet":                   "Europe/Lisbon",
	"west":                  "Europe/Lisbon",
	"western european":      "Europe/Lisbon",
	"portugal":              "Europe/Lisbon",
	"portuguese":            "Europe/Lisbon",
	"wib":                   "Asia/Jakarta",
	"wita":                  "Asia/Makassar",
	"wit":                   "Asia/Jayapura",
	"pht":                   "Asia/Manila",
	"ict":                   "Asia/Bangkok",
	"cet":                   "Europe/Berlin",
	"cest":                  "Europe/Berlin",
	"central european":      "Europe/Berlin",
	"german":                "Europe/Berlin",
	"germany":               "Europe/Berlin",
	"french":                "Europe/Paris",
	"france":                "Europe/Paris",
	"spanish":               "Europe/Madrid",
	"spain":                 "Europe/Madrid",
	"italian":               "Europe/Rome",
	"italy":                 "Europe/Rome",
	"swiss":                 "Europe/Zurich",
	"dutch":                 "Europe/Amsterdam",
	"danish":                "Europe/Copenhagen",
	"swedish":               "Europe/Stockholm",
	"norwegian":             "Europe/Oslo",
	"polish":                "Europe/Warsaw",
	"austrian":              "Europe/Vienna",
	"eet":                   "Europe/Helsinki",
	"eest":                  "Europe/Helsinki",
	"eastern european":      "Europe/Helsinki",
	"finnish":               "Europe/Helsinki",
	"greek":                 "Europe/Athens",
	"turkish":               "Europe/Istanbul",
	"msk":                   "Europe/Moscow",
	"ist":                   "Asia/Kolkata",
	"india":                 "Asia/Kolkata",
	"indian":                "Asia/Kolkata",
	"jst":                   "Asia/Tokyo",
	"japan":                 "Asia/Tokyo",
	"japanese":              "Asia/Tokyo",
	"kst":                   "Asia/Seoul",
	"china":                 "Asia/Shanghai",
	"beijing":               "Asia/Shanghai",
	"sgt":                   "Asia/Singapore",
	"hkt":                   "Asia/Hong_Kong",
	"pkt":                   "Asia/Karachi",
	"nepal":                 "Asia/Kathmandu",
	"aest":                  "Australia/Sydney",
	"aedt":                  "Australia/Sydney",
	"acst":                  "Australia/Adelaide",
	"acdt":                  "Australia/Adelaide",
	"awst":                  "Australia/Perth",
	"nzst":                  "Pacific/Auckland",
	"nzdt":                  "Pacific/Auckland",
	"new zealand":           "Pacific/Auckland",
	"sast":                  "Africa/Johannesburg",
	"cat":                   "Africa/Maputo",
	"eat":                   "Africa/Nairobi",
	"wat":                   "Africa/Lagos",
	"brt":                   "America/Sao_Paulo",
	"san francisco":         "America/Los_Angeles",
	"seattle":               "America/Los_Angeles",
	"boston":                "America/New_York",
	"washington":            "America/New_York",
	"montreal":              "America/Toronto",
	"porto":                 "Europe/Lisbon",
	"barcelona":             "Europe/Madrid",
	"milan":                 "Europe/Rome",
	"munich":                "Europe/Berlin",
	"hamburg":               "Europe/Berlin",
	"geneva":                "Europe/Zurich",
	"edinburgh":             "Europe/London",
	"cape town":             "Africa/Johannesburg",
	"delhi":                 "Asia/Kolkata",
	"mumbai":                "Asia/Kolkata",
	"kyoto":                 "Asia/Tokyo",
	"canary":                "Atlantic/Canary",
	"australian eastern":    "Australia/Sydney",
	"australian central":    "Australia/Adelaide",
	"australian western":    "Australia/Perth",
	"us eastern":            "America/New_York",
	"us central":            "America/Chicago",
	"us mountain":           "America/Denver",
	"us pacific":            "America/Los_Angeles",
	"east africa":           "Africa/Nairobi",
	"east african":          "Africa/Nairobi",
	"west africa":           "Africa/Lagos",
	"west african":          "Africa/Lagos",
	"central africa":        "Africa/Maputo",
	"central african":       "Africa/Maputo",
	"south africa":          "Africa/Johannesburg",
	"south african":         "Africa/Johannesburg",
	"argentina":             "America/Argentina/Buenos_Aires",
	"argentine":             "America/Argentina/Buenos_Aires",
	"chile":                 "America/Santiago",
	"chilean":               "America/Santiago",
	"colombia":              "America/Bogota",
	"colombian":             "America/Bogota",
	"peru":                  "America/Lima",
	"peruvian":              "America/Lima",
	"mexican":               "America/Mexico_City",
	"brazil":                "America/Sao_Paulo",
	"brazilian":             "America/Sao_Paulo",
	"korea":                 "Asia/Seoul",
	"korean":                "Asia/Seoul",
	"pakistan":              "Asia/Karachi",
	"bangladesh":            "Asia/Dhaka",
	"kenya":                 "Africa/Nairobi",
	"kenyan":                "Africa/Nairobi",
	"nigeria":               "Africa/Lagos",
	"nigerian":              "Africa/Lagos",
	"ghana":                 "Africa/Accra",
	"egypt":                 "Africa/Cairo",
	"egyptian":              "Africa/Cairo",
	"israel":                "Asia/Jerusalem",
	"gulf":                  "Asia/Dubai",
	"vietnam":               "Asia/Ho_Chi_Minh",
	"philippine":            "Asia/Manila",
	"malaysian":             "Asia/Kuala_Lumpur",
	"malaysia":              "Asia/Kuala_Lumpur",
	"taiwan":                "Asia/Taipei",
	"belgian":               "Europe/Brussels",
	"czech":                 "Europe/Prague",
	"hungarian":             "Europe/Budapest",
	"romanian":              "Europe/Bucharest",
	"anywhere on earth":     "Etc/GMT+12",
}

// abbreviation says that a name is a zone only in capitals.
func abbreviation(name string) bool {
	return len(name) <= 4 && !strings.Contains(name, " ") && name != "uk" && regions[name] != "" && name != "west"
}

// cities are zones by the plain name of their city, and by their whole name.
var cities = func() map[string]string {
	out := map[string]string{}
	for line := range strings.Lines(zoneList) {
		name := strings.TrimSpace(line)
		if strings.HasPrefix(name, "#") {
			continue
		}
		plain := strings.ToLower(name)
		out[plain] = name
		out[strings.ReplaceAll(plain[strings.LastIndexByte(plain, '/')+1:], "_", " ")] = name
	}
	for name, zone := range regions {
		if !abbreviation(name) {
			out[name] = zone
		}
	}
	return out
}()

// zone reads the name of a zone at a token: an IANA name, an abbreviation in capitals, UTC with an offset,
// or a city or region. bare says that the city stands alone, with neither "time" nor a bracket to say
// that it is a zone.
func (t *text) zone(i int) (name string, next int, bare bool) {
	word := t.word
	if i >= len(t.tokens) || t.tokens[i].number {
		return "", i, false
	}
	if word(i) == "z" && i > 0 && t.tokens[i-1].number && t.tokens[i-1].end == t.tokens[i].start {
		return "UTC", i + 1, false // as ISO 8601 writes it
	}
	if zone, next, ok := t.numericOffset(i); ok {
		return zone, next, false
	}
	if word(i) == "the" {
		name, next, bare = t.zone(i + 1)
		return name, next, bare
	}
	if word(i+1) == "/" { // Atlantic/Azores, America/St_Johns
		for end := min(i+6, len(t.tokens)); end > i+2; end-- {
			if zone, ok := cities[t.plain[t.tokens[i].start:t.tokens[end-1].end]]; ok {
				return zone, end, false
			}
		}
	}
	switch end := i+1 == len(t.tokens) || has(word(i+1), ".", ",", ")", ";", "on"); {
	case word(i) == "aoe":
		return anywhere, i + 1, false
	case word(i) == "anywhere" && word(i+1) == "on" && word(i+2) == "earth":
		return anywhere, i + 3, false
	case word(i) == "west" && end && t.capitals(t.tokens[i].span): // else it is where the wind comes from
		return regions["west"], i + 1, false
	}
	if zone, ok := regions[word(i)]; ok && abbreviation(word(i)) && t.capitals(t.tokens[i].span) {
		if offset, next, ok := t.offset(i + 1); ok && zone == "UTC" {
			return offset, next, false
		}
		return zone, i + 1, false
	}
	for end := min(i+3, len(t.tokens)); end > i; end-- {
		zone, ok := cities[strings.TrimSuffix(t.plain[t.tokens[i].start:t.tokens[end-1].end], "'s")]
		if !ok {
			continue
		}
		if has(word(end), "style", "manual", "referencing", "citation", "citations", "format") {
			return "", i, false // a way to cite that is named after a city
		}
		next = end
		for word(next) == "standard" || word(next) == "daylight" || word(next) == "summer" || word(next) == "local" {
			next++
		}
		if word(next) == "time" || word(next) == "clock" || word(next) == "clocks" {
			return zone, next + 1, false
		}
		return zone, end, true
	}
	return "", i, false
}

// anywhere is where a day ends last: "anywhere on earth".
const anywhere = "Etc/GMT+12"

func (t *text) capitals(s span) bool {
	for _, r := range t.original[s.start:s.end] {
		if r < 'A' || r > 'Z' {
			return false
		}
	}
	return true
}

var (
	allTimes  = rule(`\b(?:(?:all|any|every|these|the|our|my)(?: \w+)* (?:times?|hours|deadlines?|dates?)|times|clocks?)\b`)
	zoneLabel = rule(`\b(?:time ?)?zone\b`)
)

func (t *text) zoneAfter(m *mention, next int) int {
	tok := t.tokens
	k := next
	bracket := false
	timeIn := false // "18:00, time in Nairobi"
	for k+1 < len(tok) && k < next+4 {
		isTimeIn := tok[k].s == "time" && tok[k+1].s == "in"
		if !isTimeIn && !has(tok[k].s, ",", "(", "in", "sharp") {
			break
		}
		bracket, timeIn = bracket || tok[k].s == "(", timeIn || isTimeIn
		k++
	}
	zone, after, bare := t.zone(k)
	if zone == "" ||
		bare && !timeIn && !(m.clock != nil && k == next && t.regionAlone(k, after)) && !(bracket && after < len(tok) && has(tok[after].s, ")", ",")) &&
			!(m.clock != nil && after < len(tok) && has(tok[after].s, ".", ",") && k == next && isIANA(t.plain[tok[k].start:tok[after-1].end])) {
		return next
	}
	m.zone, m.end = zone, tok[after-1].end
	if bracket && after < len(tok) && tok[after].s == ")" {
		after++
	}
	return after
}

// regionAlone says that a part of North America stands for its time: "5 PM Eastern", "11:59 pm Pacific on Friday".
func (t *text) regionAlone(i, next int) bool {
	named := has(t.tokens[i].s, "pacific", "mountain", "central", "eastern", "atlantic") && unicode.IsUpper(t.original[t.tokens[i].start])
	return named && (next == len(t.tokens) || has(t.tokens[next].s, ".", ",", ")", ";", "on", "and", "through", "via", "in", "to", "at", "by", "or", "with", "for"))
}

func isIANA(plain string) bool {
	for i := range len(plain) {
		if plain[i] == '/' {
			return true
		}
	}
	return false
}
