import { Button } from "@mantine/core";
import { Component, type ReactNode } from "react";
import styles from "./Standing.module.css";

/** Keeps the rest of the page when a part of it fails. */
export class Mishap extends Component<{ children: ReactNode }, { failed: boolean }> {
  override state = { failed: false };
  static getDerivedStateFromError() {
    return { failed: true };
  }
  override render() {
    if (!this.state.failed) return this.props.children;
    return (
      <div className={styles.block} role="alert">
        <h1>This page could not be shown</h1>
        <p>Orario has a mistake here. What you did is kept; other pages still work.</p>
        <Button variant="default" onClick={() => location.reload()}>
          Load it again
        </Button>
      </div>
    );
  }
}
