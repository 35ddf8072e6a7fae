import { bytes } from "../../disk/disk";
import type { Form } from "../form";

const shownNames = 40;

/** The names of what lies in a folder. */
export const folder: Form = {
  shows: ({ identity }) => identity.type === "folder",
  look(engine, item) {
    const names = (engine.disk.list(item.path) ?? [])
      .map((entry) => bytes(entry.name).toString("utf8") + (entry.type === "folder" ? "/" : ""))
      .filter((name) => !name.startsWith("."))
      .sort((a, b) => a.localeCompare(b));
    return { form: "folder", names: names.slice(0, shownNames), more: Math.max(0, names.length - shownNames) };
  },
};
