/** So much of a name's end is always seen: names that are alike differ there, and it tells what a thing is. */
const end = 11;
const short = 16;

/** A thing's name on one line: where there is no room for all of it, its middle is left out. */
export function Name({ children: name, className = "" }: { children: string; className?: string }) {
  const letters = [...name];
  if (letters.length <= short) return <bdi className={`min-w-0 truncate ${className}`}>{name}</bdi>;
  return (
    <bdi className={`flex min-w-0 ${className}`} title={name}>
      <span className="min-w-[1ch] truncate whitespace-pre">{letters.slice(0, -end).join("")}</span>
      <span className="shrink-0 whitespace-pre">{letters.slice(-end).join("")}</span>
    </bdi>
  );
}
