import { Button, SegmentedControl, TextInput } from "@mantine/core";
import { useState } from "react";
import { createPortal } from "react-dom";
import { usePages, usePdf } from "../bench/pdf";
import { PdfPage } from "../bench/PdfPage";
import type { ToolProps } from "../work";
import styles from "./PagesTool.module.css";

type Place = { n: number; turn: number };

/** The pages of a PDF as small sheets, to be put in order, turned and left out; or the PDF in parts. */
export default function PagesTool({ chosen, begin, busy, bench }: ToolProps) {
  const file = chosen[0]!;
  const { pdf, trouble } = usePdf(`/api/versions/${file.version}/content`);
  const pages = usePages(pdf);
  const [changed, setOrder] = useState<{ version: number; order: Place[] }>();
  const [way, setWay] = useState("order");
  const [every, setEvery] = useState("1");
  const [most, setMost] = useState("5");
  const first = pages.map((p) => ({ n: p.pageNumber, turn: 0 }));
  const order = changed?.version === file.version ? changed.order : first;
  const set = (list: Place[]) => setOrder({ version: file.version, order: list });
  const move = (at: number, by: number) => {
    const list = [...order];
    const [place] = list.splice(at, 1);
    list.splice(Math.max(0, Math.min(list.length, at + by)), 0, place!);
    set(list);
  };
  return (
    <>
      <SegmentedControl
        aria-label="What to do"
        value={way}
        onChange={setWay}
        data={[
          { value: "order", label: "Arrange" },
          { value: "every", label: "Split by pages" },
          { value: "most", label: "Split by size" },
        ]}
      />
      {way === "order" && (
        <>
          <p className="soft">
            {order.length} of {pages.length} pages, in this order.
            {changed && (
              <>
                {" "}
                <Button variant="subtle" onClick={() => setOrder(undefined)}>
                  As it was
                </Button>
              </>
            )}
          </p>
          <Button
            loading={busy}
            disabled={order.length === 0}
            onClick={() =>
              begin("convert", {
                form: "pdf",
                pages: order.map((p) => p.n).join(","),
                turns: order.map((p) => p.turn),
              })
            }
          >
            Make a PDF of them
          </Button>
        </>
      )}
      {way === "every" && (
        <>
          <TextInput
            label="Pages in each"
            inputMode="numeric"
            value={every}
            onChange={(e) => setEvery(e.target.value)}
          />
          <Button
            loading={busy}
            disabled={!(Number(every) >= 1)}
            onClick={() => begin("split", { every: Math.floor(Number(every)) })}
          >
            Split
          </Button>
        </>
      )}
      {way === "most" && (
        <>
          <TextInput
            label="At most, in MB"
            inputMode="decimal"
            value={most}
            onChange={(e) => setMost(e.target.value)}
          />
          <Button
            loading={busy}
            disabled={!(Number(most) > 0)}
            onClick={() => begin("split", { max_bytes: Math.round(Number(most) * 1e6) })}
          >
            Split
          </Button>
        </>
      )}
      {bench &&
        createPortal(
          trouble ? (
            <p className="must">{trouble}</p>
          ) : (
            <ol className={styles.sheets} aria-label="Pages">
              {order.map((p, at) => {
                const page = pages[p.n - 1];
                if (!page) return null;
                const label = `Page ${p.n}`;
                return (
                  <li
                    key={p.n}
                    draggable
                    onDragStart={(e) => e.dataTransfer.setData("text/plain", String(at))}
                    onDragOver={(e) => e.preventDefault()}
                    onDrop={(e) => {
                      e.preventDefault();
                      const from = Number(e.dataTransfer.getData("text/plain"));
                      move(from, at - from);
                    }}
                  >
                    <PdfPage page={page} width={150} turn={p.turn} label={label} />
                    <p>
                      <b className="figures">{p.n}</b>
                      <button
                        type="button"
                        aria-label={`${label} earlier`}
                        disabled={at === 0}
                        onClick={() => move(at, -1)}
                      >
                        ‹
                      </button>
                      <button
                        type="button"
                        aria-label={`${label} later`}
                        disabled={at === order.length - 1}
                        onClick={() => move(at, 1)}
                      >
                        ›
                      </button>
                      <button
                        type="button"
                        aria-label={`Turn ${label.toLowerCase()}`}
                        onClick={() =>
                          set(
                            order.map((x, i) =>
                              i === at ? { ...x, turn: (x.turn + 90) % 360 } : x,
                            ),
                          )
                        }
                      >
                        Turn
                      </button>
                      <button
                        type="button"
                        aria-label={`Leave ${label.toLowerCase()} out`}
                        onClick={() => set(order.filter((_, i) => i !== at))}
                      >
                        Leave out
                      </button>
                    </p>
                  </li>
                );
              })}
            </ol>
          ),
          bench,
        )}
    </>
  );
}
