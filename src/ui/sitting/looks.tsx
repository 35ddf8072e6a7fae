"use client";
import { useMemo, useState } from "react";
import type { LookView, SheetLook, Shown } from "@/contract/looks";
import { useKeys } from "../kit/keys";
import { LongList } from "../kit/long-list";
import { useWords } from "../kit/words";
import { Glyph } from "../plan/glyph";
import { treeOf } from "./archive-tree";

type Of<F extends LookView["form"]> = Extract<LookView, { form: F }>;

/** A table's sheets, one at a time; the head stays where it is, numbers stand under one another. */
export function Sheets({ sheets }: { sheets: SheetLook[] }) {
  const [at, setAt] = useState(0);
  const sheet = sheets[Math.min(at, sheets.length - 1)];
  if (!sheet) return null;
  const [head = [], ...rows] = sheet.cells;
  const goesOn = sheet.rows === undefined || sheet.rows > sheet.cells.length || sheet.columns > head.length;
  return (
    <div className="grid size-full grid-rows-[auto_minmax(0,1fr)]">
      <div className="flex flex-wrap gap-x-5 px-6 pt-3">
        {sheets.length > 1 &&
          sheets.map(({ name }, n) => (
            <button
              key={`${n} ${name}`}
              type="button"
              aria-pressed={n === at}
              className={n === at ? "border-b-2 border-ink text-small font-semibold" : "doing text-small"}
              onClick={() => setAt(n)}
            >
              {name || `sheet ${n + 1}`}
            </button>
          ))}
      </div>
      <div tabIndex={0} role="group" aria-label="the table" className="overflow-auto px-6 pb-6">
        {sheet.cells.length === 0 ? (
          <p className="mt-3 text-ink-2">The sheet is empty.</p>
        ) : (
          <table className="w-full font-mono text-[13px]">
            <thead className="sticky top-0 bg-sheet">
              <tr className="border-b border-ink">
                {head.map((cell, n) => (
                  <th key={n} scope="col" className="pt-3 pr-5 pb-2 text-left font-bold whitespace-nowrap">
                    {cell}
                  </th>
                ))}
              </tr>
            </thead>
            <tbody>
              {rows.map((row, n) => (
                <tr key={n}>
                  {row.map((cell, m) => (
                    <td
                      key={m}
                      className={`py-[3px] pr-5 whitespace-nowrap tabular-nums ${/^[-+]?[\d.,\s]+%?$/.test(cell) ? "text-right" : ""}`}
                    >
                      {cell}
                    </td>
                  ))}
                </tr>
              ))}
            </tbody>
          </table>
        )}
        {goesOn && <p className="mt-3 text-ink-2">The table has more than is shown.</p>}
      </div>
    </div>
  );
}

/** Pages of a document, drawn one at a time; their text can be marked and copied. */
export function Pages({ thing, count }: { thing: Shown; count: number }) {
  const [{ of, n }, setAt] = useState({ of: thing.id, n: 1 });
  const at = of === thing.id ? n : 1;
  const [asText, setAsText] = useState(false);
  const [failed, setFailed] = useState<string>();
  const text = thing.look.form === "pages" ? thing.look.text.trim() : "";
  const [turns, setTurns] = useState(0);
  useKeys({ ArrowLeft: () => go(at - 1), ArrowRight: () => go(at + 1) });
  const go = (to: number) => setAt({ of: thing.id, n: Math.max(1, Math.min(count, to)) });
  return (
    <div className="grid size-full grid-rows-[minmax(0,1fr)_auto]">
      {asText ? (
        <pre tabIndex={0} className="overflow-auto p-6 font-mono text-[13px] leading-[1.55] break-words whitespace-pre-wrap">
          {text}
        </pre>
      ) : failed === `${thing.id} ${at}` ? (
        <p className="self-center p-8 text-center text-ink-2">This page cannot be drawn.</p>
      ) : (
        <div className="min-h-0 overflow-auto" tabIndex={0} role="group" aria-label={`page ${at} of ${count}`}>
          <img
            key={`${thing.id} ${at}`}
            src={`/api/looks/page?item=${thing.id}&n=${at}`}
            alt={`page ${at} of ${thing.name}`}
            style={turns ? { transform: `rotate(${turns * 90}deg)` } : undefined}
            className="mx-auto block h-full max-w-full bg-white object-contain"
            onError={() => setFailed(`${thing.id} ${at}`)}
          />
        </div>
      )}
      <p className="flex items-center justify-center gap-5 border-t border-line py-1.5 text-small">
        <button type="button" className="doing" disabled={at === 1} onClick={() => go(at - 1)}>
          previous page
        </button>
        <span className="text-ink-2 tabular-nums">
          {at} of {count}
        </span>
        <button type="button" className="doing" disabled={at === count} onClick={() => go(at + 1)}>
          next page
        </button>
        {!asText && (
          <button type="button" className="doing" onClick={() => setTurns((turns + 1) % 4)}>
            turn
          </button>
        )}
        {text !== "" && (
          <button type="button" className="doing" aria-pressed={asText} onClick={() => setAsText(!asText)}>
            {asText ? "as pages" : "as text"}
          </button>
        )}
      </p>
    </div>
  );
}

