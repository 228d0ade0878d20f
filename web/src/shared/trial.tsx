import { Button } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { createContext, type ReactNode, useContext, useMemo, useState } from "react";
import { api, ask, type Schemas } from "../api/client";
import { useSay } from "./Announcer";
import styles from "./trial.module.css";

export type Plan = Schemas["Plan"];
export type Wish = Schemas["Wish"];
export type Block = Schemas["Block"];

type Trial = {
  tried?: Plan; // what is looked at and not saved
  busy: boolean;
  change: (by: (wish: Wish) => Wish) => void;
  keep: () => void;
  drop: () => void;
};

const Context = createContext<Trial>({ busy: false, change: () => {}, keep: () => {}, drop: () => {} });

/** The plan that is being tried, if any: moved slabs are shown at once and saved only when kept. */
export const useTrial = () => useContext(Context);

export const usePlan = () => useQuery({ queryKey: ["plan"], queryFn: () => ask(api.GET("/api/plan")), refetchInterval: 60_000 });

export function Trial({ children }: { children: ReactNode }) {
  const client = useQueryClient();
  const say = useSay();
  const [tried, setTried] = useState<Plan>();
  const tryOut = useMutation({
    mutationFn: async (by: (wish: Wish) => Wish) => {
      const stored: Plan = tried ?? await client.fetchQuery({ queryKey: ["plan"], queryFn: () => ask<Plan>(api.GET("/api/plan")) });
      return ask<Plan>(api.POST("/api/plan/try", { body: by(stored.wish) }));
    },
    onSuccess: setTried,
    onError: (error) => say(error.message, "trouble"),
  });
  const save = useMutation({
    mutationFn: (wish: Wish) => ask(api.PUT("/api/plan", { body: wish })),
    onSuccess: async () => {
      await client.invalidateQueries();
      setTried(undefined);
      say("The plan is kept.");
    },
    onError: (error) => say(error.message, "trouble"),
  });
  const { mutate: change } = tryOut;
  const { mutate: keepWish } = save;
  const busy = tryOut.isPending || save.isPending;
  const value = useMemo(() => ({ tried, busy, change, keep: () => tried && keepWish(tried.wish), drop: () => setTried(undefined) }), [tried, busy, change, keepWish]);
  return <Context value={value}>{children}</Context>;
}

/** What a tried plan would change, with the choice to keep it. */
export function TrialBar() {
  const { tried, busy, keep, drop } = useTrial();
  if (!tried) return null;
  const shown = tried.changes.slice(0, 4);
  return (
    <section className={styles.bar} aria-label="Tried plan" role="status">
      <div>
        <h2>Tried, not saved</h2>
        <ul>{shown.map((c) => <li key={c}>{c}</li>)}</ul>
        {tried.changes.length > shown.length && <p className="soft">and {tried.changes.length - shown.length} more.</p>}
        {!tried.fits && <p className="must">{tried.proof}</p>}
      </div>
      <Button loading={busy} onClick={keep}>Keep this plan</Button>
      <Button variant="default" disabled={busy} onClick={drop}>Leave it as it was</Button>
    </section>
  );
}

const at = (t: string) => new Date(t).getTime();

/** The wish with one slab moved. Moving the first slab later means that work begins only then. */
export function moved(wish: Wish, assignment: number, slab: Block, to: number, first: boolean): Wish {
  const length = at(slab.end) - at(slab.start);
  const pin = { assignment_id: assignment, start: new Date(to).toISOString(), end: new Date(to + length).toISOString() };
  const others = wish.not_before.filter((b) => b.assignment_id !== assignment);
  const before = wish.not_before.filter((b) => b.assignment_id === assignment && at(b.at) <= to);
  return {
    pins: [...wish.pins.filter((p) => p.assignment_id !== assignment || at(p.end) <= at(slab.start) || at(p.start) >= at(slab.end)), pin],
    not_before: first && to > at(slab.start) ? [...others, { assignment_id: assignment, at: pin.start }] : [...others, ...before],
  };
}

/** The wish without what holds an assignment's slab in its place. */
export function released(wish: Wish, assignment: number, slab: Block): Wish {
  return {
    pins: wish.pins.filter((p) => p.assignment_id !== assignment || at(p.end) <= at(slab.start) || at(p.start) >= at(slab.end)),
    not_before: wish.not_before.filter((b) => b.assignment_id !== assignment),
  };
}
