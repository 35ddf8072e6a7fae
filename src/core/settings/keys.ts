/** Where a command is heard. */
export type Where = "anywhere" | "a verdict" | "one by one" | "homes";

interface Command {
  /** The key it has until the person gives it another. */
  key: string;
  does: string;
  where: Where;
}

/** What a single key can do. No key does two things, so that each can be heard wherever its view is. */
export const commands = {
  undo: { key: "z", does: "undo the last act", where: "anywhere" },
  again: { key: "y", does: "do again what was undone", where: "anywhere" },
  quiet: { key: "q", does: "quiet, and back", where: "anywhere" },
  homes: { key: "h", does: "homes", where: "anywhere" },
  sitting: { key: "o", does: "one by one", where: "anywhere" },
  keys: { key: "?", does: "these keys", where: "anywhere" },
  stay: { key: "s", does: "stay", where: "a verdict" },
  "put away": { key: "p", does: "put away; in homes, another home for this one", where: "a verdict" },
  archive: { key: "a", does: "archive", where: "a verdict" },
  wait: { key: "w", does: "wait", where: "a verdict" },
  "let go": { key: "l", does: "let go", where: "a verdict" },
  family: { key: "t", does: "settle its family together", where: "a verdict" },
  "type a home": { key: "/", does: "type a home, or a new one", where: "a verdict" },
  "new titles": { key: "m", does: "with new titles", where: "a verdict" },
  "wait until": { key: "d", does: "wait until a date", where: "one by one" },
  "stay until": { key: "b", does: "stay until a date, or while a project is under way", where: "one by one" },
  "archive into": { key: "j", does: "archive into another parcel", where: "one by one" },
  note: { key: "k", does: "keep it as a note", where: "one by one" },
  later: { key: ".", does: "later: it comes last", where: "one by one" },
  back: { key: ",", does: "back to the one put off for later", where: "one by one" },
  "find in the pile": { key: ";", does: "find a thing in the pile", where: "one by one" },
  "out of sight": { key: "c", does: "out of sight, and back", where: "a verdict" },
  "leave out": { key: "x", does: "leave one out", where: "homes" },
  "another home": { key: "n", does: "another home", where: "homes" },
  everything: { key: "e", does: "take everything sure, into every home", where: "homes" },
  overlooked: { key: "v", does: "what was overlooked", where: "homes" },
  finer: { key: "i", does: "what lies in a broad home and may suit one inside it", where: "homes" },
  suggested: { key: "u", does: "new homes, suggested", where: "homes" },
  plan: { key: "f", does: "the filing plan", where: "homes" },
  gather: { key: "g", does: "gather and set out", where: "homes" },
} as const satisfies Record<string, Command>;

export type CommandName = keyof typeof commands;
export const commandNames = Object.keys(commands) as [CommandName, ...CommandName[]];

/** The keys that the person gave to commands, where these are others than at first. */
export type ChangedKeys = Partial<Record<CommandName, string>>;
/** The key of each command. */
export type Keys = Record<CommandName, string>;

/** A command whose first key the person gave to another one has none, until it is given one. */
export function keysWith(changed: ChangedKeys): Keys {
  const given = new Set(Object.values(changed));
  const keyOf = (name: CommandName) => changed[name] ?? (given.has(commands[name].key) ? "" : commands[name].key);
  return Object.fromEntries(commandNames.map((name) => [name, keyOf(name)])) as Keys;
}

export const commandOn = (keys: Keys, key: string): CommandName | undefined => commandNames.find((name) => keys[name] === key);

/** A key as it is kept: one character, a letter as a small one. Undefined for what is none, such as a space or a digit. */
export function keyFrom(typed: string): string | undefined {
  const key = typed.trim().toLowerCase();
  // The digits are the homes by their numbers.
  return [...key].length === 1 && !/[\p{C}\p{Z}\p{Nd}]/u.test(key) ? key : undefined;
}

/** A key as it stands on a keyboard. */
export const drawnKey = (key: string) => key.toUpperCase();
