import { useCallback, useEffect, useRef, useState } from "react";
import { api, ask, Refused } from "../api/client";

const pause = 900; // ms without a change after which it is kept

/**
 * What is being written for a part: read once, kept at every pause. Where another tab has gone on with it, nothing is
 * overwritten: trouble says so, and reread takes the other's.
 */
export function useWriting(id: number, part: number, version: number) {
  const [body, setBody] = useState<string>();
  const [stands, setStands] = useState<"kept" | "changed" | "keeping">("kept");
  const [trouble, setTrouble] = useState("");
  const [elsewhere, setElsewhere] = useState(false); // it went on in another tab
  const now = useRef({ body: "", revision: 0, keeping: false, dirty: false });

  const read = useCallback(async () => {
    try {
      const found = await ask(
        api.GET("/api/assignments/{id}/writing", {
          params: { path: { id }, query: { part, version } },
        }),
      );
      now.current = { body: found.body, revision: found.revision, keeping: false, dirty: false };
      setBody(found.body);
      setTrouble("");
      setElsewhere(false);
      setStands("kept");
    } catch (error) {
      setTrouble((error as Error).message);
    }
  }, [id, part, version]);
  useEffect(() => {
    void read();
  }, [read]);

  const keep = useCallback(async () => {
    const n = now.current;
    if (n.keeping || !n.dirty) return;
    n.keeping = true;
    n.dirty = false;
    setStands("keeping");
    try {
      const kept = await ask(
        api.PUT("/api/assignments/{id}/writing", {
          params: { path: { id } },
          body: { part, version, body: n.body, revision: n.revision },
        }),
      );
      n.revision = kept.revision;
      setTrouble("");
      setStands(n.dirty ? "changed" : "kept");
    } catch (error) {
      n.dirty = true;
      setStands("changed");
      setTrouble((error as Error).message);
      setElsewhere(error instanceof Refused && error.status === 409); // it stays as it is until it is read again
    } finally {
      n.keeping = false;
    }
  }, [id, part, version]);

  useEffect(() => {
    if (stands !== "changed" || elsewhere) return;
    const timer = setTimeout(() => void keep(), trouble ? 4000 : pause);
    return () => clearTimeout(timer);
  }, [stands, body, trouble, elsewhere, keep]);
  useEffect(() => {
    const leave = () => void keep();
    document.addEventListener("visibilitychange", leave);
    return () => {
      document.removeEventListener("visibilitychange", leave);
      leave();
    };
  }, [keep]);

  const change = (text: string) => {
    now.current.body = text;
    now.current.dirty = true;
    setBody(text);
    setStands("changed");
  };
  return { body, change, stands, trouble, elsewhere, reread: read };
}
