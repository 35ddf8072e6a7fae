import type { Kind } from "@/core/survey/kinds";
import type { Form } from "../form";

const readable: Kind[] = ["text", "table", "data", "temporary", "other"];

/** The beginning of a text or a table, where its bytes are text. */
export const text: Form = {
  shows: ({ kind, identity }) => identity.type === "file" && readable.includes(kind),
  look: (engine, { path, kind }, signal) =>
    engine.workers.run("lookAtText", { path, asTable: kind === "table" }, { signal, urgent: true }),
};
