import type { HomeRef } from "@/contract/homes";
import type { ThingView } from "@/contract/views";

/** The homes that fit, numbered; a line joins the surest to the thing. */
export function HomeCards({
  homes,
  first,
  onPut,
  joined = false,
}: {
  homes: ThingView["homes"];
  first: number;
  onPut: (home: HomeRef) => void;
  joined?: boolean;
}) {
  if (homes.length === 0)
    return joined ? <p className="text-small text-ink-2">No home surely fits this one. Type one, or a new one.</p> : null;
  return (
    <ol>
      {homes.map((home, n) => {
        const surest = joined && n === 0;
        const parts = home.title.split(" / ");
        return (
          <li key={home.id} className="relative mb-3.5">
            <button
              type="button"
              onClick={() => onPut({ id: home.id })}
              className={`block min-h-[84px] w-full bg-sheet px-3 py-2 text-left hover:bg-wash ${surest ? "border-2 border-verdigris" : "border border-line"}`}
            >
              <span
                className={`float-right -mt-2 -mr-3 ml-2 grid h-[26px] w-[26px] place-content-center border font-bold ${surest ? "border-verdigris bg-verdigris text-sheet" : "border-line bg-ground"}`}
              >
                {first + n}
              </span>
              <span className="block text-[11px] text-ink-2">{parts.slice(0, -2).join(" / ")}</span>
              <b className="block text-[15px] leading-tight font-[650]">{parts.slice(-2).join(" / ")}</b>
              <span className="mt-0.5 block text-[12px] leading-[1.3] text-ink-2">
                {home.why}
                {home.synchronised && " · synchronised, not archived"}
              </span>
            </button>
            {surest && <span aria-hidden="true" className="absolute top-10 left-full w-(--aside) border-t-2 border-verdigris" />}
          </li>
        );
      })}
    </ol>
  );
}
