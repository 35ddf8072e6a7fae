import type { Form } from "../form";

/** What these endings say is read apart at once; whether it is that, its content tells. */
const apart = /\.(pdf|docx|xlsx|pptx|od[tsp]|zip|tar|tgz|gz|eml|ics|gpx|geojson|json|jar|epub|doc|xls|ppt|[ot]tf|woff2?)$/i;

/** Everything else that is a file: as a text where its bytes are text, else by its content, in a process apart. */
export const document: Form = {
  shows: ({ identity }) => identity.type === "file",
  async look(engine, { path, kind, label }, signal) {
    if (!apart.test(label)) {
      const text = await engine.workers.run("lookAtText", { path, asTable: kind === "table" }, { signal, urgent: true });
      if (text) return text;
    }
    const found = await engine.looking.look(path, signal);
    if (found.form !== "bytes" || found.why !== undefined) return found;
    return (await engine.workers.run("lookAtText", { path, asTable: kind === "table" }, { signal, urgent: true })) ?? found;
  },
};
