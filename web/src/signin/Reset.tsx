import { Button, TextInput } from "@mantine/core";
import { type FormEvent, useState } from "react";
import { Link, useLocation } from "react-router";
import { api, ask } from "../api/client";
import { useTitle } from "../shared/title";
import styles from "./SignIn.module.css";

/** Without a token in the address it mails a link for a new password; with one, it sets the password. */
export function Reset() {
  useTitle("A new password");
  const token = useLocation().hash.slice(1);
  return <Form key={token} token={token} />;
}

function Form({ token }: { token: string }) {
  const [text, setText] = useState("");
  const [done, setDone] = useState(false);
  const [busy, setBusy] = useState(false);
  const [trouble, setTrouble] = useState("");
  const submit = async (event: FormEvent) => {
    event.preventDefault();
    setBusy(true);
    setTrouble("");
    try {
      await (token
        ? ask(api.POST("/api/reset", { body: { token, password: text } }))
        : ask(api.POST("/api/reset/ask", { body: { email: text } })));
      setDone(true);
    } catch (error) {
      setTrouble((error as Error).message);
    } finally {
      setBusy(false);
    }
  };
  return (
    <main className={styles.page}>
      <form className={styles.form} onSubmit={submit}>
        <h1>A new password</h1>
        {done ? (
          <p role="status">
            {token
              ? "It is set, and every device is signed out. Sign in with it."
              : "If there is an account with this address, a link is on its way to it. It is good for half an hour."}
          </p>
        ) : (
          <>
            <TextInput
              label={token ? "The new password" : "E-mail address"}
              description={token ? "At least 10 characters." : undefined}
              type={token ? "password" : "email"}
              autoComplete={token ? "new-password" : "username"}
              minLength={token ? 10 : undefined}
              required
              value={text}
              onChange={(e) => setText(e.target.value)}
            />
            {trouble && (
              <p role="alert" className={styles.trouble}>
                {trouble}
              </p>
            )}
            <div className={styles.buttons}>
              <Button type="submit" loading={busy}>
                {token ? "Set it" : "Mail me a link"}
              </Button>
            </div>
          </>
        )}
        <Link to="/signin">Back to signing in</Link>
      </form>
    </main>
  );
}
