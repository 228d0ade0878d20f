import { useElementSize } from "@mantine/hooks";
import { useQuery } from "@tanstack/react-query";
import type { PDFPageProxy } from "pdfjs-dist";
import { useId, type ReactNode } from "react";
import styles from "./Look.module.css";
import { usePages, usePdf } from "./pdf";
import { PdfPage } from "./PdfPage";
import { keys } from "../../shared/queryKeys";

type Props = {
  source: string;
  name: string;
  read?: boolean; // what was read in each page stands beside it
  instead?: ReactNode; // shown where its pages cannot be
};

/** All pages of a PDF, one under the other. */
export default function PdfPages({ source, name, read, instead }: Props) {
  const { pdf, trouble } = usePdf(source);
  const pages = usePages(pdf);
  const { ref, width } = useElementSize();
  if (trouble)
    return (
      <>
        <p className="must">{trouble}</p>
        {instead}
      </>
    );
  return (
    <div ref={ref} className={styles.pages} data-pages={pages.length}>
      {pages.length === 0 && <p className="soft">Reading…</p>}
      {width > 0 &&
        pages.map((p) => (
          <div key={p.pageNumber} className={read ? styles.read : undefined}>
            <PdfPage
              page={p}
              width={Math.min(read ? width * 0.6 : width, 760)}
              label={`Page ${p.pageNumber} of ${name}`}
            />
            {read && <Words page={p} />}
          </div>
        ))}
    </div>
  );
}

/** The text in a page, line by line. */
function Words({ page }: { page: PDFPageProxy }) {
  const key = useId();
  const text = useQuery({
    queryKey: keys.words(key),
    queryFn: async () =>
      (await page.getTextContent()).items
        .map((i) => ("str" in i ? i.str + (i.hasEOL ? "\n" : "") : ""))
        .join(""),
    staleTime: Infinity,
  });
  return (
    <div>
      <p className="soft">What was read</p>
      <pre>{text.data?.trim() || "nothing"}</pre>
    </div>
  );
}
