/** The name of what is recorded or captured now: with its date, so that no two are the same. */
export function dated(what: string, extension: string, now = new Date()): string {
  const two = (n: number) => String(n).padStart(2, "0");
  const day = [now.getFullYear(), two(now.getMonth() + 1), two(now.getDate())].join("-");
  return `${what}_${day}_${two(now.getHours())}${two(now.getMinutes())}${two(now.getSeconds())}.${extension}`;
}
