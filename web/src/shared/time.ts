/** Times as a timetable prints them. Zones are IANA names. */
const cache = new Map<string, Intl.DateTimeFormat>();

function parts(at: string | Date, zone: string): Record<string, string> {
  let format = cache.get(zone);
  if (!format) {
    format = new Intl.DateTimeFormat("en-GB", {
      timeZone: zone,
      weekday: "short",
      day: "numeric",
      month: "short",
      hour: "2-digit",
      minute: "2-digit",
      hourCycle: "h23",
    });
    cache.set(zone, format);
  }
  return Object.fromEntries(format.formatToParts(new Date(at)).map((p) => [p.type, p.value]));
}

/** "Thu 12 Nov 18:00" */
export function moment(at: string | Date, zone: string): string {
  return `${date(at, zone)} ${clock(at, zone)}`;
}

/** "Thu 12 Nov" */
export function date(at: string | Date, zone: string): string {
  const p = parts(at, zone);
  return `${p.weekday} ${p.day} ${p.month?.slice(0, 3)}`;
}

/** "18:00" */
export function clock(at: string | Date, zone: string): string {
  const p = parts(at, zone);
  return `${p.hour}:${p.minute}`;
}

/** The place that a zone is named after: "Lisbon". */
export function place(zone: string): string {
  return zone.slice(zone.lastIndexOf("/") + 1).replaceAll("_", " ");
}

/** The same instant in another zone, if it reads differently there. */
export function elsewhere(at: string, zone: string, home: string): string | undefined {
  if (moment(at, zone) === moment(at, home)) return undefined;
  return date(at, zone) === date(at, home)
    ? `${clock(at, home)} ${place(home)}`
    : `${moment(at, home)} ${place(home)}`;
}

/** Local midnights of a zone between two instants. */
export function midnights(from: Date, to: Date, zone: string): Date[] {
  const list: Date[] = [];
  // Step by hours: days have 23 to 25 of them.
  for (
    let at = Math.ceil(from.getTime() / 3.6e6) * 3.6e6, last = date(from, zone);
    at <= to.getTime();
    at += 3.6e6
  ) {
    const now = date(new Date(at), zone);
    if (now !== last) list.push(new Date(at));
    last = now;
  }
  return list;
}

export function isWeekend(at: Date, zone: string): boolean {
  return ["Sat", "Sun"].includes(parts(at, zone).weekday ?? "");
}

/** How far a zone's clocks are ahead of UTC at an instant, in ms. */
function ahead(at: number, zone: string): number {
  const p = Object.fromEntries(
    new Intl.DateTimeFormat("en-GB", {
      timeZone: zone,
      year: "numeric",
      month: "2-digit",
      day: "2-digit",
      hour: "2-digit",
      minute: "2-digit",
      second: "2-digit",
      hourCycle: "h23",
    })
      .formatToParts(new Date(at))
      .map((x) => [x.type, x.value]),
  );
  return (
    new Date(`${p.year}-${p.month}-${p.day}T${p.hour}:${p.minute}:${p.second}Z`).getTime() -
    Math.floor(at / 1000) * 1000
  );
}

/** An instant as a date field of a zone shows it: "2027-01-11T18:00". */
export const toWall = (at: string, zone: string) =>
  new Date(new Date(at).getTime() + ahead(new Date(at).getTime(), zone)).toISOString().slice(0, 16);

/** The instant that a date field means in a zone. */
export function fromWall(wall: string, zone: string): Date {
  const fields = new Date(`${wall}:00Z`).getTime();
  const guess = fields - ahead(fields, zone);
  return new Date(fields - ahead(guess, zone));
}
