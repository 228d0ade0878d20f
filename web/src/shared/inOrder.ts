/** A place in a line of things that are done one after another. */
export type Turn = { come: Promise<void>; leave: () => void };

/**
 * Gives places in a line. What takes long to get ready can be begun at once and still be done in the order in which
 * places were taken; whoever leaves, done or given up, lets the next one on.
 */
export function inOrder(): () => Turn {
  let last: Promise<void> = Promise.resolve();
  return () => {
    const come = last;
    let leave!: () => void;
    const left = new Promise<void>((resolve) => (leave = resolve));
    last = come.then(() => left);
    return { come, leave };
  };
}
