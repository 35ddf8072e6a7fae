import { rawFromText } from "../names/raw";
import { parseStep, type Step } from "./step";

/** The version in which steps are stored, as JSON. */
export const planVersion = 3;

type Stored = Record<string, unknown>;

/** From each older version to the next. */
const upgrades: Record<number, (step: Stored) => Stored> = {
  /** Version 1 kept a small file as its text alone. */
  1: (step) => {
    const whole = (file: unknown) => (typeof file === "string" ? { content: rawFromText(file) } : file);
    return step.type === "write" ? { ...step, before: whole(step.before), after: whole(step.after) } : step;
  },
  /** Version 2 knew one part of the screen. */
  2: (step) => (step.type === "show" ? { ...step, type: "screen", part: "shown" } : step),
};

/** Reads a stored step of any version that is known, as one of this. @throws where it is none */
export function readStoredStep(version: number, json: string): Step {
  let step = JSON.parse(json) as Stored;
  for (let from = version; from !== planVersion; from++) {
    const upgrade = upgrades[from];
    if (!upgrade) throw new Error(`a plan of version ${version} is not known`);
    step = upgrade(step);
  }
  return parseStep(step);
}
