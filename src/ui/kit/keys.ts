import { useEffect, useRef } from "react";
import { type CommandName, commandOn, keysWith } from "@/core/settings/keys";

/** Keys that always mean the same: nobody could find a list without the arrows. */
type FixedKey = "ArrowLeft" | "ArrowRight" | "ArrowUp" | "ArrowDown" | "Enter" | "Escape" | " " | `${number}`;
type Handlers = Partial<Record<CommandName | FixedKey, (event: KeyboardEvent) => void>>;

/** Whether a key press is meant as text or for something open on top, and not as a command. */
function isElsewhere(event: KeyboardEvent): boolean {
  if (event.ctrlKey || event.metaKey || event.altKey || event.defaultPrevented) return true;
  const target = event.target instanceof HTMLElement ? event.target : null;
  if (target?.closest("input:not([type=checkbox]), textarea, select, [contenteditable=true]")) return true;
  return document.querySelector("[role=dialog][data-state=open]") !== null;
}

/** What listens, the frame first; of two that know a command the later one has it. */
const listening: { current: Handlers }[] = [];
/** The person's keys. */
let keys = keysWith({});
/** Told of a letter that does nothing where it was pressed; with the command it belongs to, if it does. */
let unheard: ((key: string, command?: CommandName) => void) | undefined;

const handlerOf = (name: keyof Handlers) => listening.findLast((ref) => Object.hasOwn(ref.current, name))?.current[name];

/** Does what a command's key would do now: a button that stands for it means the same, whatever view is open. */
export function give(command: CommandName): void {
  handlerOf(command)?.(new KeyboardEvent("keydown"));
}

function press(event: KeyboardEvent) {
  if (isElsewhere(event)) return;
  const isCharacter = [...event.key].length === 1;
  // A letter held down is one press, and so is Enter: what is decided was seen.
  if (event.repeat && (isCharacter || event.key === "Enter")) return;
  const command = isCharacter ? commandOn(keys, event.key.toLowerCase()) : undefined;
  const handler = handlerOf(command ?? (event.key as FixedKey));
  if (!handler) {
    if (isCharacter && event.key !== " ") unheard?.(event.key, command);
    return;
  }
  // Space and Enter on a button press that button.
  if ((event.key === "Enter" || event.key === " ") && event.target instanceof HTMLElement && event.target.closest("button, a"))
    return;
  event.preventDefault();
  handler(event);
}

/**
 * Commands as the person's keys, while the component is there: "undo", "keys"; and keys that always mean the same:
 * "ArrowLeft". In a text field they are letters. A view's go before those of the frame.
 */
export function useKeys(handlers: Handlers, of: "view" | "frame" = "view"): void {
  const latest = useRef(handlers);
  latest.current = handlers;
  useEffect(() => {
    if (of === "frame") listening.unshift(latest);
    else listening.push(latest);
    if (listening.length === 1) window.addEventListener("keydown", press);
    return () => {
      listening.splice(listening.indexOf(latest), 1);
      if (listening.length === 0) window.removeEventListener("keydown", press);
    };
  }, [of]);
}

/** Makes these the person's keys. */
export function useKeysOf(person: typeof keys): void {
  useEffect(() => {
    keys = person;
  }, [person]);
}

/** Hears of letters that do nothing where they were pressed. */
export function useUnheard(hear: typeof unheard): void {
  const latest = useRef(hear);
  latest.current = hear;
  useEffect(() => {
    unheard = (key, command) => latest.current?.(key, command);
    return () => {
      unheard = undefined;
    };
  }, []);
}
