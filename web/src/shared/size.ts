/** Bytes in words: "640 kB", "2.4 MB". */
export function size(bytes: number): string {
  return bytes < 1e6
    ? `${Math.max(1, Math.round(bytes / 1000))} kB`
    : `${(bytes / 1e6).toFixed(1)} MB`;
}