/** The text of each slide of a talk, and the pictures on it. */
export function Slides({ count, slides, item }: Of<"slides"> & { item: string }) {
  return (
    <ol
      tabIndex={0}
      aria-label="the slides"
      className="grid size-full grid-cols-[repeat(auto-fill,minmax(290px,1fr))] auto-rows-max content-start gap-4 overflow-auto p-6"
    >
      {slides.map(({ lines, pictures }, n) => (
        <li key={n} className="aspect-[4/3] overflow-hidden border border-line bg-ground p-3.5 text-[13px] leading-snug">
          <span className="float-right text-ink-2 tabular-nums">{n + 1}</span>
          {lines.map((line, m) => (
            <p key={m} className={m === 0 ? "mb-1 font-semibold" : ""}>
              {line}
            </p>
          ))}
          {pictures.length > 0 && (
            <span className="mt-1 flex gap-2">
              {pictures.map((part) => (
                <img
                  key={part}
                  src={`/api/looks/part?item=${item}&part=${encodeURIComponent(part)}`}
                  alt={`on slide ${n + 1}`}
                  loading="lazy"
                  className="max-h-28 min-w-0 bg-white object-contain"
                />
              ))}
            </span>
          )}
          {lines.length === 0 && pictures.length === 0 && <p className="text-ink-2">No words on it.</p>}
        </li>
      ))}
      {count > slides.length && <li className="text-ink-2">and {count - slides.length} more</li>}
    </ol>
  );
}

