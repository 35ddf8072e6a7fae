/**
 * The homes that a typed text may mean, nearest first: one of that very title, one whose own name is the text, then those
 * whose own name begins with it, then all in whose title each typed word occurs. Among equals their order stays.
 */
export function resembling<Home extends { title: string }>(homes: readonly Home[], typed: string): Home[] {
  const wanted = tidy(typed);
  if (wanted === "") return [...homes];
  const words = wanted.split(/[\s/]+/);
  return homes
    .flatMap((home) => {
      const title = tidy(home.title);
      const own = title.slice(title.lastIndexOf("/") + 1);
      if (!words.every((word) => title.includes(word))) return [];
      return [{ home, rank: title === wanted ? 0 : own === wanted ? 1 : own.startsWith(wanted) ? 2 : 3 }];
    })
    .sort((a, b) => a.rank - b.rank)
    .map(({ home }) => home);
}

/** Whether a home of that very title is there; blanks around a slash and capitals aside. */
export const isThere = (homes: readonly { title: string }[], typed: string): boolean =>
  homes.some((home) => tidy(home.title) === tidy(typed));

const tidy = (title: string) =>
  title
    .normalize("NFC")
    .toLowerCase()
    .trim()
    .replace(/\s*\/\s*/g, "/");
