"use client";
import { type FormEvent, useEffect, useId, useState } from "react";
import type { ReportJson } from "@/contract/items";
import type { OccasionLine, QuietView } from "@/contract/views";
import { type KindGroup, kindGroups } from "@/core/quiet/levels";
import { type Weekday, weekdays } from "@/core/quiet/occasions";
import type { Kind } from "@/core/survey/kinds";
import { type AskProblem, ask } from "../kit/ask";
import { Dialog } from "../kit/dialog";
import { Beside } from "../kit/field";
import { useLive } from "../kit/live";

const dayWords: Record<Weekday, string> = { MO: "Mon", TU: "Tue", WE: "Wed", TH: "Thu", FR: "Fri", SA: "Sat", SU: "Sun" };

/** The occasions as lines: what each takes away, and when; begun and ended here, too. */
export function Occasions({
  view,
  busy,
  onAct,
}: {
  view: QuietView;
  busy: boolean;
  onAct: (work: () => Promise<ReportJson>) => void;
}) {
  const [making, setMaking] = useState<OccasionLine | "new">();
  const does = (occasion: OccasionLine, what: "start" | "end" | "longer" | "remove") =>
    onAct(() => ask("quiet/occasion", { occasion: occasion.id, does: what }));
  const button = (occasion: OccasionLine, what: "start" | "end" | "longer" | "remove", words: string) => (
    <button type="button" className="doing" disabled={busy} onClick={() => does(occasion, what)}>
      {words}
      <span className="sr-only">: {occasion.title}</span>
    </button>
  );
  return (
    <section className="mt-5" aria-labelledby="occasions">
      <h2 id="occasions" className="flex items-baseline justify-between border-b border-ink pb-1.5 font-semibold">
        Occasions
        <button type="button" className="doing text-small font-normal" onClick={() => setMaking("new")}>
          add one
        </button>
      </h2>
      {view.occasions.length === 0 ? (
        <p className="mt-2 max-w-[60ch] text-small text-ink-2">
          A time with a name, such as presenting or evening: what it takes out of sight, on which days, from when to when. It
          begins and ends by itself while Vuoto runs, with or without a window.
        </p>
      ) : (
        <ul className="max-h-[150px] overflow-auto" tabIndex={0} aria-label="the occasions">
          {view.occasions.map((one) => (
            <li key={one.id} className="flex flex-wrap items-baseline gap-x-4 border-b border-line py-1.5 text-small">
              <b className={`font-semibold ${one.now ? "underline decoration-2 underline-offset-4" : ""}`}>{one.title}</b>
              <span className="text-ink-2">
                {one.words}
                {one.unnamed ? ", and no names" : ""}
                {one.layout !== undefined && `, in the layout “${one.layout}”`}
              </span>
              <span className="min-w-0 flex-1 text-ink-2" title={one.next.join("\n")}>
                {one.when}
              </span>
              {one.now ? (
                <>
                  {one.ends && button(one, "longer", "half an hour longer")}
                  {button(one, "end", "end")}
                </>
              ) : (
                button(one, "start", "begin now")
              )}
              <button type="button" className="doing" disabled={busy} onClick={() => setMaking(one)}>
                change<span className="sr-only">: {one.title}</span>
              </button>
              {button(one, "remove", "off the list")}
            </li>
          ))}
        </ul>
      )}
      {making && <Make of={making === "new" ? undefined : making} onClose={() => setMaking(undefined)} />}
    </section>
  );
}

type Takes = "bare" | "what stays" | KindGroup | "kinds";
const takes: { value: Takes; words: string }[] = [
  { value: "bare", words: "everything" },
  { value: "what stays", words: "all but what stays on purpose" },
  { value: "drive", words: "the drives" },
  { value: "shortcut", words: "the shortcuts" },
  { value: "folder", words: "the folders" },
  { value: "file", words: "the files" },
];

/** What an occasion takes, as it is chosen here: a group of kinds, or other kinds, which were chosen by command. */
function takenBy({ level, kinds }: Pick<OccasionLine, "level" | "kinds">): Takes {
  if (level !== "some kinds") return level === "what stays" ? level : "bare";
  const groups = Object.keys(kindGroups) as KindGroup[];
  return (
    groups.find((group) => kindGroups[group].length === kinds.length && kindGroups[group].every((k) => kinds.includes(k))) ??
    "kinds"
  );
}

