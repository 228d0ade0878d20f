import type { Passage } from "./segments";

export const remedyNames: Record<Passage["remedy"], string> = {
  leave: "Leave",
  quote: "Mark as a quotation",
  cite: "Name the source",
  rewrite: "Rewrite",
  own: "Your own",
};

/** "6.1 %" */
export function percent(share: number): string {
  return `${(100 * share).toFixed(1)} %`;
}
