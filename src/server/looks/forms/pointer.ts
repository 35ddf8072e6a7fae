import { shownName } from "@/core/names/raw";
import { addressOf, readDesktopEntry } from "@/core/survey/desktop-entry";
import { fromAccount } from "../../account";
import type { Form } from "../form";

const mostBytes = 64 * 1024;

/** What leads elsewhere: a link, a shortcut to a program, a web link: to what, and whether that is there. */
export const pointer: Form = {
  shows: ({ kind, identity }) => kind === "shortcut" || kind === "web link" || identity.type === "link",
  look(engine, item) {
    const { dead, leadsTo } = item.facts;
    const isThere = dead === undefined;
    const shown = (path: string) => fromAccount(engine.account, path);
    if (item.identity.type === "link") {
      const target = engine.disk.target(item.path);
      return { form: "link", target: target === undefined ? "" : shown(shownName(target)), isThere };
    }
    const text = engine.disk.readSmall(item.path, mostBytes)?.toString("utf8") ?? "";
    const entry = readDesktopEntry(text);
    const address = entry?.get("URL") ?? addressOf(text);
    if (address !== undefined) return { form: "link", target: address.slice(0, 2000) };
    const runs = entry?.get("Exec")?.slice(0, 2000);
    return { form: "shortcut", target: shown(dead ?? leadsTo ?? entry?.get("TryExec") ?? ""), isThere, runs };
  },
};
