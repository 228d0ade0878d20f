import { useCallback, useRef, useState } from "react";
import { Upload } from "tus-js-client";
import { api, ask } from "../api/client";
import { inOrder, type Turn } from "../shared/inOrder";
import { useAct } from "../shared/queries";
import { onShouldRetry, whyNot } from "../shared/upload";

/** A file on its way into the bundle. */
export type Sending = {
  id: number;
  name: string;
  sent: number;
  total: number;
  trouble?: string;
  reading?: boolean;
};

/**
 * Uploads files, each resumable, and puts them into the bundle when they are there, in the order in which they were
 * chosen. One that breaks off lets the others on.
 */
export function useUploads(assignment: number, part: number) {
  const [sending, setSending] = useState<Sending[]>([]);
  const running = useRef(new Map<number, { upload: Upload; turn: Turn }>());
  const [line] = useState(inOrder);
  const next = useRef(0);
  const add = useAct((what: { upload: string; slot: string }) =>
    ask(
      api.POST("/api/assignments/{id}/items", {
        params: { path: { id: assignment } },
        body: { ...what, part },
      }),
    ),
  );
  const put = add.mutateAsync;

  const change = (id: number, how: Partial<Sending>) =>
    setSending((list) => list.map((s) => (s.id === id ? { ...s, ...how } : s)));
  const drop = (id: number) => {
    running.current.get(id)?.turn.leave();
    running.current.delete(id);
    setSending((list) => list.filter((s) => s.id !== id));
  };

  const start = useCallback(
    (files: Iterable<File>, slot = "") => {
      for (const file of files) {
        const id = next.current++;
        const turn = line();
        const trouble = (text: string) => {
          turn.leave();
          change(id, { reading: false, trouble: text });
        };
        setSending((list) => [...list, { id, name: file.name, sent: 0, total: file.size }]);
        const upload = new Upload(file, {
          endpoint: "/api/uploads/",
          metadata: { filename: file.name },
          retryDelays: [0, 1000, 3000, 5000, 10000, 20000],
          removeFingerprintOnSuccess: true,
          onProgress: (sent, total) => change(id, { sent, total }),
          onError: (error) => trouble(whyNot(error)),
          onShouldRetry,
          onSuccess: async () => {
            change(id, { reading: true });
            await turn.come;
            if (!running.current.has(id)) return; // it was taken back while it waited
            try {
              await put({ upload: upload.url!.split("/").pop()!, slot });
              drop(id);
            } catch (error) {
              trouble((error as Error).message);
            }
          },
        });
        running.current.set(id, { upload, turn });
        // An upload of the same file that broke off earlier goes on where it was.
        void upload.findPreviousUploads().then((earlier) => {
          if (earlier[0]) upload.resumeFromPreviousUpload(earlier[0]);
          upload.start();
        });
      }
    },
    [put, line],
  );

  const again = (id: number) => {
    change(id, { trouble: undefined });
    running.current.get(id)?.upload.start();
  };
  const cancel = (id: number) => {
    void running.current.get(id)?.upload.abort(true);
    drop(id);
  };
  return { sending, start, again, cancel };
}
