import type { PDFPageProxy } from "pdfjs-dist";
import { useEffect, useState } from "react";
import type { Field } from "./ink";

type Annotation = {
  subtype: string;
  fieldType?: string;
  fieldName?: string;
  fieldValue?: unknown;
  rect: number[];
  multiLine?: boolean;
  checkBox?: boolean;
  readOnly?: boolean;
  options?: { displayValue: string }[];
};

/** The fields of a PDF's form, where they are seen. */
export function useFields(pages: PDFPageProxy[]): Field[] {
  const [fields, setFields] = useState<Field[]>([]);
  useEffect(() => {
    let left = false;
    void Promise.all(pages.map((p) => p.getAnnotations())).then((lists) => {
      if (!left)
        setFields(
          lists.flatMap((list, n) => list.flatMap((a) => field(a as Annotation, pages[n]!, n))),
        );
    });
    return () => {
      left = true;
    };
  }, [pages]);
  return fields;
}

function field(a: Annotation, page: PDFPageProxy, n: number): Field[] {
  if (a.subtype !== "Widget" || !a.fieldName || a.readOnly) return [];
  const kind = { Tx: "text" as const, Ch: "choice" as const, Btn: "check" as const }[
    a.fieldType ?? ""
  ];
  if (!kind || (kind === "check" && !a.checkBox)) return [];
  const [x1, y1, x2, y2] = page
    .getViewport({ scale: 1 })
    .convertToViewportRectangle(a.rect) as number[];
  const value = Array.isArray(a.fieldValue) ? a.fieldValue.join(", ") : String(a.fieldValue ?? "");
  return [
    {
      name: a.fieldName,
      page: n,
      box: [Math.min(x1!, x2!), Math.min(y1!, y2!), Math.abs(x2! - x1!), Math.abs(y2! - y1!)],
      kind,
      many: a.multiLine === true,
      value: kind === "check" && value === "Off" ? "" : value,
      options: (a.options ?? []).map((o) => o.displayValue),
    },
  ];
}
