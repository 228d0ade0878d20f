import { Button, Select } from "@mantine/core";
import { useDebouncedValue } from "@mantine/hooks";
import { useRef, useState } from "react";
import { Sending } from "../desk/Sending";
import type { useUploads } from "../desk/uploads";
import { useLibrary, useMe } from "../shared/queries";
import { moment } from "../shared/time";
import { type Chosen, ofLibrary } from "./work";
import styles from "./Tray.module.css";

type Props = {
  all: Chosen[];
  chosen: Chosen[];
  choose: (list: Chosen[]) => void;
  uploads: ReturnType<typeof useUploads>;
};

/** The files of the bundle and of the Library, to be laid on the bench, in the order in which they are chosen. */
export function Tray({ all, chosen, choose, uploads }: Props) {
  const picker = useRef<HTMLInputElement>(null);
  const [moved, setMoved] = useState<Chosen>();
  const put = (before: Chosen) => {
    if (!moved || moved.version === before.version) return;
    const rest = chosen.filter((c) => c.version !== moved.version);
    rest.splice(Math.max(0, place(before.version)), 0, moved);
    choose(rest);
  };
  const place = (version: number) => chosen.findIndex((c) => c.version === version);
  const toggle = (c: Chosen) =>
    choose(place(c.version) >= 0 ? chosen.filter((x) => x.version !== c.version) : [...chosen, c]);
  return (
    <div className={styles.tray}>
      <ul aria-label="Files to work on">
        {all.map((c) => {
          const at = place(c.version);
          return (
            <li
              key={c.version}
              draggable={at >= 0}
              onDragStart={() => setMoved(c)}
              onDragEnd={() => setMoved(undefined)}
              onDragOver={(e) => moved && at >= 0 && e.preventDefault()}
              onDrop={(e) => {
                if (!moved) return;
                e.preventDefault();
                e.stopPropagation();
                put(c);
              }}
            >
              <button type="button" aria-pressed={at >= 0} onClick={() => toggle(c)} title={c.name}>
                <span className={styles.place}>{at >= 0 ? at + 1 : ""}</span>
                <span className="mono">{c.name}</span>
                <span className="soft figures">{c.said}</span>
              </button>
            </li>
          );
        })}
        <li className={styles.add}>
          <Button variant="subtle" onClick={() => picker.current?.click()}>
            Add files
          </Button>
          <FromLibrary all={all} add={(c) => choose([...chosen, c])} />
          {all.length > 1 && (
            <Button
              variant="subtle"
              onClick={() => choose(chosen.length === all.length ? [] : all)}
            >
              {chosen.length === all.length ? "Choose none" : "Choose all"}
            </Button>
          )}
        </li>
      </ul>
      <Sending uploads={uploads} />
      <input
        ref={picker}
        type="file"
        multiple
        hidden
        data-testid="tray-picker"
        onChange={(e) => {
          if (e.target.files) uploads.start([...e.target.files]);
          e.target.value = "";
        }}
      />
    </div>
  );
}

/** A file of the Library, found by what it is called or says, laid on the bench without going into the bundle. */
function FromLibrary({ all, add }: { all: Chosen[]; add: (c: Chosen) => void }) {
  const [words, setWords] = useState("");
  const [still] = useDebouncedValue(words.trim(), 250);
  const [open, setOpen] = useState(false);
  const zone = useMe().data?.zone ?? "UTC";
  const library = useLibrary(still, open);
  const found = (library.data ?? []).filter((v) => !all.some((c) => c.version === v.id));
  return (
    <Select
      className={styles.library}
      aria-label="From the Library"
      placeholder="From the Library"
      variant="unstyled"
      rightSection={null}
      comboboxProps={{ width: 400, position: "bottom-start" }}
      searchable
      searchValue={words}
      onSearchChange={setWords}
      filter={({ options }) => options}
      onDropdownOpen={() => setOpen(true)}
      data={found.slice(0, 40).map((v) => ({ value: String(v.id), label: v.name }))}
      nothingFoundMessage={library.isPending ? "Looking…" : "No other file is like that."}
      renderOption={({ option }) => {
        const version = found.find((v) => String(v.id) === option.value);
        return (
          <span className={styles.kept}>
            <span className="mono">{option.label}</span>
            <span className="soft figures">{version && moment(version.added_at, zone)}</span>
          </span>
        );
      }}
      value={null}
      onChange={(id) => {
        const version = found.find((v) => String(v.id) === id);
        if (version) add(ofLibrary(version));
        setWords("");
      }}
    />
  );
}
