import type { Aside } from "./settling";

/** What a program has open: passed over, and up again once it is free. */
export function InUse({ aside, onTakeUp }: { aside: readonly Aside[]; onTakeUp: (id: string) => void }) {
  if (aside.length === 0) return null;
  return (
    <section aria-label="in use" className="mb-3 border-t border-line pt-2 text-small text-ink-2">
      <b role="status" className="block font-semibold text-ink">
        {aside.length === 1 ? "One is in use, and passed over." : `${aside.length} are in use, and passed over.`}
      </b>
      <ul>
        {aside.slice(0, 4).map(({ item, why }) => (
          <li key={item.id} className="mt-1">
            <button type="button" className="doing text-left break-words" onClick={() => onTakeUp(item.id)}>
              {item.name}
            </button>
            {why && `: ${why}`}
          </li>
        ))}
      </ul>
      {aside.length > 4 && <p>and {aside.length - 4} more.</p>}
      <p className="mt-1">{aside.length === 1 ? "It comes" : "They come"} up again once free.</p>
    </section>
  );
}

/** When nothing else is left. */
export function OnlyInUse({
  aside,
  onTakeUp,
  onEnd,
}: {
  aside: readonly Aside[];
  onTakeUp: (id: string) => void;
  onEnd: () => void;
}) {
  return (
    <div className="mx-auto grid h-full max-w-[520px] place-content-center gap-4">
      <h1 className="text-[30px] leading-tight font-medium">What is left is in use.</h1>
      <InUse aside={aside} onTakeUp={onTakeUp} />
      <button type="button" className="doing justify-self-start" onClick={onEnd}>
        end here; it comes up next time
      </button>
    </div>
  );
}