/** A letter as it was sent. */
export function Letter({ from, to, date, subject, lines, whole, attachments }: Of<"letter">) {
  const words = useWords();
  const rows: [string, string][] = [
    ["from", from],
    ["to", to],
    ["sent", date === undefined ? "" : words.dateTime(date)],
  ];
  return (
    <div tabIndex={0} role="group" aria-label="the letter" className="size-full overflow-auto p-6">
      <h3 className="mb-2 text-name font-semibold">{subject || "No subject"}</h3>
      <dl className="mb-4 grid grid-cols-[4rem_1fr] border-b border-line pb-3 text-small">
        {rows.map(
          ([word, value]) =>
            value && (
              <div key={word} className="col-span-2 grid grid-cols-subgrid">
                <dt className="text-ink-2">{word}</dt>
                <dd className="break-words">{value}</dd>
              </div>
            ),
        )}
      </dl>
      <p className="leading-[1.55] break-words whitespace-pre-wrap">
        {lines.join("\n")}
        {!whole && "\n…"}
      </p>
      {attachments.length > 0 && (
        <ul className="mt-4 border-t border-line pt-3 text-small" aria-label="attached">
          {attachments.map(({ name, bytes }, n) => (
            <li key={`${n} ${name}`}>
              <bdi>{name}</bdi> <span className="text-ink-2">{words.bytes(bytes)}</span>
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}

/** What lies in an archive, by its own list: the tree that its names make. */
export function Archive({ entries, count, whole, locked, program }: Of<"archive">) {
  const words = useWords();
  const rows = useMemo(() => treeOf(entries), [entries]);
  return (
    <div className="flex size-full flex-col p-6">
      {program && (
        <p className="mb-3">
          <b className="font-semibold">{program.name}</b> {program.version}
          <span className="block text-ink-2">{program.words}</span>
          <span className="block text-small">
            {program.there === undefined
              ? "It is not installed on this computer. It would install:"
              : program.there === program.version
                ? "This very version is installed on this computer. It put there:"
                : `Version ${program.there} is installed on this computer. It would install:`}
          </span>
        </p>
      )}
      {locked && <p className="mb-2 text-small text-ink-2">It is locked with a password; the names in it are not.</p>}
      <LongList label="what is in the archive" rowHeight={24} list={rows}>
        {({ name, depth, folder, bytes }) => (
          <span
            className="flex h-full items-center gap-3 font-mono text-[13px]"
            style={{ paddingLeft: Math.min(depth, 16) * 18 }}
          >
            <bdi className={`min-w-0 flex-1 truncate ${folder ? "font-semibold" : ""}`}>
              {name}
              {folder && "/"}
            </bdi>
            <span className="text-ink-2 tabular-nums">{words.bytes(bytes)}</span>
          </span>
        )}
      </LongList>
      {(count > entries.length || !whole) && (
        <p className="mt-2 text-small text-ink-2">
          {count > entries.length ? `and ${words.count(count - entries.length)} more` : "It goes on."}
        </p>
      )}
    </div>
  );
}

/** A way to scale, north up. */
export function Track({ ways, metres, width, name }: Of<"track"> & { name: string }) {
  const words = useWords();
  // A round length that is seen well: 1, 2 or 5 times a power of ten.
  const wanted = width / 4;
  const power = 10 ** Math.floor(Math.log10(Math.max(1, wanted)));
  const bar = [5, 2, 1].map((n) => n * power).find((n) => n <= wanted) ?? power;
  return (
    <div className="grid size-full grid-rows-[minmax(0,1fr)_auto] p-6">
      <svg
        viewBox="-20 -20 1040 1040"
        className="size-full"
        role="img"
        aria-label={`the way of ${name}, ${words.count(Math.round(metres))} metres`}
      >
        {ways.map((way, n) => {
          const [first] = way;
          return way.length === 1 && first ? (
            <circle key={n} cx={first[0]} cy={first[1]} r="7" fill="var(--verdigris)" />
          ) : (
            <polyline
              key={n}
              points={way.map((point) => point.join()).join(" ")}
              fill="none"
              stroke="var(--verdigris)"
              strokeWidth="5"
              strokeLinejoin="round"
            />
          );
        })}
        <path d={`M0 1010v-14h${(bar / width) * 1000}v14`} fill="none" stroke="var(--ink)" strokeWidth="3" />
      </svg>
      <p className="text-small text-ink-2">
        The bar is {bar >= 1000 ? `${bar / 1000} km` : `${bar} m`}; north is up, and no map is fetched.
      </p>
    </div>
  );
}

/** What leads elsewhere. */
export function Pointer({
  form,
  target,
  isThere,
  runs,
  kind,
}: (Of<"link"> | Of<"shortcut">) & { runs?: string; kind: Shown["kind"] }) {
  return (
    <div className="grid size-full place-content-center justify-items-center gap-4 p-8 text-center">
      <Glyph kind={kind} width={64} />
      {target && <p className="max-w-[520px] font-mono text-small break-all select-all">{target}</p>}
      {runs && runs !== target && (
        <p className="max-w-[520px] text-small text-ink-2">
          It runs <code className="font-mono break-all">{runs}</code>
        </p>
      )}
      <p className="max-w-[420px] text-ink-2">
        {kind === "web link"
          ? "A web link. It holds an address and nothing else."
          : isThere === false
            ? "It leads nowhere: what it names is not there."
            : form === "shortcut"
              ? "A shortcut. Nothing is lost with it: what it leads to stays where it is."
              : "A link. What it leads to stays where it is."}
      </p>
    </div>
  );
}

/** What no form shows: why, where that is known, and how it begins. */
export function Bytes({ thing, why, head }: { thing: Shown; why?: string; head: Of<"bytes">["head"] }) {
  return (
    <div className="grid size-full grid-rows-[auto_minmax(0,1fr)] gap-4 p-6">
      <div className="flex items-center gap-4">
        <Glyph kind={thing.kind} width={44} />
        <p className="max-w-[52ch] text-ink-2">
          {why
            ? `It cannot be shown: ${why}.`
            : (sentences[thing.kind] ?? "Its content cannot be shown here. What is known about it stands below.")}
        </p>
      </div>
      {head.length > 0 && (
        <pre tabIndex={0} className="overflow-auto font-mono text-[12px] leading-[1.6] text-ink-2">
          {head.map(({ at, hex, text }) => `${at.toString(16).padStart(6, "0")}  ${hex.padEnd(47)}  ${text}\n`)}
        </pre>
      )}
    </div>
  );
}

const sentences: Partial<Record<Shown["kind"], string>> = {
  installer: "An installer. It is not needed once its program is installed.",
  sound: "Its name says that it is a sound, but no sound that can be read is in it.",
  video: "Its name says that it is a video, but no video that can be read is in it.",
  "half download": "A download that was never finished.",
};
