import { useDebouncedValue } from "@mantine/hooks";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { Fragment } from "react";
import { api, ask as fetchAnswer } from "../api/client";
import { useCourses } from "../shared/queries";
import styles from "./AddPage.module.css";
import { keys } from "../shared/queryKeys";

/** What is understood of a line while it is typed. */
export function Understood({ line }: { line: string }) {
  const [asked] = useDebouncedValue(line.trim(), 200);
  const courses = useCourses().data ?? [];
  const draft = useQuery({
    queryKey: keys.line(asked),
    queryFn: () => fetchAnswer(api.POST("/api/drafts/line", { body: { line: asked } })),
    enabled: asked.length > 2,
    placeholderData: keepPreviousData,
    staleTime: 60_000,
  });
  const d = draft.data;
  if (asked.length <= 2 || !d) return <dl className={styles.understood} aria-hidden="true" />;
  const course = courses.find((c) => c.id === d.course_id);
  const due = d.asks.find((a) => a.item.kind === "due");
  const rows: [string, string | undefined, boolean][] = [
    ["course", course ? `${course.code}, ${course.title}` : d.new_course || undefined, false],
    ["title", d.title || undefined, false],
    ["due", due?.text, false],
    ...d.asks
      .filter((a) => a !== due)
      .map((a): [string, string, boolean] => [a.label, a.text, true]),
    ["weight", d.weight ? `${d.weight} % of the course` : undefined, true],
    ["work", d.minutes ? `${Math.round(d.minutes / 6) / 10} h` : undefined, true],
  ];
  const left = d.left ?? [];
  return (
    <>
      {left.length > 0 && (
        <p className={styles.left} role="status">
          <Marked line={asked} marks={left} />{" "}
          <span className="should">
            Underlined is not understood; write it in other words, or in the details.
          </span>
        </p>
      )}
      <dl className={styles.understood} aria-live="polite">
        {rows.map(
          ([name, text, mayLack]) =>
            (text || !mayLack) && (
              <div key={name}>
                <dt>{name}</dt>
                <dd data-lacking={!text}>{text ?? "not said yet"}</dd>
              </div>
            ),
        )}
        {d.questions.map((q) => (
          <div key={q.text}>
            <dt>open</dt>
            <dd data-lacking>{q.text}</dd>
          </div>
        ))}
      </dl>
    </>
  );
}

/** A line with stretches of it underlined; offsets count code points. */
function Marked({ line, marks }: { line: string; marks: { start: number; end: number }[] }) {
  const letters = [...line];
  let at = 0;
  return (
    <>
      {marks.map((m) => {
        const before = letters.slice(at, m.start).join("");
        at = m.end;
        return (
          <Fragment key={m.start}>
            {before}
            <u>{letters.slice(m.start, m.end).join("")}</u>
          </Fragment>
        );
      })}
      {letters.slice(at).join("")}
    </>
  );
}
