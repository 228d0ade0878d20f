/** Places words so that nothing crosses them. Lengths are pixels. */
export type Box = { x: number; y: number; w: number; h: number };

/** How wide a character is on average, by the size of the words. */
const perLetter = { name: 6.4, small: 4.9 } as const;
export type Size = keyof typeof perLetter;

export const widthOf = (text: string, size: Size) => text.length * perLetter[size] + 4;

const overlap = (a: Box, b: Box) =>
  a.x < b.x + b.w && b.x < a.x + a.w && a.y < b.y + b.h && b.y < a.y + a.h;

/** The room that is left among marks and words that stand already. */
export class Room {
  private taken: Box[];
  constructor(marks: Box[]) {
    this.taken = [...marks];
  }
  /** Takes the first of some places that is free; undefined: there is no room, it is told on hover. */
  take(places: Box[]): Box | undefined {
    const free = places.find((p) => !this.taken.some((t) => overlap(p, t)));
    if (free) this.taken.push(free);
    return free;
  }
}

/** Places beside a mark, the likeliest first: right, left, and above on either side. */
export function beside(x: number, rail: number, text: string): Box[] {
  const w = widthOf(text, "small");
  const h = 11;
  return [0, 12, 24].flatMap((up) => [
    { x: x + 6, y: rail - 17 - up, w, h },
    { x: x - 6 - w, y: rail - 17 - up, w, h },
  ]);
}
