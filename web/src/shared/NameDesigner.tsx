import { TextInput } from "@mantine/core";
import { useDebouncedValue } from "@mantine/hooks";
import { useRef } from "react";
import { inWords, Pieces, useMade } from "./MadeName";
import styles from "./NameDesigner.module.css";

const pieces = [
  "{family}",
  "{given}",
  "{initials}",
  "{number}",
  "{course}",
  "{title:dash}",
  "{slot}",
  "{attempt}",
  "{date}",
];

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
  const example = useMade({ assignment, course, pattern: still });
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
        {pieces.map((piece) => (
          <button key={piece} type="button" onClick={() => insert(piece)}>
            {inWords(piece)[0]?.text}
          </button>
        ))}
      </p>
      {pattern !== "" && example.data && (
        <p role="status">
          <Pieces pieces={example.data.pieces} />
          {example.data.trouble && <span className="should"> {example.data.trouble}</span>}
        </p>
      )}
    </div>
  );
}
