import { useCallback, useEffect, useRef, useState } from "react";
import { Upload } from "tus-js-client";
import { api, ask } from "../api/client";
import { dated } from "../shared/dated";
import { useAct } from "../shared/queries";
import { onShouldRetry, whyNot } from "../shared/upload";

export type What = "sound" | "camera" | "screen";
type Phase = "idle" | "recording" | "paused" | "ended";

/** A queue that tus reads from as from a stream: what is put in comes out once, and then the end. */
export function queue() {
  const waiting: Uint8Array[] = [];
  let wake: (() => void) | undefined;
  let ended = false;
  return {
    put(piece: Uint8Array) {
      waiting.push(piece);
      wake?.();
    },
    end() {
      ended = true;
      wake?.();
    },
    async read(): Promise<{ done: boolean; value?: Uint8Array }> {
      while (waiting.length === 0 && !ended)
        await new Promise<void>((resolve) => {
          wake = resolve;
        });
      const value = waiting.shift();
      return value ? { done: false, value } : { done: true };
    },
  };
}

const forms = {
  sound: ["audio/webm;codecs=opus", "audio/mp4", "audio/ogg"],
  camera: ["video/webm;codecs=vp8,opus", "video/mp4"],
  screen: ["video/webm;codecs=vp8,opus", "video/mp4"],
};

async function source(what: What): Promise<MediaStream> {
  if (what === "screen") {
    const screen = await navigator.mediaDevices.getDisplayMedia({ video: true, audio: true });
    try {
      const voice = await navigator.mediaDevices.getUserMedia({ audio: true });
      for (const track of voice.getAudioTracks())
        if (screen.getAudioTracks().length === 0) screen.addTrack(track);
    } catch {
      // without a microphone the screen alone is recorded
    }
    return screen;
  }
  return navigator.mediaDevices.getUserMedia({ audio: true, video: what === "camera" });
}

/** Why a microphone, camera or screen could not be had, and what to do. */
export function refusal(error: unknown): string {
  const name = (error as Error).name;
  if (name === "NotAllowedError")
    return "The browser was not allowed to. Allow it in its address bar, and try again.";
  if (name === "NotFoundError")
    return "There is no such device at this computer. Plug it in, and try again.";
  return `It could not be opened: ${(error as Error).message}`;
}

/** Records, and sends what is recorded up meanwhile, so that an interrupted recording is not lost. */
export function useRecorder(id: number, part: number, slot: string) {
  const [phase, setPhase] = useState<Phase>("idle");
  const [seconds, setSeconds] = useState(0);
  const [sent, setSent] = useState(0);
  const [trouble, setTrouble] = useState("");
  const [stream, setStream] = useState<MediaStream>();
  const [heard, setHeard] = useState<string>();
  const now = useRef<{ recorder?: MediaRecorder; upload?: Upload; arrived?: Promise<string> }>({});
  const keep = useAct((upload: string) =>
    ask(
      api.POST("/api/assignments/{id}/recordings", {
        params: { path: { id } },
        body: { part, upload, slot },
      }),
    ),
  );

  const release = useCallback(
    (s: MediaStream | undefined) => s?.getTracks().forEach((t) => t.stop()),
    [],
  );
  useEffect(() => {
    if (phase !== "recording") return;
    const timer = setInterval(() => setSeconds((s) => s + 0.2), 200);
    return () => clearInterval(timer);
  }, [phase]);
  useEffect(
    () => () => {
      if (now.current.recorder?.state !== "inactive") now.current.recorder?.stop();
    },
    [],
  );
  useEffect(() => () => release(stream), [stream, release]);

  const start = async (what: What) => {
    setTrouble("");
    let opened: MediaStream;
    try {
      opened = await source(what);
    } catch (error) {
      setTrouble(refusal(error));
      return;
    }
    const mimeType = forms[what].find((f) => MediaRecorder.isTypeSupported(f)) ?? "";
    const recorder = new MediaRecorder(opened, mimeType ? { mimeType } : undefined);
    const extension = recorder.mimeType.includes("mp4")
      ? what === "sound"
        ? "m4a"
        : "mp4"
      : recorder.mimeType.includes("ogg")
        ? "ogg"
        : "webm";
    const pieces: Blob[] = [];
    const line = queue();
    let all = Promise.resolve();
    recorder.ondataavailable = (e) => {
      pieces.push(e.data);
      all = all.then(async () => line.put(new Uint8Array(await e.data.arrayBuffer())));
    };
    recorder.onstop = () => {
      void all.then(() => line.end());
      release(opened);
      setHeard(URL.createObjectURL(new Blob(pieces, { type: recorder.mimeType })));
      setPhase("ended");
    };
    opened
      .getVideoTracks()[0]
      ?.addEventListener("ended", () => recorder.state !== "inactive" && recorder.stop());
    let upload!: Upload;
    const arrived = new Promise<string>((resolve, reject) => {
      upload = new Upload(line as unknown as ReadableStreamDefaultReader, {
        endpoint: "/api/uploads/",
        uploadLengthDeferred: true,
        chunkSize: 32 * 1024,
        metadata: { filename: dated("recording", extension), part: String(part), slot },
        retryDelays: [0, 1000, 3000, 5000, 10000, 20000, 60000],
        storeFingerprintForResuming: false,
        onShouldRetry,
        onProgress: (n) => setSent(n),
        onError: (error) => reject(new Error(whyNot(error))),
        onSuccess: () => resolve(upload.url!.split("/").pop()!),
      });
      upload.start();
    });
    arrived.catch((error: Error) => setTrouble(error.message));
    now.current = { recorder, upload, arrived };
    setSeconds(0);
    setSent(0);
    setHeard(undefined);
    setStream(opened);
    recorder.start(1000);
    setPhase("recording");
  };
  const pause = () => {
    now.current.recorder?.pause();
    setPhase("paused");
  };
  const goOn = () => {
    now.current.recorder?.resume();
    setPhase("recording");
  };
  const stop = () => now.current.recorder?.stop();
  const reset = () => {
    if (heard) URL.revokeObjectURL(heard);
    setHeard(undefined);
    setStream(undefined);
    setPhase("idle");
  };
  const take = async () => {
    await keep.mutateAsync(await now.current.arrived!);
    reset();
  };
  const drop = () => {
    void now.current.upload?.abort(true);
    reset();
  };
  return {
    phase,
    seconds,
    sent,
    trouble,
    stream,
    heard,
    start,
    pause,
    goOn,
    stop,
    take,
    drop,
    keeping: keep.isPending,
  };
}
