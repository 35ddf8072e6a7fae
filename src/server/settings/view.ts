import path from "node:path";
import type { SettingsView } from "@/contract/settings";
import { shownName } from "@/core/names/raw";
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
      settable: screen.changes.includes("size"),
      choice: screensFor(account).map(({ name, sentence, caution, refuses, unfit, byCommandAlone, commands }) => ({
        name,
        sentence,
        caution,
        unfit: unfit?.(engine),
        byCommandAlone: byCommandAlone === true,
        commands: commands?.(engine),
        cannot: itemsOn(db, "desktop").filter((item) => refuses?.(item)).length,
      })),
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
