import { DetailedError, Upload } from "tus-js-client";

/** What is refused, for want of room too, is not tried again by itself; what broke off or is locked for a moment is. */
export function onShouldRetry(error: DetailedError): boolean {
  const status = error.originalResponse?.getStatus() ?? 0;
  return status === 409 || status === 423 || (status !== 507 && Math.floor(status / 100) !== 4);
}

export type Transfer = { id: Promise<string>; cancel: () => void };

/** Why an upload ended: in the server's own words where it said why, and what to do. */
export function whyNot(error: Error): string {
  const answer = error instanceof DetailedError ? error.originalResponse?.getBody() : "";
  const said = /^ERR_NO_ROOM: (.*)/.exec(answer ?? "");
  return said?.[1] ?? `The file did not arrive: ${error.message.split(",")[0]}. Try again.`;
}

/** Uploads a file, resumable; the id of the finished upload is what the server is asked about it by. */
export function transfer(file: File, onProgress: (share: number) => void): Transfer {
  let upload: Upload;
  const id = new Promise<string>((resolve, reject) => {
    upload = new Upload(file, {
      endpoint: "/api/uploads/",
      metadata: { filename: file.name },
      retryDelays: [0, 1000, 3000, 5000],
      storeFingerprintForResuming: false, // what it is for is over when the page is left
      onProgress: (sent, total) => onProgress(sent / Math.max(1, total)),
      onError: (error) => reject(new Error(whyNot(error))),
      onShouldRetry,
      onSuccess: () => resolve(upload.url!.split("/").pop()!),
    });
    upload.start();
  });
  return { id, cancel: () => void upload.abort(true) };
}
