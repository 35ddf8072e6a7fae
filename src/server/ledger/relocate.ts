import { folderOf, nameOf, type Raw } from "@/core/names/raw";
import { bytes, identityOf } from "../disk/disk";
import { worktopOf } from "../account";
import type { StepContext } from "./step-kind";

/** Notes where an item lies now, with the entry. An item keeps its id wherever Vuoto moves it. */
export function relocate(item: string | undefined, to: Raw, context: StepContext): void {
  if (item === undefined) return;
  context.atCommit(() => {
    const stat = context.disk.stat(to);
    if (!stat) return;
    const identity = identityOf(stat);
    const folder = folderOf(to);
    // Should something else have been listed at that place, the survey finds it again under an id of its own.
    context.db
      .prepare("UPDATE item SET seen = 0 WHERE folder = ? AND name = ? AND seen = 1 AND id <> ?")
      .run(bytes(folder), bytes(nameOf(to)), item);
    context.db
      .prepare(
        `UPDATE item SET worktop = ?, folder = ?, name = ?, ino = ?, dev = ?, bytes = ?, mtime_ns = ?, seen = 1
         WHERE id = ?`,
      )
      .run(
        worktopOf(context.account, folder)?.id ?? null,
        bytes(folder),
        bytes(nameOf(to)),
        identity.ino,
        String(stat.dev),
        identity.bytes,
        identity.mtimeNs,
        item,
      );
  });
}
