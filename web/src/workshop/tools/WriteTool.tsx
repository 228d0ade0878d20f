import { Button, SegmentedControl } from "@mantine/core";
import { useElementSize } from "@mantine/hooks";
import { useEffect, useMemo, useRef, useState } from "react";
import { createPortal } from "react-dom";
import { useFields } from "../bench/fields";
import { drawn, type Ink, nothing, type PageInk, pageOf } from "../bench/ink";
import { type Hand, InkPage } from "../bench/InkPage";
import { usePhotograph } from "../bench/Look";
import look from "../bench/Look.module.css";
import { usePages, usePdf } from "../bench/pdf";
import { PdfPage } from "../bench/PdfPage";
import { Kept } from "../Kept";
import { Microphone } from "../Microphone";
import type { ToolProps } from "../work";
import { useWriting } from "../writing";
import styles from "./WriteTool.module.css";

const colours = {
  "#1b2330": "ink",
  "#0e6470": "petrol",
  "#c4432a": "vermilion",
  "#e5b100": "yellow",
};
const longer = 841.89; // of a picture's page: A4's, in points

type Sheet = { width: number; height: number; back: (shown: number) => React.ReactNode };

/** With the pen on a PDF's pages or on a picture; what was written becomes part of them in a new file. */
export default function WriteTool(props: ToolProps) {
  return props.chosen[0]!.kind === "pdf" ? <OnPdf {...props} /> : <OnPicture {...props} />;
}

function OnPdf(props: ToolProps) {
  const file = props.chosen[0]!;
  const { pdf, trouble } = usePdf(`/api/versions/${file.version}/content`);
  const pages = usePages(pdf);
  const fields = useFields(pages);
  const sheets = pages.map((p): Sheet => {
    const { width, height } = p.getViewport({ scale: 1 });
    const back = (shown: number) => (
      <PdfPage page={p} width={shown} label={`Page ${p.pageNumber}`} />
    );
    return { width, height, back };
  });
  return <Desk {...props} sheets={sheets} fields={fields} trouble={trouble} />;
}

function OnPicture(props: ToolProps) {
  const photo = usePhotograph(props.chosen[0]!.version);
  const p = photo.data;
  const scale = p ? longer / Math.max(p.width, p.height) : 1;
  const sheets: Sheet[] = p
    ? [
        {
          width: p.width * scale,
          height: p.height * scale,
          back: (shown) => <img src={`data:image/jpeg;base64,${p.jpeg}`} width={shown} alt="" />,
        },
      ]
    : [];
  return <Desk {...props} sheets={sheets} fields={[]} trouble={photo.error?.message ?? ""} />;
}

type DeskProps = ToolProps & {
  sheets: Sheet[];
  fields: ReturnType<typeof useFields>;
  trouble: string;
};

function Desk({ desk, chosen, begin, busy, bench, sheets, fields, trouble }: DeskProps) {
  const writing = useWriting(desk.line.id, desk.line.part_id, chosen[0]!.version);
  const ink = useMemo(
    () => (writing.body ? (JSON.parse(writing.body) as Ink) : nothing),
    [writing.body],
  );
  const [hand, setHand] = useState<Hand>({ tool: "pen", colour: "#1b2330", width: 2 });
  const past = useRef<string[]>([]);
  const future = useRef<string[]>([]);
  const { ref, width } = useElementSize();
  const keep = (next: Ink) => {
    past.current = [...past.current.slice(-199), JSON.stringify(ink)];
    future.current = [];
    writing.change(JSON.stringify(next));
  };
  const step = (from: typeof past, to: typeof past) => {
    const before = from.current.pop();
    if (before === undefined) return;
    to.current.push(JSON.stringify(ink));
    writing.change(before);
  };
  const undo = useRef(step);
  useEffect(() => {
    undo.current = step;
  });
  useEffect(() => {
    const key = (e: KeyboardEvent) => {
      if (!(e.ctrlKey || e.metaKey) || e.key.toLowerCase() !== "z") return;
      if (e.target instanceof HTMLInputElement || e.target instanceof HTMLTextAreaElement) return;
      e.preventDefault();
      if (e.shiftKey) undo.current(future, past);
      else undo.current(past, future);
    };
    document.addEventListener("keydown", key);
    return () => document.removeEventListener("keydown", key);
  }, []);
  const setPage = (n: number, page: PageInk) =>
    keep({ ...ink, pages: { ...ink.pages, [n]: page } });
  const ready = sheets.length > 0 && writing.body !== undefined;
  return (
    <>
      <SegmentedControl
        aria-label="What to write with"
        className={styles.hands}
        value={hand.tool}
        onChange={(tool) => setHand({ ...hand, tool: tool as Hand["tool"] })}
        data={[
          { value: "pen", label: "Pen" },
          { value: "marker", label: "Marker" },
          { value: "words", label: "Words" },
          { value: "eraser", label: "Eraser" },
          { value: "tick", label: "✓" },
          { value: "cross", label: "✗" },
          { value: "ring", label: "◯" },
        ]}
      />
      <div className={styles.row}>
        {Object.entries(colours).map(([colour, name]) => (
          <button
            key={colour}
            type="button"
            className={styles.colour}
            style={{ background: colour }}
            aria-label={name}
            aria-pressed={hand.colour === colour}
            onClick={() => setHand({ ...hand, colour })}
          />
        ))}
        <SegmentedControl
          aria-label="How broad"
          value={String(hand.width)}
          onChange={(w) => setHand({ ...hand, width: Number(w) })}
          data={[
            { value: "1.2", label: "fine" },
            { value: "2", label: "middle" },
            { value: "4", label: "broad" },
          ]}
        />
      </div>
      <div className={styles.row}>
        <Button variant="default" onClick={() => step(past, future)}>
          Undo
        </Button>
        <Button variant="default" onClick={() => step(future, past)}>
          Redo
        </Button>
      </div>
      <Kept writing={writing} />
      <Button
        loading={busy}
        disabled={!ready || writing.body === ""}
        onClick={() => begin("write", { ink: drawn(ink, sheets, fields) })}
      >
        Make it part of the pages
      </Button>
      <Microphone desk={desk} slot={chosen[0]!.slot} />
      {bench &&
        createPortal(
          trouble ? (
            <p className="must">{trouble}</p>
          ) : (
            <div ref={ref} className={look.pages} role="group" aria-label="Pages to write on">
              {!ready && <p className="soft">Reading…</p>}
              {ready &&
                width > 0 &&
                sheets.map((s, n) => {
                  const shown = Math.min(width, 760);
                  return (
                    <InkPage
                      key={n}
                      width={s.width}
                      height={s.height}
                      shown={shown}
                      hand={hand}
                      ink={pageOf(ink, n)}
                      change={(page) => setPage(n, page)}
                      fields={fields.filter((f) => f.page === n)}
                      values={ink.fields}
                      fill={(name, value) =>
                        keep({ ...ink, fields: { ...ink.fields, [name]: value } })
                      }
                    >
                      {s.back(shown)}
                    </InkPage>
                  );
                })}
            </div>
          ),
          bench,
        )}
    </>
  );
}
