import { Button, TextInput } from "@mantine/core";
import { useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { Link, useLocation, useNavigate } from "react-router";
import { api, ask } from "../api/client";
import styles from "./SignIn.module.css";
import { keys } from "../shared/queryKeys";

export function SignIn() {
  const [email, setEmail] = useState("");
  const [password, setPassword] = useState("");
  const [trouble, setTrouble] = useState("");
  const [busy, setBusy] = useState(false);
  const navigate = useNavigate();
  const client = useQueryClient();
  const from = (useLocation().state as { from?: string } | null)?.from ?? "/";
  const entrance = useQuery({
    queryKey: keys.entrance,
    queryFn: () => ask(api.GET("/api/entrance")),
  });
  const enter = async (call: () => Promise<unknown>) => {
    setBusy(true);
    setTrouble("");
    try {
      await call();
      client.clear();
      navigate(from, { replace: true });
    } catch (error) {
      setTrouble((error as Error).message);
    } finally {
      setBusy(false);
    }
  };
  const submit = (event: FormEvent) => {
    event.preventDefault();
    void enter(() => ask(api.POST("/api/session", { body: { email, password } })));
  };
  return (
    <main className={styles.page}>
      <div className={styles.line} aria-hidden>
        <svg viewBox="0 0 640 150" preserveAspectRatio="none">
          <path d="M0 20h150l60 40h150l50 45h110l40 35h80" />
        </svg>
      </div>
      <form className={styles.form} onSubmit={submit}>
        <h1 className={styles.word}>Orario</h1>
        <p className="soft">Every deadline, the right files, proof that they arrived.</p>
        <TextInput
          label="E-mail address"
          type="email"
          autoComplete="username"
          required
          value={email}
          onChange={(e) => setEmail(e.target.value)}
        />
        <TextInput
          label="Password"
          type="password"
          autoComplete="current-password"
          required
          value={password}
          onChange={(e) => setPassword(e.target.value)}
        />
        {trouble && (
          <p role="alert" className={styles.trouble}>
            {trouble}
          </p>
        )}
        <div className={styles.buttons}>
          <Button type="submit" loading={busy}>
            Sign in
          </Button>
          {entrance.data?.demo && (
            <Button
              variant="default"
              disabled={busy}
              onClick={() => enter(() => ask(api.POST("/api/session/demo")))}
            >
              Look around as {entrance.data.demo}
            </Button>
          )}
        </div>
        {entrance.data?.mail && <Link to="/reset">Forgotten the password?</Link>}
      </form>
    </main>
  );
}
