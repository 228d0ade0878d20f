import { Button, TextInput } from "@mantine/core";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { useNavigate } from "react-router";
import { api, ask, type Schemas } from "../api/client";
import { useSay } from "../shared/Announcer";
import { useAct, useMe } from "../shared/queries";
import { Standing } from "../shared/Standing";
import { moment } from "../shared/time";
import { useTitle } from "../shared/title";
import styles from "./AccountPage.module.css";
import { device } from "./device";
import { keys } from "../shared/queryKeys";

/** The student's password, where she is signed in, and everything that is kept of hers. */
export default function AccountPage() {
  useTitle("Account");
  const sessions = useQuery({
    queryKey: keys.sessions,
    queryFn: () => ask(api.GET("/api/sessions")),
  });
  return (
    <section className={styles.page}>
      <h1>Your account</h1>
      <div className={styles.sides}>
        <div>
          <h2>Signed in</h2>
          <Standing query={sessions}>{(list) => <Sessions list={list} />}</Standing>
        </div>
        <div className={styles.rest}>
          <Password />
          <section aria-label="Everything of yours">
            <h2>Everything of yours</h2>
            <p className="soft">
              Every record, receipt and file, in open forms. The receipts can be proved without
              Orario.
            </p>
            <Button component="a" href="/api/export" download variant="default">
              Download it all (ZIP)
            </Button>
          </section>
          <Removal />
        </div>
      </div>
    </section>
  );
}

function Sessions({ list }: { list: Schemas["Session"][] }) {
  const zone = useMe().data?.zone ?? "UTC";
  const end = useAct((id: number) =>
    ask(api.DELETE("/api/sessions/{id}", { params: { path: { id } } })),
  );
  return (
    <ul className={styles.sessions}>
      {list.map((s) => (
        <li key={s.id}>
          <div>
            <b>{device(s.agent)}</b> {s.here && <span className="soft">this one</span>}
            <p className="soft">since {moment(s.begun_at, zone)}</p>
          </div>
          {!s.here && (
            <Button variant="default" onClick={() => end.mutate(s.id)}>
              Sign it out
            </Button>
          )}
        </li>
      ))}
    </ul>
  );
}

function Password() {
  const say = useSay();
  const [old, setOld] = useState("");
  const [fresh, setFresh] = useState("");
  const change = useAct(() => ask(api.PUT("/api/password", { body: { old, fresh } })));
  const submit = (event: FormEvent) => {
    event.preventDefault();
    change.mutate(undefined, {
      onSuccess: () => {
        setOld("");
        setFresh("");
        say("Your password is changed. All other devices are signed out.");
      },
    });
  };
  return (
    <form aria-label="Password" onSubmit={submit} className={styles.form}>
      <h2>Password</h2>
      <TextInput
        label="As it is"
        type="password"
        autoComplete="current-password"
        required
        value={old}
        onChange={(e) => setOld(e.target.value)}
      />
      <TextInput
        label="The new one"
        description="At least 10 characters."
        type="password"
        autoComplete="new-password"
        required
        minLength={10}
        value={fresh}
        onChange={(e) => setFresh(e.target.value)}
      />
      <Button type="submit" loading={change.isPending}>
        Change it
      </Button>
    </form>
  );
}

function Removal() {
  const [sure, setSure] = useState(false);
  const [password, setPassword] = useState("");
  const client = useQueryClient();
  const go = useNavigate();
  const remove = useAct(() => ask(api.POST("/api/me/remove", { body: { password } })));
  const submit = (event: FormEvent) => {
    event.preventDefault();
    remove.mutate(undefined, {
      onSuccess: () => {
        client.clear();
        void go("/signin");
      },
    });
  };
  return (
    <form aria-label="Removing the account" onSubmit={submit} className={styles.form}>
      <h2>Leave Orario</h2>
      <p className="soft">
        The account goes, with every file, plan and receipt in it. What was sent stays at its sites.
        Download everything first.
      </p>
      {sure ? (
        <>
          <TextInput
            label="Your password, to confirm"
            type="password"
            autoComplete="current-password"
            required
            value={password}
            onChange={(e) => setPassword(e.target.value)}
          />
          <div className={styles.pair}>
            <Button type="submit" loading={remove.isPending}>
              Remove everything
            </Button>
            <Button variant="default" onClick={() => setSure(false)}>
              Keep it
            </Button>
          </div>
        </>
      ) : (
        <Button variant="default" onClick={() => setSure(true)}>
          Remove the account…
        </Button>
      )}
    </form>
  );
}
