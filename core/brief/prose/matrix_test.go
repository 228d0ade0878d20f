package prose

import (
	"encoding/json"
	"fmt"
	"strings"
	"testing"
	"time"

	"github.com/stretchr/testify/assert"
	"github.com/stretchr/testify/require"
)

// Ways of writing the same day, 5 November 2026, a Thursday.
var sameDays = strings.Split(`5 November|5 Nov|5 Nov.|5th November|5th of November|the 5th of November|`+
	`November 5|November 5th|Nov 5|Nov. 5|`+
	`Nov. 5th|November the 5th|5 November 2026|5 Nov 2026|5th Nov. 2026|November 5, 2026|Nov. 5, 2026|`+
	`November 5th, 2026|November 5 2026|`+
	`5. November 2026|5. November|05 November 2026|5.11.2026|05.11.2026|5.11.|2026-11-05|5-Nov-2026|5 NOV 2026|`+
	`05-NOV-26|2026/11/05|`+
	`05/11/2026 (Thursday)|Thursday 5 November|Thursday, 5 November|Thursday, November 5|Thursday, November 5, 2026|`+
	`Thursday, Nov. 5|`+
	`Thu 5 Nov|Thu, 5 Nov 2026|Thu. 5 Nov.|Thurs. Nov 5|Thursday the 5th of November|Thursday, the 5th of November|`+
	`Thursday 5th November 2026|Th 5 Nov|Thu 05.11.|Thursday 05/11|Thursday 11/5|Thursday (5 November)|`+
	`5 November (Thursday)|`+
	`5 November (Thu)|Nov 5 (Thu)|November 5 (Thursday)|Thursday, 5.11.|Thursday 5/11/26|`+
	`Thursday, 5th November, 2026|5 november|`+
	`THURSDAY 5 NOVEMBER|5-11-2026 (Thu)|Thursday Nov 5th`, "|")

// Ways of writing times of day.
var sameTimes = map[string][]string{
	"18:00": strings.Split(`18:00|6 pm|6pm|6 p.m.|6:00 pm|6.00 pm|6:00 PM|6.00pm|18.00|18h|18h00|18:00h|18.00 hrs|`+
		`1800 hrs|1800 hours|`+
		`18:00 hours|18 h|18 Uhr|18:00:00|six in the evening|six o'clock in the evening|6 PM sharp|18:00 sharp|`+
		`6 p.m. (sharp)`, "|"),
	"12:00": strings.Split(`noon|12 noon|12:00 noon|midday|12 pm`, "|"),
	"23:59": strings.Split(`midnight|11:59 pm|23:59|24:00|12 midnight`, "|"),
	"17:30": strings.Split(`half past five in the afternoon|5:30 in the afternoon|17.30`, "|"),
	"08:00": strings.Split(`8 o'clock in the morning|8 in the morning|8 a.m.|08:00`, "|"),
	"17:45": {"a quarter to six in the evening"},
}

// Sentences, rows and labels with a DAY and a TIME.
var dueFrames = strings.Split("The essay is due on DAY at TIME.|Due: DAY, TIME|Deadline: DAY TIME|Please submit by TIME on DAY.|"+
	"Submit the report no later than DAY, TIME.|Hand it in before TIME, DAY.|Due DAY by TIME|Deadline TIME, DAY|Due date: DAY (TIME)|The deadline is DAY at TIME|"+
	"Upload it until DAY, TIME at the latest.|Due on DAY, at TIME.|Due: DAY - TIME|Due: DAY @ TIME|Due DAY, no later than TIME.|Submission deadline\nDAY, TIME|"+
	"Due\tDAY\tTIME|It has to be in by TIME of DAY.|We need it by DAY (TIME).", "|")

