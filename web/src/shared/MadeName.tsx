import { useQuery } from "@tanstack/react-query";
import { Fragment } from "react";
import { api, ask, type Schemas } from "../api/client";
import styles from "./MadeName.module.css";
import { keys } from "./queryKeys";

/** The words for a pattern's fields. */
export const fields: Record<string, string> = {
  family: "family name",
  given: "given name",
  initials: "initials",
  number: "student number",
  course: "course",
  section: "section",
  assignment: "assignment number",
  title: "title",
  slot: "slot",
  attempt: "attempt",
  date: "date",
  ext: "extension",
};

type Props = {
  assignment?: number; // whose file is the example
  course?: number; // else: of some work in it
  pattern: string;
};

/** What a name pattern makes, as the server makes it. */
export function useMade({ assignment, course, pattern }: Props) {
  return useQuery({
    queryKey: keys.name(assignment, course, pattern),
    queryFn: () =>
      ask(
        assignment
          ? api.POST("/api/assignments/{id}/name/try", {
              params: { path: { id: assignment } },
              body: { pattern },
            })
          : api.POST("/api/courses/{id}/habit/try", {
              params: { path: { id: course! } },
              body: { pattern },
            }),
      ),
    enabled: pattern !== "" && (assignment !== undefined || course !== undefined),
    placeholderData: (before) => before,
  });
}

/** The pieces of a pattern, in words, where no work is known that a name could be made for. */
export function inWords(pattern: string): Schemas["NameExample"]["pieces"] {
  return pattern
    .split(/(\{[^}]*\})/)
    .filter(Boolean)
    .map((text) => {
      const field = /^\{(\w+)/.exec(text)?.[1] ?? "";
      return { text: fields[field] ?? text, field };
    });
}

/** A name that a pattern makes: what is filled in is underlined, the rest stands in it as it is. */
export function MadeName(props: Props) {
  const made = useMade(props).data?.pieces;
  return <Pieces pieces={made?.length ? made : inWords(props.pattern)} />;
}

/** A name in its pieces. */
export function Pieces({ pieces }: { pieces: Schemas["NameExample"]["pieces"] }) {
  return (
    <span className={`mono ${styles.made}`}>
      {pieces.map((p, n) => (
        <Fragment key={n}>
          {p.field ? <u title={fields[p.field] ?? p.field}>{p.text}</u> : p.text}
          <wbr />
        </Fragment>
      ))}
    </span>
  );
}
