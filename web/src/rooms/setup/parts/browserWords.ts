/** What a browser calls itself, in a word or two: enough to tell one's own apart. */
const BROWSERS: [RegExp, string][] = [
  [/Edg\//, "Edge"],
  [/OPR\//, "Opera"],
  [/Firefox\//, "Firefox"],
  [/Chrome\/|CriOS\//, "Chrome"],
  [/Safari\//, "Safari"],
];
const SYSTEMS: [RegExp, string][] = [
  [/iPhone|iPad/, "iOS"],
  [/Android/, "Android"],
  [/Windows/, "Windows"],
  [/Mac OS X/, "macOS"],
  [/Linux/, "Linux"],
];

export function browserWords(agent: string): string {
  const named = (rows: [RegExp, string][]) => rows.find(([sign]) => sign.test(agent))?.[1];
  const browser = named(BROWSERS);
  const system = named(SYSTEMS);
  if (!browser) return agent.split(/[/ ]/)[0] || "Another program";
  return system ? `${browser} on ${system}` : browser;
}
