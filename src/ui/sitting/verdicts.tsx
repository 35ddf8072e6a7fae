import type { ThingView, Verdict } from "@/contract/views";
import type { CommandName } from "@/core/settings/keys";
import { Key, KeyOf } from "../kit/key";
import { VerdictShape } from "../kit/shapes";

/** What else can be done with a thing; each has its key, where it has one. */
export interface More {
  words: string;
  command?: CommandName;
  key?: string;
  act: () => void;
}

/** The verdicts, each with its letter, shape and tone; below them their variants, and what else there is. */
export function Verdicts({
  give,
  thing,
  parcel,
  more,
}: {
  give: Record<Verdict, () => void>;
  thing?: ThingView;
  parcel?: string;
  more: More[];
}) {
  const list: [Verdict, string][] = [
    ["stay", "leave it where it is"],
    ["put away", thing?.homes[0] ? "into home 1, or press its number" : "type a home, or a new one"],
    ["archive", parcel ? `into the parcel “${parcel}”` : "into a new parcel"],
    ["wait", "ask again in 30 days"],
    ["let go", "to the trash, and back"],
  ];
  return (
    <div className="mt-2">
      <div className="grid grid-cols-5 border border-ink bg-sheet">
        {list.map(([verdict, words], n) => (
          <button
            key={verdict}
            type="button"
            onClick={give[verdict]}
            className={`relative flex h-[92px] flex-col items-start px-3 pt-2.5 pb-2 text-left hover:bg-wash ${n > 0 ? "border-l border-line" : ""}`}
          >
            <VerdictShape verdict={verdict} />
            <span className="absolute top-2.5 right-2">
              <KeyOf command={verdict} />
            </span>
            <b className="mt-1 block text-[16px] leading-tight font-[650]">{verdict}</b>
            <span className="line-clamp-2 text-[11.5px] leading-[1.25] text-ink-2">{words}</span>
          </button>
        ))}
      </div>
      <p className="mt-1.5 flex flex-wrap gap-x-4 gap-y-1 text-[12px]">
        {more.map(({ words, command, key, act }) => (
          <button key={words} type="button" className="doing" onClick={act}>
            {words} {command ? <KeyOf command={command} /> : key && <Key>{key}</Key>}
          </button>
        ))}
      </p>
    </div>
  );
}
