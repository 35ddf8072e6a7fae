import { readRecord } from "../db/record";
import type { Reading } from "../engine";
import type { Screen, ScreenName } from "./screen";
import { simulated } from "./simulated";
import { tuckedAway } from "./tucked-away";

/** The screen of an account: as set, else the simulated one for the sample and tucking away for any other. */
export function screenOf(engine: Pick<Reading, "db" | "account">): Screen {
  const set = readRecord<ScreenName>(engine.db, "setting:screen");
  const name = set ?? (engine.account.sample ? "simulated" : "tucked away");
  return name === "simulated" ? simulated : tuckedAway;
}
