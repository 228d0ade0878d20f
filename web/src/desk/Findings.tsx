import { Button } from "@mantine/core";
import type { Schemas } from "../api/client";
import styles from "./Findings.module.css";

const weights = { must: "must fix", should: "should fix", note: "good to know" };
export type Fix =
  "rename" | "newest" | "convert" | "scan" | "together" | "searchable" | "smaller" | "clean";
const fixes: Record<string, { how: Fix; text: string }> = {
  rename: { how: "rename", text: "Rename" },
  convert: { how: "convert", text: "Convert and rename" },
  scan: { how: "scan", text: "Make a page of it" },
  together: { how: "together", text: "Make one PDF of the photographs" },
  searchable: { how: "searchable", text: "Make it searchable" },
  newest: { how: "newest", text: "Put the newest in" },
  clean: { how: "clean", text: "Take them out" },
  smaller: { how: "smaller", text: "Make it smaller" },
};

type Props = {
  findings: Schemas["Finding"][];
  fix?: (how: Fix) => void;
  busy?: boolean;
};

/** What the checks found, with a button where one press mends it. */
export function Findings({ findings, fix, busy }: Props) {
  if (findings.length === 0) return null;
  return (
    <ul className={styles.findings}>
      {findings.map((f) => (
        <li key={f.code + f.message} data-weight={f.weight}>
          <span>
            <span className={styles.weight}>{weights[f.weight]}</span> {f.message}
          </span>
          {fix && fixes[f.fix] && (
            <Button variant="default" loading={busy} onClick={() => fix(fixes[f.fix]!.how)}>
              {fixes[f.fix]!.text}
            </Button>
          )}
        </li>
      ))}
    </ul>
  );
}
