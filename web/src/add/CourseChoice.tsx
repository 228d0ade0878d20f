import { Button, NativeSelect, TextInput } from "@mantine/core";
import { useState } from "react";
import { api, ask as fetchAnswer } from "../api/client";
import { useAct, useCourses, useMe } from "../shared/queries";
import styles from "./Sheet.module.css";

/** Which course an assignment belongs to; one that is not known yet needs no more than its code. */
export function CourseChoice({
  value,
  proposed,
  set,
}: {
  value: number;
  /** A code that the text names and that is not among the courses. */
  proposed: string;
  set: (id: number) => void;
}) {
  const courses = (useCourses().data ?? []).filter((c) => !c.archived);
  const zone = useMe().data?.zone ?? "UTC";
  const [code, setCode] = useState(value === 0 && proposed ? proposed : undefined);
  const add = useAct((c: string) =>
    fetchAnswer(
      api.POST("/api/courses", {
        body: {
          code: c,
          title: "",
          zone,
          instructor: "",
          contact: "",
          term: "",
          habit: "",
          enrolment_id: 0,
          usual: { forms: [], late: "", weight: 0, points: 0, minutes: 0 },
        },
      }),
    ),
  );
  const keep = () =>
    code &&
    add.mutate(code, {
      onSuccess: (made) => {
        set(made.id);
        setCode(undefined);
      },
    });
  if (code !== undefined) {
    return (
      <div className={styles.course}>
        <TextInput
          label="New course"
          placeholder="HYD 214"
          value={code}
          description={proposed && code === proposed ? "not among yours yet" : undefined}
          autoFocus={!proposed}
          onChange={(e) => setCode(e.target.value)}
          onKeyDown={(e) => {
            if (e.key === "Enter") {
              e.preventDefault();
              keep();
            } else if (e.key === "Escape") setCode(undefined);
          }}
        />
        <Button variant="default" loading={add.isPending} disabled={!code.trim()} onClick={keep}>
          Add it
        </Button>
        <Button variant="subtle" onClick={() => setCode(undefined)}>
          Choose another
        </Button>
      </div>
    );
  }
  return (
    <NativeSelect
      label="Course"
      value={String(value)}
      onChange={(e) => (e.target.value === "new" ? setCode("") : set(Number(e.target.value)))}
      data={[
        { value: "0", label: "choose one" },
        ...courses.map((c) => ({ value: String(c.id), label: c.code })),
        { value: "new", label: "a new course…" },
      ]}
    />
  );
}
