import type { Form } from "../form";

/** What these endings say is read apart at once; whether it is that, its content tells. */
const apart =
  /\.(rtf|[jt]sx?|[cm]js|py|rb|sh|c|h|cc|cpp|hpp|cs|java|kt|go|rs|php|p[lm]|r|lua|swift|sql|s?css|less|html?|xml|kml|ya?ml|toml|ini|conf|diff|patch|deb|xz|bz2|zst|7z|rar|iso|cab|rpm|pdf|docx|xlsx|pptx|od[tsp]|zip|tar|tgz|gz|eml|ics|gpx|geojson|json|jar|epub|doc|xls|ppt|[ot]tf|woff2?)$/i;

/** Everything else that is a file: as a text where its bytes are text, else by its content, in a process apart. */
export const document: Form = {
  shows: ({ identity }) => identity.type === "file",
  async look(engine, { path, kind, label }, signal) {
    if (!apart.test(label)) {
      const text = await engine.workers.run("lookAtText", { path, asTable: kind === "table" }, { signal, urgent: true });
      if (text) return text.form === "text" && /\.(md|markdown)$/i.test(label) ? { ...text, markdown: true } : text;
    }
    const found = await engine.looking.look(path, signal);
    if (found.form !== "bytes" || found.why !== undefined) return found;
    return (await engine.workers.run("lookAtText", { path, asTable: kind === "table" }, { signal, urgent: true })) ?? found;
  },
};