// Every way of writing a day goes with every way of writing a time; the sentences take turns.
func TestDaysAndTimesInEveryWriting(t *testing.T) {
	lisbon, err := time.LoadLocation("Europe/Lisbon")
	require.NoError(t, err)
	now := time.Date(2026, 10, 20, 9, 0, 0, 0, lisbon)
	turn := 0
	for i, d := range sameDays {
		for want, times := range sameTimes {
			for k, clock := range times {
				text := strings.NewReplacer("DAY", d, "TIME", clock).Replace(dueFrames[(i+7*k+turn)%len(dueFrames)])
				assert.Equal(t, "2026-11-05T"+want, dueOf(Read(text, now)), text)
			}
		}
		turn++
	}
}

// dueOf is all that a reading says of the due time.
func dueOf(r Reading) string {
	var out []string
	for _, i := range r.Found {
		if i.Kind == "due" {
			out = append(out, i.Value.(string))
		}
	}
	for _, q := range r.Unsettled {
		out = append(out, q.Question)
	}
	return strings.Join(out, "; ")
}

// What lateness costs, how often, and at most: with the value that an amount stands for.
var (
	costs = map[string][]string{
		"possible": strings.Split(`5%|5 %|5 percent|five per cent|5 percentage points|5% of the maximum mark|5% of the total`, "|"),
		"points":   strings.Split(`5 points|5 marks|five points|5 pts`, "|"),
		"earned":   strings.Split(`5% of the marks awarded|5% of your mark|5 % of the grade earned`, "|"),
	}
	eachDay = strings.Split(`per day|a day|each day|every day|for each day|for every day|per 24 hours|`+
		`for each 24 hours|per started day|`+
		`for each day or part of a day|for each started day|for every 24-hour period|per calendar day|`+
		`for each day that passes|`+
		`each 24 hours|per day or part thereof|for every late day|per day late|per 24 h|for each day of delay`, "|")
	lateFrames = strings.Split(`Late work loses RATE|Late submissions are penalised by RATE|Lateness costs RATE|`+
		`Late: minus RATE|`+
		`If you are late, COST are taken off DAY|Late penalty: RATE|A late submission is reduced by RATE|`+
		`COST will be deducted DAY for late work|`+
		`The mark of a late report drops by RATE|Work submitted late will be marked down by RATE|`+
		`We deduct RATE from late work|`+
		`Late submissions incur a penalty of RATE|There is a late penalty of RATE|Late essays will be docked RATE|`+
		`Late submission: deduction of RATE|Late hand-in is possible at RATE|You lose RATE if you hand it in late|`+
		`Submissions after the deadline lose RATE|Late policy: RATE|-COST DAY for late work`, "|")
	mosts = strings.Split(`|, up to MOST|, max. MOST|, at most MOST| (maximum MOST)|, to a maximum of MOST|`+
		`, but never more than MOST|`+
		`, capped at MOST|; no more than MOST|. The total deduction is limited to MOST|, with a cap of MOST| (max MOST)|`+
		`, up to a maximum of MOST|, MOST at most| and no more than MOST in total`, "|")
)

// Every cost goes with every span in every sentence; the mosts take turns. The words are common practice.
func TestPricesOfLatenessInEveryWording(t *testing.T) {
	now := time.Date(2026, 10, 20, 9, 0, 0, 0, time.UTC)
	turn := 0
	for _, of := range []string{"possible", "points", "earned"} {
		most, limit := "30%", `,"cap":30`
		if of == "points" {
			most = "30 points"
		}
		for _, cost := range costs[of] {
			for _, day := range eachDay {
				for _, frame := range lateFrames {
					turn++
					end := mosts[turn%len(mosts)]
					text := strings.NewReplacer("RATE", cost+" "+day, "COST", cost, "DAY", day, "MOST", most).Replace(frame + end)
					want := fmt.Sprintf(`late={"kind":"per_day","percent":5,"of":%q}`, of)
					if end != "" {
						want = fmt.Sprintf(`late={"kind":"per_day","percent":5,"of":%q%s}`, of, limit)
					}
					require.Equal(t, want, kindsOf(t, Read(text+".", now)), text)
				}
			}
		}
	}
}

