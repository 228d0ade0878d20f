import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { useSay } from "./Announcer";

type Event = { kind: string; assignment: number; text: string };

/** Keeps everything on the page fresh while the server tells of changes, and says what happened. */
export function useLive() {
  const client = useQueryClient();
  const say = useSay();
  useEffect(() => {
    const source = new EventSource("/api/events");
    let waiting: ReturnType<typeof setTimeout> | undefined;
    source.onmessage = (message: MessageEvent<string>) => {
      const event = JSON.parse(message.data) as Event;
      if (event.kind !== "sending") say(event.text, event.kind === "refused" ? "trouble" : "news");
      waiting ??= setTimeout(() => {
        waiting = undefined;
        void client.invalidateQueries();
      }, 150);
    };
    return () => {
      clearTimeout(waiting);
      source.close();
    };
  }, [client, say]);
}
