/** What a header calls browsers, in the order in which they are told: most name those before them, too. */
const browsers = [
  ["Edg", "Edge"],
  ["OPR", "Opera"],
  ["Vivaldi", "Vivaldi"],
  ["SamsungBrowser", "Samsung Internet"],
  ["Firefox", "Firefox"],
  ["HeadlessChrome", "Chrome"],
  ["Chrome", "Chrome"],
  ["Safari", "Safari"],
] as const;

const systems = [
  [/Android/, "Android"],
  [/Linux|X11/, "Linux"],
] as const;

/** Which browser a header says it is, on which system: for the person to know their own by. */
export function browserOf(userAgent: string): string {
  if (!userAgent) return "a browser that says nothing of itself";
  const browser = browsers.find(([product]) => userAgent.includes(`${product}/`))?.[1];
  const system = systems.find(([sign]) => sign.test(userAgent))?.[1];
  return [browser ?? "a browser", system && `on ${system}`].filter(Boolean).join(" ");
}
