import { TextInput } from "@mantine/core";
import { useDebouncedValue } from "@mantine/hooks";
import { useQuery } from "@tanstack/react-query";
import { useRef } from "react";
import { api, ask } from "../api/client";
import styles from "./NameDesigner.module.css";

const pieces = {
  "{family}": "family name",
  "{given}": "given name",
  "{initials}": "initials",
  "{number}": "student number",
  "{course}": "course",
  "{title:dash}": "title",
  "{slot}": "slot",
  "{attempt}": "attempt",
  "{date}": "date",
};

type Props = {
  assignment?: number; // whose file is the example
  course?: number; // else: of some work in it
  pattern: string;
  change: (pattern: string) => void;
};

/** A name pattern, put together of pieces, with the name that it makes. */
export function NameDesigner({ assignment, course, pattern, change }: Props) {
  const input = useRef<HTMLInputElement>(null);
  const [still] = useDebouncedValue(pattern, 250);
  const example = useQuery({
    queryKey: ["name", assignment, course, still],
    queryFn: () =>
      ask(
        assignment
          ? api.POST("/api/assignments/{id}/name/try", {
              params: { path: { id: assignment } },
              body: { pattern: still },
            })
          : api.POST("/api/courses/{id}/habit/try", {
              params: { path: { id: course! } },
              body: { pattern: still },
            }),
      ),
    enabled: still !== "" && (assignment !== undefined || course !== undefined),
    placeholderData: (before) => before,
  });
  const insert = (piece: string) => {
    const at = input.current?.selectionStart ?? pattern.length;
    const end = input.current?.selectionEnd ?? at;
    const before = pattern.slice(0, at);
    const joint = before !== "" && !/[_\-. ]$/.test(before) ? "_" : "";
    change(before + joint + piece + pattern.slice(end));
    requestAnimationFrame(() => {
      const place = at + joint.length + piece.length;
      input.current?.focus();
      input.current?.setSelectionRange(place, place);
    });
  };
  return (
    <div className={styles.designer}>
      <TextInput
        ref={input}
        aria-label="Name pattern"
        value={pattern}
        onChange={(e) => change(e.target.value)}
        classNames={{ input: "mono" }}
      />
      <p className={styles.pieces} aria-label="Pieces">
        {Object.entries(pieces).map(([piece, text]) => (
          <button key={piece} type="button" onClick={() => insert(piece)}>
            {text}
          </button>
        ))}
      </p>
      {pattern !== "" && example.data && (
        <p role="status">
          {example.data.name && <span className="mono">{example.data.name}</span>}
          {example.data.trouble && <span className="should"> {example.data.trouble}</span>}
        </p>
      )}
    </div>
  );
}
