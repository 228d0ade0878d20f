import { Button } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { createContext, type ReactNode, useContext, useMemo, useState } from "react";
import { api, ask, type Schemas } from "../api/client";
import { useSay } from "./Announcer";
import styles from "./trial.module.css";
import { keys } from "./queryKeys";

export type Plan = Schemas["Plan"];
export type Shift = Schemas["Shift"];

type Trial = {
  tried?: Plan; // what is looked at and not saved
  busy: boolean;
  shift: (by: Shift) => void; // moves a slab, or lets go of it
  release: () => void; // lets go of all
  keep: () => void;
  drop: () => void;
};

const Context = createContext<Trial>({
  busy: false,
  shift: () => {},
  release: () => {},
  keep: () => {},
  drop: () => {},
});

/** The plan that is being tried, if any: moved slabs are shown at once and saved only when kept. */
export const useTrial = () => useContext(Context);

export const usePlan = () =>
  useQuery({
    queryKey: keys.plan,
    queryFn: () => ask(api.GET("/api/plan")),
    refetchInterval: 60_000,
  });

export function Trial({ children }: { children: ReactNode }) {
  const client = useQueryClient();
  const say = useSay();
  const [tried, setTried] = useState<Plan>();
  const tryOut = useMutation({
    mutationFn: async (shift: Shift | null) => {
      if (!shift)
        return ask<Plan>(
          api.POST("/api/plan/try", { body: { wish: { pins: [], not_before: [] }, shift } }),
        );
      const { wish }: Plan =
        tried ??
        (await client.fetchQuery({
          queryKey: keys.plan,
          queryFn: () => ask<Plan>(api.GET("/api/plan")),
        }));
      return ask<Plan>(api.POST("/api/plan/try", { body: { wish, shift } }));
    },
    onSuccess: setTried,
    onError: (error) => say(error.message, "trouble"),
  });
  const save = useMutation({
    mutationFn: (wish: Plan["wish"]) => ask(api.PUT("/api/plan", { body: wish })),
    onSuccess: async () => {
      await client.invalidateQueries();
      setTried(undefined);
      say("The plan is kept.");
    },
    onError: (error) => say(error.message, "trouble"),
  });
  const { mutate: shift } = tryOut;
  const { mutate: keepWish } = save;
  const busy = tryOut.isPending || save.isPending;
  const value = useMemo(
    () => ({
      tried,
      busy,
      shift,
      release: () => shift(null),
      keep: () => tried && keepWish(tried.wish),
      drop: () => setTried(undefined),
    }),
    [tried, busy, shift, keepWish],
  );
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
        <ul>
          {shown.map((c) => (
            <li key={c}>{c}</li>
          ))}
        </ul>
        {tried.changes.length > shown.length && (
          <p className="soft">and {tried.changes.length - shown.length} more.</p>
        )}
        {!tried.fits && <p className="must">{tried.proof}</p>}
      </div>
      <Button loading={busy} onClick={keep}>
        Keep this plan
      </Button>
      <Button variant="default" disabled={busy} onClick={drop}>
        Leave it as it was
      </Button>
    </section>
  );
}
