"use client";
import type { Sharing as SharingView } from "@/contract/views";
import { ask } from "../kit/ask";
import { KeyOf } from "../kit/key";
import { useLive } from "../kit/live";

/** What stands on every view while others see the screen: how many things there are, and no name of any. */
export function Sharing({ sharing: { occasion, title, until, counts } }: { sharing: SharingView }) {
  const live = useLive();
  const does = (what: "end" | "longer") => void live.act(ask("quiet/occasion", { occasion, does: what }));
  return (
    <div className="mx-auto h-full max-w-[780px] overflow-auto px-7 pt-10">
      <h1 className="mb-4 text-say leading-tight font-medium">
        “{title}” is under way{until ? ` until ${until}` : ""}, so no name and no picture is sent to this page.
      </h1>
      <p className="mb-6 max-w-[62ch] text-ink-2">
        Whoever sees this window sees these counts. Everything lies where it did; commands in a terminal say names as always.
      </p>
      <dl className="mb-8 grid max-w-[420px] grid-cols-[1fr_auto] border-t border-ink">
        {counts.map(({ words, count }) => (
          <div key={words} className="col-span-2 grid grid-cols-subgrid border-b border-line py-2">
            <dt>{words}</dt>
            <dd className="font-semibold tabular-nums">{count}</dd>
          </div>
        ))}
      </dl>
      <p className="flex items-center gap-6">
        <button type="button" className="go" onClick={() => does("end")}>
          End it
        </button>
        {until && (
          <button type="button" className="doing" onClick={() => does("longer")}>
            half an hour longer
          </button>
        )}
        <span className="text-small text-ink-2">
          <KeyOf command="quiet" /> takes icons out of sight and brings them back here, too.
        </span>
      </p>
    </div>
  );
}
