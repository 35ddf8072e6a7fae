import picomatch from "picomatch";

/**
 * Which of some labels are named as exceptions: each a name, or a pattern with `*`, `?` or `{a,b}` (shell patterns, POSIX
 * 2.14), whatever the case.
 */
export function excepted(exceptions: readonly string[]): (label: string) => boolean {
  const names = new Set(exceptions.map((name) => name.toLowerCase()));
  const patterns = exceptions
    .filter((pattern) => /[*?{[]/.test(pattern))
    .map((pattern) => picomatch(pattern, { nocase: true, dot: true, bash: true, noextglob: true }));
  return (label) => names.has(label.toLowerCase()) || patterns.some((matches) => matches(label.replaceAll("/", "∕")));
}
