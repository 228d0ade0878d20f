import { useEffect, useState } from "react";
import {
  getDocument,
  GlobalWorkerOptions,
  type PDFDocumentProxy,
  type PDFPageProxy,
} from "pdfjs-dist";
import worker from "pdfjs-dist/build/pdf.worker.min.mjs?url";

GlobalWorkerOptions.workerSrc = worker;

/** A PDF, opened; everything it needs comes from this server. */
export function usePdf(source: string) {
  const [pdf, setPdf] = useState<PDFDocumentProxy>();
  const [trouble, setTrouble] = useState("");
  useEffect(() => {
    const task = getDocument({
      url: source,
      standardFontDataUrl: "/assets/pdfjs/standard_fonts/",
      cMapUrl: "/assets/pdfjs/cmaps/",
      wasmUrl: "/assets/pdfjs/wasm/",
      useWasm: false,
      disableAutoFetch: true,
    });
    let left = false;
    task.promise
      .then((opened) => {
        if (!left) setPdf(opened);
      })
      .catch(async (e: Error) => {
        const why = e.name === "ResponseException" ? await said(source) : e.message;
        if (!left) setTrouble(`It cannot be shown: ${why}`);
      });
    return () => {
      left = true;
      void task.destroy();
    };
  }, [source]);
  return { pdf, trouble };
}

/** Why the server does not give something. */
const said = (source: string) =>
  fetch(source)
    .then((r) => r.json() as Promise<{ message: string }>)
    .then((p) => p.message)
    .catch(() => "the server did not give it; try again");

/** The pages of a PDF, in their order. */
export function usePages(pdf: PDFDocumentProxy | undefined) {
  const [pages, setPages] = useState<PDFPageProxy[]>([]);
  useEffect(() => {
    let left = false;
    if (pdf)
      void Promise.all(Array.from({ length: pdf.numPages }, (_, n) => pdf.getPage(n + 1))).then(
        (list) => {
          if (!left) setPages(list);
        },
      );
    return () => {
      left = true;
    };
  }, [pdf]);
  return pages;
}
