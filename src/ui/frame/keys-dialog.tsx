"use client";
import { Dialog } from "../kit/dialog";
import { Key } from "../kit/key";

const groups: { title: string; keys: [string, string][] }[] = [
  {
    title: "Anywhere",
    keys: [
      ["Z", "undo the last act"],
      ["Y", "do again what was undone"],
      ["Q", "quiet, and back"],
      ["H", "homes"],
      ["O", "one by one"],
      ["?", "these keys"],
    ],
  },
  {
    title: "A verdict, one by one or on what is chosen",
    keys: [
      ["S", "stay"],
      ["P", "put away"],
      ["A", "archive"],
      ["W", "wait"],
      ["L", "let go"],
      ["T", "settle its family together"],
      ["1", "to 9: the home with that number"],
      ["/", "type a home, or a new one"],
    ],
  },
  {
    title: "In the plan",
    keys: [
      ["←", "and the other arrows: the nearest thing"],
      ["Space", "choose it, or not"],
      ["Enter", "look at it closer"],
      ["Esc", "choose nothing"],
    ],
  },
  {
    title: "Filling a home",
    keys: [
      ["←", "and →: move the cut"],
      ["X", "leave one out"],
      ["P", "another home for this one"],
      ["Enter", "take"],
      ["N", "another home"],
      ["E", "take everything sure, into every home"],
      ["M", "with new titles"],
      ["V", "what was overlooked"],
      ["I", "what could lie finer"],
      ["U", "new homes, suggested"],
      ["F", "the filing plan"],
      ["G", "gather and set out"],
    ],
  },
];

/** All keys at a glance. */
export function KeysDialog({ open, onClose }: { open: boolean; onClose: () => void }) {
  return (
    <Dialog open={open} onClose={onClose} title="The keys" wide>
      <div className="grid grid-cols-2 gap-x-10 gap-y-4">
        {groups.map((group) => (
          <section key={group.title}>
            <h3 className="mb-2 border-b border-ink pb-1 font-semibold">{group.title}</h3>
            <dl className="grid grid-cols-[64px_1fr] gap-y-1">
              {group.keys.map(([key, does]) => (
                <div key={key + does} className="contents">
                  <dt>
                    <Key>{key}</Key>
                  </dt>
                  <dd className="text-ink-2">{does}</dd>
                </div>
              ))}
            </dl>
          </section>
        ))}
      </div>
      <button type="button" className="go mt-5" onClick={onClose}>
        Done
      </button>
    </Dialog>
  );
}
