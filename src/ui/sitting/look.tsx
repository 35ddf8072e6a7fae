import { useState } from "react";
import type { Shown } from "@/contract/looks";
import { ask } from "../kit/ask";
import { Glyph } from "../plan/glyph";
import { FolderLook } from "./folder";
import { Archive, Bytes, Letter, Pages, Pointer, Sheets, Slides, Track } from "./looks";
import { Media } from "./media";
import { Picture } from "./picture";
import { TextLook } from "./text";

/** A thing's content, as large as the room allows; what takes a while to be read can be waited for. */
export function Look({ thing, wait }: { thing: Shown; wait?: () => Promise<Shown> }) {
  const whole = wait ?? (() => ask("sitting/thing", { item: thing.id, wait: true }));
  return thing.late ? <Late key={thing.id} thing={thing} whole={whole} /> : <Content thing={thing} />;
}

function Late({ thing, whole }: { thing: Shown; whole: () => Promise<Shown> }) {
  const [waiting, setWaiting] = useState(false);
  const [come, setCome] = useState<Shown>();
  if (come) return <Content thing={come} />;
  const wait = () => {
    setWaiting(true);
    whole().then(setCome, () => setWaiting(false));
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
function Content({ thing }: { thing: Shown }) {
  const { look } = thing;
  const [failed, setFailed] = useState<string>();
  if (look.form === "picture")
    return failed === thing.id ? (
      <Bytes thing={thing} why="it is damaged, or in a form that is not known" head={[]} />
    ) : (
      <Picture key={thing.id} id={thing.id} name={thing.name} failed={() => setFailed(thing.id)} />
    );
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
  if (look.form === "slides") return <Slides {...look} item={thing.id} />;
  if (look.form === "letter") return <Letter {...look} />;
  if (look.form === "archive") return <Archive {...look} />;
  if (look.form === "track") return <Track {...look} name={thing.name} />;
  if (look.form === "link" || look.form === "shortcut") return <Pointer {...look} kind={thing.kind} />;
  if (look.form === "text") return <TextLook key={thing.id} {...look} />;
  if (look.form === "sound" || look.form === "video") return <Media key={thing.id} thing={thing} look={look} />;
  if (look.form === "folder") return <FolderLook key={thing.id} {...look} />;
  return <Bytes thing={thing} why={look.why} head={look.head} />;
}
