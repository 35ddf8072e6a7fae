"use client";
import { commandNames, commands, type Where } from "@/core/settings/keys";
import { Dialog } from "../kit/dialog";
import { Key, KeyOf } from "../kit/key";
import { Link } from "../kit/link";

/** The keys that always mean the same. */
const fixed: Record<string, [key: string, does: string][]> = {
  "In the plan": [
    ["←", "and the other arrows: the nearest thing"],
    ["Space", "choose it, or not"],
    ["Enter", "look at it closer"],
    ["Esc", "choose nothing"],
  ],
  "Filling a home": [
    ["←", "and →: move the cut"],
    ["Enter", "take"],
    ["1", "to 9: the home with that number"],
  ],
};

const groups: { title: string; of: Where[] }[] = [
  { title: "Anywhere", of: ["anywhere"] },
  { title: "A verdict, one by one or on what is chosen", of: ["a verdict", "one by one"] },
  { title: "In homes", of: ["homes"] },
];

/** All keys at a glance. */
export function KeysDialog({ open, onClose }: { open: boolean; onClose: () => void }) {
  return (
    <Dialog open={open} onClose={onClose} title="The keys" wide>
      <div className="grid grid-cols-2 gap-x-10 gap-y-3">
        {groups.map(({ title, of }) => (
          <Group key={title} title={title}>
            {commandNames
              .filter((name) => of.includes(commands[name].where))
              .map((name) => (
                <Line key={name} does={commands[name].does}>
                  <KeyOf command={name} />
                </Line>
              ))}
          </Group>
        ))}
        <div className="grid content-start gap-y-4">
          {Object.entries(fixed).map(([title, keys]) => (
            <Group key={title} title={title}>
              {keys.map(([key, does]) => (
                <Line key={does} does={does}>
                  <Key>{key}</Key>
                </Line>
              ))}
            </Group>
          ))}
        </div>
      </div>
      <p className="mt-5 flex items-center gap-6">
        <button type="button" className="go" onClick={onClose}>
          Done
        </button>
        <Link href="/settings#keys" className="doing" onClick={onClose}>
          give them other meanings
        </Link>
      </p>
    </Dialog>
  );
}

function Group({ title, children }: { title: string; children: React.ReactNode }) {
  return (
    <section>
      <h3 className="mb-2 border-b border-ink pb-1 font-semibold">{title}</h3>
      <dl className="grid grid-cols-[64px_1fr] gap-y-1">{children}</dl>
    </section>
  );
}

function Line({ does, children }: { does: string; children: React.ReactNode }) {
  return (
    <div className="contents">
      <dt>{children}</dt>
      <dd className="text-ink-2">{does}</dd>
    </div>
  );
}
