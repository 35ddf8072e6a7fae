import type { ApiPath } from "@/contract/api";
import { isNoted, type ReportJson, report } from "@/contract/items";
import type { FrameView, JobLine } from "@/contract/views";
import { withoutRenamed } from "@/core/ledger/renamed";
import { asProblem, Problem, type ProblemCode } from "@/core/problem";
import type { NumberedEvent } from "../events";

/** What a page may ask while names are not sent to pages: what shows, hides, ends and takes back; nothing that tells of things. */
const withoutNames: ReadonlySet<ApiPath> = new Set([
  "quiet/show",
  "quiet/shown",
  "quiet/occasion",
  "quiet/longer",
  "quiet/hide",
  "quiet/place",
  "ledger/undo",
  "ledger/again",
  "frame/frame",
  "jobs/cancel",
  "guard/end",
]);

/** @throws Problem "sharing" where what a page asks for would tell of things */
export function expectUnnamed(path: ApiPath): void {
  if (!withoutNames.has(path)) throw new Problem("sharing");
}

/** A problem whose sentence names nothing. */
export const unnamedProblem = (thrown: unknown): Problem => new Problem(asProblem(thrown).code);

/** What a page is answered, without names. */
export function unnamedAnswer(path: ApiPath, answered: unknown): unknown {
  // The frame knows by itself.
  if (path === "frame/frame") return answered;
  const parsed = report.safeParse(answered);
  return parsed.success ? unnamedReport(parsed.data) : answered;
}

function unnamedReport({ entry, act, words, done, refused }: ReportJson): ReportJson {
  return {
    entry,
    act,
    // Of what is shown it says how many, and the occasion; of other acts, names.
    words: act === "quiet" || act === "occasion" ? withoutRenamed(words) : isNoted({ entry, words }) ? "It is done" : "Not done",
    done,
    refused: refused.map(({ code }) => ({ name: "a thing", code, why: new Problem(code as ProblemCode).message })),
  };
}

export const unnamedFrame = (frame: FrameView): FrameView => ({
  ...frame,
  account: "",
  last: frame.last && { ...frame.last, words: "The last act", undo: frame.last.undo && {} },
  jobs: frame.jobs.map(unnamedJob),
  recovered: frame.recovered.length > 0 ? ["Something is to be told of the last start. It is told when sharing is over."] : [],
});

export const unnamedJob = (job: JobLine): JobLine => ({ ...job, words: "At work" });

/** An event as a page hears it; undefined where it is not told of. */
export function unnamedEvent(event: NumberedEvent["event"]): NumberedEvent["event"] | undefined {
  if (event.type === "said" || event.type === "grown") return undefined;
  return event.type === "job" ? { ...event, job: unnamedJob(event.job) } : event;
}