// kindsOf is all that a reading found, in order.
func kindsOf(t *testing.T, r Reading) string {
	var out []string
	for _, i := range r.Found {
		value, err := json.Marshal(i.Value)
		require.NoError(t, err)
		out = append(out, i.Kind+"="+string(value))
	}
	return strings.Join(out, " ")
}

// What is not taken late, how it is said, how long nothing is lost, and until when late work is taken.
var (
	lateWork = strings.Split(`Late work|Late submissions|Work submitted after the deadline|Anything handed in late|`+
		`Late papers|`+
		`Submissions received after the deadline|Essays that are late|Work that comes in after the due date|`+
		`Whatever arrives late|`+
		`Overdue work|Reports sent in after that time|Assignments submitted late|Work handed in past the deadline|`+
		`A late report|Late homework`, "|")
	isRefused = strings.Split(`will not be accepted|is not accepted|receives no credit|receives zero|`+
		`gets zero points|will be given a mark of zero|`+
		`cannot be considered|will be ignored|won't be graded|is worth nothing|scores 0|will not be read|`+
		`is returned unmarked|earns no marks|`+
		`counts as failed|is rejected|is refused|will be disregarded|is treated as not submitted|gets a 0|`+
		`will not be marked|can't be accepted|`+
		`is not graded|will score zero|is not eligible for credit|will not be assessed|is awarded zero|will get no points`, "|")
	graces = strings.Split(`There is a grace period of SPAN.|SPAN of grace are given.|`+
		`You have a grace period of SPAN.|Grace period: SPAN|Grace: SPAN|`+
		`Submissions up to SPAN late are not penalised.|No penalty applies for the first SPAN.|`+
		`Work up to SPAN late is accepted without penalty.|`+
		`SPAN late is still fine.|Penalties start SPAN after the deadline.|You get SPAN of leeway.|`+
		`Delays of up to SPAN are tolerated.|`+
		`Submissions within SPAN of the deadline count as on time.|Being SPAN late has no consequences.|`+
		`You may be up to SPAN late without penalty.|`+
		`Up to SPAN after the deadline nothing is deducted.|A delay of SPAN is forgiven.|`+
		`For SPAN after the deadline there is no penalty.|`+
		`I allow SPAN of grace.|Late by less than SPAN: no penalty.|There is no deduction during the first SPAN.|`+
		`Lateness of up to SPAN is overlooked.|A grace period (SPAN) applies.|We do not penalise delays of up to SPAN.`, "|")
	limitsOfLateness = strings.Split(`Late work is accepted for up to SPAN.|`+
		`No work is accepted more than SPAN after the deadline.|`+
		`After SPAN, submissions are no longer accepted.|Work more than SPAN late receives zero.|`+
		`Submissions are accepted until SPAN after the due date.|`+
		`Work that is more than SPAN late is not marked.|The box closes SPAN after the deadline.|`+
		`Nothing is accepted after SPAN.|`+
		`Late work can be handed in for SPAN.|SPAN after the deadline the upload locks.|You can submit up to SPAN late.|`+
		`Anything later than SPAN gets no credit.|Maximum delay: SPAN|Late submissions: up to SPAN|`+
		`It is not possible to submit more than SPAN late.|`+
		`Work submitted more than SPAN after the due date will receive a mark of zero.|Late work is taken for SPAN at most.|`+
		`After SPAN the mark is zero.|If it is more than SPAN late, it will not be marked.|Beyond SPAN no work is accepted.|`+
		`Submissions more than SPAN late are not accepted.|Late work is possible for a maximum of SPAN.|`+
		`Once SPAN have passed, nothing is accepted.`, "|")
)

