/** Times as a person types them. A wall time is "2026-11-12T18:00", in whatever zone is meant. */

const months = "jan feb mar apr may jun jul aug sep oct nov dec".split(" ");
const weekdays = "sun mon tue wed thu fri sat".split(" ");
const two = (n: number) => String(n).padStart(2, "0");

/** "Thu 12 Nov 2026 18:00"; empty for no time. */
export function printed(wall: string): string {
  const at = new Date(`${wall}:00Z`);
  if (!wall || Number.isNaN(at.getTime())) return "";
  const name = (list: string[], n: number) => list[n]![0]!.toUpperCase() + list[n]!.slice(1);
  return `${name(weekdays, at.getUTCDay())} ${at.getUTCDate()} ${name(months, at.getUTCMonth())} ${at.getUTCFullYear()} ${wall.slice(11, 16)}`;
}

/**
 * Understands a typed time: a day with its month's name, "2026-11-12" or "12.11.", a weekday that fits, the
 * year or else the first such day from today on, and a time of day or else the end of the day. Undefined
 * where it is not one time for certain: 5/6 is a day in May for some and in June for others.
 */
export function understood(text: string, today: Date): string | undefined {
  const words = text.toLowerCase().replace(/,/g, " ").trim();
  if (!words) return undefined;
  const clock =
    /(?:^|[\sT])(\d{1,2})[:.h](\d{2})\s*(am|pm)?$|(?:^|\s)(\d{1,2})\s*(am|pm)$|\b(noon)$/i.exec(
      words,
    );
  const rest = clock ? words.slice(0, clock.index) : words;
  const time = clock ? timeOf(clock) : "23:59";
  const day = dayOf(rest.trim(), today);
  if (!day || !time) return undefined;
  return `${day}T${time}`;
}

function timeOf(m: RegExpExecArray): string | undefined {
  if (m[6]) return "12:00";
  let hour = Number(m[1] ?? m[4]);
  const half = m[3] ?? m[5];
  if (half && (hour < 1 || hour > 12)) return undefined;
  if (half) hour = (hour % 12) + (half === "pm" ? 12 : 0);
  const minute = Number(m[2] ?? 0);
  return hour < 24 && minute < 60 ? `${two(hour)}:${two(minute)}` : undefined;
}

function dayOf(text: string, today: Date): string | undefined {
  const iso = /^(?:([a-z]+) )?(\d{4})-(\d{2})-(\d{2})$/.exec(text);
  if (iso) return fitting(Number(iso[2]), Number(iso[3]), Number(iso[4]), iso[1]);
  const dotted = /^(?:([a-z]+) )?(\d{1,2})\.\s?(\d{1,2})\.(?:\s?(\d{4}))?$/.exec(text);
  if (dotted) return first(dotted[4], Number(dotted[3]), Number(dotted[2]), dotted[1], today);
  const named =
    /^(?:([a-z]+) )?(\d{1,2})(?:st|nd|rd|th|\.)? ([a-z]{3})[a-z]*(?: (\d{4}))?$/.exec(text) ??
    /^(?:([a-z]+) )?([a-z]{3})[a-z]* (\d{1,2})(?:st|nd|rd|th)?(?: (\d{4}))?$/.exec(text);
  if (!named) return undefined;
  const [, weekday, a, b, year] = named;
  const [day, month] = /^\d/.test(a!) ? [Number(a), b!] : [Number(b), a!];
  const n = months.indexOf(month);
  return n < 0 ? undefined : first(year, n + 1, day, weekday, today);
}

/** The day of a year, or the first such day from today on. */
function first(
  year: string | undefined,
  month: number,
  day: number,
  weekday: string | undefined,
  today: Date,
): string | undefined {
  if (year) return fitting(Number(year), month, day, weekday);
  const now = `${today.getFullYear()}-${two(today.getMonth() + 1)}-${two(today.getDate())}`;
  const y = today.getFullYear();
  for (const candidate of [y, y + 1]) {
    const found = fitting(candidate, month, day, weekday);
    if (found && found >= now) return found;
  }
  return undefined;
}

/** A day that there is, on the weekday that was named, if one was. */
function fitting(
  year: number,
  month: number,
  day: number,
  weekday: string | undefined,
): string | undefined {
  const at = new Date(Date.UTC(year, month - 1, day));
  if (at.getUTCMonth() !== month - 1 || at.getUTCDate() !== day) return undefined;
  if (weekday && weekdays[at.getUTCDay()] !== weekday.slice(0, 3)) return undefined;
  return `${year}-${two(month)}-${two(day)}`;
}
