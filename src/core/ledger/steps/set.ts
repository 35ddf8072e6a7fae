import { z } from "zod";
import type { Raw } from "../../names/raw";
import type { Json } from "../shapes";
import { ofRecord, type Saying, type StepType } from "../step-type";

const schema = z.object({
  type: z.literal("set"),
  key: z.string(),
  from: z.json(),
  to: z.json(),
  /** A record that later acts rely on without being asked, such as a parcel; it stays when the act is undone. */
  shared: z.literal(true).optional(),
});
export type SetStep = z.infer<typeof schema>;

/** What the person decided is kept: a verdict, a home, a depot, a parcel, a setting. */
export const set: StepType<SetStep> = {
  schema,
  role: "record",
  subject: ofRecord,
  sentence: ({ key, to }, saying) => setSentence(key, to, saying),
  touches(step, touch) {
    if (!step.shared) touch.record(`set:${step.key}`);
  },
  /** A home that is put on the list, or a drive, on which our file is written. */
  widens({ key, to }) {
    const value = text(to);
    const widens = key.startsWith("home:") || (key.startsWith("depot:") && value.kind === "drive");
    return widens && "folder" in value ? (value.folder as Raw) : undefined;
  },
  restsOnEarlier: () => true,
};

const text = (value: Json) => (typeof value === "object" && value !== null && !Array.isArray(value) ? value : {});

function setSentence(key: string, to: Json, { titleOf, words }: Saying): string {
  const at = key.indexOf(":");
  const [what, id] = [key.slice(0, at), key.slice(at + 1)];
  const value = text(to);
  switch (what) {
    case "verdict": {
      if (to === null) return `${titleOf(id)} has no verdict`;
      const until = typeof value.until === "number" ? ` until ${words.date(value.until)}` : "";
      return `${titleOf(id)}: ${String(value.verdict)}${until}`;
    }
    case "project":
      return to === null
        ? "project taken back"
        : `project ${String(value.title)} ${value.endedAt === undefined ? "begun" : "ended"}`;
    case "notes":
      return "the home for notes chosen";
    case "parcel":
      return to === null ? "parcel taken back" : `parcel ${String(value.title)} prepared`;
    case "home":
      return to === null ? "home taken off the list" : "home put on the list";
    case "depot":
      return to === null ? "depot taken off the list" : `depot ${String(value.title)} put on the list`;
    case "hollow":
      return to === null ? "hollow taken off the list" : "hollow put on the list";
    case "layout":
      return to === null ? "layout taken off the list" : `layout ${String(value.title)} kept`;
    case "occasion":
      return to === null ? "occasion taken off the list" : `occasion ${String(value.title)} put on the list`;
    case "occasion-given":
      return typeof value.end === "number" ? `its end is ${words.dateTime(value.end)}` : "begun by hand";
    default:
      return `${key} set`;
  }
}
