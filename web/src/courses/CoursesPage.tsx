import { Button, TextInput } from "@mantine/core";
import { useState } from "react";
import { api, ask, type Schemas } from "../api/client";
import { useAct, useCourses, useMe } from "../shared/queries";
import { Nothing, Standing } from "../shared/Standing";
import { moment, place } from "../shared/time";
import styles from "./CoursesPage.module.css";

export default function CoursesPage() {
  const sync = useAct(() => ask(api.POST("/api/sync")));
  return (
    <Standing query={useCourses()}>
      {(courses) => courses.length === 0 ? <Nothing title="No course is known yet">Once a course site is connected to your account, its courses appear here.</Nothing> : (
        <section className={styles.page}>
          <div className={styles.head}><div><h1>Courses</h1><p className="soft">Where a brief gives no pattern for names, the course's own is proposed.</p></div><Button variant="default" loading={sync.isPending} onClick={() => sync.mutate(undefined)}>Look for changes now</Button></div>
          {courses.map((c) => <Course key={c.id} course={c} />)}
        </section>
      )}
    </Standing>
  );
}

function Course({ course: c }: { course: Schemas["Course"] }) {
  const home = useMe().data?.zone ?? "UTC";
  const [habit, setHabit] = useState(c.habit);
  const save = useAct((pattern: string) => ask(api.PUT("/api/courses/{id}/habit", { params: { path: { id: c.id } }, body: { pattern } })));
  return (
    <article className={styles.course}>
      <div><h2 className={styles.code}>{c.code}</h2><p>{c.title}</p></div>
      <div className="soft"><p>{c.instructor}</p><p>times of {place(c.zone)}</p><p>{c.site}{c.synced_at && `, looked at ${moment(c.synced_at, home)}`}</p></div>
      <form onSubmit={(e) => { e.preventDefault(); save.mutate(habit); }} className={styles.habit}>
        <TextInput aria-label={`Name pattern of ${c.code}`} value={habit} onChange={(e) => setHabit(e.target.value)} classNames={{ input: "mono" }} />
        {habit !== c.habit && <Button type="submit" loading={save.isPending}>Keep this pattern</Button>}
      </form>
      <div className="figures"><p>{c.open} open</p><p>{c.marked || <span className="soft">no marks yet</span>}</p></div>
    </article>
  );
}
