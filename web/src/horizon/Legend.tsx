import styles from "./Chart.module.css";

/** What the marks of the chart mean. */
export function Legend() {
  return (
    <p className={styles.legend}>
      <svg viewBox="0 0 12 10" aria-hidden>
        <path d="M1 1h10l-5 8z" />
      </svg>{" "}
      send by
      <svg viewBox="0 0 4 14" aria-hidden>
        <path d="M1 0h2v14h-2z" />
      </svg>{" "}
      due
      <svg viewBox="0 0 6 14" aria-hidden>
        <path d="M0 0h6v14h-6z" />
      </svg>{" "}
      nothing taken after
      <svg viewBox="0 0 22 7" aria-hidden className={styles.slab}>
        <path d="M0 0h22v7h-22z" />
      </svg>{" "}
      planned work; drag it to see what would follow
    </p>
  );
}
