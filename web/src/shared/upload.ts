import { Upload } from "tus-js-client";

export type Transfer = { id: Promise<string>; cancel: () => void };

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
      onError: (error) =>
        reject(new Error(`The file did not arrive: ${error.message.split(",")[0]}. Try again.`)),
      onSuccess: () => resolve(upload.url!.split("/").pop()!),
    });
    upload.start();
  });
  return { id, cancel: () => void upload.abort(true) };
}
