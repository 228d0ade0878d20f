import { Button, NativeSelect, TextInput } from "@mantine/core";
import { useState } from "react";
import { api, ask, type Schemas } from "../api/client";
import { useAct, useEnrolments, useMe } from "../shared/queries";
import { forms } from "./forms";
import { NameDesigner } from "../shared/NameDesigner";
import styles from "./CoursesPage.module.css";

export const zones = [...new Set(["UTC", ...Intl.supportedValuesOf("timeZone")])];

/** What the student says of a course. Of a course that a site publishes, the site says part of it. */
export function CourseForm({ course: c, done }: { course?: Schemas["Course"]; done: () => void }) {
  const home = useMe().data?.zone ?? "UTC";
  const [s, setS] = useState({
    code: c?.code ?? "",
    title: c?.title ?? "",
    zone: c?.zone ?? home,
    instructor: c?.instructor ?? "",
    contact: c?.contact ?? "",
    term: c?.term ?? "",
    enrolment: String(c?.enrolment_id ?? 0),
    habit: c?.habit ?? "{family:lower}_{course}_{title:dash}",
    forms: c?.usual.forms.join(", ") ?? "",
    late: c?.usual.late ?? "",
    weight: String(c?.usual.weight || ""),
    points: String(c?.usual.points || ""),
    hours: String((c?.usual.minutes ?? 0) / 60 || ""),
  });
  const enrolments = useEnrolments().data ?? [];
  const save = useAct(async (body: Schemas["CourseSheet"]) => {
    if (c) await ask(api.PUT("/api/courses/{id}", { params: { path: { id: c.id } }, body }));
    else await ask(api.POST("/api/courses", { body }));
  });
  const number = (t: string) => Number(t.replace(",", ".") || 0);
  const submit = () =>
    save.mutate(
      {
        code: s.code,
        title: s.title,
        zone: s.zone,
        instructor: s.instructor,
        contact: s.contact,
        term: s.term,
        habit: s.habit,
        enrolment_id: Number(s.enrolment),
        usual: {
          forms: forms(s.forms),
          late: s.late,
          weight: number(s.weight),
          points: number(s.points),
          minutes: Math.round(number(s.hours) * 60),
        },
      },
      { onSuccess: done },
    );
  const field = (label: string, key: keyof typeof s, more: object = {}) => (
    <TextInput
      label={label}
      value={s[key]}
      onChange={(e) => setS({ ...s, [key]: e.target.value })}
      {...more}
    />
  );
  const bySite = Boolean(c?.site);
  return (
    <form
      className={styles.form}
      onSubmit={(e) => {
        e.preventDefault();
        submit();
      }}
      aria-label={c ? `Set up ${c.code}` : "A new course"}
    >
      <h3 className={styles.code}>{c ? c.code : "A new course"}</h3>
      {!bySite && (
        <div className={styles.fields}>
          {field("Code", "code", { required: true, placeholder: "HYD 214" })}
          {field("Title", "title")}
          {field("Instructor", "instructor")}
          <NativeSelect
            label="Times are of"
            data={zones}
            value={s.zone}
            onChange={(e) => setS({ ...s, zone: e.target.value })}
          />
          {enrolments.length > 0 && (
            <NativeSelect
              label="Institution"
              data={[
                { value: "0", label: "none" },
                ...enrolments.map((x) => ({ value: String(x.id), label: x.institution })),
              ]}
              value={s.enrolment}
              onChange={(e) => setS({ ...s, enrolment: e.target.value })}
            />
          )}
        </div>
      )}
      <div className={styles.fields}>
        {field("Contact, e-mail", "contact", { type: "email" })}
        {field("Term", "term", { placeholder: "Autumn 2026" })}
      </div>
      <p className="soft">Name pattern, for work where the brief asks for none:</p>
      <NameDesigner course={c?.id} pattern={s.habit} change={(habit) => setS({ ...s, habit })} />
      <p className="soft">What is usual, so that a new assignment begins with it:</p>
      <div className={styles.fields}>
        {field("Forms", "forms", { placeholder: "pdf, docx" })}
        {field("Lateness, in words", "late", { placeholder: "10% per day, at most 50%" })}
        {field("Points", "points", { inputMode: "decimal" })}
        {field("Weight, %", "weight", { inputMode: "decimal" })}
        {field("Work, hours", "hours", { inputMode: "decimal" })}
      </div>
      <p>
        <Button type="submit" loading={save.isPending}>
          {c ? "Keep it so" : "Add this course"}
        </Button>{" "}
        <Button variant="subtle" onClick={done}>
          Cancel
        </Button>
      </p>
    </form>
  );
}
