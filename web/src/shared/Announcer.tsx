import {
  createContext,
  type ReactNode,
  useCallback,
  useContext,
  useMemo,
  useRef,
  useState,
} from "react";

type Tone = "news" | "trouble";
type Said = { text: string; tone: Tone };
const Say = createContext<(text: string, tone?: Tone) => void>(() => {});
const Heard = createContext<{ said?: Said; close: () => void }>({ close: () => {} });

/** Says a sentence in the line under the ribbon, for eyes and screen readers. */
export const useSay = () => useContext(Say);

/** What is being said. */
export const useSaid = () => useContext(Heard);

/** How long a sentence stands, in ms. */
const stands = { news: 8000, trouble: 20_000 };

export function Announcer({ children }: { children: ReactNode }) {
  const [said, setSaid] = useState<Said>();
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined);
  const say = useCallback((text: string, tone: Tone = "news") => {
    clearTimeout(timer.current);
    setSaid({ text, tone });
    timer.current = setTimeout(() => setSaid(undefined), stands[tone]);
  }, []);
  const heard = useMemo(() => ({ said, close: () => setSaid(undefined) }), [said]);
  return (
    <Say value={say}>
      <Heard value={heard}>{children}</Heard>
    </Say>
  );
}
