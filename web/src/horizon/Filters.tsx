import { Button, NativeSelect, SegmentedControl, TextInput } from "@mantine/core";
import { useDebouncedCallback } from "@mantine/hooks";
import { useEffect, useRef, useState } from "react";
import { api, ask, type Horizon } from "../api/client";
import { useAct } from "../shared/queries";
import { type Filter, groups, weeks, writeFilter } from "./filter";
import styles from "./LineList.module.css";

type Props = {
  filter: Filter;
  set: (f: Filter) => void;
  courses: [number, string][];
  views: Horizon["views"];
  count: number;
};

/** What of the list is shown, and the views that were saved of it. */
export function Filters({ filter, set, courses, views, count }: Props) {
  const [name, setName] = useState<string>();
  const save = useAct((as: string) =>
    ask(api.POST("/api/views", { body: { name: as, filter: writeFilter(filter) } })),
  );
  const remove = useAct((id: number) =>
    ask(api.DELETE("/api/views/{id}", { params: { path: { id } } })),
  );
  const now = writeFilter(filter);
  const known = views.find((v) => v.filter === now);
  return (
    <>
      <SegmentedControl
        aria-label="Which"
        size="xs"
        data={Object.keys(groups)}
        value={filter.state}
        onChange={(state) => set({ ...filter, state })}
      />
      <div className={styles.filters}>
        <NativeSelect
          aria-label="Course"
          value={filter.course}
          onChange={(e) => set({ ...filter, course: e.target.value })}
          data={[
            { value: "", label: "any course" },
            ...courses.map(([id, code]) => ({ value: String(id), label: code })),
          ]}
        />
        <NativeSelect
          aria-label="Week"
          value={filter.week}
          onChange={(e) => set({ ...filter, week: e.target.value })}
          data={Object.entries(weeks)
            .sort()
            .map(([value, label]) => ({ value, label }))}
        />
        <Text value={filter.text} set={(text) => set({ ...filter, text })} />
        <span className="soft figures" role="status">
          {count}
        </span>
      </div>
      <div className={styles.views}>
        {views.map((v) => (
          <a
            key={v.id}
            href={`?${v.filter}`}
            aria-current={v.filter === now}
            onClick={(e) => {
              e.preventDefault();
              set({
                state: "all",
                course: "",
                week: "",
                text: "",
                ...Object.fromEntries(new URLSearchParams(v.filter)),
              });
            }}
          >
            {v.name}
          </a>
        ))}
        {known ? (
          <Button variant="subtle" onClick={() => remove.mutate(known.id)}>
            Forget this view
          </Button>
        ) : (
          now !== "" &&
          name === undefined && (
            <Button variant="subtle" onClick={() => setName("")}>
              Save this view
            </Button>
          )
        )}
        {name !== undefined && (
          <form
            onSubmit={(e) => {
              e.preventDefault();
              save.mutate(name, { onSuccess: () => setName(undefined) });
            }}
          >
            <TextInput
              aria-label="Name of the view"
              placeholder="name of the view"
              autoFocus
              value={name}
              onChange={(e) => setName(e.target.value)}
              onKeyDown={(e) => e.key === "Escape" && setName(undefined)}
            />
            <Button type="submit" loading={save.isPending}>
              Save
            </Button>
          </form>
        )}
      </div>
    </>
  );
}

/** The text that is looked for. The address follows the field, never the other way while it is typed in. */
function Text({ value, set }: { value: string; set: (text: string) => void }) {
  const [text, setText] = useState(value);
  const field = useRef<HTMLInputElement>(null);
  const put = useDebouncedCallback(set, 150);
  useEffect(() => {
    if (document.activeElement !== field.current) setText(value);
  }, [value]);
  return (
    <TextInput
      ref={field}
      aria-label="Text"
      placeholder="with this text"
      value={text}
      onChange={(e) => {
        setText(e.target.value);
        put(e.target.value);
      }}
    />
  );
}
