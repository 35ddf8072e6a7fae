import { useState } from "react";
import type { ThingView } from "@/contract/views";
import { ask } from "../kit/ask";
import { Glyph } from "../plan/glyph";
import { Archive, Bytes, Letter, Pages, Pointer, Sheets, Slides, Track } from "./looks";

/** A thing's content, as large as the room allows; what takes a while to be read can be waited for. */
export function Look({ thing }: { thing: ThingView }) {
  return thing.late ? <Late key={thing.id} thing={thing} /> : <Content thing={thing} />;
}

function Late({ thing }: { thing: ThingView }) {
  const [waiting, setWaiting] = useState(false);
  const [come, setCome] = useState<ThingView>();
  if (come) return <Content thing={come} />;
  const wait = () => {
    setWaiting(true);
    ask("sitting/thing", { item: thing.id, wait: true }).then(setCome, () => setWaiting(false));
  };
  return (
    <div className="grid size-full place-content-center justify-items-center gap-4 p-8 text-center">
      <Glyph kind={thing.kind} width={64} />
      <p className="max-w-[420px] text-ink-2" role="status">
        {waiting ? "It is being read." : "It takes a while to be read. What is known about it stands below."}
      </p>
      {!waiting && (
        <button type="button" className="doing" onClick={wait}>
          wait for it
        </button>
      )}
    </div>
  );
}

/** Where it cannot be shown, what is known and a plain sentence. */
function Content({ thing }: { thing: ThingView }) {
  const { look } = thing;
  if (look.form === "picture")
    return <img src={`/api/looks/picture?item=${thing.id}&size=large`} alt={thing.name} className="size-full object-contain" />;
  if (look.form === "table") return <Sheets sheets={look.sheets} />;
  if (look.form === "font")
    return (
      <img
        src={`/api/looks/letters?item=${thing.id}`}
        alt={`the letters of ${thing.name}`}
        className="size-full bg-white object-contain"
      />
    );
  if (look.form === "pages") return <Pages thing={thing} count={look.count} />;
  if (look.form === "slides") return <Slides {...look} />;
  if (look.form === "letter") return <Letter {...look} />;
  if (look.form === "archive") return <Archive {...look} />;
  if (look.form === "track") return <Track {...look} name={thing.name} />;
  if (look.form === "link" || look.form === "shortcut") return <Pointer {...look} kind={thing.kind} />;
  if (look.form === "text")
    return (
      <pre
        tabIndex={0}
        className="size-full overflow-auto p-6 font-mono text-[13px] leading-[1.55] break-words whitespace-pre-wrap"
      >
        {look.lines.length === 1 && look.lines[0] === "" ? "It is empty." : look.lines.join("\n")}
        {!look.whole && "\n…"}
      </pre>
    );
  if (look.form === "sound" || look.form === "video") return <Media thing={thing} form={look.form} />;
  if (look.form === "folder")
    return (
      <div tabIndex={0} role="group" aria-label="what is in it" className="size-full overflow-auto p-6">
        {look.names.length === 0 && <p className="text-ink-2">The folder is empty.</p>}
        <ul className="columns-2 gap-8 text-[13px] leading-[1.7]">
          {look.names.map((name) => (
            <li key={name} className="truncate">
              <bdi>{name}</bdi>
            </li>
          ))}
        </ul>
        {look.more > 0 && <p className="mt-3 text-ink-2">and {look.more} more</p>}
      </div>
    );
  return <Bytes thing={thing} why={look.why} head={look.head} />;
}

/** Played from where it lies, by the browser's own means; what it cannot play is said. */
function Media({ thing, form }: { thing: ThingView; form: "sound" | "video" }) {
  const [failed, setFailed] = useState(false);
  if (failed)
    return (
      <div className="grid size-full place-content-center justify-items-center gap-4 p-8 text-center">
        <Glyph kind={thing.kind} width={64} />
        <p className="max-w-[420px] text-ink-2">This browser cannot play it. A program of its own may.</p>
      </div>
    );
  const played = {
    src: `/api/looks/media?item=${thing.id}`,
    controls: true,
    preload: "metadata",
    onError: () => setFailed(true),
    "aria-label": thing.name,
  } as const;
  return form === "video" ? (
    <video key={thing.id} {...played} className="size-full object-contain" />
  ) : (
    <div className="grid size-full place-content-center justify-items-center gap-6 p-8">
      <Glyph kind={thing.kind} width={64} />
      <audio key={thing.id} {...played} className="w-[420px] max-w-full" />
    </div>
  );
}
