import { useState } from "react";
import type { ThingView } from "@/contract/views";
import { Glyph } from "../plan/glyph";

/** A thing's content, as large as the room allows; where it cannot be shown, the facts and a plain sentence. */
export function Look({ thing }: { thing: ThingView }) {
  const { look } = thing;
  if (look.form === "picture")
    return <img src={`/api/looks/picture?item=${thing.id}&size=large`} alt={thing.name} className="size-full object-contain" />;
  if (look.form === "table")
    return (
      <TableLook
        cells={look.cells}
        more={(look.rows ?? 0) > look.cells.length || look.rows === undefined}
        columns={look.columns}
      />
    );
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
  return (
    <div className="grid size-full place-content-center justify-items-center gap-4 p-8 text-center">
      <Glyph kind={thing.kind} width={64} />
      <p className="max-w-[420px] text-ink-2">
        {sentences[thing.kind] ?? "Its content cannot be shown here. What is known about it stands below."}
      </p>
    </div>
  );
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

const sentences: Partial<Record<ThingView["kind"], string>> = {
  shortcut: "A shortcut. Nothing is lost with it: what it leads to stays where it is.",
  "web link": "A web link. It holds an address and nothing else.",
  archive: "An archive. What is in it cannot be shown here yet.",
  installer: "An installer. It is not needed once its program is installed.",
  sound: "It is named as a sound, and its content is none that is known.",
  video: "It is named as a video, and its content is none that is known.",
  "half download": "A download that did not come to its end.",
};

function TableLook({ cells, more, columns }: { cells: string[][]; more: boolean; columns: number }) {
  const [head, ...rows] = cells;
  return (
    <div tabIndex={0} role="group" aria-label="the table" className="size-full overflow-auto p-6">
      <table className="w-full font-mono text-[13px]">
        <thead>
          <tr className="border-b border-ink">
            {head?.map((cell, n) => (
              <th key={n} scope="col" className="pr-5 pb-2 text-left font-bold whitespace-nowrap">
                {cell}
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {rows.map((row, n) => (
            <tr key={n}>
              {row.map((cell, m) => (
                <td key={m} className="py-[3px] pr-5 whitespace-nowrap tabular-nums">
                  {cell}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      {(more || columns > (head?.length ?? 0)) && <p className="mt-3 text-ink-2">The table goes on.</p>}
    </div>
  );
}
