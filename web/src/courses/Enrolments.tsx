import { Button, NativeSelect, TextInput } from "@mantine/core";
import { useState } from "react";
import { api, ask, type Schemas } from "../api/client";
import { useAct, useCourses, useEnrolments, useMe } from "../shared/queries";
import { moment, place } from "../shared/time";
import styles from "./CoursesPage.module.css";
import { zones } from "./CourseForm";

type Enrolment = Schemas["Enrolment"];

/** How institutions know the student: receipts and names of files go by it. */
export function Enrolments() {
  const list = useEnrolments().data ?? [];
  const [adding, setAdding] = useState(false);
  return (
    <section aria-labelledby="institutions">
      <h2 className={styles.term} id="institutions">
        Institutions
      </h2>
      {list.map((e) => (
        <Row key={e.id} enrolment={e} />
      ))}
      {adding ? (
        <Form done={() => setAdding(false)} />
      ) : (
        <Button variant="subtle" onClick={() => setAdding(true)}>
          Add an institution
        </Button>
      )}
    </section>
  );
}

function Row({ enrolment: e }: { enrolment: Enrolment }) {
  const [editing, setEditing] = useState(false);
  const home = useMe().data?.zone ?? "UTC";
  const courses = (useCourses().data ?? []).filter((c) => c.enrolment_id === e.id);
  const looked = courses.find((c) => c.synced_at)?.synced_at;
  if (editing) return <Form enrolment={e} done={() => setEditing(false)} />;
  return (
    <div className={styles.institution}>
      <b>{e.institution}</b>
      <span>
        {e.given} {e.family}
        {e.number && `, student number ${e.number}`}
        <span className="soft"> · times of {place(e.zone)}</span>
      </span>
      <span className="soft">
        {courses.length === 1 ? "1 course" : `${courses.length} courses`}
        {looked && `, looked at ${moment(looked, home)}`}
      </span>
      {e.from_site ? (
        <span className="soft">as its site says</span>
      ) : (
        <Button variant="subtle" onClick={() => setEditing(true)}>
          Change
        </Button>
      )}
    </div>
  );
}

function Form({ enrolment: e, done }: { enrolment?: Enrolment; done: () => void }) {
  const me = useMe().data;
  const [s, setS] = useState({
    institution: e?.institution ?? "",
    number: e?.number ?? me?.number ?? "",
    given: e?.given ?? me?.given ?? "",
    family: e?.family ?? me?.family ?? "",
    zone: e?.zone ?? me?.zone ?? "UTC",
  });
  const save = useAct(async (body: Schemas["EnrolmentSheet"]) => {
    if (e) await ask(api.PUT("/api/enrolments/{id}", { params: { path: { id: e.id } }, body }));
    else await ask(api.POST("/api/enrolments", { body }));
  });
  const field = (label: string, key: keyof typeof s, required = true) => (
    <TextInput
      label={label}
      value={s[key]}
      required={required}
      onChange={(x) => setS({ ...s, [key]: x.target.value })}
    />
  );
  return (
    <form
      className={styles.form}
      aria-label={e ? `Change ${e.institution}` : "A new institution"}
      onSubmit={(x) => {
        x.preventDefault();
        save.mutate(s, { onSuccess: done });
      }}
    >
      <div className={styles.fields}>
        {field("Institution", "institution")}
        {field("Student number there", "number", false)}
        {field("Given name as registered", "given")}
        {field("Family name as registered", "family")}
        <NativeSelect
          label="Times are of"
          data={zones}
          value={s.zone}
          onChange={(x) => setS({ ...s, zone: x.target.value })}
        />
      </div>
      <p>
        <Button type="submit" loading={save.isPending}>
          Keep it so
        </Button>{" "}
        <Button variant="subtle" onClick={done}>
          Cancel
        </Button>
      </p>
    </form>
  );
}