// Refusals, graces and limits of lateness in every wording; behind a due time, which they count from.
func TestLatenessThatCostsNothingOrAll(t *testing.T) {
	const (
		dueSaid = "Due on 5 November 2026 at 18:00. "
		dueRead = `due="2026-11-05T18:00" `
	)
	now := time.Date(2026, 10, 20, 9, 0, 0, 0, time.UTC)
	for _, work := range lateWork {
		for _, refused := range isRefused {
			text := dueSaid + work + " " + refused + "."
			assert.Equal(t, dueRead+`late={"kind":"none"}`, kindsOf(t, Read(text, now)), text)
		}
	}
	for span, minutes := range map[string]int{"15 minutes": 15, "an hour": 60, "half an hour": 30, "24 hours": 1440, "two days": 2880, "2 h": 120} {
		for _, grace := range graces {
			text := dueSaid + strings.Replace(grace, "SPAN", span, 1)
			assert.Equal(t, fmt.Sprintf("%sgrace=%d", dueRead, minutes), kindsOf(t, Read(text, now)), text)
		}
	}
	for span, days := range map[string]int{"3 days": 3, "three days": 3, "72 hours": 3, "a week": 7, "five days": 5, "7 calendar days": 7} {
		for _, limit := range limitsOfLateness {
			text := dueSaid + "Late work loses 5% per day. " + strings.Replace(limit, "SPAN", span, 1)
			reading := kindsOf(t, Read(text, now))
			assert.Contains(t, reading, fmt.Sprintf(`closes="2026-11-%02dT18:00"`, 5+days), text)
			assert.Contains(t, reading, `late={"kind":"per_day","percent":5,"of":"possible"}`, text)
		}
	}
}

// Ways of bounding an amount (N), and of giving one: with the bounds that they stand for.
var (
	atMosts = strings.Split(`up to N|at most N|no more than N|not more than N|a maximum of N|max. N|max N|maximum N|`+
		`N maximum|N at most|N max|`+
		`not exceeding N|under N|fewer than N|less than N|N or less|N or fewer|not longer than N|no longer than N|`+
		`within N|N at the most|N tops|`+
		`a limit of N|limited to N|<= N|up to a maximum of N|≤ N`, "|")
	atLeasts = strings.Split(`at least N|no fewer than N|a minimum of N|min. N|N or more|not less than N|N at least|`+
		`N minimum|more than N|`+
		`no less than N|N or longer|>= N`, "|")
	spans = map[string]string{
		"1,200 to 1,500 words|1200-1500 words|between 1200 and 1500 words|1,200–1,500 words|from 1200 to 1500 words|1200 - 1500 words|" +
			"at least 1200 and at most 1500 words|a minimum of 1200 and a maximum of 1500 words|" +
			"not less than 1200 and not more than 1500 words": `words={"min":1200,"max":1500}`,
		"1500 words (+/- 10%)|1500 words ±10%|1,500 words, plus or minus 10%|1500 +/- 150 words|about 1500 words|approximately 1,500 words|" +
			"approx. 1500 words|around 1500 words|some 1500 words|ca. 1500 words|1500 words or so|1500 words (10% tolerance)|" +
			"1500 words with a tolerance of 10%": `words={"min":1350,"max":1650}`,
		"1,500 words|exactly 1500 words|fifteen hundred words|1.5k words":                                `words={"min":1500,"max":1500}`,
		"4 to 6 pages|4-6 pages|four to six pages|between four and six pages|4 pages minimum, 6 maximum": `pages={"min":4,"max":6}`,
		"one page|a single page": `pages={"min":1,"max":1}`,
	}
	lengthFrames = strings.Split("Length: N|The essay should be N.|Write N.|The report must have N.|Your essay may have N.|It should be N long.|"+
		"The text is to comprise N.|Submit an essay of N.|An essay (N) is due.|Extent: N|The paper consists of N.|Reports of N are expected.", "|")
)

