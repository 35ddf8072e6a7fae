import { Link } from "../kit/link";

/** The sheets of the sitting: the pile, what is undecided, and the projects under way. */
export function SheetsOfSitting({
  now,
  waiting,
  projects,
}: {
  now: "pile" | "undecided" | "projects";
  waiting: number;
  projects: number;
}) {
  const sheet = (which: typeof now, href: string, words: string) => (
    <Link
      href={href}
      aria-current={now === which ? "true" : undefined}
      className={now === which ? "border-b-2 border-ink font-semibold" : "text-ink-2 hover:text-ink"}
    >
      {words}
    </Link>
  );
  return (
    <nav aria-label="sheets of the sitting" className="mb-4 flex flex-wrap gap-x-4 text-small">
      {sheet("pile", "/sitting", "one by one")}
      {sheet("undecided", "/sitting?sheet=undecided", `undecided ${waiting}`)}
      {sheet("projects", "/sitting?sheet=projects", `projects ${projects}`)}
    </nav>
  );
}
