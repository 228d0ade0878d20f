import { Button } from "@mantine/core";
import { useState } from "react";
import { api, ask, type Schemas } from "../api/client";
import { useAct, useCourses, useMe } from "../shared/queries";
import { Standing } from "../shared/Standing";
import { place } from "../shared/time";
import { useTitle } from "../shared/title";
import { CourseForm } from "./CourseForm";
import { MadeName } from "../shared/MadeName";
import styles from "./CoursesPage.module.css";
import { Enrolments } from "./Enrolments";

export default function CoursesPage() {
  const sync = useAct(() => ask(api.POST("/api/sync")));
  const [adding, setAdding] = useState(false);
  useTitle("Courses");
  return (
    <Standing query={useCourses()}>
      {(courses) => {
        const open = courses.filter((c) => !c.archived);
        const terms = [...new Set(open.map((c) => c.term))].sort();
        const archived = courses.filter((c) => c.archived);
        const shared = { habit: common(open.map((c) => c.habit)) };
        return (
          <section className={styles.page}>
            <div className={styles.head}>
              <div>
                <h1>Courses</h1>
                <p className="soft">
                  What is usual in a course is proposed for its assignments, to be confirmed there.
                  {shared.habit && (
                    <>
                      {" "}
                      Names, where nothing else is said:{" "}
                      <MadeName
                        course={open.find((c) => c.habit === shared.habit)?.id}
                        pattern={shared.habit}
                      />
                    </>
                  )}
                </p>
              </div>
              <div className={styles.buttons}>
                <Button onClick={() => setAdding(true)}>Add a course</Button>
                {courses.some((c) => c.site) && (
                  <Button
                    variant="default"
                    loading={sync.isPending}
                    onClick={() => sync.mutate(undefined)}
                  >
                    Look for changes now
                  </Button>
                )}
              </div>
            </div>
            {adding && <CourseForm done={() => setAdding(false)} />}
            {courses.length === 0 && !adding && (
              <p>
                No course is known yet. Add one, or take over a calendar; those of a connected
                course site appear by themselves.
              </p>
            )}
            {terms.map((term) => (
              <div key={term}>
                {(term || terms.length > 1) && (
                  <h2 className={styles.term}>{term || "Without a term"}</h2>
                )}
                {open
                  .filter((c) => c.term === term)
                  .map((c) => (
                    <Course key={c.id} course={c} habit={shared.habit} />
                  ))}
              </div>
            ))}
            <Enrolments />
            {archived.length > 0 && (
              <>
                <h2 className={styles.term}>Archived</h2>
                {archived.map((c) => (
                  <Course key={c.id} course={c} habit={shared.habit} />
                ))}
              </>
            )}
          </section>
        );
      }}
    </Standing>
  );
}

/** What several have in common, said once; undefined where no two are the same. */
function common(list: string[]): string | undefined {
  const most = [...new Set(list)].sort((a, b) => count(list, b) - count(list, a))[0];
  return most && count(list, most) > 1 ? most : undefined;
}
const count = (list: string[], one: string) => list.filter((x) => x === one).length;

function Course({ course: c, habit }: { course: Schemas["Course"]; habit?: string }) {
  const home = useMe().data?.zone ?? "UTC";
  const [editing, setEditing] = useState(false);
  const archive = useAct((archived: boolean) =>
    ask(
      api.PUT("/api/courses/{id}/archived", { params: { path: { id: c.id } }, body: { archived } }),
    ),
  );
  const u = c.usual;
  const usual = [
    u.forms.length > 0 && u.forms.map((f) => f.toUpperCase()).join(" or "),
    u.points > 0 && `${u.points} points`,
    u.weight > 0 && `${u.weight} %`,
    u.minutes > 0 && `${u.minutes / 60} h of work`,
    u.late && `late: ${u.late}`,
  ]
    .filter(Boolean)
    .join(", ");
  if (editing) return <CourseForm course={c} done={() => setEditing(false)} />;
  return (
    <article className={styles.course} data-archived={c.archived}>
      <div>
        <h3 className={styles.code}>{c.code}</h3>
        <p>{c.title}</p>
      </div>
      <div className="soft">
        {c.instructor && <p>{c.instructor}</p>}
        {c.contact && (
          <p>
            <a href={`mailto:${c.contact}`}>{c.contact}</a>
          </p>
        )}
        {c.zone !== home && <p>times of {place(c.zone)}</p>}
        {!c.site && <p>no site</p>}
      </div>
      <div>
        {c.habit && c.habit !== habit && (
          <p>
            <MadeName course={c.id} pattern={c.habit} />
          </p>
        )}
        {usual && <p className="soft">Usual: {usual}</p>}
      </div>
      <div className="figures">
        <p>{c.open} open</p>
        <p>{c.marked || <span className="soft">no marks yet</span>}</p>
        <p className="soft">{c.weights}</p>
      </div>
      <p className={styles.acts}>
        {!c.archived && (
          <Button variant="subtle" onClick={() => setEditing(true)}>
            Set up
          </Button>
        )}
        <Button
          variant="subtle"
          loading={archive.isPending}
          onClick={() => archive.mutate(!c.archived)}
        >
          {c.archived ? "Take it out again" : "Archive"}
        </Button>
      </p>
    </article>
  );
}
