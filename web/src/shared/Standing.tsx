import { Button } from "@mantine/core";
import type { UseQueryResult } from "@tanstack/react-query";
import type { ReactNode } from "react";
import styles from "./Standing.module.css";

/** A page's content once it is there; until then that it is coming, or why it is not. */
export function Standing<T>({
  query,
  children,
}: {
  query: UseQueryResult<T>;
  children: (data: T) => ReactNode;
}) {
  if (query.data !== undefined) {
    return (
      <>
        {query.isError && (
          <p className={styles.stale} role="alert">
            {query.error.message} What you see may be out of date.
          </p>
        )}
        {children(query.data)}
      </>
    );
  }
  if (query.isError) {
    return (
      <div className={styles.block} role="alert">
        <h1>This page could not be read</h1>
        <p>{query.error.message}</p>
        <Button variant="default" onClick={() => query.refetch()}>
          Try again
        </Button>
      </div>
    );
  }
  return (
    <div className={styles.block} aria-busy="true">
      <p className="soft">Reading…</p>
    </div>
  );
}

/** What stands where there is nothing yet, and what to do about it. */
export function Nothing({ title, children }: { title: string; children: ReactNode }) {
  return (
    <div className={styles.block}>
      <h2>{title}</h2>
      <p className="soft">{children}</p>
    </div>
  );
}
