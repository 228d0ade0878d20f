import { useDebouncedValue } from "@mantine/hooks";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { api, ask as fetchAnswer } from "../api/client";
import { useCourses } from "../shared/queries";
import styles from "./AddPage.module.css";

/** What is understood of a line while it is typed. */
export function Understood({ line }: { line: string }) {
  const [asked] = useDebouncedValue(line.trim(), 200);
  const courses = useCourses().data ?? [];
  const draft = useQuery({
    queryKey: ["line", asked],
    queryFn: () => fetchAnswer(api.POST("/api/drafts/line", { body: { line: asked } })),
    enabled: asked.length > 2,
    placeholderData: keepPreviousData,
    staleTime: 60_000,
  });
  const d = draft.data;
  if (asked.length <= 2 || !d) return <dl className={styles.understood} aria-hidden="true" />;
  const course = courses.find((c) => c.id === d.course_id);
  const said = (kind: string) => d.asks.find((a) => a.item.kind === kind);
  const rows: [string, string | undefined, boolean][] = [
    ["course", course ? `${course.code}, ${course.title}` : undefined, false],
    ["title", d.title || undefined, false],
    ["due", said("due")?.text, false],
    ["points", said("points")?.text, true],
    ["forms", said("forms")?.text, true],
    ["work", d.minutes ? `${Math.round(d.minutes / 6) / 10} h` : undefined, true],
  ];
  return (
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
  );
}
