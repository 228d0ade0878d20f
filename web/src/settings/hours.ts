/** Hours of a day, in minutes from midnight. */
export type Hours = { from: number; to: number };

export const clockOf = (m: number) =>
  `${String(Math.floor(m / 60)).padStart(2, "0")}:${String(m % 60).padStart(2, "0")}`;
export const minutesOf = (clock: string) => {
  const [h, m] = clock.split(":").map(Number);
  return (h ?? 0) * 60 + (m ?? 0);
};

export const writeHours = (day: Hours[]) =>
  day.map((h) => `${clockOf(h.from)} to ${clockOf(h.to)}`).join(", ");

/** Reads "17:00 to 21:00, 22-23"; nothing where it cannot be read. */
export function readHours(text: string): Hours[] | undefined {
  const list: Hours[] = [];
  for (const piece of text
    .split(/[,;]/)
    .map((p) => p.trim())
    .filter(Boolean)) {
    const m = /^(\d{1,2})(?:[:.](\d{2}))?\s*(?:to|until|-|–)\s*(\d{1,2})(?:[:.](\d{2}))?$/.exec(
      piece,
    );
    if (!m) return undefined;
    const h = {
      from: Number(m[1]) * 60 + Number(m[2] ?? 0),
      to: Number(m[3]) * 60 + Number(m[4] ?? 0),
    };
    if (h.from >= h.to || h.to > 1440 || Number(m[2] ?? 0) > 59 || Number(m[4] ?? 0) > 59)
      return undefined;
    list.push(h);
  }
  list.sort((a, b) => a.from - b.from);
  return list.some((h, i) => i > 0 && h.from < list[i - 1]!.to) ? undefined : list;
}
