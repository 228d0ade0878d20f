import { Kbd } from "@mantine/core";
import { useDebouncedValue } from "@mantine/hooks";
import { useQuery } from "@tanstack/react-query";
import { type KeyboardEvent, useId, useRef, useState } from "react";
import { useNavigate } from "react-router";
import { api, ask } from "../api/client";
import { useKeys } from "./keys";
import styles from "./Search.module.css";
import { keys } from "./queryKeys";

/** The field that searches assignments, receipts and the text of all files. */
export function Search() {
  const [text, setText] = useState("");
  const [at, setAt] = useState(0);
  const [open, setOpen] = useState(false);
  const [asked] = useDebouncedValue(text.trim(), 180);
  const field = useRef<HTMLInputElement>(null);
  const navigate = useNavigate();
  const list = useId();
  useKeys({ "/": () => field.current?.focus() });
  const hits = useQuery({
    queryKey: keys.search(asked),
    queryFn: () => ask(api.GET("/api/search", { params: { query: { q: asked } } })),
    enabled: asked.length > 1,
  });
  const found = hits.data ?? [];
  const go = (path?: string) => {
    if (!path) return;
    setText("");
    setOpen(false);
    field.current?.blur();
    navigate(path);
  };
  const type = (value: string) => {
    setText(value.replace(/^\//, "")); // the key that opened the field is not searched for
    setAt(0);
    setOpen(true);
  };
  const press = (event: KeyboardEvent) => {
    if (event.key === "ArrowDown") setAt((n) => Math.min(n + 1, found.length - 1));
    else if (event.key === "ArrowUp") setAt((n) => Math.max(n - 1, 0));
    else if (event.key === "Enter") go(found[at]?.path);
    else if (event.key === "Escape") {
      setText("");
      field.current?.blur();
    } else return;
    event.preventDefault();
  };
  const shown = open && asked.length > 1;
  return (
    <div className={styles.search} role="search">
      <input
        ref={field}
        value={text}
        placeholder="Search everything"
        aria-label="Search everything"
        role="combobox"
        aria-expanded={shown}
        aria-controls={list}
        aria-activedescendant={shown && found[at] ? `${list}-${at}` : undefined}
        onChange={(e) => type(e.target.value)}
        onFocus={() => setOpen(true)}
        onBlur={() => setOpen(false)}
        onKeyDown={press}
      />
      <Kbd>/</Kbd>
      {shown && (
        <ul id={list} role="listbox" aria-label="Found" className={styles.hits}>
          {found.map((hit, n) => (
            <li
              key={`${hit.path}${n}`}
              id={`${list}-${n}`}
              role="option"
              aria-selected={n === at}
              onMouseDown={(e) => {
                e.preventDefault();
                go(hit.path);
              }}
            >
              <span>{hit.text}</span>{" "}
              <span className="soft">
                {hit.kind}
                {hit.more && `, ${hit.more}`}
              </span>
            </li>
          ))}
          {found.length === 0 && (
            <li role="option" aria-selected={false} className="soft">
              {hits.isFetching ? "Looking…" : `Nothing holds “${asked}”.`}
            </li>
          )}
        </ul>
      )}
    </div>
  );
}
