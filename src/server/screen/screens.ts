import { type ScreenName, screenNames } from "@/core/screen/state";
import { readRecord } from "../db/record";
import type { Reading } from "../engine";
import { listed } from "./listed";
import type { Screen } from "./screen";
import { simulated } from "./simulated";
import { told } from "./told";
import { tuckedAway } from "./tucked-away";

export const screens: Record<ScreenName, Screen> = { simulated, "tucked away": tuckedAway, listed, told };

/** The screens that an account can have: only the sample one is drawn by Vuoto. */
export const screensFor = ({ sample }: Reading["account"]): Screen[] =>
  screenNames.filter((name) => sample || name !== "simulated").map((name) => screens[name]);

/** The screen of an account: as set, else the simulated one for the sample and tucking away for any other. */
export function screenOf({ db, account }: Pick<Reading, "db" | "account">): Screen {
  const set = readRecord<ScreenName>(db, "setting:screen");
  return screens[set ?? firstScreenOf(account)];
}

export const firstScreenOf = ({ sample }: Reading["account"]): ScreenName => (sample ? "simulated" : "tucked away");
