import { sortOf } from "../../shared/kinds";
import type { Chosen } from "../work";

const kept = ["png", "gif"]; // the others come out as JPEG, upright

/** A picture of the bundle as a text refers to it: by its name, which needs no brackets. */
export function referred({ name, kind }: Pick<Chosen, "name" | "kind">): string {
  const stem = name.replace(/\.[^.]*$/, "");
  const named = kept.includes(kind) ? `${stem}.${kind}` : `${stem}.jpg`;
  return encodeURIComponent(named).replace(/[()]/g, (c) => (c === "(" ? "%28" : "%29"));
}

export const pictures = (files: Chosen[]) => files.filter((f) => sortOf(f.kind) === "picture");

/** Where a picture that a text refers to is shown from; nothing is fetched from elsewhere. */
export function shownFrom(files: Chosen[]): (ref: string) => string {
  const byRef = new Map(pictures(files).map((f) => [referred(f), f.version]));
  return (ref) => {
    if (ref.startsWith("data:image/")) return ref;
    const version = byRef.get(ref) ?? byRef.get(encodeURIComponent(ref));
    return version ? `/api/versions/${version}/content?show=1` : "";
  };
}

/** The versions of the pictures that a text refers to. */
export const used = (files: Chosen[], text: string) =>
  pictures(files)
    .filter((f) => text.includes(`](${referred(f)}`))
    .map((f) => f.version);
