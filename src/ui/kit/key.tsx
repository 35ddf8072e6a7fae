import { type CommandName, drawnKey } from "@/core/settings/keys";
import { useLive } from "./live";

/** A key, as it is drawn on a button or in a sentence. */
export function Key({ children }: { children: string }) {
  return (
    <kbd className="inline-block rounded-[3px] border border-b-2 border-line bg-sheet px-[5px] font-mono text-[11px] leading-4 font-medium text-ink">
      {children}
    </kbd>
  );
}

/** The key that a command has; nothing where it has none. */
export function KeyOf({ command }: { command: CommandName }) {
  const key = useLive().frame.keys[command];
  return key === "" ? null : <Key>{drawnKey(key)}</Key>;
}
