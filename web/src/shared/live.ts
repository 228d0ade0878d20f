import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { useSay } from "./Announcer";

type Event = { kind: string; assignment: number; text: string };

/** Keeps everything on the page fresh while the server tells of changes, and says what happened. */
export function useLive() {
  const client = useQueryClient();
  const say = useSay();
  useEffect(() => {
    let waiting: ReturnType<typeof setTimeout> | undefined;
    let heard: Event[] = []; // since what is shown was last refreshed
    const stop = listen((event) => {
      // A notice tells again, elsewhere, of what was said here when it happened.
      if ((event.kind === "reminder" || event.kind === "notice") && document.hidden && typeof Notification !== "undefined" && Notification.permission === "granted") {
        new Notification("Orario", { body: event.text, tag: event.text });
      }
      if (event.kind === "notice") return;
      if (event.kind !== "sending") heard.push(event);
      waiting ??= setTimeout(() => {
        waiting = undefined;
        const last = heard.at(-1);
        if (last) say(heard.length > 3 ? `${heard.length} things changed; they stand on the Horizon.` : last.text, last.kind === "refused" ? "trouble" : "news");
        heard = [];
        void client.invalidateQueries();
      }, 150);
    });
    return () => {
      clearTimeout(waiting);
      stop();
    };
  }, [client, say]);
}

/**
 * Hears the server's events. A browser keeps few connections to one server, so of all open tabs only the
 * one that holds the lock connects; it tells the others.
 */
function listen(hear: (event: Event) => void): () => void {
  const channel = new BroadcastChannel("orario-live");
  channel.onmessage = (message: MessageEvent<Event>) => hear(message.data);
  const turn = new AbortController();
  const connect = () => new Promise<void>((release) => {
    const source = new EventSource("/api/events");
    source.onmessage = (message: MessageEvent<string>) => {
      const event = JSON.parse(message.data) as Event;
      channel.postMessage(event);
      hear(event);
    };
    const end = () => {
      source.close();
      release();
    };
    turn.signal.addEventListener("abort", end);
    // A page that is kept for going back must not keep its connection.
    window.addEventListener("pagehide", end, { once: true });
  });
  const begin = () => {
    if (!navigator.locks) void connect(); // not a secure context: every tab for itself
    else navigator.locks.request("orario-live", { signal: turn.signal }, connect).catch(() => {}); // its turn never came
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
