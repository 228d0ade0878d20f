import { useElementSize } from "@mantine/hooks";
import styles from "./Look.module.css";
import { usePages, usePdf } from "./pdf";
import { PdfPage } from "./PdfPage";

/** All pages of a PDF, one under the other. */
export default function PdfPages({ source, name }: { source: string; name: string }) {
  const { pdf, trouble } = usePdf(source);
  const pages = usePages(pdf);
  const { ref, width } = useElementSize();
  if (trouble) return <p className="must">{trouble}</p>;
  return (
    <div ref={ref} className={styles.pages} data-pages={pages.length}>
      {pages.length === 0 && <p className="soft">Reading…</p>}
      {width > 0 &&
        pages.map((p) => (
          <PdfPage
            key={p.pageNumber}
            page={p}
            width={Math.min(width, 760)}
            label={`Page ${p.pageNumber} of ${name}`}
          />
        ))}
    </div>
  );
}
