import type { ReportJson } from "@/contract/items";
import type { KeyInput } from "@/contract/settings";
import type { Plan } from "@/core/ledger/step";
import { Problem } from "@/core/problem";
import {
  type ChangedKeys,
  type CommandName,
  commandNames,
  commands,
  drawnKey,
  type Keys,
  keyFrom,
  keysWith,
} from "@/core/settings/keys";
import { perform } from "../act";
import { readRecord } from "../db/record";
import type { Engine, Reading } from "../engine";

/** Kept under this key: only what is other than at first. */
const recordKey = "keys";

const changedKeys = ({ db }: Pick<Reading, "db">) => readRecord<ChangedKeys>(db, recordKey) ?? {};

/** The key of each command, as the person has it. */
export const keysNow = (engine: Pick<Reading, "db">): Keys => keysWith(changedKeys(engine));

/** Gives a command another key, or the one it had at first; or all of them these. */
export function setKey(engine: Engine, input: KeyInput): Promise<ReportJson> {
  return perform(engine, "Changing a key", () => planKey(engine, input), { trial: input.dryRun });
}

function planKey(engine: Engine, { command, key: typed }: KeyInput): Plan {
  const from = changedKeys(engine);
  const to = command === undefined ? {} : changed(from, command, typed);
  const same = command === undefined ? Object.keys(from).length === 0 : keysWith(from)[command] === keysWith(to)[command];
  return {
    act: "key",
    words: () =>
      command === undefined
        ? "Every key does again what it did at first"
        : `${drawnKey(keysWith(to)[command])} is now the key for “${commands[command].does}”`,
    steps: same ? [] : [{ type: "set", key: recordKey, from: orNull(from), to: orNull(to) }],
    left: [],
  };
}

const orNull = (keys: ChangedKeys) => (Object.keys(keys).length === 0 ? null : keys);

function changed(from: ChangedKeys, command: CommandName, typed: string | undefined): ChangedKeys {
  const { [command]: _, ...rest } = from;
  const key = typed === undefined ? commands[command].key : keyFrom(typed);
  if (key === undefined) throw new Problem("bad-key", { name: typed?.trim() });
  const keys = keysWith(from);
  const holder = commandNames.find((name) => name !== command && keys[name] === key);
  if (holder !== undefined)
    throw new Problem("bad-key", { name: drawnKey(key), detail: `it is the one for “${commands[holder].does}”` });
  return key === commands[command].key ? rest : { ...rest, [command]: key };
}