// Amounts in every wording, in every sentence.
func TestLengthsInEveryWording(t *testing.T) {
	now := time.Date(2026, 10, 20, 9, 0, 0, 0, time.UTC)
	check := func(amount, want string) {
		for _, frame := range lengthFrames {
			text := strings.Replace(frame, "N", amount, 1)
			assert.Equal(t, want, kindsOf(t, Read(text, now)), text)
		}
	}
	for unit, want := range map[string]string{"1,500 words": `words={%q:1500}`, "six pages": `pages={%q:6}`, "4 sides of A4": `pages={%q:4}`} {
		for _, most := range atMosts {
			check(strings.Replace(most, "N", unit, 1), fmt.Sprintf(want, "max"))
		}
		for _, least := range atLeasts {
			check(strings.Replace(least, "N", unit, 1), fmt.Sprintf(want, "min"))
		}
	}
	for list, want := range spans {
		for amount := range strings.SplitSeq(list, "|") {
			check(amount, want)
		}
	}
}

// Names of zones as they stand behind times; an abbreviation is that of its usual city (common practice).
var zonesSaid = map[string]string{
	"AEST": "Australia/Sydney", "Australian Eastern Standard Time": "Australia/Sydney", "AWST": "Australia/Perth", "NZST": "Pacific/Auckland",
	"IST": "Asia/Kolkata", "Indian Standard Time": "Asia/Kolkata", "UTC+05:30": "Asia/Kolkata", "UTC+5:45": "Asia/Kathmandu",
	"SGT": "Asia/Singapore", "CET": "Europe/Berlin", "Central European Summer Time": "Europe/Berlin", "WEST": "Europe/Lisbon", "BST": "Europe/London",
	"UK time": "Europe/London", "ET": "America/New_York", "Eastern": "America/New_York", "Eastern Daylight Time": "America/New_York",
	"PT": "America/Los_Angeles", "Pacific": "America/Los_Angeles", "Pacific time": "America/Los_Angeles", "Central time": "America/Chicago",
	"Nairobi time": "Africa/Nairobi", "time in Nairobi": "Africa/Nairobi", "East Africa Time": "Africa/Nairobi", "GMT": "UTC", "UTC": "UTC",
	"GMT+2": "Etc/GMT-2", "GMT +1": "Etc/GMT-1", "UTC-5": "Etc/GMT+5", "UTC+02:00": "Etc/GMT-2", "AoE": "Etc/GMT+12",
	"anywhere on earth": "Etc/GMT+12", "Lisbon time": "Europe/Lisbon", "Mexico City time": "America/Mexico_City",
}

// The zone belongs to the time, before or behind the day; and no zone is made of what is none.
func TestZonesBehindTimes(t *testing.T) {
	now := time.Date(2026, 4, 27, 9, 0, 0, 0, time.UTC)
	for name, zone := range zonesSaid {
		for _, frame := range []string{
			"Due on 8 May 2026 at 18:00 ZONE.", "Due: 8 May 2026, 6 p.m. ZONE", "Hand it in by 18:00 ZONE on 8 May.", "Deadline: 8 May, 6 pm ZONE.",
			"Upload it by 8 May 2026, 18:00 (ZONE).",
		} {
			text := strings.Replace(frame, "ZONE", name, 1)
			for _, item := range Read(text, now).Found {
				if item.Kind == "due" {
					assert.Equal(t, "2026-05-08T18:00 "+zone, item.Value.(string)+" "+item.Zone, text)
				}
			}
			assert.Equal(t, "2026-05-08T18:00", dueOf(Read(text, now)), text)
		}
		_, err := time.LoadLocation(zone)
		assert.NoError(t, err)
	}
	for _, none := range []string{"in the Pacific reading room", "at the west entrance", "in Central Hall", "on paper"} {
		text := "Due on 8 May 2026 at 18:00 " + none + "."
		for _, item := range Read(text, now).Found {
			assert.Empty(t, item.Zone, text)
		}
	}
}
