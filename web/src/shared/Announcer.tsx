import { createContext, type ReactNode, useCallback, useContext, useRef, useState } from "react";
import styles from "./Announcer.module.css";

type Tone = "news" | "trouble";
const Say = createContext<(text: string, tone?: Tone) => void>(() => {});

/** Says a sentence at the foot of the page, for eyes and screen readers. */
export const useSay = () => useContext(Say);

export function Announcer({ children }: { children: ReactNode }) {
  const [line, setLine] = useState<{ text: string; tone: Tone }>();
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined);
  const say = useCallback((text: string, tone: Tone = "news") => {
    clearTimeout(timer.current);
    setLine({ text, tone });
    timer.current = setTimeout(() => setLine(undefined), tone === "news" ? 6000 : 12000);
  }, []);
  return (
    <Say value={say}>
      {children}
      <div role="status" aria-live="polite" className={styles.foot}>
        {line && (
          <p className={styles.line} data-tone={line.tone}>
            {line.text}
            <button type="button" className={styles.close} onClick={() => setLine(undefined)}>Close</button>
          </p>
        )}
      </div>
    </Say>
  );
}
