"use client";
import { useState } from "react";
import type { HomeRef } from "@/contract/homes";
import type { ReportJson } from "@/contract/items";
import type { OverlookedView } from "@/contract/views";
import { ask } from "../kit/ask";
import { HomePicker } from "../kit/home-picker";
import { Key, KeyOf } from "../kit/key";
import { useKeys } from "../kit/keys";
import { useLeftOut } from "../kit/left-out";
import { Link } from "../kit/link";
import { useLive } from "../kit/live";
import { Name } from "../kit/name";
import { things } from "../kit/numbers";
import { WhenNear } from "../kit/when-near";
import { Draggable } from "./drag";
import { NewTitles } from "./new-titles";
import { Thumb } from "./thumb";

/**
 * Things gathered by likeness, each group with a home that may fit; single things are left out. Of `overlooked` what has no
 * sure home yet, of `finer` what went only to an area and may well stay there.
 */
export function Groups({ groups, of }: { groups: OverlookedView[]; of: "overlooked" | "finer" }) {
  const live = useLive();
  const [leftOut, toggle] = useLeftOut();
  const [picking, setPicking] = useState<string[]>();
  const [titling, setTitling] = useState<OverlookedView>();
  const [underWay, setUnderWay] = useState<ReadonlySet<string>>(new Set());
  const allOf = (group: OverlookedView) => [...group.tiles.map((tile) => tile.id), ...group.more];
  const taking = (group: OverlookedView) => allOf(group).filter((id) => !leftOut.has(id));
  /** Each group once: it stays there until that is done. The next one need not wait for it. */
  const act = (items: string[], work: () => Promise<ReportJson>) => {
    if (items.length === 0 || items.some((id) => underWay.has(id))) return;
    setUnderWay((before) => new Set([...before, ...items]));
    void live.act(work()).finally(() => setUnderWay((before) => new Set([...before].filter((id) => !items.includes(id)))));
  };
  const put = (home: HomeRef, items: string[]) => {
    setPicking(undefined);
    act(items, () => ask("homes/put", { home, items }));
  };
  const suggested = (group: OverlookedView): HomeRef => (group.home.id ? { id: group.home.id } : { title: group.home.title });
  const first = groups[0];
  useKeys({
    "put away": () => first && setPicking(taking(first)),
    "new titles": () => first && setTitling(first),
    Enter: () => first && put(suggested(first), taking(first)),
  });
  const all = groups.reduce((sum, group) => sum + allOf(group).length, 0);
  if (groups.length === 0)
    return (
      <div className="grid flex-1 place-content-center justify-items-center gap-4 text-center">
        <i className="size-[74px] rounded-full border-[9px] border-ink" />
        <h1 className="text-[30px] font-medium">
          {of === "overlooked" ? "Nothing is overlooked." : "Nothing in a broad home would suit one inside it better."}
        </h1>
        <p className="text-ink-2">
          {of === "overlooked"
            ? "All that lies there has a home, a verdict, or is on its way."
            : "What you put into a home that holds others comes up here, to be put into one of those."}
        </p>
      </div>
    );
  return (
    <>
      <h1 className="mt-4 mb-3 text-[24px] leading-tight font-medium">
        <b className="border-b-2 border-verdigris font-bold">{things(all)}</b>{" "}
        {of === "overlooked"
          ? `${all === 1 ? "has" : "have"} no sure home yet.`
          : `${all === 1 ? "lies" : "lie"} in a broad home; one inside it may suit better.`}
      </h1>
      <div className="min-h-0 flex-1 overflow-auto">
        {groups.map((group, n) => {
          const items = taking(group);
          return (
            <section key={group.tiles[0]?.id} aria-label={group.why} className="mb-5 border-t border-ink pt-2">
              <div className="mb-2 flex flex-wrap items-baseline gap-x-4 gap-y-1">
                <h2 className="font-[650]">{group.why}</h2>
                <span className="text-small text-ink-2">{things(allOf(group).length)}</span>
                <span className="ml-auto flex flex-wrap justify-end gap-x-4">
                  <button
                    type="button"
                    className="doing"
                    disabled={items.length === 0}
                    onClick={() => put(suggested(group), items)}
                  >
                    put {items.length} into {group.home.id ? group.home.title : `a new home, ${group.home.title}`}
                    {n === 0 && (
                      <>
                        {" "}
                        <Key>↵</Key>
                      </>
                    )}
                  </button>
                  <button type="button" className="doing" disabled={items.length === 0} onClick={() => setPicking(items)}>
                    another home
                    <span className="sr-only"> for {group.why}</span>
                    {n === 0 && (
                      <>
                        {" "}
                        <KeyOf command="put away" />
                      </>
                    )}
                  </button>
                  <button type="button" className="doing" disabled={items.length === 0} onClick={() => setTitling(group)}>
                    new titles
                    <span className="sr-only"> for {group.why}</span>
                    {n === 0 && (
                      <>
                        {" "}
                        <KeyOf command="new titles" />
                      </>
                    )}
                  </button>
                  {of === "finer" && (
                    <button
                      type="button"
                      className="doing"
                      disabled={items.length === 0}
                      onClick={() => act(items, () => ask("sitting/stay", { items }))}
                    >
                      leave them there<span className="sr-only">: {group.why}</span>
                    </button>
                  )}
                </span>
              </div>
              <WhenNear height={98 * Math.ceil(group.tiles.length / 9)}>
                {() => (
                  <ul className="grid auto-rows-min grid-cols-[repeat(auto-fill,minmax(110px,1fr))] gap-2.5">
                    {group.tiles.map((tile) => (
                      <li key={tile.id}>
                        <Draggable tile={tile}>
                          <button
                            type="button"
                            aria-pressed={!leftOut.has(tile.id)}
                            title={tile.name}
                            onClick={() => toggle(tile.id)}
                            className={`block w-full text-left ${leftOut.has(tile.id) ? "opacity-45" : ""}`}
                          >
                            <Thumb tile={tile} dashed={leftOut.has(tile.id)} at={false} />
                            <span className="mt-1 block text-[11.5px]">
                              <Name>{tile.name}</Name>
                            </span>
                          </button>
                        </Draggable>
                      </li>
                    ))}
                    {group.more.length > 0 && (
                      <li className="self-center text-small text-ink-2">
                        and {group.more.length} more like these, which go along. They are all listed in the{" "}
                        <Link href="/survey" className="doing">
                          survey
                        </Link>
                        .
                      </li>
                    )}
                  </ul>
                )}
              </WhenNear>
            </section>
          );
        })}
      </div>
      <HomePicker
        open={picking !== undefined}
        onClose={() => setPicking(undefined)}
        title={`Put ${things(picking?.length ?? 0)} away`}
        onPick={(home) => put(home, picking ?? [])}
      />
      {titling && (
        <NewTitles
          items={taking(titling)}
          home={{ ref: suggested(titling), title: titling.home.title }}
          onClose={() => setTitling(undefined)}
        />
      )}
    </>
  );
}
