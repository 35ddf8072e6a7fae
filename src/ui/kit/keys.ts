import { useEffect, useRef } from "react";

type Keys = Record<string, (event: KeyboardEvent) => void>;

/** Whether a key press is meant as text or for something open on top, and not as a command. */
function isElsewhere(event: KeyboardEvent): boolean {
  if (event.ctrlKey || event.metaKey || event.altKey || event.defaultPrevented) return true;
  const target = event.target instanceof HTMLElement ? event.target : null;
  if (target?.closest("input:not([type=checkbox]), textarea, select, [contenteditable=true]")) return true;
  return document.querySelector("[role=dialog][data-state=open]") !== null;
}

/** What listens, the frame first; of two that know a key the later one has it. */
const listening: { current: Keys }[] = [];

const commandOf = (key: string) => listening.findLast((ref) => Object.hasOwn(ref.current, key))?.current[key];

/** Does what a key would do now: a button that stands for a key means the same, whatever view is open. */
export function giveKey(key: string): void {
  commandOf(key)?.(new KeyboardEvent("keydown", { key }));
}

function press(event: KeyboardEvent) {
  if (isElsewhere(event)) return;
  // A letter held down is one press: what is decided was seen.
  if (event.repeat && event.key.length === 1) return;
  const key = event.key.length === 1 ? event.key.toLowerCase() : event.key;
  const command = commandOf(key);
  if (!command) return;
  // Space and Enter on a button press that button.
  if ((key === "Enter" || key === " ") && event.target instanceof HTMLElement && event.target.closest("button, a")) return;
  event.preventDefault();
  command(event);
}

/**
 * Keys as commands, while the component is there: "z", "?", "ArrowLeft". In a text field they are letters. A view's keys go
 * before those of the frame.
 */
export function useKeys(keys: Keys, of: "view" | "frame" = "view"): void {
  const latest = useRef(keys);
  latest.current = keys;
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
