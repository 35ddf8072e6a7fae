import Bowser from "bowser";

/** Which browser a header says it is, on which system: for the person to know their own by. */
export function browserOf(userAgent: string): string {
  if (!userAgent) return "a browser that says nothing of itself";
  const { browser, os } = Bowser.parse(userAgent);
  const words = [browser.name, os.name && `on ${os.name}`].filter(Boolean).join(" ");
  return (words || "a browser").slice(0, 80);
}
