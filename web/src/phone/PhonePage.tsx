import { Button } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { useParams } from "react-router";
import { Upload } from "tus-js-client";
import { api, ask } from "../api/client";
import { useTitle } from "../shared/title";
import { onShouldRetry, whyNot } from "../shared/upload";
import styles from "./PhonePage.module.css";
import { keys } from "../shared/queryKeys";

type Sent = {
  id: number;
  name: string;
  share: number;
  stands: "going" | "there" | "trouble";
  says?: string;
};

/** What a telephone shows that has read a code: it photographs pages straight into a bundle. */
export default function PhonePage() {
  const token = useParams().token!;
  useTitle("Photograph pages");
  const pass = useQuery({
    queryKey: keys.phone(token),
    queryFn: () => ask(api.GET("/api/phone/{token}", { params: { path: { token } } })),
    retry: false,
    refetchOnWindowFocus: false,
  });
  const picker = useRef<HTMLInputElement>(null);
  const [sent, setSent] = useState<Sent[]>([]);
  const change = (id: number, how: Partial<Sent>) =>
    setSent((list) => list.map((s) => (s.id === id ? { ...s, ...how } : s)));
  const send = async (file: File, id: number) => {
    setSent((list) => [...list, { id, name: file.name, share: 0, stands: "going" }]);
    try {
      const upload = await new Promise<string>((resolve, reject) => {
        const going = new Upload(file, {
          endpoint: "/api/phone-uploads/",
          headers: { "Orario-Pass": token },
          metadata: { filename: file.name },
          retryDelays: [0, 1000, 3000, 5000, 10000],
          storeFingerprintForResuming: false,
          onShouldRetry,
          onProgress: (n, all) => change(id, { share: n / Math.max(1, all) }),
          onError: (error) => reject(new Error(whyNot(error))),
          onSuccess: () => resolve(going.url!.split("/").pop()!),
        });
        going.start();
      });
      await ask(
        api.POST("/api/phone/{token}/photographs", {
          params: { path: { token } },
          body: { upload },
        }),
      );
      change(id, { share: 1, stands: "there" });
    } catch (error) {
      change(id, { stands: "trouble", says: (error as Error).message });
    }
  };
  if (pass.error)
    return (
      <main className={styles.page}>
        <h1>Orario</h1>
        <p className="must" role="alert">
          {pass.error.message}
        </p>
      </main>
    );
  if (!pass.data) return <main className={styles.page}>Reading…</main>;
  const there = sent.filter((s) => s.stands === "there").length;
  return (
    <main className={styles.page}>
      <p className="soft">{pass.data.course}</p>
      <h1>{pass.data.title}</h1>
      <p>
        Photograph one page after the other, each lying flat and whole in the picture. They go into{" "}
        <b>{pass.data.slot || "the bundle"}</b> at once.
      </p>
      <Button fullWidth size="lg" onClick={() => picker.current?.click()}>
        Photograph a page
      </Button>
      <ul>
        {sent.map((s, n) => (
          <li key={s.id}>
            <b className="figures">{n + 1}</b>
            <span className={s.stands === "trouble" ? "must" : undefined}>
              {s.stands === "there"
                ? "is in the bundle"
                : s.stands === "going"
                  ? `${Math.round(s.share * 100)} %`
                  : s.says}
            </span>
          </li>
        ))}
      </ul>
      {there > 0 && (
        <p className="soft">
          {there} in all. When you have the last one, go on at your computer; you can close this
          page.
        </p>
      )}
      <input
        ref={picker}
        type="file"
        accept="image/*"
        capture="environment"
        multiple
        hidden
        data-testid="camera"
        onChange={(e) => {
          const files = [...(e.target.files ?? [])];
          e.target.value = "";
          void files.reduce(
            (before, f, n) => before.then(() => send(f, Date.now() + n)),
            Promise.resolve(),
          );
        }}
      />
    </main>
  );
}
