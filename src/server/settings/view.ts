import path from "node:path";
import type { SettingsView } from "@/contract/settings";
import { shownName } from "@/core/names/raw";
import type { Pointers } from "@/core/screen/pointers";
import type { Words } from "@/core/words/words";
import { fromAccount } from "../account";
import { placesToWrite } from "../bounds";
import { copies, sizeOnDisk } from "../db/backup";
import { readScreen } from "../db/record";
import type { Engine } from "../engine";
import { tokenIn } from "../guard/guard";
import { findSession, sessions } from "../guard/sessions";
import { bytesOfPictures, mostBytes } from "../looks/picture-cache";
import { screenOf, screensFor } from "../screen/screens";
import { itemsOn } from "../survey/items";
import { keysNow } from "./key";
import { launchersNow } from "./launcher";

/** "2 links, 1 shortcut and 1 mark lead to things on the desktop"; undefined where nothing does. */
export function pointersInWords(words: Words, { links, shortcuts, marks }: Pointers): string | undefined {
  const parts = [
    { n: links, one: "link" },
    { n: shortcuts, one: "shortcut" },
    { n: marks, one: "mark in file dialogs", many: "marks in file dialogs" },
  ].flatMap(({ n, one, many }) => (n > 0 ? [words.counted(n, one, many)] : []));
  const last = parts.pop();
  if (last === undefined) return undefined;
  const all = parts.length > 0 ? `${parts.join(", ")} and ${last}` : last;
  return `${all} ${links + shortcuts + marks === 1 ? "leads" : "lead"} to things on the desktop, and would not find them.`;
}

/** What can be set, and how it is. `headers`: of the browser that asks. */
export async function settingsView(engine: Engine, headers?: Headers): Promise<SettingsView> {
  const words = engine.words();
  const { account, db } = engine;
  const token = headers && tokenIn({ method: "GET", headers });
  const screen = screenOf(engine);
  const { size } = readScreen(db);
  return {
    keys: keysNow(engine),
    sessions: sessions(engine, token && findSession(db, engine.now(), token)),
    screen: {
      name: screen.name,
      sentence: screen.sentence,
      width: size.width,
      height: size.height,
      icon: size.icon.width,
      choice: screensFor(account).map(
        ({ name, title, sentence, caution, refuses, unfit, byCommandAlone, commands, pointers }) => ({
          name,
          title,
          sentence,
          caution,
          unfit: unfit?.(engine),
          byCommandAlone: byCommandAlone === true,
          commands: commands?.(engine),
          pointers: pointers && pointersInWords(words, pointers(engine)),
          cannot: itemsOn(db, "desktop").filter((item) => refuses?.(item)).length,
        }),
      ),
    },
    launchers: launchersNow(engine),
    record: {
      folder: fromAccount(account, account.data),
      size: words.bytes(sizeOnDisk(db.name)),
      copies: copies(account.data).map((file) => ({
        day: words.date(Date.parse(path.basename(file).slice(0, 10))),
        size: words.bytes(sizeOnDisk(file)),
      })),
    },
    writes: placesToWrite(engine)
      .filter(({ folder, way }) => way || engine.disk.identity(folder) !== undefined)
      .map(({ folder, why }) => ({ place: fromAccount(account, shownName(folder)), why })),
    pictures: { size: words.bytes(await bytesOfPictures(engine.workers, account.data)), most: words.bytes(mostBytes) },
  };
}
