import { useQueryClient, type QueryClient } from "@tanstack/react-query";
import { useEffect, useSyncExternalStore } from "react";
import { useSay } from "./Announcer";
import { changes, keysOf } from "./queryKeys";

export type Event = {
  id: string;
  kind: string;
  assignment: number;
  text: string;
  pages: string[];
};

/** Whether news arrives as it happens, and since when it does not. */
export type Line = { up: boolean; since: number };

let line: Line = { up: true, since: 0 };
const watchers = new Set<() => void>();
function setLine(up: boolean) {
  if (up === line.up) return;
  line = { up, since: Date.now() };
  for (const w of watchers) w();
}
const watch = (w: () => void) => {
  watchers.add(w);
  return () => watchers.delete(w);
};
export const useLine = () => useSyncExternalStore(watch, () => line);

/** Keeps what is shown fresh while the server tells of changes, and says what happened. */
export function useLive() {
  const client = useQueryClient();
  const say = useSay();
  useEffect(() => {
    let waiting: ReturnType<typeof setTimeout> | undefined;
    let heard: Event[] = []; // since what is shown was last refreshed
    const stop = listen(
      (event) => {
        notify(event);
        heard.push(event);
        waiting ??= setTimeout(() => {
          waiting = undefined;
          refresh(client, heard);
          const news = heard.filter((e) => e.text && !["sending", "notice"].includes(e.kind));
          const last = news.at(-1);
          if (last)
            say(
              news.length > 3
                ? `${news.length} things changed; they stand on the Horizon.`
                : last.text,
              last.kind === "refused" ? "trouble" : "news",
            );
          heard = [];
        }, 150);
      },
      // something may have been missed
      () => void client.invalidateQueries({ predicate: (q) => changes(q.queryKey) }),
    );
    return () => {
      clearTimeout(waiting);
      stop();
    };
  }, [client, say]);
}

function refresh(client: QueryClient, events: Event[]) {
  const told = new Map<string, readonly unknown[]>();
  for (const e of events)
    for (const key of keysOf(e.pages, e.assignment)) told.set(JSON.stringify(key), key);
  for (const queryKey of told.values()) void client.invalidateQueries({ queryKey });
}

/** A reminder, or a change that happened while nobody looked, is told by the system where that is allowed. */
function notify(event: Event) {
  if (!event.text || (event.kind !== "reminder" && event.kind !== "notice")) return;
  if (
    document.hidden &&
    typeof Notification !== "undefined" &&
    Notification.permission === "granted"
  )
    new Notification("Orario", { body: event.text, tag: event.text });
}

const firstWait = 1000;
const longestWait = 30_000;

/** How long to wait before the line is tried again, after so many failures. */
export const waitAfter = (failures: number) =>
  Math.min(longestWait, firstWait * 2 ** Math.min(failures, 10));

type Told = { event: Event } | { up: boolean } | { again: true };

/**
 * Hears the server's events. A browser keeps few connections to one server, so of all open tabs only the
 * one that holds the lock connects; it tells the others. A line that breaks is tried again for as long as
 * the page is open, and goes on after the last event heard.
 */
export function listen(hear: (event: Event) => void, again: () => void): () => void {
  const channel = new BroadcastChannel("orario-live");
  const take = (told: Told) => {
    if ("event" in told) hear(told.event);
    else if ("up" in told) setLine(told.up);
    else again();
  };
  channel.onmessage = (message: MessageEvent<Told>) => take(message.data);
  const tell = (told: Told) => {
    channel.postMessage(told);
    take(told);
  };
  const turn = new AbortController();
  const begin = () => {
    if (!navigator.locks) return void connect(tell, turn.signal); // not a secure context: every tab for itself
    navigator.locks
      .request("orario-live", { signal: turn.signal }, () => connect(tell, turn.signal))
      .catch(() => {}); // its turn never came
  };
  begin();
  const back = (e: PageTransitionEvent) => e.persisted && begin();
  window.addEventListener("pageshow", back);
  return () => {
    window.removeEventListener("pageshow", back);
    turn.abort();
    channel.close();
  };
}

/** Holds a connection until the page or the turn ends. */
function connect(tell: (told: Told) => void, signal: AbortSignal): Promise<void> {
  return new Promise((release) => {
    let source: EventSource | undefined;
    let timer: ReturnType<typeof setTimeout> | undefined;
    let failures = 0;
    let last = "";
    const heard = new Set<string>(); // after a new connection some come once more
    const open = () => {
      source = new EventSource(`/api/events${last && `?after=${last}`}`);
      source.onopen = () => {
        if (failures > 0) tell({ again: true });
        failures = 0;
        tell({ up: true });
      };
      source.onmessage = (message: MessageEvent<string>) => {
        if (heard.has(message.lastEventId)) return;
        last = message.lastEventId;
        heard.add(last);
        tell({ event: { ...(JSON.parse(message.data) as Event), id: last } });
      };
      source.onerror = () => {
        // The browser tries again by itself only as long as no answer was an error.
        source?.close();
        tell({ up: false });
        timer = setTimeout(open, waitAfter(failures++));
      };
    };
    const end = () => {
      clearTimeout(timer);
      source?.close();
      release();
    };
    open();
    signal.addEventListener("abort", end);
    // A page that is kept for going back must not keep its connection.
    window.addEventListener("pagehide", end, { once: true });
  });
}