/** Makes an occasion, or changes one. */
function Make({ of, onClose }: { of?: OccasionLine; onClose: () => void }) {
  const live = useLive();
  const id = useId();
  const [problem, setProblem] = useState<AskProblem>();
  const [title, setTitle] = useState(of?.title ?? "");
  const [takesAway, setTakesAway] = useState<Takes>(of ? takenBy(of) : "bare");
  const [unnamed, setUnnamed] = useState(of?.unnamed ?? false);
  const [layout, setLayout] = useState(of?.layout ?? "");
  const [layouts, setLayouts] = useState<string[]>([]);
  useEffect(() => {
    ask("quiet/layouts", {})
      .then((list) => setLayouts(list.map((one) => one.title)))
      .catch(() => {
        // Then there is none to choose.
      });
  }, []);
  const [timed, setTimed] = useState(of?.hours !== undefined);
  const [days, setDays] = useState<ReadonlySet<Weekday>>(new Set(of?.hours?.days ?? weekdays.slice(0, 5)));
  const [[from, to], setHours] = useState([of?.hours?.from ?? "09:00", of?.hours?.to ?? "17:30"]);
  const give = (event: FormEvent) => {
    event.preventDefault();
    const timetable = timed ? { days: weekdays.filter((day) => days.has(day)), from, to } : {};
    const what = (): { level: "bare" | "what stays" | "some kinds"; kinds?: Kind[] } => {
      if (takesAway === "bare" || takesAway === "what stays") return { level: takesAway };
      return { level: "some kinds", kinds: takesAway === "kinds" ? of?.kinds : [...kindGroups[takesAway]] };
    };
    const input = { occasion: of?.id, title: title.trim(), ...what(), unnamed, layout: layout || undefined, ...timetable };
    void live.act(ask("quiet/add-occasion", input), setProblem).then((report) => report && onClose());
  };
  const toggle = (day: Weekday, on: boolean) => {
    const next = new Set(days);
    if (on) next.add(day);
    else next.delete(day);
    setDays(next);
  };
  return (
    <Dialog open onClose={onClose} title={of ? `The occasion “${of.title}”` : "An occasion"}>
      <form onSubmit={give} className="grid gap-4">
        <label className="block text-small text-ink-2">
          Its name
          <input
            className="mt-1 block w-full border-b border-ink bg-transparent py-1 text-[14px] text-ink outline-none focus:border-verdigris"
            placeholder="presenting, evening"
            value={title}
            aria-describedby={id}
            onChange={(event) => {
              setProblem(undefined);
              setTitle(event.target.value);
            }}
          />
        </label>
        <label className="flex items-baseline gap-2">
          It takes out of sight
          <select
            className="border-b-[1.5px] border-ink bg-sheet px-2 py-1 text-ink"
            value={takesAway}
            onChange={(event) => setTakesAway(event.target.value as Takes)}
          >
            {takes.map(({ value, words }) => (
              <option key={value} value={value}>
                {words}
              </option>
            ))}
            {of && takenBy(of) === "kinds" && <option value="kinds">{of.kinds.join(", ")}</option>}
          </select>
        </label>
        <label className="flex items-baseline gap-2">
          <input
            type="checkbox"
            className="accent-verdigris"
            checked={unnamed}
            onChange={(event) => setUnnamed(event.target.checked)}
          />
          Others see the screen: this window shows counts, and no names or pictures
        </label>
        {layouts.length > 0 && (
          <label className="flex items-baseline gap-2">
            The icons then lie
            <select
              className="border-b-[1.5px] border-ink bg-sheet px-2 py-1 text-ink"
              value={layout}
              onChange={(event) => setLayout(event.target.value)}
            >
              <option value="">where they lie</option>
              {layouts.map((title) => (
                <option key={title} value={title}>
                  as in “{title}”
                </option>
              ))}
            </select>
          </label>
        )}
        <label className="flex items-baseline gap-2">
          <input
            type="checkbox"
            className="accent-verdigris"
            checked={timed}
            onChange={(event) => setTimed(event.target.checked)}
          />
          It begins and ends by itself
        </label>
        {timed && (
          <fieldset className="flex flex-wrap items-baseline gap-x-4 gap-y-2">
            <legend className="sr-only">On which days, from when to when</legend>
            {weekdays.map((day) => (
              <label key={day} className="flex items-baseline gap-1 text-small">
                <input
                  type="checkbox"
                  className="accent-verdigris"
                  checked={days.has(day)}
                  onChange={(event) => toggle(day, event.target.checked)}
                />
                {dayWords[day]}
              </label>
            ))}
            <label className="flex items-baseline gap-2">
              from
              <input type="time" className="field" value={from} onChange={(event) => setHours([event.target.value, to!])} />
            </label>
            <label className="flex items-baseline gap-2">
              to
              <input type="time" className="field" value={to} onChange={(event) => setHours([from!, event.target.value])} />
            </label>
          </fieldset>
        )}
        <Beside id={id} problem={problem} />
        <p>
          <button type="submit" className="go" disabled={title.trim() === "" || (timed && days.size === 0)}>
            {of ? "Change it" : "Make it"}
          </button>
        </p>
      </form>
    </Dialog>
  );
}
