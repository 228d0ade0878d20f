// Names as browsers and systems give them in their User-Agent header (RFC 9110 §10.1.5); the first that is found counts,
// since browsers name those that they descend from as well.
const browsers: [RegExp, string][] = [
  [/Firefox\//, "Firefox"],
  [/Edg\//, "Edge"],
  [/Chrom(e|ium)\//, "Chromium"],
  [/Safari\//, "Safari"],
];
const systems: [RegExp, string][] = [
  [/Android/, "Android"],
  [/iPhone|iPad/, "iOS"],
  [/Windows/, "Windows"],
  [/Mac OS X/, "macOS"],
  [/Linux/, "Linux"],
];

/** What a browser says it is, in a few words. */
export function device(agent: string): string {
  const named = (list: [RegExp, string][]) => list.find(([pattern]) => pattern.test(agent))?.[1];
  const browser = named(browsers);
  const system = named(systems);
  if (browser && system) return `${browser} on ${system}`;
  return browser ?? system ?? (agent.split(/[ /]/)[0] || "a browser without a name");
}
